"""Forces that act together, held against a fine-step integrator of the plain equations: steps are of
second order.
"""

import itertools
import unittest

import numpy as np

from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation import Simulation
from pale_ember.simulation.motion.path import pose_at

from ...building import single

G, LIFE, END = 9.81, 4.0, 1.5
START = {
    "emit.rate": 0,
    "emit.bursts": [{"at": 0, "count": 8}],
    "launch.lifetime": LIFE,
    "birthplace.kind": "ring",
    "birthplace.radius": 1.2,
    "birthplace.aim": "random",
    "launch.speed": {"spread": [1.5, 3]},
    "place.rotation": [20, 0, 35],
}
LIFE_CURVE = {"curve": [[0, 0.2], [0.5, 1.2], [1, 0.3]]}
FORCES = {
    "gravity": {"flight.gravity": LIFE_CURVE},
    "drag": {"flight.drag": {"curve": [[0, 0.2], [1, 2]]}},
    "wind": {"flight.wind": LIFE_CURVE, "flight.drag": 1.2},
    "thrust": {"flight.thrust": [{"curve": [[0, 3], [1, -2]], "along": "clock"}, 1, 0.5]},
    "drift": {"flight.drift": [0.5, {"curve": [[0, 0], [0.5, 1], [1, 0]]}, -0.3]},
    "pull": {"flight.pull": {"curve": [[0, 4], [1, 1]]}},
    "swirl": {"flight.swirl": 3},
    "orbit": {"flight.orbit": {"curve": [[0, 200], [1, 60]]}},
    "pace": {"flight.pace": {"curve": [[0, 1], [0.5, 0.3], [1, 1.4]]}},
    "drag along speed": {
        "flight.drag": {"curve": [[0, 0.2], [1, 1.5]], "along": "speed"},
        "flight.speed_range": 7,
    },
    "pace along speed": {
        "flight.pace": {"curve": [[0, 0.5], [1, 1.5]], "along": "speed"},
        "flight.speed_range": 7,
    },
}
SAME_FIELD = {
    frozenset(pair)
    for pair in (
        ("drag", "wind"),
        ("drag", "drag along speed"),
        ("wind", "drag along speed"),
        ("pace", "pace along speed"),
    )
}
WIND = np.array([3.0, 0.0, 1.0])


def effect_of(names, rate, **more):
    edits = dict(START)
    for name in names:
        edits |= FORCES[name]
    effect = single({**edits, **more}, duration=LIFE, step_rate=rate)
    return effect.edit("stage.wind", WIND.tolist()).edit("stage.gust", 0.5).edit("stage.gust_period", 1.5)


def places(effect, time):
    sim = Simulation(effect)
    sim.seek(time)
    p = sim.particles("a")
    return p.position.astype(float), p.velocity.astype(float)


class Reference:
    """The equations of motion of one layer, and Runge and Kutta's fourth-order steps through them."""

    def __init__(self, effect):
        self.flight = effect.layers[0].flight
        self.stage = effect.stage
        self.rotation = matrix_of(effect.layers[0].place.rotation)

    def value(self, value, time, speed):
        along = {"speed": np.minimum(speed / self.flight.speed_range, 1.0)}.get(
            value.along, np.full_like(speed, time / LIFE)
        )
        return value.bounds_at(along)[0][:, None]

    def vector(self, value, time, speed):
        return np.hstack([self.value(axis, time, speed) for axis in value]) @ self.rotation.T

    def slopes(self, x, v, time):
        f, speed, up = self.flight, np.linalg.norm(v, axis=1), self.rotation[:, 1]
        turn, stage = 2 * np.pi * time / self.stage.gust_period, self.stage
        gust = max(0, 1 + stage.gust * (0.65 * np.sin(turn) + 0.35 * np.sin(2.618 * turn + 1.3)))
        spin = np.radians(self.value(f.orbit, time, speed))
        a = self.vector(f.thrust, time, speed) - np.array([0, G, 0]) * self.value(f.gravity, time, speed)
        a = a - self.value(f.pull, time, speed) * x / np.linalg.norm(x, axis=1, keepdims=True)
        around = np.cross(up, x)
        a = a + self.value(f.swirl, time, speed) * around / np.linalg.norm(around, axis=1, keepdims=True)
        air = self.value(f.wind, time, speed) * WIND * gust
        a = a - self.value(f.drag, time, speed) * (v - air) + spin * np.cross(up, v)
        way = self.value(f.pace, time, speed) * v + self.vector(f.drift, time, speed) + spin * np.cross(up, x)
        return way, a

    def carried(self, x, v, until, steps):
        h = until / steps
        for k in range(steps):
            t = k * h
            a1, b1 = self.slopes(x, v, t)
            a2, b2 = self.slopes(x + h / 2 * a1, v + h / 2 * b1, t + h / 2)
            a3, b3 = self.slopes(x + h / 2 * a2, v + h / 2 * b2, t + h / 2)
            a4, b4 = self.slopes(x + h * a3, v + h * b3, t + h)
            x, v = x + h / 6 * (a1 + 2 * a2 + 2 * a3 + a4), v + h / 6 * (b1 + 2 * b2 + 2 * b3 + b4)
        return x


