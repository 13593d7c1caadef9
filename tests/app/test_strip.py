"""The life strip in the real window: keys over several lanes, axes, filmstrip, the particle that is followed."""

import json
import os
from pathlib import Path
from unittest import mock

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog

from pale_ember.app.strip.gradient_menu import ask_load, ask_save, main_colors
from pale_ember.app.strip.lane_menu import (
    ask_keep,
    change_lines,
    flip,
    lane_menu,
    paste,
    reverse_stops,
    set_form,
    set_shape,
    simplify,
)
from pale_ember.app.widgets.color_picker import Picker
from pale_ember.app.widgets.screen_eye import ScreenEye
from pale_ember.drawing.filmstrip import MARGIN
from pale_ember.effect.curve_edits import reversed_keys
from pale_ember.effect.curves import Key, evaluate
from pale_ember.effect.errors import EffectError
from pale_ember.effect.values import Band, Curve, Fixed, Spread
from pale_ember.files.palettes import load_palette, load_strip
from pale_ember.simulation.biography import Single

from ..building import single
from .case import LEFT, WindowCase

SHIFT, CONTROL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


class StripCase(WindowCase):
    def first_effect(self):
        return single(
            {
                "launch.lifetime": {"spread": [1, 2]},
                "look.opacity": {"curve": [[0, 0], [0.2, 1], [0.6, 0.5], [1, 0]]},
                "look.grow": {"band": [[[0, 1], [0.3, 2], [1, 1]], [[0, 2], [0.35, 3], [1, 2]]]},
                "look.color": {"gradient": [[0, "#ffb060"], [0.5, "#804020"], [1, "#202020"]]},
                "flight.thrust": [0, {"curve": [[0, 1], [1, 3]]}, 0],
            }
        )

    def setUp(self):
        super().setUp()
        self.session.play(False)
        self.strip, self.selection = self.window.strip, self.window.strip.selection

    def lane(self, path):
        return self.strip.lanes[path]

    def held_place(self, path, index, side=0):
        lane = self.lane(path)
        return lane, lane.place_of((lane.path, side, index))

    def pull(self, widget, start, stop, keys):
        """Drag with keys of the keyboard held: QTest's moves carry none."""
        kinds = QEvent.Type
        middle = start + (stop - start) * 0.5
        for kind, at in ((kinds.MouseButtonPress, start), (kinds.MouseMove, middle), (kinds.MouseMove, stop),
                         (kinds.MouseButtonRelease, stop)):  # fmt: skip
            moved = kind == kinds.MouseMove
            down = LEFT if kind != kinds.MouseButtonRelease else Qt.MouseButton.NoButton
            event = QMouseEvent(
                kind, at, QPointF(widget.mapToGlobal(at.toPoint())), Qt.MouseButton.NoButton if moved else LEFT, down, keys
            )
            QApplication.sendEvent(widget, event)
            QApplication.processEvents()

    @property
    def look(self):
        return self.session.layer.look

    def steps(self):
        return len(self.session.document.history)


