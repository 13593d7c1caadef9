import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from pale_ember.effect.values.curves import Key, breaks, evaluate


class CurveTest(unittest.TestCase):
    def test_smooth_keys_are_scipys_pchip(self):
        rng = np.random.default_rng(3)
        for _ in range(200):
            x = np.sort(rng.choice(np.linspace(0, 1, 101), rng.integers(2, 9), replace=False))
            y = rng.normal(size=len(x)) * rng.choice([1, 0], len(x), p=[0.8, 0.2])
            at = np.linspace(x[0], x[-1], 301)
            ours = evaluate(tuple(Key(float(a), float(b)) for a, b in zip(x, y, strict=True)), at)
            np.testing.assert_allclose(ours, PchipInterpolator(x, y)(at), atol=1e-12)

    def test_eases_and_steps(self):
        keys = (
            Key(0, 1, "linear"),
            Key(0.5, 3, "hold"),
            Key(0.75, 0, "linear"),
            Key(0.75, 2, "linear"),
            Key(1, 4),
        )
        found = evaluate(keys, [-1, 0, 0.25, 0.5, 0.74, 0.75, 0.875, 1, 2])
        np.testing.assert_allclose(found, [1, 1, 2, 3, 3, 2, 3, 4, 4])
        free = (Key(0, 0, "free", 0, 2), Key(1, 0, "free", -2, 0))
        np.testing.assert_allclose(evaluate(free, [0.5]), [0.5])  # 2x(1 - x)

    def test_breaks_are_where_the_two_sides_differ(self):
        keys = (
            Key(0, 1, "hold"),
            Key(0.2, 1, "hold"),
            Key(0.4, 2, "linear"),
            Key(0.6, 3),
            Key(0.6, 5),
            Key(0.8, 4),
            Key(0.8, 4),
            Key(1, 0),
        )
        self.assertEqual(breaks(keys), [0.4, 0.6])
        for x in np.linspace(0.05, 0.95, 19).round(2).tolist():
            jumps = abs(float(evaluate(keys, [x])[0] - evaluate(keys, [x], before=True)[0])) > 1e-9
            self.assertEqual(jumps, x in breaks(keys), x)


if __name__ == "__main__":
    unittest.main()