class OrderTest(unittest.TestCase):
    def assertSecondOrder(self, coarse, fine, what):
        # Sixteenfold; what is below a tenth of a millimetre is rounding and tables.
        self.assertLess(fine, max(coarse / 12, 1e-4), f"{what}: {coarse:.6f} at 30 Hz, {fine:.6f} at 120 Hz")

    def test_every_pair_of_forces_is_of_second_order(self):
        for pair in itertools.combinations_with_replacement(FORCES, 2):
            if frozenset(pair) in SAME_FIELD:
                continue
            effect = effect_of(pair, 120)
            x, v = places(effect, 0.0)
            true = Reference(effect).carried(x, v, END, 90)
            coarse, fine = (np.abs(places(effect_of(pair, rate), END)[0] - true).max() for rate in (30, 120))
            self.assertSecondOrder(coarse, fine, pair)
            self.assertLess(coarse, 0.05, pair)

    def test_eddies_and_a_limit_are_too(self):
        for more in (
            {"flight.turbulence": 3, "flight.eddy": 1.5, "flight.churn": 0.5},
            {"flight.turbulence": 3, "flight.eddy": 1.5, "flight.drift": [1, 0, 2], "flight.orbit": 90},
            {"flight.top_speed": 1.4, "flight.thrust": [4, 0, 1]},
        ):
            a, b, c = (places(effect_of((), rate, **more), END)[0] for rate in (30, 60, 120))
            true = c + (c - b) / 3
            self.assertSecondOrder(np.abs(a - true).max(), np.abs(c - true).max(), more)

    def test_a_tilting_layer_that_is_followed_too(self):
        path = [
            {"position": [0, 0, 0]},
            {"at": 0.5, "position": [1, 0.5, 0], "rotation": [60, 30, 40], "scale": 1.2},
            {"at": 1, "position": [-1, 0, 1], "rotation": [-40, 90, 0]},
        ]
        for names in ((), ("gravity",), ("thrust", "pull")):
            a, b, c = (places(effect_of(names, rate, path=path), END)[0] for rate in (30, 60, 120))
            true = c + (c - b) / 3
            self.assertSecondOrder(np.abs(a - true).max(), np.abs(c - true).max(), names)
        # What falls in a turning layer falls straight down in the world, beside what it is carried along by.
        effect = effect_of(("gravity",), 120, path=path)
        self.assertGreater(
            np.abs(pose_at(effect.layers[0], 0.4).rotation - pose_at(effect.layers[0], 0.0).rotation).max(),
            0.3,
        )

    def test_births_in_the_middle_of_a_step_are_as_exact(self):
        edits = {
            "emit.rate": 37,
            "emit.bursts": [],
            "launch.lifetime": 3,
            "flight.gravity": 1,
            "flight.drag": 0.7,
        }
        coarse, fine = (places(effect_of((), rate, **edits), END) for rate in (30, 120))
        np.testing.assert_allclose(coarse[0], fine[0], atol=3e-5)


if __name__ == "__main__":
    unittest.main()
