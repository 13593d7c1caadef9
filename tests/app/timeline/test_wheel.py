"""The wheel over the timeline: it zooms about the mouse, and moves along time."""

from PyQt6.QtCore import QPoint, QPointF, Qt

from ..case import WindowCase, turn_wheel

CTRL, SHIFT, NONE = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.NoModifier,
)


class WheelTest(WindowCase):
    def wheel(self, x, turn, keys):
        timeline = self.window.timeline
        turn_wheel(timeline, QPointF(x, 60), turn, keys)

    def test_it_zooms_about_the_moment_under_the_mouse(self):
        timeline, view = self.window.timeline, self.window.timeline.view
        x = view.x_of(1.0, timeline.rows.width())
        self.wheel(x, QPoint(0, 120), CTRL)
        self.assertAlmostEqual(view.span, 4.0 / 1.2)
        self.assertAlmostEqual(view.x_of(1.0, timeline.rows.width()), x, delta=0.5)
        for _ in range(60):
            self.wheel(x, QPoint(0, 120), CTRL)
        self.assertAlmostEqual(view.span, 6 / 60, msg="no closer than six steps")
        for _ in range(60):
            self.wheel(x, QPoint(0, -120), CTRL)
        self.assertEqual((view.start, view.span), (0.0, 4.0))

    def test_down_and_right_lead_on_up_and_left_back_and_neither_beyond_the_ends(self):
        view = self.window.timeline.view
        view.zoom_at(4.0, 2.0)
        start = view.start
        for turn, keys, way in (
            (QPoint(0, -120), SHIFT, 1),
            (QPoint(0, 120), SHIFT, -1),
            (QPoint(-120, 0), NONE, 1),
            (QPoint(120, 0), NONE, -1),
        ):
            before = view.start
            self.wheel(400, turn, keys)
            self.assertAlmostEqual(view.start - before, way * 0.1 * view.span)
        self.assertAlmostEqual(view.start, start)
        for _ in range(80):
            self.wheel(400, QPoint(0, -120), SHIFT)
        self.assertAlmostEqual(view.start + view.span, 4.0)

    def test_a_moment_out_of_view_turns_the_page(self):
        view = self.window.timeline.view
        view.zoom_at(8.0, 0.0)
        view.keep_in_view(0.2)
        self.assertEqual(view.start, 0.0)
        view.keep_in_view(2.0)
        self.assertAlmostEqual(view.start, 2.0 - 0.02 * view.span)
        self.assertAlmostEqual(view.time_of(view.x_of(2.1, 900), 900), 2.1)
        view.show_all()
        self.assertEqual((view.start, view.span), (0.0, 4.0))
