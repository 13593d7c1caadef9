"""What the bench shows of a texture: by arithmetic on linear light."""

import unittest

import numpy as np

from pale_ember.effect.kinds import Channel
from pale_ember.effect.textures import Texture
from pale_ember.effect.values.colors import to_linear, to_srgb
from pale_ember.textures.coarse import LEAST, coarser, shrunk
from pale_ember.textures.making.build import Making, make
from pale_ember.textures.making.stages import after_each
from pale_ember.textures.pictures import Pictures
from pale_ember.textures.prepared import prepared
from pale_ember.textures.showing import show_over, thumbnail

from .making_case import texture

HALF = (
    {"step": "dot", "radius": 4, "softness": 0},
    {"step": "levels", "white": 1},
    {"step": "color", "gradient": [[0, "#804020"], [1, "#804020"]]},
)


def ready(*steps, **how):
    entry = texture(*steps, **how)
    return prepared(entry, make(entry))


class ShowTest(unittest.TestCase):
    def ground(self, level=100, wide=40, high=30):
        return np.full((high, wide, 3), level, np.uint8)

    def test_half_cover_mixes_light_with_what_is_behind(self):
        one = ready(
            *HALF[:1],
            {"step": "dot", "radius": 4, "softness": 0, "blend": "replace", "strength": 0.5},
            HALF[2],
            size=16,
        )
        cover = one.pixels[0, 8, 8, 3] / 255
        shown = show_over(one, 0, self.ground(), (10, 5, 20, 20))
        expected = to_linear(np.array([0x80, 0x40, 0x20]) / 255) * cover + to_linear(
            np.full(3, 100) / 255
        ) * (1 - cover)
        np.testing.assert_allclose(shown[15, 20] / 255, to_srgb(expected), atol=1.5 / 255)
        # Outside the frame nothing changes.
        self.assertEqual(set(np.unique(shown[:, :10])), {100})
        self.assertEqual(set(np.unique(shown[:5])), {100})

    def test_each_pixel_is_shown_in_its_place(self):
        dice = np.random.default_rng(5)
        pixels = dice.integers(0, 256, (1, 12, 12, 4), np.uint8)
        pixels[..., 3] = 255
        one = prepared(Texture(name="t", file="t.png"), Pictures(pixels / np.float32(255.0)))
        shown = show_over(one, 0, self.ground(), (10, 5, 12, 12))
        np.testing.assert_allclose(shown[5:17, 10:22], one.pixels[0, ..., :3], atol=1)

    def test_a_channel_is_shown_as_its_numbers(self):
        steps = []
        for channel, level in (("red", 0.2), ("green", 0.4), ("blue", 0.6), ("alpha", 0.8)):
            steps += [
                {"step": "dot", "radius": 4, "softness": 0, "strength": level},
                {"step": "pack", "channel": channel},
            ]
        one = ready(*steps, size=8, data=True)
        for channel, level in (
            (Channel.RED, 0.2),
            (Channel.GREEN, 0.4),
            (Channel.BLUE, 0.6),
            (Channel.ALPHA, 0.8),
        ):
            shown = show_over(one, 0, self.ground(), (0, 0, 40, 30), channel)
            np.testing.assert_allclose(shown[15, 20], round(level * 255), atol=1)

    def test_tiles_go_on_at_all_sides_and_pixels_are_hard_where_that_is_wished(self):
        one = ready({"step": "gradient", "turn": 90}, size=8)
        tiled = show_over(one, 0, self.ground(0, 48, 16), (16, 0, 16, 16), Channel.ALPHA, True, False)
        np.testing.assert_array_equal(tiled[:, :16], tiled[:, 16:32])
        np.testing.assert_array_equal(tiled[:, 32:], tiled[:, 16:32])
        # Each of the eight pixels is two wide.
        np.testing.assert_array_equal(tiled[3, 16:32:2], tiled[3, 17:32:2])
        self.assertEqual(len(np.unique(tiled[3, 16:32, 0])), 8)
        soft = show_over(one, 0, self.ground(0, 48, 16), (16, 0, 16, 16), Channel.ALPHA, False, True)
        self.assertGreater(len(np.unique(soft[3, 16:32, 0])), 8)

    def test_frames_go_round_and_small_pictures_keep_their_shape(self):
        step = {"step": "dot", "radius": {"curve": [[0, 0.2], [1, 0.9]]}}
        one = ready(step, size=32, frames=3)
        np.testing.assert_array_equal(thumbnail(one, 1, 24), thumbnail(one, 4, 24))
        small, large = (int(thumbnail(one, frame, 24, (0, 0, 0)).sum()) for frame in (0, 2))
        self.assertLess(small, 0.4 * large)

    def test_a_deep_texture_is_shown_too(self):
        entry = texture({"step": "dot"}, size=8)
        made = make(entry)
        made.pixels[..., :3] = 3.0
        deep = prepared(entry, made)
        self.assertEqual(deep.pixels.dtype, np.float16)
        self.assertEqual(show_over(deep, 0, self.ground(0), (0, 0, 40, 30))[15, 20].tolist(), [255] * 3)


