import json
import os
import random
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from pale_ember.effect import EffectError
from pale_ember.effect.values.curve_shapes import SHAPES
from pale_ember.effect.values.curves import Key
from pale_ember.files.curve_library import MARK, keep_shape, own_shapes


class OwnShapeTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "shapes"
        patch = mock.patch.dict(os.environ, {"PALE_EMBER_SHAPES": str(self.folder)})
        patch.start()
        self.addCleanup(patch.stop)

    def test_shapes_come_back_as_they_were(self):
        for name, shape in SHAPES.items():
            keep_shape(name, shape(5))
        found, wrong = own_shapes()
        self.assertEqual(wrong, [])
        self.assertEqual(found, {name: shape(5) for name, shape in SHAPES.items()})
        keep_shape("Pulse", (Key(0, 0), Key(1, 1)))
        # One whose name is taken gets a number.
        self.assertEqual(own_shapes()[0]["Pulse 2"], (Key(0, 0), Key(1, 1)))

    def test_odd_names_stay_in_the_folder(self):
        path = keep_shape("../../ Über / “wild” …", (Key(0, 1),))
        self.assertEqual(path.parent, self.folder)
        self.assertIn("../../ Über / “wild” …", own_shapes()[0])
        self.assertEqual(keep_shape("???", (Key(0, 1),)).name, "shape.json")

    def test_broken_files_are_said_and_left_out(self):
        path = keep_shape("Whole", SHAPES["Flicker"](1))
        whole, rng = path.read_bytes(), random.Random(7)
        for i in range(150):
            data = bytearray(whole)
            for _ in range(rng.randint(1, 5)):
                data[rng.randrange(len(data))] = rng.randrange(256)
            (self.folder / f"broken-{i:03}.json").write_bytes(data[: rng.randint(0, len(data))])
        found, wrong = own_shapes()
        self.assertIn("Whole", found)
        self.assertGreater(len(wrong), 100)
        self.assertTrue(all(words.endswith(".") and ".json" in words for words in wrong))

    def test_other_files_are_said_and_left_out(self):
        keys = [[0, 0], [1, 1]]
        others = {
            "a list": [1, 2],
            "another format": {"format": "another/shape", "name": "A", "keys": keys},
            "no format": {"name": "A", "keys": keys},
            "a number for a name": {"format": MARK, "name": 5, "keys": keys},
            "no keys": {"format": MARK, "name": "A"},
        }
        self.folder.mkdir(parents=True)
        for words, data in others.items():
            (self.folder / f"{words}.json").write_text(json.dumps(data))
        found, wrong = own_shapes()
        self.assertEqual(found, {})
        self.assertEqual([one.split(".json")[0] for one in wrong], sorted(others))

    def test_a_folder_that_can_not_be_made_is_said(self):
        self.folder.parent.mkdir(exist_ok=True)
        self.folder.write_text("a file")
        with self.assertRaisesRegex(EffectError, "can't be made"):
            keep_shape("Pulse", (Key(0, 0),))


if __name__ == "__main__":
    unittest.main()
