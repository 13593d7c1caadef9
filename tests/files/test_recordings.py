"""Recordings of moments for pages: which moments they keep where there are too many particles."""

import unittest
from unittest import mock

import numpy as np

from pale_ember.files.bundle.figures import watch
from pale_ember.files.bundle.recordings import Recording
from tests.building import effect_with

TRAIL = {"look.draw": "ribbon", "birthplace.kind": "point", "launch.speed": 0, "emit.rate": 30}


class RecordingTest(unittest.TestCase):
    def recorded(self, most):
        effect = effect_with({"a": {"emit.rate": 300, "launch.lifetime": 1.0}, "b": TRAIL}, duration=2.0)
        found = Recording(effect, list(range(0, 121, 2)))
        with mock.patch("pale_ember.files.bundle.recordings.MOST", most):
            watch(effect, [found], {}, 0, 120, lambda share: False)
        return found

    def test_of_too_many_particles_every_other_moment_is_kept_again_and_again(self):
        whole = self.recorded(1 << 30)
        self.assertEqual((whole.every, whole.steps), (1, list(range(0, 121, 2))))
        seen = set()
        for most in (200_000, 60_000, 25_000):
            take = self.recorded(most)
            with self.subTest(most):
                seen.add(take.every)
                self.assertEqual(take.steps, sorted({*range(0, 121, 2 * take.every), 120}))
                self.assertEqual(len(take.clocks), len(take.steps))
                for kept, all_of in (
                    (take.rows["a"], whole.rows["a"]),
                    (take.serials["a"], whole.serials["a"]),
                    (take.strips["b"], whole.strips["b"]),
                ):
                    wanted = [all_of[step // 2] for step in take.steps]
                    self.assertEqual([one.tobytes() for one in kept], [one.tobytes() for one in wanted])
                np.testing.assert_allclose(take.clocks, [step / 120 % 1 for step in take.steps], atol=1e-9)
        self.assertGreater(len(seen), 2)


if __name__ == "__main__":
    unittest.main()