class StagesTest(unittest.TestCase):
    STEPS = (
        {"step": "dot"},
        {"step": "invert", "on": False},
        {"step": "ring", "blend": "subtract"},
        {"step": "normals"},
        {"step": "pack", "channel": "green"},
    )

    def test_each_step_has_its_picture(self):
        found = after_each(texture(*self.STEPS, size=64), 24, 0.0, Making())
        self.assertEqual(len(found), 5)
        self.assertTrue(all(one.shape == (24, 24, 3) for one in found))
        np.testing.assert_array_equal(found[0], found[1], "a step that is off changes nothing")
        self.assertLess(found[2].sum(), found[1].sum())
        # A flat normal points at the eye.
        self.assertGreater(found[3][0, 0, 2], 250)
        self.assertEqual(found[4][0, 0].tolist(), [0, 0, 0])

    def test_it_is_given_up_when_another_is_wished(self):
        self.assertIsNone(after_each(texture(*self.STEPS), 24, 0.0, Making(), lambda: True))
        flow = texture({"step": "flow"}, frames=8)
        self.assertIsNone(after_each(flow, 24, 0.5, Making(progress=lambda share: True)))

    def test_a_moving_build_is_seen_in_the_wished_frame(self):
        step = {"step": "dot", "radius": {"curve": [[0, 0.1], [1, 0.9]]}}
        early, late = (
            after_each(texture(step, frames=8), 24, share, Making())[0].sum() for share in (0.0, 1.0)
        )
        self.assertLess(early, late)


class CoarseTest(unittest.TestCase):
    def test_what_is_quick_is_made_whole_at_once(self):
        self.assertIsNone(coarser(texture({"step": "cloud"}, size=256)))
        self.assertIsNone(coarser(texture({"step": "flow"}, size=32, frames=8)))

    def test_what_is_slow_has_as_many_frames_and_fewer_pixels(self):
        for steps, size, frames in (
            ([{"step": "flow"}], 256, 64),
            ([{"step": "cells"}], 256, 48),
            ([{"step": "flow"}], 1024, 16),
        ):
            whole = texture(*steps, size=size, frames=frames)
            found = coarser(whole)
            self.assertEqual(found.count, frames)
            self.assertGreaterEqual(found.build.size, LEAST)
            self.assertLess(found.build.size, size / 2)

    def test_a_small_picture_of_a_sheet_has_few_frames(self):
        small = shrunk(
            texture({"step": "dot"}, size=256, frames=50, build={"order": list(range(40))}), 64, 10
        )
        self.assertEqual(small.build.size, 64)
        self.assertLessEqual(small.count, 10)
        self.assertGreaterEqual(small.count, 8)


if __name__ == "__main__":
    unittest.main()
