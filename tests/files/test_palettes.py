import random
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from pale_ember.effect import EffectError
from pale_ember.effect.values.colors import Stop, evaluate_stops, to_srgb
from pale_ember.files.palettes import image_colors, load_palette, load_strip, save_palette, save_strip

STOPS = (Stop(0.0, "#ffb060"), Stop(0.25, "#e04a12"), Stop(0.8, "#303438"), Stop(1.0, "#101010"))


class PaletteTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_palettes_keep_their_colours(self):
        save_palette(STOPS, "Kiln\nmouth", self.folder / "a.gpl")
        text = (self.folder / "a.gpl").read_text()
        self.assertTrue(text.startswith("GIMP Palette\nName: Kiln mouth\n"))
        self.assertEqual(
            [stop.color for stop in load_palette(self.folder / "a.gpl")], [s.color for s in STOPS]
        )

    def test_strips_keep_their_gradient(self):
        save_strip(STOPS, self.folder / "a.png")
        found = load_strip(self.folder / "a.png")
        self.assertLess(len(found), 24)
        x = np.linspace(0, 1, 201)
        a, b = (to_srgb(np.clip(evaluate_stops(stops, x), 0, 1)) for stops in (STOPS, found))
        self.assertLess(np.abs(a - b).max(), 0.03)

    def test_a_strip_is_read_along_its_middle_row(self):
        pixels = np.arange(9, dtype=np.uint8)[:, None, None] * np.full((1, 30, 3), 20, np.uint8)
        Image.fromarray(pixels).save(self.folder / "a.png")
        self.assertEqual({stop.color for stop in load_strip(self.folder / "a.png")}, {"#505050"})
        # From end to end, whatever its width.
        for wide in (1, 2, 7):
            Image.fromarray(pixels[:, :wide]).save(self.folder / "a.png")
            places = [stop.x for stop in load_strip(self.folder / "a.png")]
            self.assertEqual(places, [0.0] if wide == 1 else [0.0, 1.0])

    def test_main_colours_are_those_of_the_picture(self):
        pixels = np.zeros((60, 60, 3), np.uint8)
        pixels[:, :20], pixels[:, 20:40], pixels[:, 40:] = (255, 176, 96), (40, 60, 80), (200, 200, 200)
        Image.fromarray(pixels).save(self.folder / "a.png")
        found = image_colors(self.folder / "a.png", 3)
        self.assertEqual(found, ["#c8c8c8", "#ffb060", "#283c50"])

    def test_wrong_files_are_refused_in_a_sentence(self):
        rng = random.Random(3)
        (self.folder / "x.gpl").write_text("GIMP Palette\nName: x\n#\n300 0 0 too much\n")
        with self.assertRaisesRegex(EffectError, "line 4"):
            load_palette(self.folder / "x.gpl")
        for name, load in (("a.gpl", load_palette), ("a.png", load_strip), ("a.png", image_colors)):
            with self.assertRaises(EffectError):
                load(self.folder / "missing")
            save_palette(STOPS, "a", self.folder / "a.gpl")
            save_strip(STOPS, self.folder / "a.png")
            whole = (self.folder / name).read_bytes()
            for _ in range(60):
                data = bytearray(whole)
                for _ in range(rng.randint(1, 8)):
                    data[rng.randrange(len(data))] = rng.randrange(256)
                (self.folder / "m").write_bytes(data[: rng.randint(0, len(data))])
                try:
                    load(self.folder / "m")
                except EffectError:
                    pass


if __name__ == "__main__":
    unittest.main()
