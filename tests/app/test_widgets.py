import os
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.recipe.sentence import pieces, sentence
from pale_ember.app.widgets.arithmetic import evaluate, shown
from pale_ember.app.widgets.color_picker import Picker
from pale_ember.app.widgets.number_box import NumberBox
from pale_ember.demo import kiln_mouth
from pale_ember.effect import load_effect, save_effect
from pale_ember.effect.values import Band, Curve, Fixed, Spread

from ..building import effect_with, single
from .case import LEFT, WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


class ArithmeticTest(unittest.TestCase):
    def test_what_may_be_typed(self):
        for text, number in (
            ("1/3", 1 / 3), ("2*(3+1)", 8), ("*2", 10), ("/4", 1.25), ("+10%", 5.5), ("-10%", 4.5), ("-3", -3),
            ("1,5", 1.5), ("2**3", 8), ("1e3", 1000), (".5", 0.5),
        ):  # fmt: skip
            self.assertAlmostEqual(evaluate(text, 5.0), number, msg=text)
        for text in ("", "x", "1/0", "__import__('os')", "9**9**9", "1e999", "(" * 200, "[1]", "True", "1 if 1 else 2"):
            self.assertIsNone(evaluate(text, 5.0), text)
        self.assertEqual([shown(x, 2) for x in (1, 1.5, 0.001, 0, -0.0)], ["1", "1.5", "0.001", "0", "0"])


class FieldTest(WindowCase):
    def first_effect(self):
        return effect_with({"a": {}, "b": {"launch.speed": 4}})

    def value(self, path):
        part = self.session.layer
        for name in path.split("."):
            part = getattr(part, name)
        return part

    def test_a_number_is_dragged_typed_nudged_and_reset(self):
        row = self.row("launch.speed")
        box = row._parts[0]
        steps = len(self.session.document.history)
        middle = QPointF(box.rect().center())
        self.drag(box, middle, middle + QPointF(20, 0), middle + QPointF(40, 0))
        self.assertAlmostEqual(self.value("launch.speed").number, 1 + 40 * box.unit_step, places=4)
        self.assertEqual(len(self.session.document.history), steps + 1, "one drag is one step")
        self.type_into(box, "2.5")
        self.assertEqual(self.value("launch.speed"), Fixed(2.5))
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Up, SHIFT)
        self.assertAlmostEqual(self.value("launch.speed").number, 2.5 + 10 * box.unit_step, places=4)
        QTest.mouseClick(row.mark, LEFT)
        self.assertEqual(self.value("launch.speed"), Fixed(1.0))
        self.assertEqual(row.mark.text(), "")

    def test_limits_hold_and_nonsense_is_left_alone(self):
        self.set_field("launch.lifetime", "-4", "nonsense")
        self.assertEqual(self.value("launch.lifetime"), Spread(0.001, 1.5))
        self.set_field("launch.lifetime", "9", "2")
        self.assertEqual(self.value("launch.lifetime"), Spread(2.0, 2.0), "low stays before high")

    def test_forms_are_switched_from_the_menu_and_open_their_lane(self):
        row = self.row("flight.drag")
        for form, kind in (("Spread", Spread), ("Band", Band), ("Curve", Curve), ("Fixed", Fixed)):
            button = next(b for b in row.findChildren(type(row.mark)) if b.menu())
            next(action for action in button.menu().actions() if action.text() == form).trigger()
            QApplication.processEvents()
            self.assertIsInstance(self.value("flight.drag"), kind)
            self.assertEqual("flight.drag" in self.window.strip.lanes, form in ("Band", "Curve"))

    def test_an_empty_length_is_to_the_end(self):
        self.set_field("window.length", "1.5")
        self.assertEqual(self.value("window.length"), 1.5)
        box = self.row("window.length")._parts[0]
        QTest.mouseClick(box, LEFT)
        box.selectAll()
        QTest.keyClick(box, Qt.Key.Key_Delete)
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertIsNone(self.value("window.length"))

    def test_fields_follow_the_selection_and_hide_where_they_do_not_count(self):
        row = self.row("launch.speed")
        self.session.select("b")
        self.assertEqual(row._parts[0].text(), "4")
        height = self.row("birthplace.height")
        self.assertFalse(height.isVisible())
        self.row("birthplace.kind")._parts[0].textActivated.emit("cone")
        self.assertTrue(height.isVisible())

    def test_bursts_are_added_and_deleted(self):
        self.window.run("burst")
        self.window.run("burst")
        self.assertEqual([burst.at for burst in self.session.layer.emit.bursts], [0.0, 0.5])
        bursts = self.window.recipe.chapters["Emit"].lists["emit.bursts"]
        bursts.open_part(0)
        row = next(r for r in bursts.rows if r.rule.label == "Count")
        self.type_into(row._parts[0], "7")
        self.assertEqual(self.session.layer.emit.bursts[0].count, Fixed(7.0))
        gone = next(b for b in bursts.findChildren(type(row.mark)) if b.accessibleName() == "Delete burst 2")
        QTest.mouseClick(gone, LEFT)
        self.assertEqual(len(self.session.layer.emit.bursts), 1)

    def test_letters_typed_into_a_field_are_no_commands(self):
        box = self.row("launch.speed")._parts[0]
        playing = self.session.playing
        QTest.mouseClick(box, LEFT)
        QTest.keyClicks(box, "1 [,")
        self.assertEqual(self.session.playing, playing)
        QTest.keyClick(box, Qt.Key.Key_Escape)
        self.assertEqual(self.value("launch.speed"), Fixed(1.0))

    def test_after_enter_letters_are_commands_again(self):
        box = self.row("launch.speed")._parts[0]
        self.type_into(box, "2")
        self.assertTrue(box.hasFocus())
        playing, backdrop = self.session.playing, self.session.effect.stage.backdrop
        QTest.keyClick(box, Qt.Key.Key_Space)
        QTest.keyClick(box, Qt.Key.Key_B)
        self.assertNotEqual(self.session.playing, playing)
        self.assertNotEqual(self.session.effect.stage.backdrop, backdrop)
        QTest.keyClicks(box, "3")
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertEqual(self.value("launch.speed"), Fixed(3.0))


class RecipeTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def shown(self):
        return [
            row.rule.label for _, rows in self.window.recipe.found.groups for _, _, row in rows if not row.isHidden()
        ]

    def test_search_and_changed_only_go_over_all_chapters(self):
        recipe = self.window.recipe
        QTest.keyClick(self.window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(recipe.search, "speed")
        self.assertIn("Speed", self.shown())
        self.assertIn("Top speed", self.shown())
        self.assertNotIn("Rate", self.shown())
        recipe.search.setText("no such thing")
        self.assertTrue(recipe.found.none.isVisible())
        recipe.search.clear()
        self.window.run("changed")
        self.assertIn("Swirl", (self.session.select("embers"), self.shown())[1])
        self.assertNotIn("Orbit", self.shown())
        row = next(row for _, rows in recipe.found.groups for at, _, row in rows if at == "flight.eddy")
        self.type_into(row._parts[0], "2")
        self.assertEqual(self.session.layer.flight.eddy, 2)
        QTest.keyClick(self.window, Qt.Key.Key_2)
        self.assertFalse(recipe.only_changed.isChecked())

    def test_each_link_of_the_sentence_leads_to_its_field(self):
        for layer in kiln_mouth().layers:
            self.session.select(layer.id)
            for piece in pieces(layer):
                if piece.path and piece.path != "emit.bursts":
                    self.window.recipe.summary.linkActivated.emit(piece.path)
                    page = self.window.recipe.pages.currentWidget()
                    self.assertTrue(page.rows[piece.path].isVisible(), piece)

    def test_sentences_leave_out_what_is_at_its_default(self):
        plain = single(
            {"launch.speed": {"spread": [-1, 2]}, "flight.gravity": -0.5, "emit.rate": 0, "emit.bursts": [{"count": 9}]}
        )
        words = sentence(plain.layers[0])
        self.assertEqual(
            words,
            "A burst of 9 born at a point, setting out at −1 to 2 m/s. They rise with 0.5× gravity. "
            "They cover what is behind.",
        )

    def test_a_chapter_is_copied_to_another_layer_and_reset(self):
        self.session.select("embers")
        self.window.run("chapter_4")
        self.window.run("copy_chapter")
        flight = self.session.layer.flight
        self.session.select("core")
        steps = len(self.session.document.history)
        self.window.run("paste_chapter")
        self.assertEqual(self.session.layer.flight, flight)
        self.window.run("reset_chapter")
        self.assertEqual(self.session.layer.flight, type(flight)())
        self.assertEqual(len(self.session.document.history), steps + 2)
        QApplication.clipboard().setText("something else")
        self.window.run("paste_chapter")
        self.assertIn("no chapter", self.window.notice.words.text())

    def test_the_axis_of_a_curve_is_chosen(self):
        self.session.select("embers")
        row = self.row("flight.turbulence")
        button = next(b for b in row.findChildren(type(row.mark)) if b.menu())
        next(action for action in button.menu().actions() if action.text() == "Along speed").trigger()
        self.assertEqual(self.session.layer.flight.turbulence.along, "speed")


class LibraryTest(WindowCase):
    def setUp(self):
        super().setUp()
        patch = mock.patch.dict(os.environ, {"PALE_EMBER_LAYERS": f"{self.folder.name}/layers"})
        patch.start()
        self.addCleanup(patch.stop)

    def test_a_shipped_layer_is_added_and_an_own_one_kept_and_deleted(self):
        view = self.window.open_library()
        names = [start.name for start in view.found]
        for name in ("Flame", "Smoke", "Spark", "Ember", "Mist", "Rain", "Snow", "Dust", "Debris", "Flash", "Ring"):
            self.assertIn(name, names)
        self.wait(lambda: len(view.pictures) == len(view.found), 60)
        for row, start in enumerate(view.found):
            image = view.pictures[row][6].pixmap(150, 96).toImage()
            shades = {image.pixel(x, y) for x in range(0, 150, 2) for y in range(0, 96, 2)}
            self.assertGreater(len(shades), 20, f"{start.name} is not to be seen")
        view.list.setCurrentRow(names.index("Flame"))
        self.assertFalse(view.forget.isEnabled())
        QTest.keyClick(view.list, Qt.Key.Key_Return)
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["Flame"])
        self.wait(lambda: self.session.moment.alive > 5)
        self.session.edit("layers[0].name", "My Flame", "Rename")
        self.window.run("keep_layer")
        view = self.window.open_library()
        self.assertTrue(view.found[-1].own)
        self.assertEqual(view.found[-1].layer, self.session.layer)
        view.list.setCurrentRow(len(view.found) - 1)
        QTest.mouseClick(view.forget, LEFT)
        self.assertFalse(any(start.own for start in view.found))
        view.reject()

    def test_a_broken_file_in_the_library_is_said_and_left_out(self):
        folder = Path(self.folder.name) / "layers"
        folder.mkdir()
        (folder / "bad.ember").write_text("{")
        view = self.window.open_library()
        self.assertEqual(len(view.found), 11)
        self.assertIn("bad.ember", self.window.notice.words.text())
        view.reject()


