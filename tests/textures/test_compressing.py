"""Formats of blocks: which one is proposed, what they keep, and files that others can read."""

import io
import struct
import unittest

import numpy as np
from PIL import Image

from pale_ember.effect.values.colors import to_linear, to_srgb
from pale_ember.textures.compressing import (
    BLOCKS,
    ENOUGH,
    Blocks,
    Meaning,
    as_chosen,
    as_four,
    compressed,
    decompressed,
    levels_of,
    proposed,
    psnr,
    smaller_copies,
    stored,
    unstored,
)
from pale_ember.textures.dds import dds_bytes, read_dds


def picture(high=64, wide=64, channels=4, seed=1):
    """Return soft blobs, different in each channel."""
    y, x = np.mgrid[0:high, 0:wide] / 32.0
    rng = np.random.default_rng(seed)
    waves = [np.sin(x * a + b) * np.cos(y * c + d) for a, b, c, d in rng.uniform(1, 3, (channels, 4))]
    return np.rint((np.stack(waves, 2) * 0.5 + 0.5) * 255).astype(np.uint8)


def white(alpha):
    return np.dstack([np.full((*alpha.shape, 3), 255, np.uint8), alpha])


STILL = ("r", "g", f"{128 / 255:.6g}", "1")


class Proposed(unittest.TestCase):
    def test_each_kind_of_picture_gets_the_format_that_its_channels_ask_for(self):
        soft = picture()
        grey = np.repeat(soft[..., :1], 3, axis=2)
        two = np.dstack([soft[..., :2], np.zeros((64, 64), np.uint8), np.full((64, 64), 255, np.uint8)])
        way = np.dstack([soft[..., :2] // 3 + 85, np.full((64, 64), 220, np.uint8)])
        for given, meaning, wanted, swizzle in (
            (soft, Meaning.COLOR, Blocks.BC7, ("r", "g", "b", "a")),
            (soft[..., :3] // 32 * 0 + grey, Meaning.COLOR, Blocks.BC1, ("r", "g", "b", "a")),
            (white(soft[..., 0]), Meaning.COLOR, Blocks.BC4, ("1", "1", "1", "r")),
            (grey, Meaning.DATA, Blocks.BC4, ("r", "r", "r", "1")),
            (two, Meaning.DATA, Blocks.BC5, ("r", "g", "0", "1")),
            (way, Meaning.NORMALS, Blocks.BC5, ("r", "g", "z", "1")),
            # Motion has nothing in blue: 128, that is 0.
            (
                np.dstack([soft[..., :2], np.full((64, 64, 2), 128, np.uint8)]),
                Meaning.MOTION,
                Blocks.BC5,
                STILL,
            ),
        ):
            found = proposed(given, meaning)
            self.assertEqual((found.blocks, found.swizzle), (wanted, swizzle), found.why)
            self.assertGreaterEqual(found.psnr, ENOUGH)
            self.assertTrue(found.why.endswith("."))

    def test_what_would_lose_too_much_or_holds_nothing_stays_as_it_is(self):
        grain = np.random.default_rng(3).integers(0, 256, (32, 32, 4), dtype=np.uint8)
        self.assertEqual(proposed(grain, Meaning.COLOR).blocks, Blocks.PLAIN)
        self.assertIn("dB", proposed(grain, Meaning.COLOR).why)
        self.assertEqual(proposed(np.full((8, 8, 4), 9, np.uint8), Meaning.DATA).blocks, Blocks.PLAIN)

    def test_what_is_proposed_gives_the_picture_back_through_its_swizzle(self):
        for given, meaning in (
            (picture(), Meaning.COLOR),
            (white(picture()[..., 2]), Meaning.COLOR),
            (picture(channels=3), Meaning.DATA),
        ):
            found, four = proposed(given, meaning), as_four(given)
            kept = decompressed(compressed(stored(four, found.swizzle), found.blocks), 64, 64, found.blocks)
            self.assertGreater(psnr(four, unstored(kept, found.swizzle)), ENOUGH)

    def test_a_chosen_format_says_what_it_loses(self):
        self.assertIn("lost", as_chosen(picture(), Blocks.BC1, Meaning.COLOR).why)
        self.assertNotIn("lost", as_chosen(picture(channels=3), Blocks.BC1, Meaning.COLOR).why)
        self.assertIn("lost", as_chosen(picture(), Blocks.BC4, Meaning.DATA).why)
        self.assertNotIn("lost", as_chosen(white(picture()[..., 0]), Blocks.BC4, Meaning.COLOR).why)

    def test_pictures_of_any_shape_are_tried_as_they_are(self):
        for high, wide in ((8, 20), (20, 8), (5, 7), (4, 64)):
            for blocks in Blocks:
                if blocks == Blocks.PLAIN:
                    continue
                found = as_chosen(picture(high, wide), blocks, Meaning.DATA)
                self.assertEqual(found.blocks, blocks)
                self.assertTrue(np.isfinite(found.psnr) or found.psnr == np.inf, (high, wide, blocks))
                data = compressed(stored(picture(high, wide), found.swizzle), blocks)
                self.assertEqual(decompressed(data, wide, high, blocks).shape, (high, wide, 4))


class Copies(unittest.TestCase):
    def test_what_a_chosen_format_leaves_out_counts_as_lost(self):
        mask = white(picture()[..., 0])
        self.assertGreater(float(np.ptp(mask[..., 3])), 100)
        for blocks in (Blocks.BC1,):
            self.assertLess(as_chosen(mask, blocks, Meaning.COLOR).psnr, 25, blocks)
        self.assertLess(as_chosen(picture(), Blocks.BC4, Meaning.DATA).psnr, 25)

    def test_copies_end_before_two_frames_mix(self):
        rng = np.random.default_rng(3)
        for frame, padding, columns in ((48, 0, 3), (32, 3, 2), (30, 1, 4), (64, 0, 2), (33, 0, 3)):
            cell = frame + 2 * padding
            levels = rng.integers(40, 255, columns)
            sheet = np.zeros((cell, cell * columns, 4), np.uint8)
            for i, level in enumerate(levels):
                sheet[:, i * cell : (i + 1) * cell] = (level, level, level, 255)
            for one in smaller_copies(sheet, Meaning.DATA, levels_of(cell, cell, cells=True)):
                self.assertTrue(
                    set(np.unique(one[..., 0])) <= set(levels.tolist()), (frame, padding, one.shape)
                )
        self.assertEqual(
            [levels_of(64, 64, True), levels_of(48, 48, True), levels_of(33, 33, True), levels_of(48, 48)],
            [7, 5, 1, 6],
        )

    def test_copies_keep_light_and_cover(self):
        given = picture(64, 32)
        copies = smaller_copies(given, Meaning.COLOR, levels_of(32, 64))
        self.assertEqual([one.shape[:2] for one in copies], [(64 >> i, 32 >> i) for i in range(6)])
        cover = given[..., 3:] / 255.0
        light = (to_linear(given[..., :3] / 255.0) * cover).mean(axis=(0, 1))
        small = copies[3] / 255.0
        np.testing.assert_allclose(
            (to_linear(small[..., :3]) * small[..., 3:]).mean(axis=(0, 1)), light, atol=0.004
        )
        self.assertAlmostEqual(small[..., 3].mean(), cover.mean(), delta=0.003)

    def test_a_colour_beside_clear_black_stays_as_bright(self):
        half = np.zeros((8, 8, 4), np.uint8)
        half[:, 1::2] = (200, 100, 50, 255)
        one = smaller_copies(half, Meaning.COLOR, 2)[1]
        self.assertTrue((np.abs(one[..., :3].astype(int) - (200, 100, 50)) <= 1).all())
        dark = smaller_copies(half, Meaning.COLOR, 2, premultiplied=True)[1]
        self.assertAlmostEqual(dark[0, 0, 0] / 255, float(to_srgb(to_linear(200 / 255) / 2)), delta=0.005)

    def test_vectors_keep_their_length(self):
        ways = np.random.default_rng(5).normal((0, 0, 1), 0.6, (16, 16, 3))
        ways /= np.linalg.norm(ways, axis=2, keepdims=True)
        small = smaller_copies(as_four(np.rint(ways * 127.5 + 127.5).astype(np.uint8)), Meaning.NORMALS, 3)[2]
        np.testing.assert_allclose(np.linalg.norm(small[..., :3] / 127.5 - 1, axis=2), 1.0, atol=0.02)


class Files(unittest.TestCase):
    def test_files_are_read_by_another_reader_and_by_ours_alike(self):
        for wide, high in ((64, 64), (30, 18), (4, 4), (1, 1)):
            given = picture(high, wide)
            for blocks in BLOCKS:
                if blocks == Blocks.BC4:
                    given = stored(given, ("r", "r", "r", "1"))
                copies = smaller_copies(given, Meaning.DATA, levels_of(wide, high))
                levels = [(one.shape[1], one.shape[0], compressed(one, blocks)) for one in copies]
                data = dds_bytes(levels, blocks, blocks == Blocks.BC7)
                ours = read_dds(data)
                self.assertEqual([one.shape for one in ours.levels], [one.shape for one in copies])
                self.assertEqual((ours.blocks, ours.srgb), (blocks, blocks == Blocks.BC7))
                other = np.asarray(Image.open(io.BytesIO(data)))
                other = other[..., None] if other.ndim == 2 else other
                room = min(BLOCKS[blocks].channels, other.shape[2])
                self.assertLessEqual(
                    np.abs(other[..., :room].astype(int) - ours.levels[0][..., :room]).max(),
                    1,
                    (blocks, wide, high),
                )

    def test_headers_are_as_the_format_has_them(self):
        # The header, its pixel format and the longer header behind it, field by field.
        codes = {
            Blocks.BC1: (b"DXT1", 0),
            Blocks.BC3: (b"DXT5", 0),
            Blocks.BC4: (b"ATI1", 80),
            Blocks.BC5: (b"ATI2", 83),
            Blocks.BC7: (b"DX10", 98),
        }
        for blocks, (code, plain) in codes.items():
            for copies in (1, 2):
                levels = [(8, 12, b"x" * 16), (4, 6, b"y" * 16)][:copies]
                for srgb in (False, True):
                    data = dds_bytes(levels, blocks, srgb)
                    with self.subTest(blocks, copies=copies, srgb=srgb):
                        caps = 0x1000 | (0x400008 if copies > 1 else 0)
                        self.assertEqual(data[:4], b"DDS ")
                        self.assertEqual(
                            struct.unpack("<7I", data[4:32]), (124, 0xA1007, 12, 8, 16, 1, copies)
                        )
                        self.assertEqual(data[32:76], bytes(44))
                        self.assertEqual(struct.unpack("<II", data[76:84]), (32, 4))
                        self.assertIn(data[84:88], (code, b"DX10"))
                        self.assertEqual(data[88:108], bytes(20))
                        self.assertEqual(struct.unpack("<5I", data[108:128]), (caps, 0, 0, 0, 0))
                        if data[84:88] == b"DX10":
                            number = plain + (srgb and blocks == Blocks.BC7)
                            self.assertEqual(struct.unpack("<5I", data[128:148]), (number, 3, 0, 1, 0))
                        self.assertTrue(data.endswith(b"".join(level[2] for level in levels)))

    def test_what_is_no_such_file_is_refused(self):
        data = dds_bytes([(8, 8, compressed(picture(8, 8), Blocks.BC7))], Blocks.BC7, False)
        for broken in (b"", b"DDS ", data[:-1], b"DDX " + data[4:], data[:128] + b"\xff\0\0\0" + data[132:]):
            with self.assertRaises(ValueError):
                read_dds(broken)
