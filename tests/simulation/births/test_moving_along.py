"""Particles that go with a layer that turns, grows and shifts, against where its own axes carry them."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from pale_ember.simulation import Simulation

from ...building import single

DURATION = 4.0
# From key to key the layer turns about X, then Y, then Z, all at once, grows, and moves.
TURNED, MOVED, GROWN = (70.0, -40.0, 110.0), (2.0, 1.0, -3.0), 1.8
PATH = [
    {"ease": "linear"},
    {"at": 1, "position": MOVED, "rotation": TURNED, "scale": GROWN, "ease": "linear"},
]
FREE = {"flight.gravity": 0, "launch.lifetime": 9, "emit.rate": 0, "emit.bursts": [{"at": 0, "count": 40}]}


def pose(time, base):
    """Return the layer's turn, place and scale at a time: its path's in the axes of its place."""
    share = time / DURATION
    own = Rotation.from_euler("xyz", np.array(base["rotation"]), degrees=True)
    turn = own * Rotation.from_euler("xyz", np.array(TURNED) * share, degrees=True)
    place = np.array(base["position"]) + own.apply(np.array(MOVED) * share * base["scale"])
    return turn, place, base["scale"] * (1 + (GROWN - 1) * share)


class MovingAlongTest(unittest.TestCase):
    def both(self, base, edits, time):
        """Return particles that follow the layer at two times, by number."""
        place = {f"place.{name}": value for name, value in base.items()}
        sim = Simulation(single({**FREE, **place, **edits, "path": PATH}, duration=DURATION, loop=False))
        found = []
        for moment in (0.0, time):
            sim.seek(moment)
            p = sim.particles("a")
            order = np.argsort(p.serial)
            found.append((p.position[order].copy(), p.velocity[order].copy()))
        return found

    def test_what_stands_still_in_the_layer_stands_where_the_layers_axes_carry_it(self):
        for base in (
            {"position": (0, 0, 0), "rotation": (0, 0, 0), "scale": 1.0},
            {"position": (1, -2, 0.5), "rotation": (20, 130, -60), "scale": 0.7},
        ):
            edits = {"birthplace.kind": "box", "birthplace.extents": [2, 3, 1], "launch.speed": 0}
            (first, _), (then, _) = self.both(base, edits, 2.5)
            (turn0, place0, scale0), (turn, place, scale) = pose(0.0, base), pose(2.5, base)
            inside = turn0.inv().apply(first - place0) / scale0
            np.testing.assert_allclose(then, turn.apply(inside * scale) + place, atol=2e-3)

    def test_what_flies_keeps_its_way_in_the_layers_axes(self):
        base = {"position": (1, -2, 0.5), "rotation": (20, 130, -60), "scale": 1.0}
        edits = {"birthplace.kind": "ball", "birthplace.aim": "random", "launch.speed": 2}
        (first, speed0), (then, speed) = self.both(base, edits, 2.0)
        (turn0, place0, scale0), (turn, place, scale) = pose(0.0, base), pose(2.0, base)
        np.testing.assert_allclose(
            turn.inv().apply(speed) / scale, turn0.inv().apply(speed0) / scale0, atol=2e-2, rtol=2e-2
        )
        # In its axes each goes straight on; steps are coarse beside a turn of 60 degrees a second.
        went = turn.inv().apply(then - place) / scale - turn0.inv().apply(first - place0) / scale0
        np.testing.assert_allclose(went, 2.0 * turn0.inv().apply(speed0) / scale0, atol=0.06)
