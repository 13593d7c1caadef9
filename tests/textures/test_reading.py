"""Picture files of every kind, whole, odd and hostile."""

import io
import os
import resource
import struct
import tempfile
import unittest
import zlib
from pathlib import Path

import numpy as np
from PIL import Image, ImageOps

from pale_ember.effect import EffectError
from pale_ember.effect.editing.build_moves import as_build
from pale_ember.effect.textures import Texture
from pale_ember.effect.values.colors import to_linear
from pale_ember.textures.prepared import prepared
from pale_ember.textures.reading import MOST_PIXELS, pictures_of, read_raw

ROLL = np.random.default_rng(5)
SOFT = np.clip(np.cumsum(ROLL.normal(0, 9, (24, 32, 4)), axis=1) + 120, 0, 255).astype(np.uint8)


def saved(image, kind, **how):
    data = io.BytesIO()
    image.save(data, kind, **how)
    return data.getvalue()


def dds(code, blocks, wide=8, high=8, dx10=None):
    """Return a DDS file of compressed blocks."""
    header = struct.pack("<4s7I44x", b"DDS ", 124, 0x1007, high, wide, 0, 0, 0)
    header += struct.pack("<2I4s5I", 32, 4, b"DX10" if dx10 is not None else code, 0, 0, 0, 0, 0)
    header += struct.pack("<5I", 0x1000, 0, 0, 0, 0)
    if dx10 is not None:
        header += struct.pack("<5I", dx10, 3, 0, 1, 0)
    return header + blocks


def exr(pixels):
    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        channels = {
            name: np.ascontiguousarray(pixels[..., i]) for i, name in enumerate("RGBA"[: pixels.shape[2]])
        }
        OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, channels).write(
            file.name
        )
        return Path(file.name).read_bytes()


def samples():
    image = Image.fromarray(SOFT)
    return {
        "rgba.png": saved(image, "PNG"),
        "rgb.png": saved(image.convert("RGB"), "PNG"),
        "palette.png": saved(image.convert("RGB").quantize(16), "PNG"),
        "grey.png": saved(image.convert("L"), "PNG"),
        "grey16.png": saved(Image.fromarray(SOFT[..., 0].astype(np.uint16) * 257), "PNG"),
        "a.tga": saved(image, "TGA"),
        "a.webp": saved(image, "WEBP", lossless=True, exact=True),
        "a.jpg": saved(image.convert("RGB"), "JPEG", quality=95),
        "a.tif": saved(image, "TIFF"),
        "lzw.tif": saved(image, "TIFF", compression="tiff_lzw"),
        "a.bmp": saved(image.convert("RGB"), "BMP"),
        "cmyk.jpg": saved(image.convert("CMYK"), "JPEG"),
        "moves.gif": saved(
            image.convert("RGB"), "GIF", save_all=True, append_images=[image.convert("RGB")] * 3
        ),
        "a.dds": saved(image.crop((0, 0, 32, 24)), "DDS"),
        "bc1.dds": dds(b"DXT1", ROLL.bytes(32)),
        "bc2.dds": dds(b"DXT3", ROLL.bytes(64)),
        "bc3.dds": dds(b"DXT5", ROLL.bytes(64)),
        "bc4.dds": dds(b"ATI1", ROLL.bytes(32)),
        "bc5.dds": dds(b"ATI2", ROLL.bytes(64)),
        "bc7.dds": dds(b"", ROLL.bytes(64), dx10=98),
        "a.exr": exr(SOFT.astype(np.float32) / 64),
    }


class ReadingTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def read(self, name, data):
        path = self.folder / name
        path.write_bytes(data)
        return read_raw(path)

    def test_each_kind_is_read(self):
        for name, data in samples().items():
            raw = self.read(name, data)
            self.assertEqual(raw.pixels.shape[2], 4, name)
            if name in ("rgba.png", "a.tga", "a.webp", "a.tif", "lzw.tif", "a.dds"):
                np.testing.assert_array_equal(raw.pixels, SOFT, name)
                self.assertTrue(raw.has_alpha)
            elif name == "grey16.png":
                np.testing.assert_allclose(raw.pixels[..., 0], SOFT[..., 0] / 255, atol=1e-6)
            elif name == "a.exr":
                np.testing.assert_allclose(raw.pixels[..., :3], SOFT[..., :3] / 64, atol=1e-3)
                self.assertTrue(raw.linear)

    def test_a_wrong_ending_does_not_matter(self):
        np.testing.assert_array_equal(self.read("picture.jpg", samples()["rgba.png"]).pixels, SOFT)

    def test_straight_premultiplied_and_data_mean_what_they_say(self):
        half = np.full((4, 4, 4), (200, 100, 50, 128), np.uint8)
        raw = self.read("a.png", saved(Image.fromarray(half), "PNG"))
        light, alpha = to_linear(half[0, 0, :3] / 255), 128 / 255
        for cover, wanted in (
            ("straight", light * alpha),
            ("premultiplied_srgb", to_linear(half[0, 0, :3] / 255 / alpha) * alpha),
            ("premultiplied", to_linear(half[0, 0, :3] / 255)),
        ):
            entry = Texture(name="t", file="a.png", cover=cover)
            ready = prepared(entry, pictures_of(entry, raw))
            found = ready.pixels[0, 0, 0, :3]
            np.testing.assert_allclose(to_linear(found / 255) if ready.is_coded else found, wanted, atol=0.01)
        entry = Texture(name="t", file="a.png", data=True)
        np.testing.assert_array_equal(prepared(entry, pictures_of(entry, raw)).pixels[0, 0, 0], half[0, 0])

    def exr_of(self, channels, **header):
        import OpenEXR

        path = self.folder / "layers.exr"
        parts = {name: np.ascontiguousarray(pixels, np.float32) for name, pixels in channels.items()}
        whole = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        whole |= {
            name: (np.array(box[:2], np.int32), np.array(box[2:], np.int32)) for name, box in header.items()
        }
        with OpenEXR.File(whole, parts) as file:
            file.write(str(path))
        return path

    def test_layers_of_an_exr_are_kept_apart_and_chosen(self):
        level = lambda value: np.full((4, 6), value, np.float32)  # noqa: E731
        beauty = {"R": level(0.1), "G": level(0.2), "B": level(0.3)}
        spec = {f"spec.{name}": level(2 + i) for i, name in enumerate("RGB")}
        path = self.exr_of({**beauty, **spec, "id.A": level(0.25), "Z": level(9)})
        raw = read_raw(path)
        np.testing.assert_allclose(raw.pixels[0, 0], (0.1, 0.2, 0.3, 1.0))
        self.assertFalse(raw.has_alpha)
        np.testing.assert_allclose(read_raw(path, "spec").pixels[0, 0], (2, 3, 4, 1))
        with self.assertRaises(EffectError) as wrong:
            read_raw(path, "diffuse")
        self.assertIn("spec", wrong.exception.reason)
        # Only layers with names: the first that is a picture, and its own alpha.
        path = self.exr_of(
            {
                "id.A": level(0.25),
                **{f"fire.{name}": level(1 + i) for i, name in enumerate("RGBA"[:3])},
                "fire.A": level(0.5),
            }
        )
        np.testing.assert_allclose(read_raw(path).pixels[0, 0], (1, 2, 3, 0.5))
        # A picture before what has but a brightness, and of two the first.
        path = self.exr_of(
            {
                "a.Y": level(0.9),
                **{f"b.{name}": level(3) for name in "RGB"},
                **{f"c.{name}": level(4) for name in "RGB"},
            }
        )
        np.testing.assert_allclose(read_raw(path).pixels[0, 0], (3, 3, 3, 1))
        import OpenEXR

        parts = [
            OpenEXR.Part({"name": name, "type": OpenEXR.scanlineimage}, {c: level(value) for c in "RGB"})
            for name, value in (("left", 1), ("right", 2))
        ]
        OpenEXR.File(parts).write(str(path))
        np.testing.assert_allclose(
            [read_raw(path).pixels[0, 0, 0], read_raw(path, "right").pixels[0, 0, 0]], (1, 2)
        )
        path = self.exr_of({"Y": level(0.7), "A": level(0.5)})
        np.testing.assert_allclose(read_raw(path).pixels[0, 0], (0.7, 0.7, 0.7, 0.5))
        texture = Texture(name="t", file="layers.exr", layer="spec")
        self.assertEqual(as_build(texture, (6, 4)).build.steps[0].layer, "spec")

    def test_an_exr_is_as_large_as_what_it_shows(self):
        pixels = np.arange(1, 17, dtype=np.float32).reshape(4, 4)
        for window, shown in (
            ((2, 3, 5, 6), (0, 0, 9, 7)),
            ((-2, -1, 1, 2), (0, 0, 2, 2)),
            ((8, 8, 11, 11), (0, 0, 3, 3)),
        ):
            path = self.exr_of(
                {"R": pixels, "G": pixels, "B": pixels}, dataWindow=window, displayWindow=shown
            )
            found = read_raw(path).pixels
            wanted = np.zeros((shown[3] - shown[1] + 1, shown[2] - shown[0] + 1, 4), np.float32)
            for y in range(wanted.shape[0]):
                for x in range(wanted.shape[1]):
                    i, j = y + shown[1] - window[1], x + shown[0] - window[0]
                    if 0 <= i < 4 and 0 <= j < 4:
                        wanted[y, x] = (*[pixels[i, j]] * 3, 1.0)
            np.testing.assert_allclose(found, wanted)

    def test_colours_of_16_bits_are_read_in_full_and_orientation_tags_turn(self):
        rng = np.random.default_rng(16)
        deep = rng.integers(0, 65536, (5, 7, 4)).astype(np.uint16)
        for parts in (3, 4):
            rows = b"".join(b"\0" + row[:, :parts].astype(">u2").tobytes() for row in deep)

            def chunk(kind, body):
                return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

            head = struct.pack(">2I5B", 7, 5, 16, 2 if parts == 3 else 6, 0, 0, 0)
            raw = self.read(
                "deep.png",
                b"\x89PNG\r\n\x1a\n"
                + chunk(b"IHDR", head)
                + chunk(b"IDAT", zlib.compress(rows))
                + chunk(b"IEND", b""),
            )
            np.testing.assert_allclose(raw.pixels[..., :parts] * 65535, deep[..., :parts], atol=0.01)
            self.assertEqual((raw.linear, raw.has_alpha), (False, parts == 4))
        shallow = Image.fromarray(rng.integers(0, 256, (5, 7, 3)).astype(np.uint8))
        for tag in range(1, 9):
            exif = Image.Exif()
            exif[274] = tag
            found = io.BytesIO()
            shallow.save(found, "PNG", exif=exif)
            np.testing.assert_array_equal(
                self.read("turned.png", found.getvalue()).pixels[..., :3],
                np.asarray(ImageOps.exif_transpose(Image.open(found))),
                str(tag),
            )

    def test_plain_and_signed_pixels_of_dds_are_read(self):
        rng = np.random.default_rng(5)
        four = rng.integers(0, 256, (5, 6, 4)).astype(np.uint8)
        one = four[..., 0]
        halves = rng.uniform(-1, 9, (5, 6, 4)).astype(np.float16)
        white, none = np.full_like(one, 255), np.zeros_like(one)
        for number, data, wanted in (
            (87, four, four[..., [2, 1, 0, 3]]),
            (88, four, np.dstack([four[..., [2, 1, 0]], white])),
            (28, four, four),
            (61, one, np.dstack([one] * 3 + [white])),
            (65, one, np.dstack([white] * 3 + [one])),
            (49, four[..., :2], np.dstack([four[..., :2], none, white])),
            (10, halves, halves),
        ):
            raw = self.read(
                "a.dds", dds(b"", np.ascontiguousarray(data).tobytes(), wide=6, high=5, dx10=number)
            )
            np.testing.assert_allclose(raw.pixels, wanted.astype(raw.pixels.dtype), err_msg=str(number))
            with self.assertRaises(EffectError):
                self.read("a.dds", dds(b"", data.tobytes()[:-8], wide=6, high=5, dx10=number))
        # A block with a sign, pixel by pixel as the format's text says.
        for first, last in ((100, -60), (-60, 100), (-128, 127), (5, 5)):
            places = rng.integers(0, 8, 16)
            bits = sum(int(place) << (3 * i) for i, place in enumerate(places))
            raw = self.read(
                "a.dds",
                dds(
                    b"", struct.pack("<2b", first, last) + bits.to_bytes(6, "little"), wide=4, high=4, dx10=81
                ),
            )
            a, b = max(first, -127), max(last, -127)
            steps = (
                [a, b, *(((7 - k) * a + k * b) / 7 for k in range(1, 7))]
                if a > b
                else [a, b, *(((5 - k) * a + k * b) / 5 for k in range(1, 5)), -127, 127]
            )
            np.testing.assert_allclose(
                raw.pixels[..., 0].ravel(), [steps[place] / 254 + 0.5 for place in places], atol=1e-6
            )

    def test_frames_are_cut_row_by_row_from_the_upper_left(self):
        sheet = np.zeros((8, 12, 4), np.uint8)
        for i in range(6):
            sheet[(i // 3) * 4 : (i // 3) * 4 + 4, (i % 3) * 4 : (i % 3) * 4 + 4] = i * 40
        entry = Texture(name="t", file="a.png", columns=3, rows=2, frames=5, data=True)
        ready = prepared(entry, pictures_of(entry, self.read("a.png", saved(Image.fromarray(sheet), "PNG"))))
        self.assertEqual(ready.frames, 5)
        self.assertEqual(ready.pixels[:, 1, 1, 0].tolist(), [0, 40, 80, 120, 160])

    def test_what_is_no_picture_says_so(self):
        for name, data in (
            ("a.png", b""),
            ("a.png", b"hello"),
            ("a.exr", b"\x76\x2f\x31\x01"),
            ("a.dds", b"DDS " + b"\0" * 200),
        ):
            with self.assertRaises(EffectError, msg=name):
                self.read(name, data)
        for path in (self.folder / "none.png", self.folder, "/dev/null", "a\0b"):
            with self.assertRaises(EffectError):
                read_raw(path)
        os.mkfifo(self.folder / "pipe.png")
        with self.assertRaises(EffectError):
            read_raw(self.folder / "pipe.png")

    def test_what_claims_to_be_huge_is_refused_before_it_is_decoded(self):
        def png(wide, high):
            import zlib

            def chunk(kind, body):
                return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

            head = struct.pack(">2I5B", wide, high, 8, 6, 0, 0, 0)
            return (
                b"\x89PNG\r\n\x1a\n"
                + chunk(b"IHDR", head)
                + chunk(b"IDAT", zlib.compress(b"\0" * 5000))
                + chunk(b"IEND", b"")
            )

        huge = (
            png(40_000, 40_000),
            png(5000, 5000),
            dds(b"DXT5", b"\0" * 64, 65_000, 65_000),
            dds(b"DXT1", b"", 8, 8),
        )
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        for i, data in enumerate(huge):
            with self.assertRaises(EffectError) as wrong:
                self.read(f"{i}.png", data)
            self.assertTrue(wrong.exception.reason.endswith("."))
        self.assertLess(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before, 200_000)
        self.assertLess(MOST_PIXELS, 5000 * 5000)

    def test_the_limit_that_is_passed_is_the_one_that_is_named(self):
        for size, limit in (
            ((16_385, 1), "at most 16,384 to a side"),
            ((1, 16_385), "at most 16,384 to a side"),
            ((5000, 5000), f"at most {MOST_PIXELS:,} are read"),
        ):
            with self.assertRaisesRegex(EffectError, limit):
                self.read("p.png", saved(Image.new("L", size), "PNG"))

    def test_thousands_of_broken_files_give_a_picture_or_a_sentence(self):
        roll = np.random.default_rng(11)
        for name, data in samples().items():
            for _ in range(60):
                broken = bytearray(data)
                kind = roll.integers(4)
                if kind == 0:
                    broken = broken[: roll.integers(len(broken))]
                else:
                    for _ in range(int(roll.integers(1, 12))):
                        at = int(roll.integers(min(len(broken), 200 if kind == 1 else len(broken))))
                        broken[at] = int(roll.integers(256))
                try:
                    raw = self.read(name, bytes(broken))
                    self.assertLessEqual(raw.pixels.shape[0] * raw.pixels.shape[1], MOST_PIXELS)
                    self.assertTrue(np.isfinite(raw.pixels.astype(np.float32)).all())
                except EffectError as wrong:
                    self.assertTrue(wrong.reason)


if __name__ == "__main__":
    unittest.main()
