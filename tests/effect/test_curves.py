import itertools
import random
import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from pale_ember.effect.curves import EASES, Key, evaluate, sorted_keys, with_key_at


def some_keys(rng: random.Random, eases: tuple[str, ...] = EASES) -> tuple[Key, ...]:
    count = rng.randint(1, 7)
    xs = [rng.choice([0.0, 1.0, rng.random(), round(rng.random(), 1)]) for _ in range(count)]
    keys = []
    for x in xs:
        ease = rng.choice(eases)
        slopes = (rng.uniform(-9, 9), rng.uniform(-9, 9)) if ease == "free" else (0.0, 0.0)
        keys.append(Key(x, rng.uniform(-5, 5), ease, *slopes))
    return sorted_keys(tuple(keys))


class CurveTest(unittest.TestCase):
    def test_smooth_keys_are_scipys_pchip(self):
        rng = np.random.default_rng(3)
        for _ in range(200):
            x = np.sort(rng.choice(np.linspace(0, 1, 101), rng.integers(2, 9), replace=False))
            y = rng.normal(size=len(x)) * rng.choice([1, 0], len(x), p=[0.8, 0.2])
            at = np.linspace(x[0], x[-1], 301)
            ours = evaluate(tuple(Key(float(a), float(b)) for a, b in zip(x, y, strict=True)), at)
            np.testing.assert_allclose(ours, PchipInterpolator(x, y)(at), atol=1e-12)

    def test_smooth_never_overshoots_its_neighbours(self):
        rng = random.Random(4)
        for _ in range(300):
            keys = some_keys(rng, ("smooth", "linear", "hold"))
            for a, b in itertools.pairwise(keys):
                if b.x > a.x:
                    inside = evaluate(keys, np.linspace(a.x, np.nextafter(b.x, 0), 40))
                    self.assertGreaterEqual(inside.min(), min(a.y, b.y) - 1e-9)
                    self.assertLessEqual(inside.max(), max(a.y, b.y) + 1e-9)

    def test_eases_and_steps(self):
        keys = (Key(0, 1, "linear"), Key(0.5, 3, "hold"), Key(0.75, 0, "linear"), Key(0.75, 2, "linear"), Key(1, 4))
        found = evaluate(keys, [-1, 0, 0.25, 0.5, 0.74, 0.75, 0.875, 1, 2])
        np.testing.assert_allclose(found, [1, 1, 2, 3, 3, 2, 3, 4, 4])
        free = (Key(0, 0, "free", 0, 2), Key(1, 0, "free", -2, 0))
        np.testing.assert_allclose(evaluate(free, [0.5]), [0.5])  # 2x(1 - x)

    def test_a_new_key_leaves_the_curve_as_it_was(self):
        rng = random.Random(5)
        at = np.linspace(0, 1, 801)
        for _ in range(400):
            keys = some_keys(rng)
            grown, index = with_key_at(keys, rng.random())
            self.assertEqual(len(grown), len(keys) + 1)
            before, after = evaluate(keys, at), evaluate(grown, at)
            span = max(float(np.ptp(before)), 1e-6)
            self.assertLess(np.abs(before - after).max() / span, 1e-6, (keys, grown[index]))


if __name__ == "__main__":
    unittest.main()
