"""Ribbons as bands: widths, lengths, edges that never go back, textures by the metre."""

from __future__ import annotations

import unittest

import numpy as np

from pale_ember.simulation.ribbons import bands
from pale_ember.simulation.ribbons.band_memory import AXIS, CAMERA, FLAT

FIELDS = np.array([0, 3, -1, -1, -1, 5, 8])
# Behind all others stand side and way, and as many columns has a vertex.
SIDES = bands.BASE
AHEAD, WIDE = SIDES + 3, SIDES + 6


def laid(
    points,
    width=0.1,
    smooth=8,
    across=CAMERA,
    eye=(0.0, 0.0, 1e4),
    gap=0.0,
    every=0.0,
    long=None,
    cut=0.0,
    starts=None,
    side=(0, 1, 0),
):
    """Return the vertices of bands through points, (pairs, 2, columns)."""
    n = len(points)
    rows = np.zeros((n, 9), np.float32)
    rows[:, :3], rows[:, 3:5], rows[:, 5:8] = points, np.reshape(width, (-1, 1)), side
    rows[:, 8] = 0.0 if long is None else long
    lay = bands.Laying(
        across,
        smooth,
        gap,
        every,
        long is not None,
        np.array(eye, float),
        np.array([0.0, 0.0, 1.0]),
        0.0,
        False,
        FIELDS,
        np.ones(5, np.float32),
        np.zeros((0, 2), np.int64),
        SIDES,
        -1,
    )
    starts = np.array([0, n] if starts is None else starts, np.int32)
    count, most = len(starts) - 1, n * (smooth + 1) + 2
    out = np.zeros(bands.room_for(n, count, smooth) * WIDE, np.float32)
    work, who = np.zeros((bands.WORK_ROWS, most), np.float32), np.zeros((3, most), np.uint32)
    cuts = np.full(count, cut, np.float32)
    made = bands.lay_bands(
        lay,
        bands.addresses(),
        rows,
        starts,
        np.arange(n, dtype=np.int32),
        cuts,
        np.zeros(count, np.float32),
        0,
        count,
        work,
        who[0],
        who[1:],
        out,
        WIDE,
    )
    return out[: made * WIDE].reshape(-1, 2, WIDE).astype(float)


def edges(pairs):
    return pairs[:, 0, :3], pairs[:, 1, :3]


def middle(pairs):
    """Return the way itself: between the edges, as their shares of the picture tell."""
    left, right = edges(pairs)
    a, b = -pairs[:, 0, bands.SPOT], pairs[:, 1, bands.SPOT]
    share = np.where(np.abs(a + b) > 1e-9, a / np.where(np.abs(a + b) > 1e-9, a + b, 1.0), 0.5)
    return left + (right - left) * share[:, None]


