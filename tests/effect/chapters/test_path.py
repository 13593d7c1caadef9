"""Paths of layers: through their keys, as smooth, straight or held as each asks."""

import unittest

import numpy as np

from pale_ember.effect.chapters.path import MOTIONS, evaluate_path, ready_motion
from pale_ember.effect.chapters.place import PathKey


def random_keys(roll, ease, count):
    at = np.sort(roll.choice(np.linspace(0.0, 1.0, 101), count, replace=False))
    return tuple(
        PathKey(
            at=float(x),
            position=tuple(roll.uniform(-3, 3, 3)),
            rotation=tuple(roll.uniform(-400, 400, 3)),
            scale=float(roll.uniform(0.2, 4)),
            ease=ease,
        )
        for x in at
    )


def channels(keys):
    return np.array([(*key.position, *key.rotation, key.scale) for key in keys])


class PathTest(unittest.TestCase):
    def setUp(self):
        self.roll = np.random.default_rng(5)

    def test_it_goes_through_its_keys_and_stays_at_the_first_and_last(self):
        for ease in ("smooth", "linear", "hold"):
            for count in (1, 2, 3, 7):
                keys = random_keys(self.roll, ease, count)
                clock = [key.at for key in keys]
                np.testing.assert_allclose(evaluate_path(keys, clock), channels(keys), atol=1e-9)
                np.testing.assert_allclose(
                    evaluate_path(keys, [clock[0] - 0.3, clock[-1] + 0.3]), channels(keys)[[0, -1]], atol=1e-9
                )

    def test_straight_stretches_keep_an_even_pace_and_held_ones_jump_at_their_end(self):
        keys = random_keys(self.roll, "linear", 6)
        at = self.roll.uniform(keys[0].at, keys[-1].at, 200)
        wanted = np.stack([np.interp(at, [key.at for key in keys], row) for row in channels(keys).T], axis=1)
        np.testing.assert_allclose(evaluate_path(keys, at), wanted, atol=1e-9)
        held = random_keys(self.roll, "hold", 4)
        before = evaluate_path(held, [key.at - 1e-9 for key in held[1:]])
        np.testing.assert_allclose(before, channels(held)[:-1])

    def test_a_smooth_key_has_the_slope_of_the_parabola_through_it_and_its_neighbours(self):
        for _ in range(20):
            keys = random_keys(self.roll, "smooth", 5)
            clock, points = np.array([key.at for key in keys]), channels(keys)
            for i in (1, 2, 3):
                step = 1e-7
                before, here, after = evaluate_path(keys, [clock[i] - step, clock[i], clock[i] + step])
                for channel in range(7):
                    parabola = np.polyfit(clock[i - 1 : i + 2] - clock[i], points[i - 1 : i + 2, channel], 2)
                    wide = max(abs(parabola[1]), 1.0)
                    self.assertAlmostEqual(
                        (after - here)[channel] / step / wide, parabola[1] / wide, delta=1e-2
                    )
                    self.assertAlmostEqual(
                        (here - before)[channel] / step / wide, parabola[1] / wide, delta=1e-2
                    )

    def test_moving_a_key_bends_the_two_stretches_on_each_side_and_no_other(self):
        keys = random_keys(self.roll, "smooth", 9)
        moved = list(keys)
        moved[4] = keys[4].model_copy(update={"position": (9.0, 9.0, 9.0)})
        clock = np.linspace(0, 1, 501)
        changed = np.abs(evaluate_path(keys, clock) - evaluate_path(tuple(moved), clock)).max(axis=1) > 1e-9
        self.assertTrue(changed[(clock > keys[3].at) & (clock < keys[5].at)].mean() > 0.9)
        self.assertFalse(changed[(clock < keys[2].at) | (clock > keys[6].at)].any())

    def test_ready_motions_stay_within_reach_and_round_ones_close_without_a_bend(self):
        for name in MOTIONS:
            keys = ready_motion(name, 2.0)
            places = evaluate_path(keys, np.linspace(0, 1, 401))[:, :3]
            self.assertLess(np.abs(places).max(), 2.2, name)
            self.assertGreater(np.abs(places).max(), 1.7, name)
            if name != "line":
                np.testing.assert_allclose(places[0], places[-1], atol=1e-6)
                step = evaluate_path(keys, [0.0, 1e-5, 1 - 1e-5, 1.0])[:, :3]
                np.testing.assert_allclose((step[1] - step[0]) / 1e-5, (step[3] - step[2]) / 1e-5, atol=0.2)
        circle = evaluate_path(ready_motion("circle", 1.0), np.linspace(0, 1, 200))[:, :3]
        np.testing.assert_allclose(np.linalg.norm(circle, axis=1), 1.0, atol=0.02)


if __name__ == "__main__":
    unittest.main()
