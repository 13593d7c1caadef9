"""What we write as a picture is read back by us, and by a reader that isn't ours, within a step of its
precision.
"""

import io
import tempfile
import unittest
from pathlib import Path

import numpy as np
import OpenEXR
import texture2ddecoder
from PIL import Image

from pale_ember.effect.values.colors import Stop, evaluate_stops, to_srgb
from pale_ember.files.palettes import load_palette, load_strip, save_palette, save_strip
from pale_ember.textures.compressing import Blocks, Meaning, compressed, levels_of, smaller_copies
from pale_ember.textures.dds import dds_bytes, read_dds
from pale_ember.textures.exr import exr_bytes
from pale_ember.textures.png import png_bytes
from pale_ember.textures.reading import read_raw

# Sides of one, odd ones, no multiples of a block's four, long ones.
SIZES = ((1, 1), (3, 5), (4, 4), (7, 16), (33, 18), (2, 200), (64, 64))


class WritingTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.at = Path(folder.name) / "picture"
        self.dice = np.random.default_rng(8)

    def read(self, data):
        self.at.write_bytes(data)
        return read_raw(self.at)

    def test_png(self):
        for high, wide in SIZES:
            for channels in (3, 4):
                pixels = self.dice.integers(0, 256, (high, wide, channels), np.uint8)
                if channels == 4:
                    pixels[0, 0] = 200, 100, 50, 0  # what is clear keeps its colour
                data = png_bytes(pixels)
                np.testing.assert_array_equal(np.asarray(Image.open(io.BytesIO(data))), pixels)
                np.testing.assert_array_equal(self.read(data).pixels[..., :channels], pixels)

    def test_exr(self):
        for high, wide in SIZES:
            for channels in (3, 4):
                pixels = (
                    10.0 ** self.dice.uniform(-7, 4.7, (high, wide, channels))
                    * self.dice.choice([-1, 1], (high, wide, channels))
                ).astype(np.float32)
                pixels[0, 0, :3] = 0.0, 1e9, -1e9
                if channels == 4:
                    pixels[..., 3] = self.dice.uniform(0, 1, (high, wide))
                data = exr_bytes(pixels)
                # Half floats have eleven bits, below 6e-5 steps of 6e-8; beyond their largest they stay at
                # that.
                wanted = np.clip(pixels, -65504, 65504)
                near = np.maximum(np.abs(wanted) / 2048, 3.1e-8)
                self.at.write_bytes(data)
                with OpenEXR.File(str(self.at), separate_channels=True) as file:
                    other = np.stack(
                        [file.channels()[name].pixels.astype(np.float32) for name in "RGBA"[:channels]],
                        axis=2,
                    )
                raw = read_raw(self.at)
                self.assertTrue(raw.linear)
                self.assertTrue((np.abs(other - wanted) <= near).all(), (high, wide))
                np.testing.assert_array_equal(raw.pixels[..., :channels], other)

    def test_blocks_with_all_their_copies(self):
        for high, wide in SIZES:
            y, x = np.mgrid[0:high, 0:wide] / 64.0
            soft = np.rint(
                255
                * np.stack(
                    [0.5 + 0.5 * np.sin(2 * x + y), 0.5 + 0.4 * np.cos(x - y), 0.3 + 0.2 * x, 1 - 0.3 * y],
                    axis=2,
                ).clip(0, 1)
            ).astype(np.uint8)
            for blocks, channels, share in (
                (Blocks.BC1, 3, 1.0),
                (Blocks.BC3, 4, 1.0),
                (Blocks.BC4, 1, 1 / 14),
                (Blocks.BC5, 2, 1 / 14),
                (Blocks.BC7, 4, 0.5),
            ):
                copies = smaller_copies(soft, Meaning.DATA, levels_of(wide, high))
                data = dds_bytes(
                    [(one.shape[1], one.shape[0], compressed(one, blocks)) for one in copies], blocks, False
                )
                ours = read_dds(data)
                self.assertEqual((ours.blocks, len(ours.levels)), (blocks, len(copies)))
                begin = 128 if blocks in (Blocks.BC1, Blocks.BC3) else 148
                for one, level in zip(copies, ours.levels, strict=True):
                    tall, broad = one.shape[:2]
                    decode = getattr(texture2ddecoder, f"decode_{blocks.value}")
                    across, down = -(-broad // 4), -(-tall // 4)
                    long = across * down * (8 if blocks in (Blocks.BC1, Blocks.BC4) else 16)
                    whole = np.frombuffer(
                        decode(data[begin : begin + long], across * 4, down * 4), np.uint8
                    ).reshape(down * 4, across * 4, 4)
                    other = whole[:tall, :broad, [2, 1, 0, 3]]
                    begin += long
                    said = f"{blocks} {wide}x{high}, copy of {broad}x{tall}"
                    self.assertEqual(level.shape[:2], (tall, broad), said)
                    self.assertLessEqual(
                        int(np.abs(level[..., :channels].astype(int) - other[..., :channels]).max()), 1, said
                    )
                    # Between its ends a block has so many steps; of BC1 four colours on a line, which says
                    # nothing of each channel.
                    most = share * int(np.ptp(one[..., :channels].astype(int), axis=(0, 1)).max()) + 4
                    self.assertLessEqual(
                        int(np.abs(level[..., :channels].astype(int) - one[..., :channels]).max()), most, said
                    )
                self.assertEqual(begin, len(data))
                raw = self.read(data)
                self.assertLessEqual(
                    int(
                        np.abs(raw.pixels[..., :channels].astype(int) - ours.levels[0][..., :channels]).max()
                    ),
                    1,
                )

    def test_palettes_and_strips(self):
        stops = (Stop(0, "#ff8000"), Stop(0.25, "#102030"), Stop(1, "#ffffff"))
        save_palette(stops, "Kiln", self.at)
        rows = [
            line.split()[:3]
            for line in self.at.read_text().splitlines()
            if line[:1] in " 0123456789" and line.strip()
        ]
        self.assertEqual(
            [tuple(map(int, row)) for row in rows], [(255, 128, 0), (16, 32, 48), (255, 255, 255)]
        )
        self.assertEqual([stop.color for stop in load_palette(self.at)], [stop.color for stop in stops])
        save_strip(stops, self.at)
        other = np.asarray(Image.open(self.at).convert("RGB"))
        x = (np.arange(other.shape[1]) + 0.5) / other.shape[1]
        np.testing.assert_allclose(other[0], to_srgb(evaluate_stops(stops, x)) * 255, atol=0.51)
        back = to_srgb(evaluate_stops(load_strip(self.at), x))
        self.assertLess(float(np.abs(back - to_srgb(evaluate_stops(stops, x))).max()), 0.03)


if __name__ == "__main__":
    unittest.main()
