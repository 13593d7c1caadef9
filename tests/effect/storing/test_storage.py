import copy
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from pale_ember.demo import kiln_mouth
from pale_ember.effect import Effect, EffectError, effect_text, load_effect, parse_effect, save_effect
from pale_ember.effect.storing.migrations import migrated
from pale_ember.effect.storing.reference import SECTIONS, reference_page
from pale_ember.effect.storing.schema import effect_schema

from ...building import single

FORMS = {
    "launch.lifetime": {"band": [[[0, 1], [1, 2]], [[0, 2], {"x": 1, "y": 3, "ease": "hold"}]]},
    "look.grow": {
        "curve": [[0, 0], {"x": 0.5, "y": 2, "ease": "free", "in": 1, "out": -1.5}, [1, 0]],
        "along": "clock",
    },
    "look.color": {"band": [[[0, "#ff0000"], [1, "#00ff00"]], [[0, "#ffffff"]]]},
    "look.tint": {"one_of": ["#102030", "#ABC", "#ff8000"]},
    "look.erode.rim_color": "#123456",
    "flight.thrust": [1, {"spread": [-2, 2]}, {"curve": [[0, 1], [1, 0]]}],
    "emit.bursts": [{"at": 0.5, "count": {"spread": [3, 8]}, "repeat": 4, "every": 0.2, "chance": 0.5}],
    "window.length": 1.5,
    "name": "Spark “ä” ✦",
}


