"""Named shapes of curves: inside the unit square, and as they are called."""

import unittest

import numpy as np

from pale_ember.effect.values.curve_shapes import SHAPES
from pale_ember.effect.values.curves import evaluate


class ShapeTest(unittest.TestCase):
    def test_all_stay_in_the_unit_square_with_their_keys_in_order(self):
        at = np.linspace(0.0, 1.0, 301)
        for name, shape in SHAPES.items():
            for seed in range(60):
                keys = shape(seed)
                with self.subTest(name, seed=seed):
                    places = [key.x for key in keys]
                    self.assertEqual(places, sorted(places))
                    self.assertEqual((places[0], places[-1]), (0.0, 1.0))
                    y = evaluate(keys, at)
                    self.assertGreaterEqual(y.min(), 0.0)
                    self.assertLessEqual(y.max(), 1.0 + 1e-9)

    def test_a_flicker_goes_up_and_down_and_out(self):
        for seed in range(60):
            y = np.array([key.y for key in SHAPES["Flicker"](seed)])
            self.assertEqual((y[0], y[-1], len(y)), (0.6, 0.0, 15))
            self.assertTrue((y[1:-1:2] >= 0.75).all() and (y[2:-1:2] <= 0.7).all() and (y[1:-1] >= 0.1).all())
        self.assertNotEqual(SHAPES["Flicker"](1), SHAPES["Flicker"](2))

    def test_ease_ins_and_outs_are_as_they_are_called(self):
        at = np.linspace(0.0, 1.0, 101)
        y = {name: evaluate(shape(1), at) for name, shape in SHAPES.items()}
        self.assertTrue((y["Quick in, slow out"][1:-1] > at[1:-1]).all())
        self.assertTrue((y["Slow in, quick out"][1:-1] < at[1:-1]).all())
        np.testing.assert_allclose(y["Quick in, slow out"], 1.0 - y["Slow in, quick out"][::-1], atol=1e-12)
        for name, sign in (("Slow in, slow out", 1), ("Quick in, quick out", -1)):
            self.assertTrue((sign * (at - y[name])[1:50] > 0).all(), name)
            np.testing.assert_allclose(y[name], 1.0 - y[name][::-1], atol=1e-12)
        np.testing.assert_allclose(y["Exponential decay"], np.exp(-5 * at), atol=1e-3)
        np.testing.assert_allclose(y["Straight rise"], at, atol=1e-12)
        np.testing.assert_allclose(y["Hold, then drop"][:76], 1.0, atol=1e-12)
        self.assertEqual(int(y["Swell, then settle"].argmax()), 18)


if __name__ == "__main__":
    unittest.main()