class HandTest(StripCase):
    def box(self, first, last):
        """Drag a box from a place of one lane to a place of another."""
        (a, start), (b, stop) = first, last
        end = QPointF(a.mapFromGlobal(b.mapToGlobal(stop.toPoint())))
        self.drag(a, start, end)

    def test_a_box_over_two_lanes_holds_keys_that_move_as_one_step(self):
        grow, opacity = self.lane("look.grow"), self.lane("look.opacity")
        first = QPointF(grow.x_of(0.1), 2)
        last = QPointF(opacity.x_of(0.65), opacity.height() - 3)
        self.box((grow, first), (opacity, last))
        self.assertEqual({(held[0].split(".")[-1], held[1], held[2]) for held in self.selection.held},
                         {("grow", 0, 1), ("grow", 1, 1), ("opacity", 0, 1), ("opacity", 0, 2)})  # fmt: skip
        before, steps, look = self.session.effect, self.steps(), self.look
        _, place = self.held_place("look.opacity", 2)
        self.pull(opacity, place, place + QPointF(0.1 * opacity.plot.width(), -0.2 * opacity.plot.height()), ALT)
        self.assertEqual(self.steps(), steps + 1)
        self.assertAlmostEqual(self.look.opacity.keys[2].x, 0.7, delta=0.01)
        self.assertGreater(self.look.opacity.keys[2].y, 0.6)
        self.assertAlmostEqual(self.look.grow.low[1].x, 0.4, delta=0.01)
        self.assertAlmostEqual(self.look.grow.high[1].x - self.look.grow.low[1].x, 0.05, places=3)
        self.assertGreater(self.look.grow.low[1].y, look.grow.low[1].y)
        self.assertIn("4 keys in 2 lanes", self.session.document.undo_name)
        self.session.undo()
        self.assertEqual(self.session.effect, before)

    def test_a_dragged_key_is_caught_by_other_keys_and_held_to_an_axis(self):
        opacity, place = self.held_place("look.opacity", 2)
        near = QPointF(opacity.x_of(0.353), place.y() - 30)
        # The band's high edge has a key at 0.35; with Shift the way goes along one axis.
        self.pull(opacity, place, near, SHIFT)
        self.assertEqual(self.look.opacity.keys[2], Key(0.35, 0.5))
        opacity, place = self.held_place("look.opacity", 2)
        self.pull(opacity, place, QPointF(place.x() + 4, place.y() - 9), SHIFT)
        self.assertEqual(self.look.opacity.keys[2].x, 0.35)
        self.assertGreater(self.look.opacity.keys[2].y, 0.5)

    def test_numbers_for_many_keys_and_arithmetic_by_each_ones_own(self):
        opacity = self.lane("look.opacity")
        opacity.setFocus()
        QTest.keyClick(opacity, Qt.Key.Key_A, CONTROL)
        self.assertEqual(len(self.selection.held), 4)
        exact = self.strip.exact
        self.assertTrue(exact.level.mixed and exact.age.mixed)
        self.type_into(exact.level, "*0.5")
        self.assertEqual([key.y for key in self.look.opacity.keys], [0, 0.5, 0.25, 0])
        self.type_into(exact.level, "0.3")
        self.assertEqual([key.y for key in self.look.opacity.keys], [0.3] * 4)
        exact.ease.textActivated.emit("linear")
        self.assertEqual({key.ease for key in self.look.opacity.keys}, {"linear"})
        self.selection.take((opacity.path, 0, 1))
        # An age that lies behind the neighbour stops at it; a value may go far past the lane.
        self.type_into(exact.age, "0.9")
        self.assertEqual(self.look.opacity.keys[1].x, 0.6)
        self.selection.take((self.lane("look.grow").path, 1, 1))
        self.type_into(exact.level, "25")
        self.assertEqual(self.look.grow.high[1].y, 25)
        for _ in range(5):
            self.session.undo()
        self.assertEqual(self.session.effect, self.first_effect())

    def test_ends_of_the_span_stretch_and_control_scales(self):
        opacity = self.lane("look.opacity")
        self.selection.take_all([(opacity.path, 0, 1), (opacity.path, 0, 2)])
        axis, steps = self.strip.axis, self.steps()
        end = QPointF(axis.x_of(0.6), axis.height() - 5)
        self.assertEqual(axis.handle_at(end), "right")
        self.drag(axis, end, QPointF(axis.x_of(0.8), end.y()))
        self.assertEqual(self.steps(), steps + 1)
        self.assertEqual(self.look.opacity.keys[1].x, 0.2)
        self.assertAlmostEqual(self.look.opacity.keys[2].x, 0.8, delta=0.01)
        opacity, place = self.held_place("look.opacity", 1)
        self.pull(opacity, place, place + QPointF(0, 60), CONTROL)
        np.testing.assert_allclose([key.y for key in self.look.opacity.keys], [0, 0.5, 0.25, 0], atol=0.02)

    def test_tangents_of_free_keys_are_turned(self):
        opacity = self.lane("look.opacity")
        self.selection.take((opacity.path, 0, 2))
        before = evaluate(self.look.opacity.keys, np.linspace(0, 1, 101))
        self.selection.set_ease("free")
        np.testing.assert_allclose(evaluate(self.look.opacity.keys, np.linspace(0, 1, 101)), before, atol=1e-9)
        QApplication.processEvents()
        (_, _, left), (_, _, right) = opacity._handles()
        place = opacity.place_of((opacity.path, 0, 2))
        self.drag(opacity, right, QPointF(right.x(), place.y() - 20))
        key = self.look.opacity.keys[2]
        self.assertGreater(key.out_slope, 0)
        self.assertEqual(key.in_slope, key.out_slope)
        self.pull(opacity, opacity._handles()[0][2], QPointF(left.x(), place.y()), ALT)
        self.assertAlmostEqual(self.look.opacity.keys[2].in_slope, 0, delta=0.05)
        self.assertEqual(self.look.opacity.keys[2].out_slope, key.out_slope)

    def test_the_keyboard_reaches_every_key(self):
        opacity = self.lane("look.opacity")
        opacity.setFocus()
        QTest.keyClick(opacity, Qt.Key.Key_PageDown)
        QTest.keyClick(opacity, Qt.Key.Key_PageDown)
        self.assertEqual(self.selection.main, (opacity.path, 0, 1))
        QTest.keyClick(opacity, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.look.opacity.keys[1].x, 0.21)
        self.session.pin_cursor(0.8)
        QTest.keyClick(opacity, Qt.Key.Key_Insert)
        self.assertEqual(self.look.opacity.keys[3].x, 0.8)
        QTest.keyClick(opacity, Qt.Key.Key_Delete)
        self.assertEqual(len(self.look.opacity.keys), 4)
        QTest.keyClick(opacity, Qt.Key.Key_M)
        menu = QApplication.activePopupWidget()
        self.assertIn("Reverse", " ".join(a.text() for m in menu.findChildren(type(menu)) for a in m.actions()).replace("&", ""))
        menu.close()

    def test_a_key_stays_in_every_line(self):
        opacity = self.lane("look.opacity")
        self.selection.take_all(opacity.all_keys())
        self.selection.delete()
        self.assertEqual(len(self.look.opacity.keys), 1)


