"""What lanes, threads and ports of the timeline say where the mouse is, and in their menus."""

from PyQt6.QtCore import QPointF

from pale_ember.app.timeline.lane_words import spot_words
from pale_ember.app.timeline.thread_menus import port_menu, thread_menu
from pale_ember.effect.kinds import When

from ...building import effect_with
from ..told import ToldCase, told_menu


class TimelineTold(ToldCase):
    def first_effect(self):
        return effect_with(
            {
                "flame": {"emit.rate": {"curve": [[0, 0], [0.2, 60], [1, 20]]}, "group": "fire"},
                "embers": {
                    "emit.rate": 0,
                    "emit.bursts": [{"at": 0.5, "repeat": 4, "every": 0.6, "count": 20}],
                    "group": "fire",
                    "contact.enabled": True,
                },
                "glints": {"origin.parent": "embers", "origin.when": "hit"},
                "smoke": {"window.begin": 1, "window.length": 2, "enabled": False},
            }
        )

    def test_menus_of_ports_and_threads(self):
        rows = self.window.timeline.rows
        lines = []
        for when in When:
            for layer_id in ("embers", "glints"):
                lines += [f"== {layer_id} {when}", *told_menu(port_menu(self.session, layer_id, when, rows))]
        lines += ["== thread", *told_menu(thread_menu(self.session, "glints", rows))]
        self.assert_says("menu-ports", lines)

    def test_what_is_under_the_mouse(self):
        rows, found = self.window.timeline.rows, []
        rows.resize(900, rows.height())
        for y in range(4, min(rows.height(), 260), 9):
            last = ""
            for x in range(2, 900, 7):
                said = spot_words(rows.places.spot_at(QPointF(x, y)), self.session, rows.view.duration)
                if said != last:
                    found.append(f"{x // 7},{y // 9}: {said}")
                last = said
        self.assert_says("timeline-words", found)
