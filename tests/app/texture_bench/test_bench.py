"""The window's instruments turned to a texture: steps, frames, handles, search, clipboard, shelf."""

import unittest

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.texture_bench.picture_handles import handles_of
from pale_ember.app.texture_bench.step_rows import ROW
from pale_ember.effect.values.colors import Stop
from pale_ember.effect.values.values import Fixed

from ..case import LEFT
from .bench_case import CTRL, DOT, SheetCase


class StepsTest(SheetCase):
    def test_steps_are_moved_switched_off_weakened_copied_and_deleted_by_hand(self):
        self.drag(self.rows, QPointF(80, 2.5 * ROW), QPointF(80, 0.2 * ROW))
        self.assertEqual(self.kinds, ["levels", "dot", "cloud", "color"])
        self.assertEqual(self.bench.index, 0)
        QTest.mouseClick(self.rows, LEFT, pos=self.rows.eye_box(1).center().toPoint())
        self.assertFalse(self.bench.steps[1].on)
        QTest.mouseClick(self.rows, LEFT, pos=self.rows.eye_box(1).center().toPoint())
        box = self.rows.strength_box(2)
        self.drag(self.rows, box.center(), QPointF(box.center().x(), box.bottom() - 0.25 * box.height()))
        self.assertAlmostEqual(self.bench.steps[2].strength.number, 0.25, delta=0.05)
        self.click_step(2)
        self.rows.setFocus()
        QTest.keyClick(self.rows, Qt.Key.Key_D, CTRL)
        self.assertEqual(self.kinds, ["levels", "dot", "cloud", "cloud", "color"])
        QTest.keyClick(self.rows, Qt.Key.Key_Up)
        QTest.keyClick(self.rows, Qt.Key.Key_Delete)
        self.assertEqual(self.kinds, ["levels", "dot", "cloud", "color"])
        QTest.keyClick(self.rows, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.bench.index, 3)
        before = self.session.effect
        self.undo_all()
        self.assertEqual(self.kinds, ["dot", "cloud", "levels", "color"])
        while self.session.document.redo_name:
            self.session.redo()
        self.assertEqual(self.session.effect, before)

    def test_escape_gives_a_drag_of_strength_up(self):
        box = self.rows.strength_box(0)
        QTest.mousePress(self.rows, LEFT, pos=box.center().toPoint())
        QTest.mouseMove(self.rows, QPoint(int(box.center().x()), int(box.bottom())))
        self.assertLess(self.bench.steps[0].strength.number, 0.3)
        QTest.keyClick(self.rows, Qt.Key.Key_Escape)
        QTest.mouseRelease(self.rows, LEFT, pos=box.center().toPoint())
        self.assertEqual(self.bench.steps[0].strength, Fixed(1.0))
        self.assertTrue(self.bench.is_open)

    def test_steps_go_through_the_clipboard_into_another_texture(self):
        self.click_step(2)
        self.rows.setFocus()
        QTest.keyClick(self.rows, Qt.Key.Key_C, CTRL)
        text = QApplication.clipboard().text()
        self.assertIn('"step": "levels"', text)
        self.window.actions_by_name["new_texture"].trigger()
        self.assertEqual(self.kinds, [])
        QTest.keyClick(self.view, Qt.Key.Key_V, CTRL)
        self.assertEqual(self.kinds, ["levels"])
        self.assertEqual(self.bench.step.bend, Fixed(2.0))
        QApplication.clipboard().setText('{"format": "pale-ember/steps", "steps": [{"step": "dott"}]}')
        QTest.keyClick(self.view, Qt.Key.Key_V, CTRL)
        self.assertEqual(self.kinds, ["levels"])
        # On the stage they are told where they belong.
        QTest.keyClick(self.view, Qt.Key.Key_N)
        QTest.keyClick(self.window.stage, Qt.Key.Key_V, CTRL)
        self.assertEqual(len(self.session.effect.layers), 1)

    def test_dice_roll_the_steps_own_seed_or_the_builds(self):
        self.click_step(1)
        QTest.keyClick(self.view, Qt.Key.Key_D)
        self.assertEqual(self.bench.step.seed, 1)
        self.click_step(2)
        QTest.keyClick(self.view, Qt.Key.Key_D)
        self.assertEqual(self.bench.build.seed, 1)