class LaneEditTest(StripCase):
    def test_whole_curves_are_edited(self):
        opacity, grow = self.lane("look.opacity"), self.lane("look.grow")
        first = self.look
        change_lines(opacity, reversed_keys, "Reverse")
        self.assertEqual([key.y for key in self.look.opacity.keys], [0, 0.5, 1, 0])
        change_lines(opacity, reversed_keys, "Reverse")
        self.assertEqual(self.look.opacity, first.opacity)
        flip(grow)
        self.assertEqual(self.look.grow.low[1].y, 1.0)
        low, high = self.look.grow.bounds_at(np.linspace(0, 1, 51))
        self.assertTrue((low <= high).all())
        dense = Curve(tuple(Key(i / 40, round(np.sin(i / 13), 4)) for i in range(41)))
        self.session.edit(opacity.path.replace("opacity", "intensity"), dense, "Dense")
        simplify(self.lane("look.intensity"), 0.02)
        self.assertLess(len(self.look.intensity.keys), 10)
        reverse_stops(self.lane("look.color"))
        self.assertEqual(self.look.color.stops[0].color, "#202020")

    def test_shapes_fill_the_range_that_a_lane_has(self):
        opacity = self.lane("look.opacity")
        set_shape(opacity, "Fade in and out", None)
        self.assertEqual([(k.x, k.y) for k in self.look.opacity.keys], [(0, 0), (0.2, 1), (0.7, 1), (1, 0)])
        set_shape(self.lane("look.intensity"), "Pulse", None)
        self.assertEqual([(k.x, k.y) for k in self.look.intensity.keys], [(0, 0), (0.5, 1), (1, 0)])
        set_shape(self.lane("look.intensity"), "Flicker", None)
        one = self.look.intensity
        set_shape(self.lane("look.intensity"), "Flicker", None)
        self.assertNotEqual(one, self.look.intensity)
        set_shape(self.lane("look.grow"), "Slow in, slow out", None)
        self.assertIsInstance(self.look.grow, Band)
        with mock.patch.dict(os.environ, {"PALE_EMBER_SHAPES": f"{self.folder.name}/shapes"}):
            with mock.patch.object(QInputDialog, "getText", return_value=("My swell", True)):
                ask_keep(opacity)
            names = [a.text() for m in lane_menu(opacity).findChildren(type(lane_menu(opacity))) for a in m.actions()]
            self.assertIn("My swell", names)
            Path(f"{self.folder.name}/shapes/broken.json").write_text("{")
            said = []
            self.session.said.connect(said.append)
            lane_menu(opacity)
            self.assertIn("broken.json", said[0])

    def test_a_lane_is_copied_to_another_property_and_layer(self):
        opacity, intensity = self.lane("look.opacity"), self.lane("look.intensity")
        QApplication.clipboard().setText("")
        paste(intensity, False)
        self.assertEqual(self.look.intensity, Fixed(1.0))
        from pale_ember.app.session.field_clip import copy_field

        copy_field(opacity.rule, opacity.value)
        self.assertIn("curve", json.loads(QApplication.clipboard().text())["value"])
        paste(intensity, False)
        self.assertEqual(self.look.intensity.keys, self.look.opacity.keys)
        grow = self.look.grow
        copy_field(intensity.rule, intensity.value)
        paste(self.lane("look.grow"), True)
        self.assertAlmostEqual(self.look.grow.low[1].y, max(k.y for k in grow.low))
        self.session.duplicate()
        self.session.edit(self.session.layer_path("look.opacity"), 0.5, "Level")
        paste(self.lane("look.opacity"), False)
        self.assertEqual(self.look.opacity.keys, self.session.effect.layers[0].look.opacity.keys)

    def test_forms_lanes_and_their_places(self):
        opacity = self.lane("look.opacity")
        set_form(opacity, "spread")
        self.assertEqual(self.look.opacity, Spread(0.0, 1.0))
        names = list(self.strip.lanes)
        self.assertEqual(names[:4], ["look.grow", "look.opacity", "look.color", "look.intensity"])
        head = QPointF(30, 12)
        to = opacity.mapFromGlobal(self.lane("look.intensity").mapToGlobal(QPoint(30, 20)))
        self.drag(opacity, head, QPointF(to))
        self.assertEqual(list(self.strip.lanes)[3], "look.opacity")
        QTest.mouseClick(opacity, LEFT, pos=QPoint(9, 12))
        self.assertTrue(opacity.folded)
        QTest.mouseDClick(self.lane("look.grow"), LEFT, pos=QPoint(60, 12))
        QApplication.processEvents()
        self.assertFalse(opacity.isVisible())
        self.assertGreater(self.lane("look.grow").height(), 90)
        QTest.mouseDClick(self.lane("look.grow"), LEFT, pos=QPoint(60, 12))
        self.assertTrue(opacity.isVisible())
        # Order and folds come back the next time; what is no arrangement is left alone.
        kept = self.strip.arrangement()
        other = self.open_window(self.first_effect())
        other.strip.arrange("{broken")
        other.strip.arrange(kept)
        self.assertEqual(list(other.strip.lanes)[3], "look.opacity")
        self.assertTrue(other.strip.lanes["look.opacity"].folded)
        other.shut()
        other.hide()

    def test_a_vectors_three_are_one_lane(self):
        thrust = self.lane("flight.thrust")
        at = QPointF(thrust.x_of(0.5), thrust.y_of(2.0))
        self.strip.area.ensureWidgetVisible(thrust)
        QTest.mouseClick(thrust, LEFT, pos=at.toPoint())
        self.assertEqual(len(self.session.layer.flight.thrust.y.keys), 3)
        self.assertEqual(self.session.layer.flight.thrust.x, Fixed(0.0))
        self.assertEqual(thrust.reading().count("·"), 2)

    def test_the_clock_and_speed_have_axes_of_their_own(self):
        self.assertNotIn("emit.rate", self.strip.lanes)
        self.row("emit.rate")._to_form("curve", "")
        self.assertEqual((self.strip.axis_name, list(self.strip.lanes)), ("clock", ["emit.rate"]))
        self.assertFalse(self.strip.film.isVisible())
        self.assertEqual(self.strip.axis._second_row(0.5), "2 s")
        count = {"curve": [[0, 5], [1, 50]]}
        self.session.edit(self.session.layer_path("emit.bursts"), [{"at": 0, "count": count}], "Burst")
        self.strip.show_lane("layers[0].emit.bursts[0].count")
        burst = self.lane("emit.bursts[0].count")
        self.assertTrue(burst.hasFocus())
        QTest.mouseClick(burst, LEFT, pos=QPointF(burst.x_of(0.5), burst.y_of(27.5)).toPoint())
        self.assertEqual(len(self.session.layer.emit.bursts[0].count.keys), 3)
        QTest.keyClick(self.window, Qt.Key.Key_3, SHIFT)
        self.assertEqual(self.strip.axis_name, "speed")
        self.assertTrue(self.strip.empty.isVisible())
        listed = {action.text().split("\t")[0] for action in self.strip.lane_menu().actions()}
        self.assertTrue({"Drag", "Grow", "Spin"} <= listed and "Rate" not in listed)
        self.strip.add_lane("flight.drag")
        drag = self.lane("flight.drag")
        QApplication.processEvents()
        QTest.mouseClick(drag, LEFT, pos=QPointF(drag.x_of(0.5), drag.y_of(0.0)).toPoint())
        self.assertEqual(self.session.layer.flight.drag.along, "speed")
        self.assertEqual(self.strip.axis._second_row(1.0), "5 m/s")
        # Chosen from the list of another axis, a property is shown on the axis that it runs along.
        self.strip.show_axis("life")
        next(a for a in self.strip.lane_menu().actions() if a.text().startswith("Drag\t")).trigger()
        self.assertEqual(self.strip.axis_name, "speed")
        self.assertTrue(self.lane("flight.drag").hasFocus())


