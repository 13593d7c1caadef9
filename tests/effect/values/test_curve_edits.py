"""Edits of curves, held against what they promise, on curves that Hypothesis draws."""

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pale_ember.effect.values.curve_edits import (
    fitted,
    flipped,
    moved,
    reversed_keys,
    room,
    scaled,
    simplified,
    smoothed,
    stretched,
    there_and_back,
    with_ease,
)
from pale_ember.effect.values.curve_shapes import SHAPES, in_range, to_unit
from pale_ember.effect.values.curves import EASES, Key, evaluate, sorted_keys, with_key_at
from pale_ember.effect.values.oklch import oklch_of, shown_oklch
from pale_ember.effect.values.stretches import largest_difference

often = settings(max_examples=250, deadline=None, derandomize=True, database=None)
# Often equal ones: keys at one place, stretches that are level.
shares = st.one_of(st.integers(0, 1000).map(lambda i: i / 1000), st.sampled_from((0.0, 0.25, 0.5, 1.0)))
levels = st.one_of(st.integers(-5000, 5000).map(lambda i: i / 1000), st.sampled_from((0.0, 0.5, 1.0)))
steep = st.floats(-20, 20)


def a_key(eases):
    def make(x, y, ease, arrive, leave):
        return Key(x, y, ease, *((arrive, leave) if ease == "free" else (0.0, 0.0)))

    return st.builds(make, shares, levels, st.sampled_from(eases), steep, steep)


def curves(eases=EASES, most=8):
    return st.lists(a_key(eases), min_size=1, max_size=most).map(lambda keys: sorted_keys(tuple(keys)))


def span(keys):
    found = evaluate(keys, np.linspace(0, 1, 501))
    return max(float(np.ptp(found)), float(np.ptp([k.y for k in keys])), 1e-3)


def between(keys, factor=1.0):
    """Places over 0…1 (times a factor) that are not the very places of keys, where curves may jump."""
    at = (np.arange(997) + 0.37) / 997 * factor
    return at[np.min(np.abs(at[:, None] / factor - np.array([k.x for k in keys])), axis=1) > 1e-9]