class FieldsTest(SheetCase):
    def test_fields_are_searched_over_all_steps_and_copied(self):
        panel = self.window.step_panel
        QTest.keyClick(self.view, Qt.Key.Key_F, CTRL)
        self.assertTrue(panel.search.hasFocus())
        QTest.keyClicks(panel.search, "softness")
        (key,) = panel.found_page.rows
        self.assertEqual(key, "0.softness")
        QTest.keyClick(panel.search, Qt.Key.Key_Return)
        box = panel.found_page.rows[key].controls[0]
        self.assertTrue(box.hasFocus())
        self.type_into(box, "0.25")
        self.assertEqual(self.bench.steps[0].softness, Fixed(0.25))
        panel.search.clear()
        panel.refresh()
        # The sentence leads to its steps.
        panel.summary.linkActivated.emit("2")
        self.assertEqual(self.bench.index, 2)
        row = self.field("bend")
        row.focus()
        QTest.keyClick(row.controls[0], Qt.Key.Key_X, CTRL | Qt.KeyboardModifier.AltModifier)
        self.click_step(0)
        self.field("radius").focus()
        QTest.keyClick(self.field("radius").controls[0], Qt.Key.Key_B, CTRL | Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.bench.steps[0].radius, Fixed(2.0))

    def test_the_finder_adds_steps_and_leads_to_their_fields(self):
        finder = self.window.open_finder()
        finder.line.setText("kaleidoscope")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        self.assertEqual(self.bench.step.step, "kaleidoscope")
        finder = self.window.open_finder()
        finder.line.setText("roughness cloud")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        self.assertEqual(self.bench.index, 1)
        self.assertIs(
            self.window.step_panel.row_in_focus(), self.window.step_panel.step_page.rows["roughness"]
        )
        # What belongs to the layer leads back to the stage.
        finder = self.window.open_finder()
        finder.line.setText("drag flight")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        self.assertFalse(self.bench.is_open)
        self.assertEqual(self.window.recipe.chapter, "Flight")

    def test_lanes_are_folded_moved_and_shown_alone(self):
        self.click_step(1)
        strip = self.window.frame_strip
        self.assertEqual(list(strip.lanes), ["roughness", "ridges", "evolve", "strength"])
        self.assertTrue(all(lane.folded for lane in strip.lanes.values()))
        strip.move_lane("strength", 0)
        self.assertEqual(list(strip.lanes), ["strength", "roughness", "ridges", "evolve"])
        QTest.mouseClick(strip.lanes["evolve"], LEFT, pos=QPoint(200, 8))
        self.assertFalse(strip.lanes["evolve"].folded)
        lane = strip.lanes["evolve"]
        QApplication.processEvents()
        QTest.mouseClick(lane, LEFT, pos=QPoint(int(lane.x_of(0.5)), int(lane.y_of(0.0))))
        self.assertEqual(len(self.bench.step.evolve.keys), 3)
        strip.toggle_alone(lane)
        self.assertFalse(strip.lanes["strength"].isVisible())
        strip.toggle_alone(lane)
        self.click_step(0)
        self.click_step(1)
        self.assertFalse(strip.lanes["evolve"].folded, "what was unfolded stays so")

    def test_another_effect_closes_the_bench(self):
        self.window.files.open_demo("chimney")
        self.wait(lambda: self.session.effect.name == "Chimney smoke")
        self.assertFalse(self.bench.is_open)

    def test_a_wrong_order_is_said_and_a_right_one_taken(self):
        line = self.field("build.order").controls[0]
        line.setFocus()
        QTest.keyClicks(line, "1-3, x")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.assertIn("no frame", self.field("build.order").problem.text())
        self.assertEqual(self.bench.build.order, ())
        line.selectAll()
        QTest.keyClicks(line, "5-3, 0")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.assertEqual(self.bench.build.order, (5, 4, 3, 0))
        self.assertEqual(line.text(), "5-3, 0")

    def test_the_gradient_has_a_lane_with_stops(self):
        self.click_step(3)
        lane = self.window.frame_strip.lanes["gradient"]
        self.assertFalse(lane.folded)
        QTest.mouseClick(lane, LEFT, pos=QPoint(int(lane.x_of(0.5)), int(lane.bar(0).center().y())))
        self.assertEqual(len(self.bench.step.gradient), 3)
        self.window.frame_strip.selection.set_color("#ff0000")
        self.assertEqual(self.bench.step.gradient[1], Stop(0.5, "#ff0000"))
        self.made()
        self.window.frame_strip.pick_stops()
        self.assertIsNotNone(self.window.picking.picker)
        self.window.picking.picker.reject()

    def test_renaming_is_followed_and_halving_halves(self):
        line = self.field("name").controls[0]
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, "billow")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.assertEqual(self.bench.name, "billow")
        self.assertEqual(self.session.layer.look.texture, "billow")
        self.session.undo()
        self.assertEqual(self.bench.name, "puff")
        self.window.actions_by_name["halve"].trigger()
        self.assertEqual(self.bench.build.size, 32)


