"""What the mouse and keys do to the lanes of the life strip, on every form."""

from unittest import mock

from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QFileDialog, QInputDialog

from pale_ember.app.strip.lane_menu import lane_menu

from ..gestures import ALT, CTRL, PLAIN, SHIFT, GestureCase, pull
from .strip_case import lanes_of_every_form

LANES = {
    "look.opacity": "curve",
    "look.grow": "band",
    "look.color": "gradient",
    "look.intensity": "spread",
    "flight.thrust": "three",
}


class StripGestures(GestureCase):
    def first_effect(self):
        return lanes_of_every_form()

    def setUp(self):
        super().setUp()
        self.strip, self.selection = self.window.strip, self.window.strip.selection
        self.strip.measured.of = lambda path: None
        self.begin = None

    def state(self):
        strip = self.strip
        held = sorted(f"{path.rpartition('].')[2]}{side}:{i}" for path, side, i in self.selection.held)
        return super().state() | {
            "held": " ".join(held),
            "folded": " ".join(sorted(strip.folded)),
            "alone": strip.alone,
            "order": " ".join(strip.order),
            "exact": strip.exact.said.text(),
        }

    def prepare(self):
        strip = self.strip
        strip.folded.clear()
        strip.alone, strip.order = "", []
        strip._show_alone()
        strip.refresh()
        self.session.pin_cursor(0.3)
        self.selection.take_all([] if self.begin is None else self.begin)

    def lane(self, path):
        return self.strip.lanes[path]

    def in_plot(self, lane, share, high):
        plot = lane.plot
        return QPointF(
            plot.left() + round(share * plot.width()), plot.top() + round((1 - high) * plot.height())
        )

    def test_the_mouse_on_keys_lines_and_empty_places(self):
        for path, name in LANES.items():
            self.prepare()
            lane = self.lane(path)
            held = lane.all_keys()
            for which in held[1:3]:
                words, at = f"key {which[1]}:{which[2]} of {name}", lane.place_of(which)
                self.clicks(words, lane, at, (PLAIN, SHIFT))
                self.drags(words, lane, at, QPointF(61, -7), (PLAIN, SHIFT, CTRL))
            if held:
                at = lane.place_of(held[1])
                self.drags(f"key of {name}", lane, at, QPointF(-61, 7), (ALT,))
                self.double_clicks(f"key of {name}", lane, at)
                for x, y in ((7, 0), (8, 0), (0, -7), (0, 8)):
                    self.clicks(f"beside a key of {name} by {x}, {y}", lane, at + QPointF(x, y))
            for share, high in ((0.1, 0.5), (0.45, 0.75), (0.8, 0.25), (0.97, 0.02)):
                self.clicks(f"{name} at {share}, {high}", lane, self.in_plot(lane, share, high))
            self.drags(f"{name} over all keys", lane, self.in_plot(lane, 0.02, 1.1), QPointF(500, 60))
        self.assert_says("gestures-strip-mouse", self.lines)

    def test_heads_of_lanes(self):
        lane = self.lane("look.grow")
        for x in (17, 18, 127, 128):
            self.clicks(f"head at {x}", lane, QPointF(x, 12))
            self.double_clicks(f"head at {x}", lane, QPointF(x, 12))
        for way in (QPointF(0, 8), QPointF(0, 9), QPointF(0, 120), QPointF(3, -70), QPointF(0, 900)):
            self.drags("head", lane, QPointF(60, 12), way)
        self.does("click a folded lane", lambda: self.fold_and_click(lane))
        self.assert_says("gestures-strip-heads", self.lines)

    def fold_and_click(self, lane):
        self.strip.toggle_fold(lane)
        self.assertIn("look.grow", self.strip.folded)
        pull(lane, QPointF(300, 8), QPointF())

    def test_keys_of_the_keyboard_on_held_keys(self):
        moves = ("Left", "Right", "Up", "Down")
        others = ("PageUp", "PageDown", "Home", "End", "Delete", "Insert", "Escape")
        for path, name in LANES.items():
            lane = self.lane(path)
            held = lane.all_keys()
            for which in ([], held[1:3]) if path in ("look.grow", "look.color") else (held[1:2],):
                self.begin = which
                words = f"on {name} with {len(which)} held"
                lane.setFocus()
                self.keys(words, lane, moves)
                self.keys(words, lane, others)
                self.keys(words, lane, ("Left", "Up", "PageDown", "End"), (SHIFT,))
                self.keys(words, lane, ("A",), (CTRL,))
        self.assert_says("gestures-strip-keys", self.lines)

    def test_menus_of_lanes(self):
        text = mock.patch.object(QInputDialog, "getText", return_value=("Mine", True))
        double = mock.patch.object(QInputDialog, "getDouble", return_value=(5.0, True))
        nothing = mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", ""))
        nowhere = mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", ""))
        with text, double, nothing, nowhere:
            # The others have no items of their own.
            for path in ("look.opacity", "look.color", "look.intensity"):
                name, lane = LANES[path], self.lane(path)
                self.begin = lane.all_keys()[1:2]
                self.items(f"of {name}", lambda path=path: lane_menu(self.lane(path)))
            self.begin = []
            self.items("of the list of lanes", self.strip.lane_menu)
        self.assert_says("gestures-strip-menus", self.lines)

    def test_tangents_and_the_span_of_held_keys(self):
        lane = self.lane("look.opacity")
        self.begin = lane.all_keys()[1:2]
        self.prepare()
        for _, leaves, place in lane._handles():
            words = f"the tangent that {'leaves' if leaves else 'arrives'}"
            self.drags(words, lane, place, QPointF(11, 17), (PLAIN, ALT))
            self.drags(words, lane, place + QPointF(6, -6), QPointF(-60, 3))
            self.drags(f"beside {words}", lane, place + QPointF(7, 9), QPointF(4, 3))
        axis = self.strip.axis
        self.begin = lane.all_keys()[1:3]
        for share, words in ((0.2, "left end"), (0.6, "right end")):
            at = QPointF(axis.x_of(share), axis.height() - 4)
            self.drags(f"the span's {words}", axis, at, QPointF(70, 0))
            self.drags(f"the span's {words}", axis, at, QPointF(-500, 0))
            self.drags(f"beside the span's {words}", axis, at + QPointF(8, 0), QPointF(20, 0))
            self.drags(f"above the span's {words}", axis, at - QPointF(0, 9), QPointF(20, 0))
        self.assert_says("gestures-strip-span", self.lines)