class LaneTest(WindowCase):
    def first_effect(self):
        curve = {"curve": [[0, 0], [0.5, 1], [1, 0]]}
        return single({"look.opacity": curve, "look.grow": {"band": [[[0, 1], [1, 1]], [[0, 2], [1, 2]]]}})

    def test_click_adds_where_the_curve_is_drag_moves_delete_removes(self):
        lane = self.window.strip.lanes["look.opacity"]
        before = self.session.layer.look.opacity
        level = float(before.bounds_at([0.25])[0][0])
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.25), lane.y_of(level)).toPoint())
        keys = self.session.layer.look.opacity.keys
        self.assertEqual(len(keys), 4)
        self.assertAlmostEqual(keys[1].x, 0.25, delta=0.01)
        self.assertAlmostEqual(keys[1].y, float(before.bounds_at([keys[1].x])[0][0]), places=5)
        steps = len(self.session.document.history)
        start = QPointF(lane.x_of(keys[1].x), lane.y_of(keys[1].y))
        # A key doesn't pass its neighbour, nor the field's limits.
        self.drag(lane, start, QPointF(lane.x_of(0.4), lane.y_of(0.2)), QPointF(lane.x_of(0.8), lane.plot.top() - 60))
        keys = self.session.layer.look.opacity.keys
        self.assertEqual((keys[1].x, keys[1].y), (0.5, 1.0))
        self.assertEqual(len(self.session.document.history), steps + 1)
        QTest.keyClick(lane, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.layer.look.opacity.keys), 3)
        self.session.undo(), self.session.undo(), self.session.undo()
        self.assertEqual(self.session.layer.look.opacity, before)

    def test_one_axis_of_a_vector_has_its_lane(self):
        self.row("flight.thrust")._to_form("curve", "[1]")
        lane = self.window.strip.lanes["flight.thrust"]
        self.window.strip.area.ensureWidgetVisible(lane)
        QTest.qWait(30)
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.5), lane.y_of(0.0)).toPoint())
        self.assertEqual(len(self.session.layer.flight.thrust.y.keys), 3)
        self.assertEqual(self.session.layer.flight.thrust.x, Fixed(0.0))

    def test_both_edges_of_a_band_are_edited(self):
        lane = self.window.strip.lanes["look.grow"]
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.5), lane.y_of(2.0)).toPoint())
        grow = self.session.layer.look.grow
        self.assertEqual((len(grow.low), len(grow.high)), (2, 3))

    def test_exact_numbers_eases_and_keys(self):
        lane, exact = self.window.strip.lanes["look.opacity"], self.window.strip.exact
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.5), lane.y_of(1.0)).toPoint())
        self.assertTrue(exact.level.isVisible())
        self.type_into(exact.level, "0.35")
        self.type_into(exact.age, "0.3")
        key = self.session.layer.look.opacity.keys[1]
        self.assertEqual((key.x, key.y), (0.3, 0.35))
        exact.ease.textActivated.emit("hold")
        self.assertEqual(self.session.layer.look.opacity.keys[1].ease, "hold")
        lane.setFocus()
        QTest.keyClick(lane, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.session.layer.look.opacity.keys[1].x, 0.31)

    def test_gradient_stops(self):
        lane = self.window.strip.lanes["look.color"]
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.4), lane.bar(0).center().y()).toPoint())
        stops = self.session.layer.look.color.stops
        self.assertEqual(len(stops), 3)
        lane.pick()
        picker = self.window.findChild(Picker)
        steps = len(self.session.document.history)
        for color in ("#ff0000", "#00ff00", "#ff8800"):
            picker.set_color(color)
        picker.accept()
        self.assertEqual(self.session.layer.look.color.stops[1].color, "#ff8800")
        self.assertEqual(len(self.session.document.history), steps + 1)
        at = QPointF(lane.x_of(stops[1].x), lane.bar(0).bottom() + 4)
        self.drag(lane, at, QPointF(lane.x_of(0.7), at.y()))
        self.assertAlmostEqual(self.session.layer.look.color.stops[1].x, 0.7, delta=0.01)
        QTest.keyClick(lane, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.layer.look.color.stops), 2)


class StageTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def test_orbit_pan_zoom_and_frame(self):
        stage, session = self.window.stage, self.session
        middle = QPointF(stage.rect().center())
        first = session.camera
        self.drag(stage, middle, middle + QPointF(50, -20))
        self.assertNotEqual(session.camera.yaw, first.yaw)
        self.assertEqual(session.camera.target, first.target)
        turned = session.camera
        self.drag(stage, middle, middle + QPointF(40, 0), keys=SHIFT)
        self.assertEqual(session.camera.yaw, turned.yaw)
        self.assertNotEqual(session.camera.target, turned.target)
        stage.zoom(0.5)
        self.assertAlmostEqual(session.camera.distance, turned.distance / 2)
        self.wait(lambda: session.moment.alive > 50)
        QTest.keyClick(self.window, Qt.Key.Key_F)
        self.assertNotAlmostEqual(session.camera.distance, turned.distance / 2)
        self.assertEqual(session.document.index, 0, "looking around is no edit")
        QTest.keyClick(self.window, Qt.Key.Key_F, SHIFT)
        self.assertEqual(session.camera, first)

    def test_each_layer_has_a_sentence(self):
        for layer in kiln_mouth().layers:
            words = sentence(layer)
            self.assertTrue(words.endswith("."))
            self.assertNotIn("  ", words)


class RecoveryTest(WindowCase):
    def test_after_a_kill_the_next_start_offers_the_work(self):
        path = Path(self.folder.name) / "k.ember"
        save_effect(single(), path)
        code = (
            "import sys; from pathlib import Path; from PyQt6.QtCore import QTimer\n"
            "from tests.app.case import application\n"
            "from pale_ember.app.window.main_window import MainWindow\n"
            "app = application(); window = MainWindow(); window.show(); window.file_actions.load(Path(sys.argv[1]))\n"
            "window.file_actions.timer.start(30)\n"
            "turn = [0]\n"
            "def edit():\n"
            "    turn[0] += 1; window.session.edit('layers[0].name', f'n{turn[0]}', 'x')\n"
            "    if turn[0] == 40: print('busy', flush=True)\n"
            "timer = QTimer(); timer.timeout.connect(edit); timer.start(5); app.exec()\n"
        )
        process = subprocess.Popen(
            [sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE, env=os.environ.copy()
        )
        process.stdout.readline()
        process.kill()
        process.wait()
        process.stdout.close()
        self.assertEqual(load_effect(path).layers[0].name, "a", "the file itself is as it was saved")
        self.window.file_actions.offer()
        notice = self.window.notice
        self.assertTrue(notice.restore.isVisible())
        self.assertIn("k.ember", notice.words.text())
        QTest.mouseClick(notice.restore, LEFT)
        self.assertRegex(self.session.effect.layers[0].name, r"n\d+")
        self.assertTrue(self.session.document.dirty)
        self.assertEqual(self.session.document.path, path)
        self.assertFalse(notice.isVisible())
        self.window.run("save")
        self.assertRegex(load_effect(path).layers[0].name, r"n\d+")
        self.assertEqual(list(Path(self.folder.name).glob(".k*")), [])


class NumberBoxTest(unittest.TestCase):
    def test_steps_are_round(self):
        from .case import application

        application()
        steps = [
            NumberBox(soft, digits=digits).unit_step
            for soft, digits in (((0, 1), 2), ((0, 200), 1), ((0, 5), 2), ((0, 9), 0))
        ]
        self.assertEqual(steps, [0.01, 1.0, 0.1, 1.0])


if __name__ == "__main__":
    unittest.main()
