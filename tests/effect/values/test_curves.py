import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from pale_ember.effect.values.curves import Key, evaluate


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


if __name__ == "__main__":
    unittest.main()
