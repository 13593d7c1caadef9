"""A window with a layer that has curves of every kind, its life strip in view."""

from ...building import single
from ..case import WindowCase
from ..gestures import pull


def lanes_of_every_form():
    """Return an effect of a layer that has a value of each form."""
    return single(
        {
            "launch.lifetime": {"spread": [1, 2]},
            "look.opacity": {
                "curve": [
                    [0, 0],
                    {"x": 0.2, "y": 1, "ease": "free", "in": 1.0, "out": -2.0},
                    {"x": 0.6, "y": 0.5, "ease": "hold"},
                    [1, 0],
                ]
            },
            "look.grow": {"band": [[[0, 1], [0.3, 2], [1, 1]], [[0, 2], [0.35, 3], [1, 2]]]},
            "look.color": {
                "band": [
                    [[0, "#ffb060"], [0.5, "#804020"], [1, "#202020"]],
                    [[0, "#ffffff"], [1, "#a0c0ff"]],
                ]
            },
            "look.intensity": {"spread": [1, 4]},
            "flight.thrust": [0, {"curve": [[0, 1], [1, 3]]}, 0],
            "emit.rate": {"curve": [[0, 0], [0.5, 60], [1, 20]]},
        }
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
        """Drag with keys of the keyboard held."""
        pull(widget, start, stop - start, keys)

    @property
    def look(self):
        return self.session.layer.look

    def steps(self):
        return len(self.session.document.history)