class BandTest(unittest.TestCase):
    def test_a_circle_keeps_its_width_and_its_length(self):
        roll = np.random.default_rng(2)
        for radius, count, width in (
            (1.0, 9, 0.1),
            (1.0, 24, 0.6),
            (0.3, 12, 0.2),
            (40.0, 60, 3.0),
            (1.0, 30, 1.0),
        ):
            for even in (True, False):
                turn = np.linspace(0.0, 1.9 * np.pi, count)
                if not even:
                    turn[1:-1] += roll.uniform(-0.3, 0.3, count - 2) * (turn[1] - turn[0])
                points = radius * np.stack([np.cos(turn), np.sin(turn), 0 * turn], axis=1)
                pairs = laid(points, width)
                left, right = edges(pairs)
                across = np.linalg.norm(right - left, axis=1)
                np.testing.assert_allclose(across, width, rtol=0.01)
                way = middle(pairs)
                self.assertAlmostEqual(
                    np.linalg.norm(np.diff(way, axis=0), axis=1).sum() / (1.9 * np.pi * radius),
                    1.0,
                    delta=1e-3,
                )
                np.testing.assert_allclose(np.linalg.norm(way, axis=1), radius, rtol=1e-3)

    def test_no_edge_goes_back_in_ten_thousand_tracks(self):
        roll = np.random.default_rng(7)
        for number in range(10_000):
            n = int(roll.integers(2, 40))
            step = roll.normal(size=(n, 3)) * (roll.random() ** 3 + 0.001)
            turn = np.arange(n) * roll.random() * 3
            points = (
                np.cumsum(step, axis=0),
                step,
                np.round(np.cumsum(step, axis=0), 1),
                np.stack([np.cos(turn), np.sin(turn), np.arange(n) * roll.random() * 0.1], axis=1),
            )[number % 4]
            width = roll.random(n) ** 2 if number % 3 else roll.random()
            pairs = laid(
                points,
                width,
                int(roll.integers(0, 9)),
                (CAMERA, FLAT)[number % 2],
                roll.normal(size=3) * 10,
                cut=float(roll.random() < 0.3) * 0.5,
            )
            self.assertTrue(np.isfinite(pairs).all(), number)
            if len(pairs) < 2:
                continue
            # The way goes on as far along the picture as this says.
            left, right = (np.diff(edge, axis=0) for edge in edges(pairs))
            moves = np.diff(pairs[:, 0, bands.SPOT + 1]) > 0.0
            ahead = pairs[:-1, 0, AHEAD : AHEAD + 3][moves]
            for edge in (left, right):
                self.assertGreater(
                    (edge[moves] * ahead).sum(axis=1).min(initial=0.0),
                    -1e-4 * max(float(np.abs(points).max()), 1.0),
                    number,
                )

    def test_edges_stay_where_they_are_as_a_way_comes_back(self):
        # There and back again as seen: the band is folded like paper, and nothing is twisted or torn.
        points = np.array([(0, 0, 0), (1, 0, 0), (2, 0, 0), (1, 0, -0.3), (0, 0, -0.6)], float)
        pairs = laid(points, 0.2, 0)
        left, right = edges(pairs)
        np.testing.assert_allclose(
            np.sort(np.stack([left[:, 1], right[:, 1]]), axis=0),
            [[-0.1] * len(pairs), [0.1] * len(pairs)],
            atol=2e-3,
        )
        turned = np.flatnonzero(np.linalg.norm(np.diff(pairs[:, :, :3], axis=0), axis=2).max(axis=1) < 0.21)
        self.assertTrue(
            ((pairs[:, 0, bands.SPOT] <= 0).all() and (pairs[:, 1, bands.SPOT] >= 0).all()) or len(turned)
        )

    def test_small_turns_of_a_wide_band_do_not_fan_it_out(self):
        x = np.linspace(0.0, 3.0, 120)
        points = np.stack([x, 0.03 * np.sin(40 * x), 0 * x], axis=1)
        pairs = laid(points, 0.8, 2)
        left, right = edges(pairs)
        side = (right - left) / np.linalg.norm(right - left, axis=1, keepdims=True)
        inner = (x_of(pairs) > 0.6) & (x_of(pairs) < 2.4)
        self.assertLess(np.degrees(np.arccos(np.clip(np.abs(side[inner, 1]), 0, 1))).max(), 12.0)

    def test_the_picture_lies_once_over_the_whole_or_again_each_metre(self):
        turn = np.linspace(0.0, 1.5, 20) ** 2
        points = 2 * np.stack([np.cos(turn), np.sin(turn), 0 * turn], axis=1)
        whole = laid(points)
        long = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(middle(whole), axis=0), axis=1)))
        np.testing.assert_allclose(whole[:, 0, bands.SPOT + 1], 2 * long / long[-1] - 1, atol=2e-4)
        again = laid(points, every=0.25)
        share = (again[:, 0, bands.SPOT + 1] + 1) / 2
        np.testing.assert_allclose(share, (long - long[-1]) / 0.25, atol=5e-3)
        # Kept to the tail, it stays on the ground that the head has passed.
        some, more = (
            laid(points[:12], every=0.25, long=long_of(points[:12])),
            laid(points, every=0.25, long=long_of(points)),
        )
        at = len(some) // 2
        same = np.argmin(np.linalg.norm(middle(more) - middle(some)[at], axis=1))
        apart = (some[at, 0, bands.SPOT + 1] - more[same, 0, bands.SPOT + 1]) / 2
        self.assertAlmostEqual(apart, round(apart), delta=0.02)

    def test_a_gap_breaks_it_and_a_lone_point_is_nothing(self):
        points = np.array([(0, 0, 0), (0.1, 0, 0), (0.2, 0, 0), (2, 0, 0), (2.1, 0, 0), (9, 0, 0)], float)
        pairs = laid(points, smooth=0, gap=0.5)
        x = pairs[:, :, 0]
        # Between the two bands lies a strip without area.
        drawn = [i for i in range(len(pairs) - 1) if (x[i + 1] - x[i]).max() > 1.0]
        for i in drawn:
            corners = np.concatenate([pairs[i, :, :3], pairs[i + 1, :, :3]])
            for three in (corners[:3], corners[1:]):
                self.assertAlmostEqual(
                    np.linalg.norm(np.cross(three[1] - three[0], three[2] - three[0])), 0.0, delta=1e-6
                )
        self.assertLess(x.max(), 3.0)
        self.assertEqual(len(laid(points[:1])), 0)
        self.assertEqual(len(laid(np.zeros((5, 3)))), 0)

    def test_a_tail_that_is_partly_gone_begins_later(self):
        points = np.array([(0, 0, 0), (1, 0, 0), (2, 0, 0)], float)
        for cut in (0.0, 0.25, 0.99):
            pairs = laid(points, smooth=0, cut=cut)
            self.assertAlmostEqual(pairs[0, 0, 0], cut, delta=1e-5)
            self.assertAlmostEqual(pairs[-1, 0, 0], 2.0, delta=1e-5)

    def test_flat_bands_lie_and_those_along_an_axis_stand(self):
        points = np.stack([np.linspace(0, 1, 8), 0.2 * np.sin(np.arange(8)), np.linspace(0, 1, 8)], axis=1)
        left, right = edges(laid(points, 0.3, across=FLAT))
        np.testing.assert_allclose((right - left)[:, 1], 0.0, atol=1e-6)
        left, right = edges(laid(points, 0.3, across=AXIS, side=(0, 1, 0)))
        np.testing.assert_allclose(right - left, np.broadcast_to([0, 0.3, 0], left.shape), atol=1e-6)


def x_of(pairs):
    return middle(pairs)[:, 0]


def long_of(points):
    return np.append(0.0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))


if __name__ == "__main__":
    unittest.main()
