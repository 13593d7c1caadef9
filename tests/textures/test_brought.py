"""Pictures that are brought into a build: their colours, channels, sizes and order."""

import unittest

import numpy as np

from pale_ember.effect.values.colors import to_srgb
from pale_ember.textures.reading import Raw

from .making_case import texture, with_files


class PictureTest(unittest.TestCase):
    def raw(self, pixels, **how):
        return Raw(np.asarray(pixels, np.uint8), how.get("linear", False), how.get("has_alpha", True))

    def test_a_picture_of_the_frames_size_comes_in_as_it_is(self):
        rng = np.random.default_rng(2)
        pixels = rng.integers(0, 256, (32, 32, 4))
        made = with_files(
            texture({"step": "picture", "files": ["a"], "blend": "replace"}, size=32), {"a": self.raw(pixels)}
        )
        found = np.concatenate([to_srgb(made.pixels[0, ..., :3]), made.pixels[0, ..., 3:]], axis=2)
        np.testing.assert_allclose(found * 255, pixels, atol=0.01)

    def test_soft_edges_over_nothing_have_the_pictures_own_colours(self):
        pixels = np.zeros((16, 16, 4), np.uint8)
        pixels[..., 0], pixels[..., 3] = 255, np.arange(16) * 16
        first = {"step": "picture", "files": ["a"]}
        for steps in ((first,), ({"step": "dot"}, {**first, "blend": "replace"})):
            made = with_files(texture(*steps, size=16), {"a": self.raw(pixels)}).pixels[0]
            np.testing.assert_allclose(
                made[:, 1:, :3], np.broadcast_to([1.0, 0.0, 0.0], (16, 15, 3)), atol=1e-6
            )

        # Over light without a colour they mix with white, as far as they cover.
        made = with_files(
            texture({"step": "dot", "radius": 4}, first, size=16), {"a": self.raw(pixels)}
        ).pixels[0]
        share = np.arange(16)[None, :, None] * 16 / 255
        np.testing.assert_allclose(made[..., 1:3], np.broadcast_to(1.0 - share, (16, 16, 2)), atol=1e-5)

    def test_one_channel_is_a_mask_of_plain_numbers(self):
        pixels = np.zeros((16, 16, 4))
        for i, level in enumerate((10, 60, 120, 200)):
            pixels[..., i] = level
        for channel, level in (("red", 10), ("green", 60), ("blue", 120), ("alpha", 200)):
            step = {"step": "picture", "files": ["a"], "channel": channel}
            made = with_files(texture(step, size=16), {"a": self.raw(pixels)})
            np.testing.assert_allclose(made.pixels[0, ..., 3], level / 255, atol=1e-6)

    def test_it_is_fitted_whole_filled_or_stretched_and_averaged_when_it_becomes_smaller(self):
        pixels = np.full((32, 64, 4), 255)
        pixels[:, :32, :3] = 0
        half = {"whole": (0.5, 0.0), "fill": (1.0, 1.0), "stretch": (1.0, 1.0)}
        for fit, (cover, corner) in half.items():
            made = with_files(
                texture({"step": "picture", "files": ["a"], "fit": fit}, size=32), {"a": self.raw(pixels)}
            ).pixels[0]
            self.assertAlmostEqual(float(made[..., 3].mean()), cover, delta=0.02)
            self.assertAlmostEqual(float(made[0, 0, 3]), corner, delta=0.02)
        checker = np.indices((64, 64)).sum(axis=0) % 2 * 255
        pixels = np.repeat(checker[..., None], 4, axis=2)
        made = with_files(
            texture({"step": "picture", "files": ["a"], "channel": "red"}, size=16), {"a": self.raw(pixels)}
        ).pixels[0]
        self.assertLess(np.abs(made[2:-2, 2:-2, 3] - 0.5).max(), 0.06)

    def test_each_picture_of_a_sequence_has_its_frame(self):
        files = {str(i): self.raw(np.full((8, 8, 4), 40 * i)) for i in range(5)}
        step = {"step": "picture", "files": list(files), "channel": "alpha"}
        made = with_files(texture(step, size=8, frames=5), files)
        np.testing.assert_allclose(made.pixels[:, 0, 0, 3] * 255, [0, 40, 80, 120, 160], atol=0.01)
        fewer = with_files(texture(step, size=8, frames=2), files)
        np.testing.assert_allclose(fewer.pixels[:, 0, 0, 3] * 255, [0, 80], atol=0.01)

    def test_a_missing_picture_is_clear(self):
        made = with_files(texture({"step": "picture", "files": ["gone"]}, size=8), {})
        self.assertEqual(made.pixels[..., 3].max(), 0.0)


if __name__ == "__main__":
    unittest.main()
