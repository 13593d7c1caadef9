"""Overdraw: how often each pixel is drawn."""

import numpy as np

from pale_ember.drawing.environment import Environment
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.effect.chapters.look import Look

from .light_case import FLAT, METRE, SIZE, WHITE, LightCase, particle


class OverdrawTest(LightCase):
    def test_layers_over_a_pixel_are_counted(self):
        rows = np.concatenate([particle(size=1.0)] * 5)
        layers = (
            DrawnLayer("a", rows, Look(), wears=WHITE),
            DrawnLayer("b", particle(size=1.0), Look(blend="add"), wears=WHITE),
        )
        _, whole, one = self.studio.overdraw(Moment(0.0, layers), SIZE, FLAT, Environment("night"), "a")
        self.assertEqual((whole.peak, one.peak), (6, 5))
        self.assertAlmostEqual(one.mean, 5 * METRE**2 / (SIZE[0] * SIZE[1]), delta=0.05 * one.mean)

    def test_it_is_counted_where_it_is_drawn(self):
        # A sprite as wide as the picture, moved aside by a half: it covers the one half to the pixel.
        wide = SIZE[0] / METRE
        rows = particle(size=2 * wide)
        rows["place"][:, 0] += wide
        layers = (DrawnLayer("a", rows, Look(), wears=WHITE),)
        _, whole, _ = self.studio.overdraw(Moment(0.0, layers), SIZE, FLAT, Environment("night"))
        self.assertAlmostEqual(whole.mean, 0.5, delta=0.25 / SIZE[0])

    def test_thousands_of_layers_are_counted_as_well(self):
        rows = np.concatenate([particle(size=0.2)] * 5001)
        _, whole, _ = self.studio.overdraw(
            Moment(0.0, (DrawnLayer("a", rows, Look(), wears=WHITE),)), SIZE, FLAT, Environment("night")
        )
        self.assertEqual(whole.peak, 5001)
