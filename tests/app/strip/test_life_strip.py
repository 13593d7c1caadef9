"""The life strip in the real window: keys over several lanes, axes, filmstrip, the particle that is
followed.
"""

import json
import os
from pathlib import Path
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QInputDialog

from pale_ember.app.strip.key_selection import CATCH
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
from pale_ember.effect.values.curve_edits import reversed_keys
from pale_ember.effect.values.curves import Key, evaluate
from pale_ember.effect.values.values import Band, Curve, Fixed, Spread

from ..case import LEFT
from .strip_case import StripCase

SHIFT, CONTROL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


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
        self.assertEqual(
            {(held[0].split(".")[-1], held[1], held[2]) for held in self.selection.held},
            {("grow", 0, 1), ("grow", 1, 1), ("opacity", 0, 1), ("opacity", 0, 2)},
        )
        before, steps, look = self.session.effect, self.steps(), self.look
        _, place = self.held_place("look.opacity", 2)
        self.pull(
            opacity, place, place + QPointF(0.1 * opacity.plot.width(), -0.2 * opacity.plot.height()), ALT
        )
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

    def test_another_key_catches_before_a_nearer_line_of_the_grid(self):
        opacity, place = self.held_place("look.opacity", 2)
        catch = CATCH / opacity.plot.width()
        other = round(0.35 - 1.5 * catch, 4)
        self.session.edit("layers[0].look.grow.band[1][1]", [other, 3], "Key")
        opacity, place = self.held_place("look.opacity", 2)
        # It is let go nearer to 0.35, a line of the grid, than to the other lane's key.
        self.pull(opacity, place, QPointF(opacity.x_of(other + 0.8 * catch), place.y() - 30), SHIFT)
        self.assertAlmostEqual(self.look.opacity.keys[2].x, other, delta=1e-6)
        self.session.edit("layers[0].look.grow.band[1][1]", [0.9, 3], "Key")
        opacity, place = self.held_place("look.opacity", 2)
        self.pull(opacity, place, QPointF(opacity.x_of(0.35 + 0.5 * catch), place.y()), SHIFT)
        self.assertAlmostEqual(self.look.opacity.keys[2].x, 0.35, delta=1e-6)

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
        np.testing.assert_allclose(
            evaluate(self.look.opacity.keys, np.linspace(0, 1, 101)), before, atol=1e-9
        )
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

    def test_either_tangent_points_where_it_is_dragged(self):
        opacity = self.lane("look.opacity")
        self.selection.take((opacity.path, 0, 2))
        self.selection.set_ease("free")
        QApplication.processEvents()
        place = opacity.place_of((opacity.path, 0, 2))
        steep = opacity.reach * opacity.plot.width() / opacity.plot.height()
        for side, way in ((0, -1), (1, 1)):
            at = opacity._handles()[side][2]
            to = place + QPointF(30 * way, -12 * way)
            self.drag(opacity, at, to)
            key = self.look.opacity.keys[2]
            self.assertAlmostEqual(key.out_slope, 12 / 30 * steep, delta=0.12 * steep)
            self.assertEqual(key.in_slope, key.out_slope)
            self.drag(opacity, opacity._handles()[side][2], place + QPointF(30 * way, 15 * way))
            self.assertLess(self.look.opacity.keys[2].out_slope, -0.2 * steep)

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
        self.assertIn(
            "Reverse",
            " ".join(a.text() for m in menu.findChildren(type(menu)) for a in m.actions()).replace("&", ""),
        )
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
            names = [
                a.text()
                for m in lane_menu(opacity).findChildren(type(lane_menu(opacity)))
                for a in m.actions()
            ]
            self.assertIn("My swell", names)
            for answer in (("Never", False), ("  ", True)):
                with mock.patch.object(QInputDialog, "getText", return_value=answer):
                    ask_keep(opacity)
            self.assertEqual(len(list(Path(f"{self.folder.name}/shapes").iterdir())), 1)
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
        from pale_ember.app.session.clipboard import copy_field

        copy_field(opacity.rule, opacity.value)
        self.assertIn("curve", json.loads(QApplication.clipboard().text())["value"])
        paste(intensity, False)
        self.assertEqual(self.look.intensity.keys, self.look.opacity.keys)
        grow = self.look.grow
        copy_field(intensity.rule, intensity.value)
        paste(self.lane("look.grow"), True)
        self.assertAlmostEqual(self.look.grow.low[1].y, max(k.y for k in grow.low))
        self.session.layers.duplicate()
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
        self.row("emit.rate").parts._to_form("curve", "")
        self.assertEqual((self.strip.axis_name, list(self.strip.lanes)), ("clock", ["emit.rate"]))
        self.assertFalse(self.strip.film.isVisible())
        self.assertEqual(self.strip.axis.second_row(0.5), "2 s")
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
        self.assertEqual(self.strip.axis.second_row(1.0), "5 m/s")
        # Chosen from the list of another axis, a property is shown on the axis that it runs along.
        self.strip.show_axis("life")
        next(a for a in self.strip.lane_menu().actions() if a.text().startswith("Drag\t")).trigger()
        self.assertEqual(self.strip.axis_name, "speed")
        self.assertTrue(self.lane("flight.drag").hasFocus())