class FilmTest(StripCase):
    def test_frames_show_one_particle_and_follow_edits(self):
        self.wait(lambda: bool(self.strip.film.images))
        film = self.strip.film
        self.assertTrue(12 <= film.count <= 24)
        first = film.images[0].copy()
        self.assertEqual(film.life.serial, Single(self.session.effect, self.session.layer).birth(0).serial)
        QTest.keyClick(self.window, Qt.Key.Key_D)
        self.wait(lambda: film.images and film.images[0] != first)
        self.assertNotEqual(film.life.serial, 0)
        second = film.images[0].copy()
        self.session.edit(self.session.layer_path("look.opacity"), 0.05, "Faint")
        self.wait(lambda: film.images and film.images[0] != second)
        QTest.keyClick(self.window, Qt.Key.Key_D, SHIFT)
        self.wait(lambda: len(film.images) == 3)
        self.assertNotEqual(film.images[0], film.images[2])
        self.session.edit(self.session.layer_path("emit.rate"), 0, "Nothing")
        self.wait(lambda: not film.images)
        self.assertIn("Raise its rate", film.words)

    def test_hasty_frames_are_those_of_the_rest_but_for_a_few_levels(self):
        self.wait(lambda: bool(self.strip.film.images))
        film, stage = self.strip.film, self.window.stage
        life = film.single.instances(film.life, (np.arange(12) + 0.5) / 12)
        fine, quick = (
            stage.studio.film_pixels(
                life, self.session.camera, film.scale, (40, 48), self.session.layer.look, "black", margin, f"{margin}"
            )
            for margin in (MARGIN, 0)
        )
        off = np.abs(fine.astype(int) - quick.astype(int))[:, :, :3]
        self.assertLess(off.mean(), 5)
        self.assertLess(np.percentile(off, 99), 30)
        self.assertGreater(fine.max(), 100)

    def test_a_picked_particle_is_followed_while_it_plays(self):
        self.session.seek(1.0)
        self.wait_for_moment()
        QTest.qWait(50)
        stage, drawn = self.window.stage, self.session.moment.layers[0]
        from pale_ember.drawing.camera import project

        places, _ = project(self.session.camera, stage.width(), stage.height(), drawn.instances["place"])
        # A young one that stands clear of the handles, and is still alive a while later.
        chosen = next(i for i in np.argsort(drawn.life.age) if abs(places[i, 1] - places[-1, 1]) > 20)
        serial, age = int(drawn.life.serial[chosen]), float(drawn.life.age[chosen])
        QTest.mouseClick(stage, LEFT, pos=QPointF(*places[chosen]).toPoint())
        picked = self.session.picked
        self.assertIsNotNone(picked)
        at = int(np.flatnonzero(drawn.life.serial == picked.birth.serial)[0])
        self.assertLess(np.hypot(*(places[at] - places[chosen])), 3)
        serial, age = picked.birth.serial, float(drawn.life.age[at])
        self.assertAlmostEqual(self.session.cursor, age, places=4)
        self.assertEqual(len(stage.marked()[1]), 1)
        self.wait(lambda: self.strip.film.life is not None and self.strip.film.life.serial == serial)
        self.assertAlmostEqual(self.strip.film.life.born, picked.born, places=4)
        self.session.step(6)
        self.wait_for_moment()
        self.assertAlmostEqual(self.session.cursor, age + 0.1 / picked.lifetime, places=3)
        self.session.seek(1.0)
        self.wait_for_moment()
        self.assertAlmostEqual(self.session.cursor, age, places=4)
        changed = []
        self.session.cursor_changed.connect(lambda: changed.append(self.session.picked))
        self.session.pin_cursor(self.session.cursor)
        # Let go by a click on the very place where the cursor is, and whoever shows it hears of it.
        self.assertIsNone(self.session.picked)
        self.assertIn(None, changed)
        self.session.pick(picked)
        QTest.mouseClick(stage, LEFT, pos=QPoint(5, 5))
        self.assertIsNone(self.session.picked)

    def test_the_cursor_is_one_for_all_and_marks_particles_of_its_age(self):
        self.session.seek(2.0)
        self.wait_for_moment()
        opacity = self.lane("look.opacity")
        QTest.mouseMove(opacity, QPointF(opacity.x_of(0.5), 20).toPoint())
        QApplication.processEvents()
        self.assertAlmostEqual(self.session.cursor, 0.5, delta=0.01)
        self.assertEqual(opacity.reading(), f"{float(self.look.opacity.bounds_at([self.session.cursor])[0][0]):.2f}".rstrip("0"))
        near, own = self.window.stage.marked()
        ages = self.session.moment.layers[0].life.age
        self.assertEqual(len(near), int((np.abs(ages - self.session.cursor) < 0.02).sum()))
        self.assertEqual(len(own), 0)
        self.drag(self.strip.axis, QPointF(self.strip.axis.x_of(0.1), 8), QPointF(self.strip.axis.x_of(0.3), 8))
        self.assertAlmostEqual(self.session.cursor, 0.3, delta=0.01)
        self.session.point_at(None)
        self.assertAlmostEqual(self.session.cursor, 0.3, delta=0.01)

    def test_measured_speed_stands_in_its_lane_where_a_limit_is_drawn(self):
        self.strip.add_lane("flight.top_speed")
        top = self.lane("flight.top_speed")
        for moment in (0.5, 1.0, 1.5, 2.0):
            self.session.seek(moment)
            self.wait_for_moment()
        self.wait(lambda: not self.strip.measured.pending)
        measured = self.strip.measured.of(top)
        # Set out at 1 m/s, thrust growing from 1 to 3 m/s².
        self.assertAlmostEqual(measured.mean[0], 1.0, delta=0.15)
        self.assertGreater(measured.mean[-1], 2.0)
        self.strip.toggle_alone(top)
        QApplication.processEvents()
        QTest.mouseClick(top, LEFT, pos=QPointF(top.x_of(0.5), top.y_of(1.5)).toPoint())
        keys = self.session.layer.flight.top_speed.keys
        self.assertAlmostEqual(keys[1].y, 1.5, delta=0.1)
        self.wait_for_moment()
        self.assertLess(float(self.session.moment.layers[0].life.speed.max()), 1.65)

    def test_without_opengl_the_window_says_so_and_goes_on(self):
        with mock.patch("pale_ember.app.stage.stage.Studio", side_effect=EffectError("", "pictures can't be drawn here.")):
            other = self.open_window(self.first_effect())
            QTest.qWait(300)
            self.assertEqual(other.stage.wrong, "Pictures can't be drawn here.")
            other.session.edit("layers[0].launch.size", 2, "Size")
            QTest.qWait(200)
            self.assertFalse(other.strip.film.images)
            other.shut()
            other.hide()

    def test_the_strip_takes_all_the_width_and_floats(self):
        narrow = self.strip.width()
        QTest.keyClick(self.window, Qt.Key.Key_E)
        QApplication.processEvents()
        self.assertGreater(self.strip.width(), narrow + 200)
        self.assertEqual(self.strip.film.sizes[1], 72)
        self.assertAlmostEqual(self.strip.film.wide, self.lane("look.grow").plot.width(), delta=1.0)
        QTest.keyClick(self.window, Qt.Key.Key_E)
        QApplication.processEvents()
        self.assertTrue(self.window.docks["timeline"].isVisible())
        self.window.docks["strip"].setFloating(True)
        self.window.docks["strip"].resize(1200, 700)
        QTest.qWait(100)
        self.assertEqual(self.strip.film.count, min(int(self.strip.film.wide) // 54, 24))


class ColourTest(StripCase):
    def test_the_picker_keeps_to_what_a_screen_has(self):
        color = self.lane("look.color")
        self.selection.take((color.path, 0, 1))
        steps = self.steps()
        color.pick()
        picker = self.window.findChild(Picker)
        QTest.qWait(30)
        QTest.mouseClick(picker.plane, LEFT, pos=QPoint(20, 30))
        light = self.look.color.stops[1].color
        self.assertNotEqual(light, "#804020")
        self.type_into(picker.boxes["hue"], "250")
        red, blue = (int(self.look.color.stops[1].color[i : i + 2], 16) for i in (1, 5))
        self.assertGreater(blue, red)
        self.type_into(picker.boxes["green"], "200")
        self.assertEqual(self.look.color.stops[1].color[3:5], "c8")
        picker.hex.selectAll()
        QTest.keyClicks(picker.hex, "#123456")
        QTest.keyClick(picker.hex, Qt.Key.Key_Return)
        self.assertTrue(picker.isVisible())
        self.assertEqual(self.look.color.stops[1].color, "#123456")
        picker.take_from_screen()
        eye = next(w for w in QApplication.topLevelWidgets() if isinstance(w, ScreenEye) and w.isVisible())
        QTest.mouseClick(eye, LEFT, pos=QPoint(640, 4))
        self.assertEqual(self.look.color.stops[1].color, eye.image.pixelColor(640, 4).name())
        QTest.keyClick(picker, Qt.Key.Key_Escape)
        # All of it was one step, and Esc takes it back.
        self.assertEqual(self.look.color.stops[1].color, "#804020")
        self.assertLessEqual(self.steps(), steps + 1)

    def test_gradients_from_files_and_to_files(self):
        color, folder = self.lane("look.color"), self.folder.name
        for ending, kinds in ((".gpl", "GIMP palettes (*.gpl)"), (".png", "PNG pictures (*.png)")):
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(f"{folder}/a{ending}", "")):
                ask_save(color, kinds, ending)
        first = self.look.color
        for load, file in ((load_palette, "a.gpl"), (load_strip, "a.png"), (main_colors, "a.png")):
            with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(f"{folder}/{file}", "")):
                ask_load(color, "", load)
            if load is load_palette:
                self.assertEqual([s.color for s in self.look.color.stops], [s.color for s in first.stops])
            self.assertGreaterEqual(len(self.look.color.stops), 3)
        said = []
        self.session.said.connect(said.append)
        Path(f"{folder}/bad.gpl").write_text("no palette")
        before = self.session.effect
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(f"{folder}/bad.gpl", "")):
            ask_load(color, "", load_palette)
        self.assertIn("GIMP Palette", said[-1])
        self.assertIs(self.session.effect, before)
