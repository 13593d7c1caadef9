"""The timeline as it is painted."""

from unittest import mock

from PyQt6.QtCore import QPointF

from pale_ember.app.stage.thumbnails import Thumbnails
from pale_ember.effect.kinds import When

from ...building import effect_with
from ..gestures import hold, let_go
from ..pictures import PictureCase


class TimelinePictures(PictureCase):
    def first_effect(self):
        return effect_with(
            {
                "flame": {
                    "emit.rate": {"curve": [[0, 0], [0.2, 60], [1, 20]]},
                    "look.color": {"gradient": [[0, "#ffe0a0"], [1, "#803010"]]},
                    "group": "fire",
                    "look.order": 2,
                },
                "embers": {
                    "emit.rate": 0,
                    "emit.bursts": [{"at": 0.5, "repeat": 4, "every": 0.6, "count": 20}, {"at": 9}],
                    "group": "fire",
                    "contact.enabled": True,
                },
                "glints": {"origin.parent": "embers", "origin.when": "hit", "group": "fire"},
                "smoke": {"window.begin": 1, "window.length": 2, "enabled": False},
                "sleet": {"emit.rate": 900, "emit.cap": 100, "group": "weather"},
                "fog": {"name": "Fog of a very long name that has no room", "group": "weather"},
            }
        )

    def levels(self):
        levels = self.session.moment.levels
        return [levels.get(layer.id, ()) for layer in self.session.effect.layers if layer.enabled]

    def test_lanes_bursts_rates_groups_links_and_the_ruler(self):
        with mock.patch.object(Thumbnails, "picture", lambda thumbnails, layer_id: None):
            self.session.seek(1.6)
            self.wait_for_moment()
            # The past is told while nothing is asked for.
            self.wait(lambda: all(len(rows) and rows[-1, 0] > 3.8 for rows in self.levels()))
            self.session.select("embers")
            self.session.layers.toggle_folded("weather")
            timeline = self.window.timeline
            self.assert_looks("timeline-rows", timeline.rows)
            self.assert_looks("timeline-ruler", timeline.ruler)
            timeline.zoom(3.0)
            self.session.toggle_alone("embers")
            self.session.select("smoke", "also")
            self.assert_looks("timeline-zoomed", timeline.rows)

    def test_a_link_that_is_broken_says_why_beside_its_mend(self):
        with mock.patch.object(Thumbnails, "picture", lambda thumbnails, layer_id: None):
            self.session.edit("layers[2].origin.chance", 0, "Never")
            self.session.play(False)
            self.session.seek(0.0)
            self.wait_for_moment()
            rows = self.window.timeline.rows
            row = rows.places.row_of_layer("glints")
            # Its mend is at hand, and its words end before that.
            box = rows.places.thread_box(row).united(rows.places.mend_box(row)).adjusted(0, -2, 18, 2)
            self.session.select("fog")
            self.wait_for_moment()
            picture = self.settled(lambda: rows.grab(box.toAlignedRect()).toImage())
            self.assert_looks("timeline-broken-link", picture)

    def test_what_is_dragged_shows_where_it_would_go(self):
        with mock.patch.object(Thumbnails, "picture", lambda thumbnails, layer_id: None):
            self.session.seek(1.6)
            self.wait_for_moment()
            self.wait(lambda: all(len(rows) and rows[-1, 0] > 3.8 for rows in self.levels()))
            rows = self.window.timeline.rows
            places = rows.places
            self.session.select("flame")
            head = QPointF(90, places.row_of_layer("flame").top + 8)
            at = hold(rows, head, QPointF(0, 90))
            self.assert_looks("timeline-head-dragged", rows)
            let_go(rows, head)
            bar = places.bar_box(self.session.effect.index("smoke"))
            at = hold(
                rows, QPointF(bar.left(), bar.center().y()), QPointF(places.x_of(0.5) - bar.left() + 2, 0)
            )
            self.assert_looks("timeline-window-dragged", rows)
            let_go(rows, at)
            port = places.port_box(places.row_of_layer("embers"), When.HIT).center()
            at = hold(rows, port, QPointF(150, 60))
            self.assert_looks("timeline-link-dragged", rows)
            let_go(rows, port)