class FramesTest(SheetCase):
    steps = DOT

    def cell(self, index):
        return self.film.cell(index).center()

    def test_frames_are_looked_at_dropped_moved_and_brought_back(self):
        QTest.mouseClick(self.film, LEFT, pos=self.cell(4).toPoint())
        self.assertEqual(self.bench.frame, 4)
        self.wait(lambda: self.session.textures.can_show)
        QTest.qWait(80)
        # The fifth dot reaches to 0.76, so 0.5 is inside and 0.8 is not.
        shown = self.view.grab().toImage()
        self.session.edit("stage.backdrop", "black", "b")
        QTest.qWait(80)
        shown = self.view.grab().toImage()
        self.assertGreater(shown.pixelColor(self.on_picture(0.3, 0).toPoint()).red(), 90)
        self.assertEqual(shown.pixelColor(self.on_picture(0.9, 0).toPoint()).red(), 0)
        self.film.setFocus()
        QTest.keyClick(self.film, Qt.Key.Key_Delete)
        self.assertEqual(self.bench.kept, (0, 1, 2, 3, 5))
        self.drag(self.film, self.cell(4), QPointF(self.film.cell(0).left() + 1, self.cell(0).y()))
        self.assertEqual(self.bench.kept, (5, 0, 1, 2, 3))
        QTest.mouseClick(self.film, LEFT, pos=self.cell(1).toPoint())
        QTest.mouseClick(self.film, LEFT, Qt.KeyboardModifier.ShiftModifier, self.cell(3).toPoint())
        self.assertEqual(self.film.held, {1, 2, 3})
        menu = self.film.menu()
        next(one for one in menu.actions() if "Keep only" in one.text()).trigger()
        self.assertEqual(self.bench.kept, (0, 1, 2))
        self.made()
        self.assertEqual(self.bench.ready.frames, 3)
        next(one for one in self.film.menu().actions() if "There and" in one.text()).trigger()
        self.assertEqual(self.bench.kept, (0, 1, 2, 1))
        next(one for one in self.film.menu().actions() if "All frames" in one.text()).trigger()
        self.assertEqual(self.bench.build.order, ())
        self.undo_all()

    def test_a_sheet_plays_with_space_and_stops_frame_by_frame(self):
        QTest.keyClick(self.view, Qt.Key.Key_Space)
        self.assertTrue(self.session.playing)
        seen = set()
        self.wait(lambda: bool(seen.add(self.bench.frame)) or len(seen) > 3)
        QTest.keyClick(self.view, Qt.Key.Key_Home)
        self.wait(lambda: self.bench.frame == 0)
        QTest.keyClick(self.view, Qt.Key.Key_Period)
        self.assertEqual(self.bench.frame, 1)
        QTest.keyClick(self.view, Qt.Key.Key_Comma)
        QTest.keyClick(self.view, Qt.Key.Key_Comma)
        self.assertEqual(self.bench.frame, 5)
        # Stopped at a frame, it plays again when play is begun.
        for playing in (False, True):
            QTest.keyClick(self.view, Qt.Key.Key_Space)
            self.assertEqual(self.session.playing, playing)
        self.wait(lambda: self.bench.frame != 5)