class StorageTest(unittest.TestCase):
    def test_files_round_trip_and_hold_only_what_differs(self):
        for effect in (Effect(), single(FORMS), kiln_mouth()):
            text = effect_text(effect)
            self.assertEqual(parse_effect(text), effect)
            self.assertEqual(effect_text(parse_effect(text)), text)
        self.assertNotIn("launch", effect_text(single()))
        self.assertNotIn("along", effect_text(single({"look.grow": {"curve": [[0, 0]], "along": "life"}})))

    def test_versions(self):
        old = {"format": "pale-ember/effect", "version": 1, "nam": "x"}
        rename = {1: lambda data: {**{k: v for k, v in data.items() if k != "nam"}, "name": data["nam"]}}
        self.assertEqual(migrated(old, rename, 2), {"format": "pale-ember/effect", "version": 2, "name": "x"})
        for wrong, place in (
            ({"version": 99}, "version"),
            ({"version": "1"}, "version"),
            ({"format": "x"}, "format"),
        ):
            with self.assertRaises(EffectError) as caught:
                parse_effect(json.dumps({"format": "pale-ember/effect", "version": 1} | wrong))
            self.assertEqual(caught.exception.place, place)

    def test_what_slid_left_and_down_still_does_and_multiplied_files_stay_as_they_were_read(self):
        old = {
            "format": "pale-ember/effect",
            "version": 5,
            "layers": [
                {
                    "id": "a",
                    "look": {
                        "pan": [0.5, 0],
                        "erode": {"amount": 0.5, "pan": [-1, 2.5]},
                        "bend": {"amount": 1},
                    },
                },
                {"id": "b"},
            ],
            "textures": [
                {"name": "a", "file": "a.png", "cover": "premultiplied"},
                {"name": "b", "file": "b.png"},
            ],
        }
        effect = parse_effect(json.dumps(old))
        look = effect.layers[0].look
        self.assertEqual((look.pan, look.erode.pan, look.bend.pan), ((-0.5, 0.0), (1.0, -2.5), (0.0, 0.0)))
        self.assertEqual([str(one.cover) for one in effect.textures], ["premultiplied_srgb", "straight"])
        # And nothing is turned twice.
        self.assertEqual(parse_effect(effect_text(effect)), effect)
        for odd in ({"pan": None}, {"pan": ["x", 1]}, {"erode": 3}, 5):
            with self.assertRaises(EffectError):
                parse_effect(json.dumps({**old, "layers": [{"id": "a", "look": odd}]}))

    def test_mutated_files_load_or_are_refused_in_a_sentence(self):
        rng = random.Random(11)
        base = json.loads(effect_text(kiln_mouth()))
        start = time.monotonic()
        loaded = 0
        for _ in range(5000):
            data = mutated(base, rng)
            try:
                effect = parse_effect(data)
                loaded += 1
                self.assertEqual(parse_effect(effect_text(effect)), effect)
            except EffectError as wrong:
                self.assertTrue(wrong.place, wrong)
                self.assertLess(len(str(wrong)), 700)
                self.assertNotIn("\n", str(wrong))
                self.assertTrue(wrong.reason.rstrip().endswith((".", "?")), wrong.reason)
        self.assertGreater(loaded, 100)
        self.assertLess(time.monotonic() - start, 240)

    def test_files_that_are_no_text(self):
        with tempfile.TemporaryDirectory() as folder:
            for content in (
                b"",
                b"\xff\xfe\x00",
                b"[" * 100_000,
                b"nul",
                b"{}",
                b"[]",
                b"1" * 5000,
                b'{"a":1,"a":2}',
            ):
                path = Path(folder) / "x.ember"
                path.write_bytes(content)
                with self.assertRaises(EffectError):
                    load_effect(path)
            for path in (folder, Path(folder) / "none.ember", "\0"):
                with self.assertRaises(EffectError):
                    load_effect(path)

    def test_saving_is_whole_or_not_at_all(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "x.ember"
            save_effect(single(), path)
            os.chmod(path, 0o640)
            link = Path(folder) / "link.ember"
            link.symlink_to(path)
            save_effect(single({"name": "b"}), link)
            self.assertTrue(link.is_symlink())
            self.assertEqual(path.stat().st_mode & 0o777, 0o640)
            self.assertEqual(load_effect(path).layers[0].name, "b")
            self.assertEqual(sorted(p.name for p in Path(folder).iterdir()), ["link.ember", "x.ember"])
            with self.assertRaises(EffectError):
                save_effect(single(), Path(folder) / "none" / "x.ember")

    def test_a_kill_in_the_middle_of_saves_leaves_a_whole_file(self):
        code = (
            "import sys; from tests.building import single; from pale_ember.effect import save_effect\n"
            "effects = [single({'name': 'n' * 20000, 'launch.speed': i}) for i in range(50)]\n"
            "save_effect(effects[0], sys.argv[1]); print('ready', flush=True)\n"
            "while True:\n  for effect in effects: save_effect(effect, sys.argv[1])\n"
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "x.ember"
            for turn in range(6):
                process = subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE)
                process.stdout.readline()
                time.sleep(0.02 + 0.013 * turn)
                process.send_signal(signal.SIGKILL)
                process.wait()
                process.stdout.close()
                self.assertEqual(len(load_effect(path).layers[0].name), 20000)


class SchemaTest(unittest.TestCase):
    def test_schema_knows_each_field_and_its_limits(self):
        schema = effect_schema()
        layer = schema["properties"]["layers"]["items"]["properties"]
        self.assertEqual(
            layer["emit"]["properties"]["rate"]["anyOf"][0],
            {"type": "number", "minimum": 0, "maximum": 10_000_000},
        )
        self.assertEqual(layer["launch"]["properties"]["lifetime"]["default"], {"spread": [1, 1.5]})
        for _, model in SECTIONS:
            for name, rule in model.rules().items():
                self.assertTrue(rule.label and rule.help.endswith("."), (model, name))
                self.assertIn(f"`{name}`", reference_page())

    def test_the_reference_in_docs_is_the_models_own(self):
        page = Path(__file__).parents[3] / "docs" / "reference.md"
        self.assertEqual(
            page.read_text(encoding="utf-8"),
            reference_page(),
            "run: ./ember run reference > docs/reference.md",
        )
        schema = Path(__file__).parents[3] / "docs" / "effect.schema.json"
        self.assertEqual(
            json.loads(schema.read_text(encoding="utf-8")),
            effect_schema(),
            "run: ./ember run schema > docs/effect.schema.json",
        )


def damaged(whole: bytes, rng: random.Random) -> bytes:
    """Return a file that may be cut short or have another byte."""
    cut = rng.random()
    if cut < 0.1:
        whole = whole[: rng.randrange(len(whole))]
    elif cut < 0.2:
        at = rng.randrange(len(whole))
        whole = whole[:at] + bytes([rng.randrange(256)]) + whole[at + 1 :]
    return whole


# What stands where something else is meant.
JUNK = [
    None,
    True,
    -1,
    0,
    1e308,
    -1e308,
    10**30,
    float("nan"),
    float("inf"),
    "",
    "x" * 300,
    "#12",
    [],
    {},
    [[]],
    {"spread": [2, 1]},
    {"curve": []},
    {"curve": [[0, 0], [1, "a"]]},
    {"band": [[[0, 1]]]},
    [1, 2, 3],
    "\ud800",
    0.5,
]


def mutated(base: dict, rng: random.Random) -> str | bytes:
    """Return an effect's text with one to four things wrong with it."""
    data = copy.deepcopy(base)
    for _ in range(rng.randint(1, 4)):
        node, key = data, None
        for _ in range(rng.randint(1, 7)):
            keys = list(node) if isinstance(node, dict) else list(range(len(node)))
            if not keys:
                break
            parent, key = node, rng.choice(keys)
            if isinstance(parent[key], dict | list) and rng.random() < 0.85:
                node = parent[key]
            else:
                break
        if key is None:
            continue
        what = rng.randrange(6)
        if what == 0 and isinstance(parent, dict):
            del parent[key]
        elif what == 1 and isinstance(parent, dict):
            parent[str(key) + rng.choice("xyz_")] = parent.pop(key)
        elif what == 2:
            deep: list = []
            for _ in range(rng.choice([3, 60, 600])):
                deep = [deep]
            parent[key] = deep
        else:
            parent[key] = copy.deepcopy(rng.choice(JUNK))
    try:
        text = json.dumps(data, ensure_ascii=rng.random() < 0.5)
    except RecursionError:
        text = "[" * 5000
    return damaged(text.encode("utf-8", "surrogatepass"), rng)


if __name__ == "__main__":
    unittest.main()
