from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.app.widgets.color_picker import Picker
from pale_ember.effect.values.values import Fixed

from ...building import single
from ..case import LEFT, WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


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
        self.drag(
            lane,
            start,
            QPointF(lane.x_of(0.4), lane.y_of(0.2)),
            QPointF(lane.x_of(0.8), lane.plot.top() - 60),
        )
        keys = self.session.layer.look.opacity.keys
        self.assertEqual((keys[1].x, keys[1].y), (0.5, 1.0))
        self.assertEqual(len(self.session.document.history), steps + 1)
        QTest.keyClick(lane, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.layer.look.opacity.keys), 3)
        self.session.undo(), self.session.undo(), self.session.undo()
        self.assertEqual(self.session.layer.look.opacity, before)

    def test_the_end_of_a_level_line_is_taken_and_not_set_beside_itself(self):
        for x, end in ((0.0, 0), (1.0, 1), (0.01, 0)):
            self.session.edit("layers[0].look.opacity", 0.5, "Level")
            self.window.strip.show_lane("layers[0].look.opacity")
            lane = self.window.strip.lanes["look.opacity"]
            self.window.strip.area.ensureWidgetVisible(lane)
            QTest.qWait(30)
            start = QPointF(lane.x_of(x), lane.y_of(0.5))
            self.drag(lane, start, start + QPointF((-20, 20)[end], -25))
            keys = self.session.layer.look.opacity.keys
            self.assertEqual([key.x for key in keys], [0.0, 1.0])
            self.assertGreater(keys[end].y, 0.55)
            self.assertEqual(keys[1 - end].y, 0.5)
            self.session.undo()

    def test_the_key_box_says_what_its_axis_is(self):
        lane, exact = self.window.strip.lanes["look.opacity"], self.window.strip.exact
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.5), lane.y_of(1.0)).toPoint())
        self.assertIn("0 at birth, 1 at death", exact.age.toolTip())
        self.session.edit("layers[0].emit.rate", {"curve": [[0, 5], [1, 9]], "along": "clock"}, "Rate")
        self.window.strip.show_lane("layers[0].emit.rate")
        lane = self.window.strip.lanes["emit.rate"]
        self.window.strip.selection.take((lane.path, 0, 1))
        self.assertIn("window begins", exact.age.toolTip())

    def test_one_axis_of_a_vector_has_its_lane(self):
        self.row("flight.thrust").parts._to_form("curve", "[1]")
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
        self.window.strip.pick_stops()
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