class CurveEditTest(unittest.TestCase):
    def test_smoothing_brings_keys_half_way_to_the_line_between_their_neighbours(self):
        keys = (Key(0, 0, "linear"), Key(0.2, 5, "hold"), Key(0.8, 1, "free", 2, 2), Key(1, 3))
        found = smoothed(keys, (1, 2))
        # The line from 0 to 1 is at 0.25 there; that from 5 to 3 is at 3.5.
        self.assertEqual([key.y for key in found], [0, (5 + 0.25) / 2, (1 + 3.5) / 2, 3])
        self.assertEqual([key.ease for key in found], ["linear", "smooth", "smooth", "smooth"])
        ends = smoothed(keys, (0, 3))
        self.assertEqual([key.y for key in ends], [0, 5, 1, 3])
        self.assertEqual(ends[0].ease, "smooth")
        level = (Key(0.5, 0), Key(0.5, 4), Key(0.5, 2))
        self.assertEqual([key.y for key in smoothed(level, (1,))], [0, 4, 2])

    def test_keys_that_become_free_keep_the_slopes_beside_them(self):
        keys = (Key(0, 1, "linear"), Key(0.5, 3, "linear"), Key(0.75, 3, "hold"), Key(1, 0))
        found = with_ease(keys, (0, 1, 2, 3), "free")
        self.assertEqual([(key.in_slope, key.out_slope) for key in found], [(4, 4), (4, 0), (0, 0), (0, 0)])
        self.assertEqual(
            [key.ease for key in with_ease(keys, (1, 2), "smooth")], ["linear", "smooth", "smooth", "smooth"]
        )

    def test_what_is_scaled_stays_between_what_stays_and_inside_the_axis(self):
        keys = tuple(Key(x, y) for x, y in ((0.1, 1.0), (0.4, 2.0), (0.6, 3.0), (0.9, 4.0)))

        def ages(chosen, about, wide):
            return [key.x for key in scaled(keys, chosen, (about, 0.0), wide, 1.0)]

        self.assertEqual(ages((1, 2), 0.5, 3.0), [0.1, 0.2, 0.8, 0.9])
        self.assertEqual(ages((1, 2), 0.5, 9.0), [0.1, 0.1, 0.9, 0.9])
        self.assertEqual(ages((0, 1, 2, 3), 0.5, 9.0), [0.0, 0.0, 1.0, 1.0])
        self.assertEqual(ages((3,), 0.1, 0.1), [0.1, 0.4, 0.6, 0.6])
        self.assertEqual([key.y for key in scaled(keys, (1, 3), (0.0, 1.0), 1.0, 3.0)], [1.0, 4.0, 3.0, 10.0])
        free = (Key(0.2, 1.0, "free", 2.0, -4.0), Key(0.8, 1.0))
        found = scaled(free, (0,), (0.0, 0.0), 2.0, 3.0)[0]
        self.assertEqual((found.x, found.y, found.in_slope, found.out_slope), (0.4, 3.0, 3.0, -6.0))

    @often
    @given(curves(), st.floats(0, 1))
    def test_a_new_key_leaves_the_curve_as_it_was(self, keys, x):
        grown, at = with_key_at(keys, x)
        self.assertEqual(len(grown), len(keys) + 1)
        self.assertAlmostEqual(grown[at].x, x, delta=1e-8)
        self.assertLess(largest_difference(keys, grown) / span(keys), 1e-6)

    @often
    @given(curves(("smooth",)))
    def test_smooth_keys_never_overshoot(self, keys):
        for a, b in itertools.pairwise(keys):
            if b.x > a.x:
                found = evaluate(keys, np.linspace(a.x, np.nextafter(b.x, 0), 50))
                self.assertGreaterEqual(found.min(), min(a.y, b.y) - 1e-9)
                self.assertLessEqual(found.max(), max(a.y, b.y) + 1e-9)

    @often
    @given(curves())
    def test_reversed_is_the_mirror_image_and_twice_the_same(self, keys):
        at, back = between(keys), reversed_keys(keys)
        near = 1e-7 * span(keys)
        np.testing.assert_allclose(evaluate(back, 1 - at), evaluate(keys, at), atol=near)
        np.testing.assert_allclose(evaluate(reversed_keys(back), at), evaluate(keys, at), atol=near)

    @often
    @given(st.sampled_from([(ease,) for ease in EASES]).flatmap(curves))
    def test_reversed_twice_has_the_very_keys(self, keys):
        if not any(a.ease == "hold" and a.y == b.y for a, b in itertools.pairwise(keys)):
            twice = reversed_keys(reversed_keys(keys))
            self.assertEqual([k[:3] for k in twice], [k[:3] for k in keys])

    @often
    @given(curves(most=16), st.floats(1e-3, 2))
    def test_simplified_stays_within_its_tolerance(self, keys, tolerance):
        few = simplified(keys, tolerance)
        self.assertLessEqual(len(few), len(keys))
        at = np.linspace(0, 1, 2001)
        self.assertLessEqual(np.abs(evaluate(few, at) - evaluate(keys, at)).max(), tolerance)

    def test_simplified_finds_the_few_keys_of_a_dense_curve(self):
        dense = tuple(Key(float(x), math.sin(2 * math.pi * x)) for x in np.linspace(0, 1, 101))
        few = simplified(dense, 0.02)
        self.assertLess(len(few), 9)
        self.assertLessEqual(largest_difference(dense, few), 0.02)
        self.assertEqual(simplified((Key(0, 1), Key(0.3, 1), Key(1, 1)), 1e-6), (Key(1, 1),))

    def test_simplified_leaves_only_keys_that_are_needed(self):
        places = np.linspace(0, 1, 7).tolist()
        line = tuple(Key(x, 2 * x, "linear") for x in places)
        self.assertEqual(simplified(line, 1e-6), (line[0], line[-1]))
        cubic = tuple(Key(x, x**3, "free", 3 * x**2, 3 * x**2) for x in places)
        self.assertEqual([key.x for key in simplified(cubic, 1e-6)], [0.0, 1.0])
        corners = tuple(Key(x, float(i % 2), "linear") for i, x in enumerate(places))
        self.assertEqual(simplified(corners, 0.1), corners)

    @often
    @given(curves())
    def test_there_and_back_is_the_curve_and_its_mirror_image(self, keys):
        both, at = there_and_back(keys), between(keys, 0.5)
        near = 1e-6 * span(keys)
        np.testing.assert_allclose(evaluate(both, at), evaluate(keys, 2 * at), atol=near)
        np.testing.assert_allclose(evaluate(both, 1 - at), evaluate(keys, 2 * at), atol=near)

    @often
    @given(curves(), st.floats(-1, 0.6), st.floats(0.2, 2), levels)
    def test_stretched_and_flipped_keep_the_shape(self, keys, start, width, around):
        at = between(keys)
        inside = at[(start + width * at > 0) & (start + width * at < 1)]
        moved_keys = stretched(keys, start, start + width)
        np.testing.assert_allclose(
            evaluate(moved_keys, start + width * inside), evaluate(keys, inside), atol=1e-6 * span(keys)
        )
        np.testing.assert_allclose(
            evaluate(flipped(keys, around), at),
            2 * around - evaluate(keys, at),
            atol=1e-9 * (span(keys) + 10),
        )

    @often
    @given(curves(), st.data())
    def test_moved_keys_never_cross_their_neighbours(self, keys, data):
        chosen = data.draw(st.sets(st.integers(0, len(keys) - 1), min_size=1))
        right, up = data.draw(st.floats(-1, 1)), data.draw(levels)
        for found in (moved(keys, chosen, right, up), scaled(keys, chosen, (0.4, 1.0), abs(right) + 0.1, up)):
            xs = [k.x for k in found]
            self.assertEqual(xs, sorted(xs))
            self.assertTrue(all(0 <= x <= 1 for x in xs))
            for i, key in enumerate(keys):
                if i not in chosen:
                    self.assertEqual(found[i], key)
        left, free = room(keys, chosen)
        step = min(max(right, -left), free)
        for i in chosen:
            self.assertAlmostEqual(moved(keys, chosen, right, up)[i].x, keys[i].x + step, places=9)

    @often
    @given(curves(("smooth", "free"), 6))
    def test_keys_made_free_keep_their_curve(self, keys):
        freed = with_ease(keys, range(len(keys)), "free")
        self.assertLess(largest_difference(keys, freed), 1e-9 * span(keys))

    def test_named_shapes_fit_their_square(self):
        for name, shape in SHAPES.items():
            with self.subTest(name):
                found = evaluate(shape(3), np.linspace(0, 1, 501))
                self.assertGreaterEqual(found.min(), -1e-9)
                self.assertLessEqual(found.max(), 1 + 1e-9)
                self.assertGreater(np.ptp(found), 0.3)
                big = evaluate(in_range(shape(3), 2, 7), np.linspace(0, 1, 501))
                np.testing.assert_allclose(big, 2 + 5 * found, atol=1e-9)
                np.testing.assert_allclose(
                    np.ptp(evaluate(to_unit(in_range(shape(3), 2, 7)), np.linspace(0, 1, 999))), 1, rtol=3e-3
                )
        self.assertNotEqual(SHAPES["Flicker"](1), SHAPES["Flicker"](2))
        at = np.linspace(0, 1, 101)
        np.testing.assert_allclose(evaluate(SHAPES["Exponential decay"](0), at), np.exp(-5 * at), atol=1.5e-3)
        self.assertEqual(fitted((Key(0.25, 1), Key(0.75, 2))), (Key(0.0, 1), Key(1.0, 2)))


class PerceivedColourTest(unittest.TestCase):
    def test_known_colours(self):
        for color, want in (
            ("#ffffff", (1, 0, 0)),
            ("#ff0000", (0.62796, 0.25768, 29.234)),
            ("#000000", (0, 0, 0)),
        ):
            np.testing.assert_allclose(oklch_of(color), want, atol=2e-3)

    @often
    @given(st.integers(0, 0xFFFFFF))
    def test_there_and_back(self, number):
        color = f"#{number:06x}"
        self.assertEqual(shown_oklch(*oklch_of(color)), color)

    def test_too_strong_a_colour_keeps_its_lightness_and_hue(self):
        lightness, chroma, hue = oklch_of(shown_oklch(0.7, 0.4, 140))
        self.assertAlmostEqual(lightness, 0.7, delta=0.01)
        self.assertAlmostEqual(hue, 140, delta=1.5)
        self.assertLess(chroma, 0.4)


if __name__ == "__main__":
    unittest.main()
