import math
import unittest

import numpy as np
from scipy import stats

from pale_ember.effect import EffectError
from pale_ember.simulation import Simulation
from pale_ember.simulation.kernels.compiling import kernel
from pale_ember.simulation.layout.signatures import F1, INT, NOTHING, NUMBER, U1
from pale_ember.simulation.values.dice import property_key, random_share
from pale_ember.simulation.values.sampling import fill_random

from ...building import single

COUNT = 6000


def born(**birthplace):
    edits = {
        "emit.rate": 0,
        "emit.cap": COUNT,
        "emit.bursts": [{"at": 0, "count": COUNT}],
        "launch.lifetime": 100,
        "launch.speed": 1,
    }
    edits |= {f"birthplace.{name}": value for name, value in birthplace.items()}
    sim = Simulation(single(edits))
    sim.seek(1 / 60)
    p = sim.particles("a")
    v = p.velocity.astype(float)
    return p.position.astype(float) - v / 60, v


class ShapeTest(unittest.TestCase):
    def assertEven(self, values, low=0.0, high=1.0):
        found = stats.kstest((np.asarray(values) - low) / (high - low), "uniform")
        self.assertGreater(found.pvalue, 1e-3)

    def test_ball_and_dome(self):
        for kind, lowest in (("ball", -1.0), ("dome", 0.0)):
            place, v = born(kind=kind, radius=2, aim="outward")
            r = np.linalg.norm(place, axis=1)
            self.assertEven((r / 2) ** 3)
            self.assertEven(place[:, 1] / r, lowest, 1)
            np.testing.assert_allclose(v, place / r[:, None], atol=2e-3)
            place, _ = born(kind=kind, radius=2, fill="skin")
            np.testing.assert_allclose(np.linalg.norm(place, axis=1), 2, rtol=1e-4)
            place, _ = born(kind=kind, radius=2, fill="rim", arc=90)
            np.testing.assert_allclose(place[:, 1], 0, atol=1e-5)
            self.assertEven(np.arctan2(place[:, 2], place[:, 0]), 0, math.pi / 2)

    def test_cylinder_and_cone(self):
        place, v = born(kind="cylinder", radius=2, height=3, aim="outward")
        self.assertEven((np.hypot(place[:, 0], place[:, 2]) / 2) ** 2)
        self.assertEven(place[:, 1], 0, 3)
        np.testing.assert_allclose(v[:, 1], 0, atol=1e-5)
        place, v = born(kind="cone", radius=0.5, height=2, angle=30, aim="outward")
        lean = math.tan(math.radians(30))
        wide = 0.5 + place[:, 1] * lean
        self.assertEven((wide**3 - 0.5**3) / ((0.5 + 2 * lean) ** 3 - 0.5**3))
        self.assertEven((np.hypot(place[:, 0], place[:, 2]) / wide) ** 2)
        self.assertLessEqual(np.degrees(np.arccos(v[:, 1])).max(), 30.01)
        place, _ = born(kind="cone", radius=0.5, height=2, angle=30, fill="skin")
        wide = 0.5 + place[:, 1] * lean
        np.testing.assert_allclose(np.hypot(place[:, 0], place[:, 2]), wide, atol=1e-4)
        self.assertEven((wide**2 - 0.25) / ((0.5 + 2 * lean) ** 2 - 0.25))
        _, v = born(kind="cone", radius=0, height=0, angle=40, aim="outward")
        self.assertEven(v[:, 1], math.cos(math.radians(40)), 1)

    def test_ring(self):
        place, _ = born(kind="ring", radius=2, tube=1.5)
        out = np.hypot(place[:, 0], place[:, 2]) - 2
        around = np.hypot(out, place[:, 1])
        self.assertLessEqual(around.max(), 1.5 + 1e-4)
        # The share of a torus's volume outside its middle circle: 1/2 + 4 r / (3 pi R) / 2 …
        share = 0.5 + 2 * 1.5 / (3 * math.pi * 2)
        self.assertAlmostEqual((out > 0).mean(), share, delta=0.02)
        place, _ = born(kind="ring", radius=2, tube=0.5, fill="skin")
        np.testing.assert_allclose(
            np.hypot(np.hypot(place[:, 0], place[:, 2]) - 2, place[:, 1]), 0.5, atol=1e-4
        )

    def test_box_and_line(self):
        place, _ = born(kind="box", extents=[1, 2, 4])
        for axis, size in enumerate((1, 2, 4)):
            self.assertEven(place[:, axis], -size / 2, size / 2)
        place, v = born(kind="box", extents=[1, 2, 4], fill="skin", aim="outward")
        sides = [(np.abs(v[:, axis]) > 0.9).mean() for axis in range(3)]
        np.testing.assert_allclose(sides, [8 / 14, 4 / 14, 2 / 14], atol=0.025)
        place, _ = born(kind="box", extents=[1, 2, 4], fill="rim")
        edges = [
            np.isclose(np.abs(place[:, axis]), size / 2, atol=1e-4) for axis, size in enumerate((1, 2, 4))
        ]
        self.assertTrue((np.sum(edges, axis=0) >= 2).all())
        np.testing.assert_allclose([(~edge).mean() for edge in edges], [1 / 7, 2 / 7, 4 / 7], atol=0.025)
        place, _ = born(kind="line", extents=[3, 1, 1])
        self.assertEven(place[:, 0], -1.5, 1.5)
        np.testing.assert_allclose(place[:, 1:], 0, atol=1e-5)

    def test_every_kind_and_fill_is_even(self):
        """For each, what must be evenly spread if the births are: shares of volume, of area, of length."""
        radius, height, lean, tube = 1.5, 2.0, math.tan(math.radians(25)), 0.6
        wide = {"radius": radius, "height": height, "angle": 25, "tube": tube, "arc": 300}

        def turn(p):
            return np.mod(np.arctan2(p[:, 2], p[:, 0]), 2 * math.pi) / math.radians(300)

        def far(p):
            return np.hypot(p[:, 0], p[:, 2])

        def cone_side(p):
            return radius + p[:, 1] * lean

        def cone_share(p, power):
            top = radius + height * lean
            return (cone_side(p) ** power - radius**power) / (top**power - radius**power)

        def around(p):
            """The share of a tube's skin that lies before a place round the tube."""
            angle = np.mod(np.arctan2(p[:, 1], far(p) - radius), 2 * math.pi)
            return (radius * angle + tube * np.sin(angle)) / (2 * math.pi * radius)

        even = {
            ("ball", "volume"): [lambda p: (np.linalg.norm(p, axis=1) / radius) ** 3],
            ("ball", "skin"): [lambda p: (p[:, 1] / radius + 1) / 2],
            ("ball", "rim"): [],
            ("dome", "volume"): [lambda p: p[:, 1] / np.linalg.norm(p, axis=1)],
            ("dome", "skin"): [lambda p: p[:, 1] / radius],
            ("dome", "rim"): [],
            ("cylinder", "volume"): [lambda p: (far(p) / radius) ** 2, lambda p: p[:, 1] / height],
            ("cylinder", "skin"): [lambda p: p[:, 1] / height],
            ("cylinder", "rim"): [],
            ("cone", "volume"): [lambda p: (far(p) / cone_side(p)) ** 2, lambda p: cone_share(p, 3)],
            ("cone", "skin"): [lambda p: cone_share(p, 2)],
            ("cone", "rim"): [],
            ("ring", "volume"): [],
            ("ring", "skin"): [around],
            ("ring", "rim"): [],
        }
        for (kind, fill), shares in even.items():
            with self.subTest(kind=kind, fill=fill):
                place, _ = born(kind=kind, fill=fill, **wide)
                for share in (turn, *shares):
                    self.assertEven(share(place))
        # A ring's volume, in cells of equal width over the tube's section: as many as their way round is
        # long.
        place, _ = born(kind="ring", fill="volume", **wide)
        out = far(place) - radius
        borders = np.linspace(-tube, tube, 13)
        fine = np.linspace(-tube, tube, 24_001)
        inside = (fine[1:] + fine[:-1]) / 2
        weight = (radius + inside) * np.sqrt(tube**2 - inside**2)
        want = np.add.reduceat(weight, np.searchsorted(inside, borders[:-1]))
        found = np.histogram(out, borders)[0]
        self.assertGreater(stats.chisquare(found, want / want.sum() * found.sum()).pvalue, 1e-3)

    def test_fan_and_scatter(self):
        _, v = born(kind="point", fan=50)
        self.assertEven(v[:, 1], math.cos(math.radians(50)), 1)
        self.assertEven(np.arctan2(v[:, 2], v[:, 0]), -math.pi, math.pi)
        _, v = born(kind="point", aim="random")
        self.assertEven(v[:, 1], -1, 1)
        # Fanned, what goes anywhere still goes anywhere.
        for fan in (30, 90, 180):
            _, v = born(kind="point", aim="random", fan=fan)
            self.assertEven(v[:, 1], -1, 1)
            self.assertLess(np.abs(v.mean(axis=0)).max(), 0.05)
        _, v = born(kind="point", scatter=1)
        self.assertEven(v[:, 1], -1, 1)
        np.testing.assert_allclose(np.linalg.norm(v, axis=1), 1, rtol=1e-4)


