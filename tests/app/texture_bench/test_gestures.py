"""What the mouse and keys do on the bench: to steps, frames and the picture, with the brush and handles."""

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.app.texture_bench.picture_handles import handles_of
from pale_ember.app.texture_bench.step_rows import ROW
from pale_ember.app.window.bench_rows import step_menu

from ..case import turn_wheel
from ..gestures import CTRL, LEFT, MIDDLE, PLAIN, SHIFT, GestureCase, pull
from .bench_case import SheetCase

STEPS = [
    {"step": "dot", "strength": 0.8},
    {"step": "cloud", "blend": "multiply", "strength": {"curve": [[0, 0], [1, 1]]}},
    {"step": "levels", "bend": 2},
    {"step": "strokes"},
]
FLOW = [
    {
        "step": "flow",
        "sources": [{"at": [0.4, -0.5], "radius": 0.1}],
        "obstacles": [{"at": [0, 0.3], "extents": [0.3, 0.1], "turn": 30}],
    }
]


class BenchGestures(GestureCase, SheetCase):
    steps = STEPS

    def setUp(self):
        super().setUp()
        # What is made is looked at elsewhere; here it would only cost time.
        self.made()
        self.chosen, self.first_frame = 0, 2

    def state(self):
        bench, film, placing, brush = self.bench, self.film, self.view.placing, self.window.tools.brush
        box = self.view.box
        return super().state() | {
            "open": bench.is_open,
            "step": bench.index,
            "frame": bench.frame,
            "held": sorted(film.held),
            "channel": bench.channel,
            "moved": [round(placing.moved.x(), 1), round(placing.moved.y(), 1)],
            "wide": round(box.width(), 1),
            "brush": [round(brush.size, 3), brush.erase],
        }

    def prepare(self):
        if not self.bench.is_open:
            self.bench.open("puff")
        self.bench.select(self.chosen)
        self.bench.show_frame(self.first_frame)
        self.film.held = set()
        self.view.placing.reset()
        self.window.tools.brush.set(size=0.1)

    def test_steps(self):
        rows = self.rows
        for row in (0, 1, 2):
            eye, strength = rows.eye_box(row).center(), rows.strength_box(row).center()
            words = f"of step {row}"
            self.clicks(words, rows, QPointF(80, row * ROW + 9))
            self.clicks(f"the eye {words}", rows, eye)
            self.clicks(f"beside the eye {words}", rows, eye - QPointF(14, 0))
            self.clicks(f"the strength {words}", rows, strength)
            for way in (8, -9, 90):
                self.drags(f"the strength {words}", rows, strength, QPointF(3, way))
            for way in (7, 130, -60):
                self.drags(f"the name {words}", rows, QPointF(80, row * ROW + 9), QPointF(0, way))
        self.clicks("below the steps", rows, QPointF(80, len(STEPS) * ROW + 3))
        for chosen in (0, 1, 3):
            self.chosen = chosen
            words = f"on step {chosen}"
            self.keys(words, rows, ("Up", "Down", "Left", "Right", "Delete"))
            self.keys(words, rows, ("Left", "Delete"), (SHIFT,))
        self.assert_says("gestures-bench-steps", self.lines)

    def test_new_steps(self):
        self.chosen = 1
        self.items("behind the cloud", lambda: step_menu(self.window))
        self.assert_says("gestures-bench-menu", self.lines)

    def test_frames(self):
        film = self.film
        for at in (0, 3, 5):
            middle = film.cell(at).center()
            self.clicks(f"frame {at}", film, middle, (PLAIN, SHIFT, CTRL))
            for way in (6, 7, 1.4 * film.cell(0).width(), -2.6 * film.cell(0).width(), 900):
                self.drags(f"frame {at}", film, middle, QPointF(round(way), 0))
        self.clicks("left of the frames", film, QPointF(40, 10))
        self.does("hold 1 to 4 and drag them", lambda: self.hold_and_drag(film))
        self.does("Ctrl hold 1 and 4, then Delete", lambda: self.hold_and_delete(film))
        self.does("hold 1 to 4, then Escape", lambda: self.hold_and_escape(film))
        self.keys("on the film", film, ("Left", "Right", "Delete", "Escape"))
        self.first_frame = 5
        self.keys("on the film's last frame", film, ("Right", "Delete"))
        for action in film.menu().actions():
            self.does(f"{action.text()} of the film", action.trigger)
        self.assert_says("gestures-bench-frames", self.lines)

    def hold_and_drag(self, film):
        pull(film, film.cell(1).center(), QPointF())
        pull(film, film.cell(4).center(), QPointF(), SHIFT)
        pull(film, film.cell(2).center(), QPointF(3.2 * film.cell(0).width(), 0))

    def hold_and_escape(self, film):
        pull(film, film.cell(1).center(), QPointF())
        pull(film, film.cell(4).center(), QPointF(), SHIFT)
        self.assertEqual(film.held, {1, 2, 3, 4})
        QTest.keyClick(film, Qt.Key.Key_Escape)

    def hold_and_delete(self, film):
        pull(film, film.cell(1).center(), QPointF())
        pull(film, film.cell(4).center(), QPointF(), CTRL)
        QTest.keyClick(film, Qt.Key.Key_Delete)

    def test_the_picture_and_the_brush(self):
        view = self.view
        middle = view.box.center()
        for words, button in (("left", LEFT), ("middle", MIDDLE)):
            self.does(
                f"drag the picture with the {words} button by 40, -20",
                lambda button=button: pull(view, middle, QPointF(40, -20), PLAIN, button),
            )
        self.turns("on the picture", view, middle + QPointF(30, 20), (PLAIN, CTRL))
        self.keys("on the picture", view, ("Left", "Right", "Up", "Down", "PageUp", "PageDown"))
        self.keys("on the picture", view, ("Left", "Right"), (CTRL,))
        self.does("move and double click the picture", lambda: self.move_and_double_click(view, middle))
        self.chosen = 3
        self.drags("the brush", view, middle, QPointF(60, 25))
        self.clicks("the brush", view, middle - QPointF(30, 30))
        self.double_clicks("the brush", view, middle)
        self.turns("with the brush", view, middle, (PLAIN, CTRL))
        self.does(
            "drag the picture beside the brush", lambda: pull(view, middle, QPointF(9, 9), PLAIN, MIDDLE)
        )
        self.assert_says("gestures-bench-picture", self.lines)

    def move_and_double_click(self, view, middle):
        pull(view, middle, QPointF(50, 10))
        turn_wheel(view, middle, QPoint(0, 120), PLAIN)
        QTest.mouseDClick(view, LEFT, PLAIN, middle.toPoint())


class FlowGestures(BenchGestures):
    steps = FLOW
    frames = 1
    test_steps = test_new_steps = test_frames = test_the_picture_and_the_brush = None

    def prepare(self):
        self.first_frame = 0
        super().prepare()

    def test_handles_of_a_flow(self):
        for handle in handles_of(self.bench):
            self.prepare()
            at = self.on_picture(handle.x, handle.y)
            self.drags(handle.label, self.view, at, QPointF(18, -11))
            self.drags(f"{handle.label} from beside it", self.view, at + QPointF(0, 8), QPointF(-400, 9))
        self.assert_says("gestures-bench-flow", self.lines)