class FlowTest(SheetCase):
    steps = [{"step": "flow", "seconds": 0.4}]
    frames = 3

    def handle(self, label):
        found = next(one for one in handles_of(self.bench) if one.label == label)
        return self.on_picture(found.x, found.y)

    def test_sources_and_obstacles_are_placed_by_handles(self):
        self.drag(self.view, self.handle("Source"), self.on_picture(0.4, 0.2))
        self.assertAlmostEqual(self.bench.step.side, 0.4, delta=0.02)
        self.assertAlmostEqual(self.bench.step.height, 0.2, delta=0.02)
        self.drag(self.view, self.handle("Source size"), self.on_picture(0.6, 0.2))
        self.assertAlmostEqual(self.bench.step.source, 0.2, delta=0.03)
        panel = self.window.step_panel
        panel.show_chapter(0)
        panel.pages.currentWidget().ensureWidgetVisible(panel.obstacles.add)
        QApplication.processEvents()
        QTest.mouseClick(panel.obstacles.add, LEFT)
        self.drag(self.view, self.handle("Obstacle 1"), self.on_picture(-0.3, 0.5))
        np.testing.assert_allclose(self.bench.step.obstacles[0].at, (-0.3, 0.5), atol=0.02)
        self.drag(self.view, self.handle("Obstacle 1 size"), self.on_picture(0.0, 0.6))
        np.testing.assert_allclose(self.bench.step.obstacles[0].extents, (0.3, 0.1), atol=0.02)
        QTest.mouseClick(panel.sources.add, LEFT)
        self.drag(self.view, self.handle("Source 2"), self.on_picture(-0.6, -0.4))
        np.testing.assert_allclose(self.bench.step.sources[0].at, (-0.6, -0.4), atol=0.02)
        self.made()
        smoke = self.bench.ready.pixels[0, ..., 3]
        size = len(smoke)
        self.assertGreater(smoke[int(size * 0.7), int(size * 0.2)], 60, "the second source gives smoke")
        self.undo_all()
        self.assertEqual((self.bench.step.obstacles, self.bench.step.sources), ((), ()))

    def test_escape_stops_a_flow_and_the_next_edit_takes_it_up(self):
        self.session.edit_many(
            [(self.bench.path("build.size"), 256), (self.bench.path("frames"), 48)], "larger"
        )
        self.wait(lambda: self.session.textures.state.working == "puff", 20)
        # Meanwhile a coarse one is looked at, frame by frame.
        self.wait(lambda: "puff" in self.session.textures.state.coarse and self.bench.ready.frames == 48, 30)
        self.assertLess(self.bench.ready.size[0], 128)
        self.assertIn("coarse", self.view.said())
        QTest.keyClick(self.view, Qt.Key.Key_Escape)
        self.wait(lambda: not self.session.textures.busy, 20)
        self.assertIn("stopped", self.view.said())
        self.assertTrue(self.bench.is_open)
        self.session.edit_many(
            [(self.bench.path("build.size"), 32), (self.bench.path("frames"), 2)], "smaller"
        )
        self.made()
        self.assertEqual(self.bench.ready.size, (32, 32))
        self.assertNotIn("coarse", self.view.said())


if __name__ == "__main__":
    unittest.main()