class DiceTest(unittest.TestCase):
    def test_draws_are_even_and_independent(self):
        serial = np.arange(40_000, dtype=np.uint32)
        keys = [property_key(1, name) for name in ("launch.size", "launch.speed", "look.grow")]
        rolled = [random_share(key, serial) for key in keys]
        for u in rolled:
            self.assertGreater(stats.chisquare(np.histogram(u, 64, (0, 1))[0]).pvalue, 1e-3)
            self.assertLess(abs(np.corrcoef(u[:-1], u[1:])[0, 1]), 0.02)
        self.assertLess(abs(np.corrcoef(rolled[0], rolled[1])[0, 1]), 0.02)

    def test_kernels_draw_as_numpy_does(self):
        serial = np.array([0, 1, 77, 2**31, 2**32 - 1], np.uint32)
        out = np.empty(5, np.float32)

        @kernel(NOTHING, F1, NUMBER, U1, INT, INT, entry=True)
        def drawn(out, key, serial, start, n):
            fill_random(out, key, serial, start, n)

        drawn(out, np.uint32(123456789), serial, 0, 5)
        np.testing.assert_array_equal(out, random_share(123456789, serial))

    def test_too_large_a_cap_is_refused_in_a_sentence(self):
        with self.assertRaises(EffectError):
            single({"emit.cap": 10**9})


if __name__ == "__main__":
    unittest.main()
