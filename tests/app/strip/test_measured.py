"""What particles do, gathered from moments: their speeds and sizes on screen."""

import unittest
from unittest import mock

import numpy as np

from pale_ember.app.strip import measured
from pale_ember.app.strip.measured import BINS, Measured, _Bins
from pale_ember.drawing.camera import project

from ...building import effect_with
from ..case import WindowCase


class BinsTest(unittest.TestCase):
    def test_means_and_spreads_of_each_age(self):
        dice, bins = np.random.default_rng(3), _Bins()
        at, values = dice.integers(2, BINS, 5000), dice.uniform(0, 9, 5000)
        for part in range(5):
            bins.take(at[part::5], values[part::5])
        found = bins.measure(True, "up to {top:.0f}", 7)
        self.assertEqual((found.number, found.same_unit, len(found.age)), (7, True, BINS - 2))
        np.testing.assert_allclose(found.age, (np.arange(2, BINS) + 0.5) / BINS)
        np.testing.assert_allclose(found.mean, [values[at == i].mean() for i in range(2, BINS)])
        np.testing.assert_allclose(found.spread, [values[at == i].std() for i in range(2, BINS)])
        self.assertAlmostEqual(found.top, float((found.mean + found.spread).max()))
        self.assertEqual(found.said, f"up to {found.top:.0f}")

    def test_what_is_old_counts_for_less(self):
        bins = _Bins()
        for value in (1.0, 3.0):
            for _ in range(20):
                bins.take(np.zeros(10_000, np.int64), np.full(10_000, value))
        mean = float(bins.measure(True, "", 1).mean[0])
        self.assertGreater(mean, 2.3)
        self.assertLess(float(bins.count.max()), 1.2e5)


class MeasuredTest(WindowCase):
    def first_effect(self):
        edits = {
            "emit.rate": 60,
            "launch.lifetime": 1,
            "launch.speed": 2,
            "flight.gravity": 0,
            "launch.size": 0.2,
        }
        return effect_with({"a": edits, "b": {}})

    def setUp(self):
        super().setUp()
        self.session.play(False)
        self.measured = Measured(self.session)
        self.enterContext(mock.patch.object(measured, "EVERY", 0.0))

    def take(self, time, height=400):
        self.session.seek(time)
        self.wait_for_moment()
        return self.measured.take(height)

    def test_speeds_and_sizes_are_those_of_the_moments_that_were_seen(self):
        session = self.session
        session.select("a")
        self.wait(lambda: session.moment.layers and session.moment.layers[0].life.speed is not None)
        self.assertTrue(self.take(0.9))
        self.assertFalse(self.measured.take(400), "the same moment counts once")
        drawn = session.moment.layers[0]
        speed = self.measured.of("layers[0].flight.top_speed")
        np.testing.assert_allclose(speed.mean, 2.0, rtol=1e-3)
        self.assertTrue(speed.same_unit)
        self.assertEqual(len(speed.age), len({int(age * BINS) for age in drawn.life.age}))
        pace, size = (self.measured.of(f"layers[0].{path}") for path in ("flight.pace", "look.grow"))
        self.assertEqual((pace.same_unit, pace.said), (False, "measured speed, up to 2.0 m/s"))
        # How high a particle is on the picture, told by its upper and its lower end.
        rows = drawn.instances
        up = np.array(session.camera.target) * 0 + [0, 1, 0]
        pitch = np.radians(session.camera.pitch)
        ends = [rows["place"] + sign * up * rows["size"][:, 1:] / 2 / np.cos(pitch) for sign in (1, -1)]
        (top, _), (bottom, _) = (project(session.camera, 600, 400, end) for end in ends)
        high = np.abs(top - bottom)[:, 1]
        self.assertAlmostEqual(float(size.mean.mean()), float(high.mean()), delta=0.06 * float(high.mean()))
        twice = Measured(session)
        twice.take(800)
        np.testing.assert_allclose(twice.of("layers[0].look.grow").mean, 2 * size.mean, rtol=1e-6)

    def test_another_layer_camera_or_motion_begins_anew(self):
        session = self.session
        session.select("a")
        self.wait(lambda: session.moment.layers and session.moment.layers[0].life.speed is not None)
        self.take(0.5)
        self.take(0.7)
        before = self.measured._speed.count.sum()
        seen = self.measured._size.count.sum()
        self.assertEqual(before, seen)
        session.look_from(session.camera.model_copy(update={"distance": 9.0}))
        self.take(0.8)
        self.assertGreater(self.measured._speed.count.sum(), before)
        self.assertLess(self.measured._size.count.sum(), seen)
        session.edit("layers[0].launch.speed", 3, "Speed")
        self.take(0.9)
        np.testing.assert_allclose(self.measured.of("layers[0].flight.pace").mean, 3.0, rtol=1e-3)
        self.assertIsNone(self.measured.of("layers[0].look.opacity"))
        session.select("b")
        self.assertIsNone(self.measured.of("layers[1].flight.pace"))
        session.select("a")
        self.window.strip.show_axis("clock")
        self.assertIsNone(self.measured.of("layers[0].flight.pace"))
