"""Colours: sRGB outside, linear inside, and gradients that are mixed in linear light."""

import unittest

import numpy as np

from pale_ember.effect.values.colors import (
    Stop,
    evaluate_stops,
    hex_to_linear,
    linear_to_hex,
    to_linear,
    to_srgb,
)


def lit(byte):
    """The standard's own words, for one number."""
    s = byte / 255
    return s / 12.92 if s <= 0.04045 else ((s + 0.055) / 1.055) ** 2.4


class ColorTest(unittest.TestCase):
    def test_every_byte_goes_to_light_and_back(self):
        levels = np.arange(256)
        light = to_linear(levels / 255)
        np.testing.assert_allclose(light, [lit(int(byte)) for byte in levels], rtol=1e-12)
        self.assertTrue((np.diff(light) > 0).all())
        np.testing.assert_array_equal(np.rint(to_srgb(light) * 255), levels)

    def test_hex_of_three_and_of_six_digits_and_back(self):
        np.testing.assert_allclose(hex_to_linear("#fa0"), hex_to_linear("#ffaa00"))
        roll = np.random.default_rng(2)
        for number in roll.integers(0, 1 << 24, 200):
            text = f"#{number:06x}"
            self.assertEqual(linear_to_hex(hex_to_linear(text)), text)
        self.assertEqual(linear_to_hex([-1.0, 0.5, 7.0]), f"#00{round(float(to_srgb(0.5)) * 255):02x}ff")

    def test_a_gradient_is_mixed_in_linear_light_between_its_stops(self):
        roll = np.random.default_rng(4)
        for _ in range(30):
            xs = np.sort(roll.choice(np.linspace(0, 1, 51), 5, replace=False))
            stops = tuple(Stop(float(x), f"#{roll.integers(1 << 24):06x}") for x in xs)
            colors = np.array([hex_to_linear(stop.color) for stop in stops])
            at = roll.uniform(-0.2, 1.2, 100)
            wanted = np.stack([np.interp(at, xs, row) for row in colors.T], axis=1)
            np.testing.assert_allclose(evaluate_stops(stops, at), wanted, atol=1e-12)

    def test_two_stops_at_one_place_are_a_hard_edge(self):
        stops = (Stop(0.0, "#000000"), Stop(0.5, "#ff0000"), Stop(0.5, "#0000ff"), Stop(1.0, "#ffffff"))
        np.testing.assert_allclose(evaluate_stops(stops, [0.5])[0], [0, 0, 1])
        np.testing.assert_allclose(evaluate_stops(stops, [0.5], before=True)[0], [1, 0, 0])
        np.testing.assert_allclose(evaluate_stops(stops, [0.25, 0.75]), [[0.5, 0, 0], [0.5, 0.5, 1]])
        np.testing.assert_allclose(evaluate_stops((Stop(0.3, "#fff"),), [0, 1]), np.ones((2, 3)))


if __name__ == "__main__":
    unittest.main()
