"""What the mouse and keys do to the timeline: bars, their ends, bursts, heads, switches, groups, links."""

from PyQt6.QtCore import QPointF

from pale_ember.app.timeline.thread_menus import port_menu, thread_menu
from pale_ember.effect.kinds import When

from ...building import effect_with
from ..gestures import ALT, CTRL, PLAIN, SHIFT, GestureCase


class TimelineGestures(GestureCase):
    def first_effect(self):
        burst = {"at": 0.5, "repeat": 3, "every": 0.4, "count": 4}
        return effect_with(
            {
                "flame": {"emit.rate": 10, "window": {"begin": 1, "length": 2}, "emit.bursts": [burst]},
                "embers": {
                    "group": "fire",
                    "emit.rate": 0,
                    "emit.bursts": [{"at": 1}],
                    "contact.enabled": True,
                },
                "glints": {"origin.parent": "embers", "origin.when": "hit", "group": "fire"},
                "smoke": {"emit.rate": 7, "window": {"begin": 0.5, "length": None}},
                "fog": {"emit.rate": 3},
            }
        )

    def setUp(self):
        super().setUp()
        self.rows, self.places = self.window.timeline.rows, self.window.timeline.rows.places
        self.window.stage.setUpdatesEnabled(False)
        self.chosen, self.zoomed = ("smoke",), False

    def state(self):
        layers, rows = self.session.layers, self.rows
        return super().state() | {
            "folded": " ".join(sorted(layers.folded)),
            "alone": " ".join(sorted(self.session.alone)),
            "typed": rows.editor.text() if rows.editor is not None else "",
            "span": [round(number, 3) for number in (rows.view.start, rows.view.span)],
        }

    def prepare(self):
        if self.rows.editor is not None:
            self.rows.editor.clearFocus()
        self.session.layers.folded.clear()
        self.session.alone = frozenset()
        self.rows.view.show_all()
        if self.zoomed:
            self.window.timeline.zoom(2.0)
        self.session.seek(0.5)
        self.session.select(self.chosen[0])
        for one in self.chosen[1:]:
            self.session.select(one, "also")

    def row(self, name):
        return self.places.row_of_layer(name)

    def test_bars_and_their_ends(self):
        ends = {}
        for name in ("flame", "smoke", "fog"):
            bar = self.places.bar_box(self.session.effect.index(name))
            ends[f"bar of {name}"] = QPointF(bar.left() + 0.35 * bar.width(), bar.center().y())
            ends[f"begin of {name}"] = QPointF(bar.left(), bar.center().y())
            ends[f"end of {name}"] = QPointF(bar.right(), bar.center().y())
        for words, at in ends.items():
            self.clicks(words, self.rows, at)
            for way in (2.9, 3, 44, -31, 1500) if words.endswith("flame") else (22, -60):
                self.drags(words, self.rows, at, QPointF(way, 2))
            self.drags(words, self.rows, at, QPointF(44, 2), (ALT,))
        for x in (5, 6, 7):
            self.drags(
                f"{x} inside the begin of flame",
                self.rows,
                ends["begin of flame"] + QPointF(x, 9),
                QPointF(-20, 0),
            )
            self.drags(
                f"{x} before the end of flame",
                self.rows,
                ends["end of flame"] - QPointF(x, 9),
                QPointF(-20, 0),
            )
        self.chosen = ("flame", "smoke")
        for words in ("bar of flame", "begin of smoke", "end of flame"):
            self.drags(f"{words} with two selected", self.rows, ends[words], QPointF(33, 0))
            self.clicks(f"{words} with two selected", self.rows, ends[words])
        self.assert_says("gestures-timeline-bars", self.lines)

    def test_bursts(self):
        for name, turn in (("flame", 0), ("flame", 2), ("embers", 0)):
            at = self.places.pip_at(self.session.effect.index(name), 0, turn)
            words = f"turn {turn} of the burst of {name}"
            self.clicks(words, self.rows, at)
            for way in (QPointF(23, 0), QPointF(-900, 3)):
                self.drags(words, self.rows, at, way)
            self.drags(words, self.rows, at, QPointF(23, 0), (ALT,))
            for x, y in ((5, 0), (6, 0), (0, 8), (0, 9)) if turn else ():
                self.drags(
                    f"{words}, from beside it by {x}, {y}", self.rows, at + QPointF(x, y), QPointF(31, 0)
                )
        self.chosen = ("flame", "embers")
        at = self.places.pip_at(0, 0, 0)
        self.drags("bursts of two", self.rows, at, QPointF(31, 0))
        self.assert_says("gestures-timeline-bursts", self.lines)

    def test_heads_switches_groups_and_empty_places(self):
        held = (PLAIN, SHIFT, CTRL)
        for name in ("flame", "glints", "smoke"):
            row = self.row(name)
            head = QPointF(90, row.top + 8)
            self.clicks(f"head of {name}", self.rows, head, held)
            self.double_clicks(f"head of {name}", self.rows, head)
            self.clicks(f"lane of {name}", self.rows, QPointF(self.places.x_of(0.3), row.top + 2), held)
            for which in ("alone", "eye"):
                at = self.places.switch_of(row, which).center()
                self.clicks(f"{which} of {name}", self.rows, at)
                self.drags(f"{which} of {name}", self.rows, at, QPointF(40, 0))
        group = next(row for row in self.places.rows if row.is_group)
        middle = group.top + group.height / 2
        for x in (12, 23, 24, 80, 300):
            self.clicks(f"group at {x}", self.rows, QPointF(x, middle))
        self.double_clicks("group", self.rows, QPointF(80, middle))
        for which in ("alone", "eye"):
            self.clicks(f"{which} of the group", self.rows, self.places.switch_of(group, which).center())
        self.drags(
            "playhead", self.rows, QPointF(self.places.x_of(0.3), self.row("flame").top + 2), QPointF(50, 0)
        )
        self.assert_says("gestures-timeline-heads", self.lines)

    def test_layers_are_moved_among_the_others(self):
        for name in ("flame", "smoke"):
            at = QPointF(90, self.row(name).top + 8)
            for way in (20, 21, 70, 400, -40, -100):
                self.drags(f"head of {name}", self.rows, at, QPointF(0, way))
        self.chosen = ("flame", "smoke")
        self.drags("heads of two", self.rows, QPointF(90, self.row("flame").top + 8), QPointF(0, 300))
        self.assert_says("gestures-timeline-order", self.lines)

    def test_links(self):
        for name, when in (("flame", When.DEATH), ("embers", When.HIT), ("smoke", When.ALIVE)):
            port = self.places.port_box(self.row(name), when).center()
            words = f"port {when} of {name}"
            self.clicks(words, self.rows, port)
            for other in ("fog", "flame", "glints"):
                way = QPointF(120, self.row(other).top + 10) - port
                self.drags(f"{words} to {other},", self.rows, port, way)
            self.drags(words, self.rows, port, QPointF(300, 900), (PLAIN, CTRL))
        thread = self.places.thread_box(self.row("glints")).center()
        self.clicks("the thread of glints", self.rows, thread)
        self.drags(
            "the thread of glints to flame,",
            self.rows,
            thread,
            QPointF(90, self.row("flame").top + 9) - thread,
        )
        self.drags("the thread of glints", self.rows, thread, QPointF(400, 900))
        self.assert_says("gestures-timeline-links", self.lines)

    def test_menus_of_ports_and_threads(self):
        for name in ("flame", "embers"):
            for when in When:
                self.items(
                    f"of the {when} of {name}",
                    lambda n=name, w=when: port_menu(self.session, n, w, self.rows),
                )
        self.items("of the thread of glints", lambda: thread_menu(self.session, "glints", self.rows))
        self.assert_says("gestures-timeline-menus", self.lines)

    def test_keys_and_the_wheel(self):
        self.rows.setFocus()
        for chosen in (("flame",), ("embers", "smoke"), ("fog",)):
            self.chosen = chosen
            words = f"with {' and '.join(chosen)}"
            self.keys(words, self.rows, ("Up", "Down"), (PLAIN, SHIFT))
            self.keys(words, self.rows, ("Delete",))
        ruler = self.window.timeline.ruler
        self.zoomed = True
        for x in (100, 400):
            self.turns(f"at {x}", self.window.timeline, QPointF(x, 60), (CTRL, SHIFT))
            self.clicks(f"ruler at {x}", ruler, QPointF(x, 10))
        self.drags("ruler", ruler, QPointF(400, 10), QPointF(130, 0))
        self.assert_says("gestures-timeline-keys", self.lines)
