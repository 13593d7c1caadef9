"""What is said of what is handed over, figures of layers, and pictures that were chosen."""

import json
import os
import unittest
from pathlib import Path

import numpy as np

from pale_ember.files.autosave import state_folder
from pale_ember.files.bundle.keeping import keep_bundle
from pale_ember.files.bundle.writing import write_bundle
from pale_ember.files.chosen_pictures import MOST, NAME, ChosenPictures, trusted_from
from pale_ember.files.figures import stats
from pale_ember.files.hand_over.telling import command_line, summary
from pale_ember.files.hand_over.works import Product
from pale_ember.files.library import own_of_name
from pale_ember.files.pictures import filmstrip_file
from pale_ember.files.profile import parse_profile, profile_text
from pale_ember.simulation import Simulation

from ..building import effect_with, single
from ..looked_at import compare_text
from .bundle_case import PLAIN
from .folder_case import FolderCase

FILE = Path(__file__).parent / "telling.txt"
PROFILES = {
    "plain": "",
    "small": "[sheet]\ncolumns = 1\nrows = 1\nframe = 64\npadding = 2\nmotion = true\nnormals = true\n"
    "[frames]\nrate = 0.1\nform = 'exr'\n[film]\nrate = 0.1\nbehind = 'nothing'\n"
    "[cache]\nrate = 0.1\n[bundle]\nform = 'zip'\nplayer = false\nruntime = false\ntextures = 'png'\n",
    "later": "[sheet]\nbegin = 0.5\n[frames]\nlength = 4\n[film]\nloops = 3\nform = 'gif'\n"
    "behind = 'nothing'\n"
    "[cache]\nlength = 1\n[bundle]\nplayer = false\n",
    "open": "[sheet]\nclose = false\n[frames]\nlength = 1\n[film]\nbegin = 1\n[cache]\nbegin = 3\n"
    "[budget]\nlayers = 3\n"
    "[textures]\nsoot = 'bc7'\nother = 'bc1'\n",
}
EFFECTS = {
    "loops": effect_with({"a": {"emit.rate": 5}, "b": {"enabled": False}}),
    "full": effect_with({"a": {"emit.rate": 900, "emit.cap": 20}}),
    "once": single({}, loop=False).edit("textures", [{"name": "soot", "file": "a.png"}]),
    "two": single({}).edit("textures", [{"name": "soot", "file": "a.png"}, {"name": "ash", "file": "b.png"}]),
}


class Telling(unittest.TestCase):
    def test_each_product_is_told_and_has_a_command_line(self):
        lines = []
        for name, text in PROFILES.items():
            profile = parse_profile(text)
            self.assertEqual(parse_profile(profile_text(profile)), profile)
            for product in Product:
                for word, effect in EFFECTS.items():
                    lines.append(f"{name}, {word}, {product}: {summary(product, profile, effect)}")
                known = {texture.name for texture in EFFECTS["once"].textures}
                lines.append(
                    command_line(product, profile, "my fire.ember", "out dir", "my fire", textures=known)
                )
                base = parse_profile("[sheet]\ncolumns = 2\n[textures]\nash = 'bc5'\n")
                lines.append(command_line(product, profile, "fire.ember", "out", "x", base, "game.toml"))
        compare_text(self, FILE, "\n".join(lines) + "\n")


class Figures(unittest.TestCase):
    def test_they_are_those_of_every_step(self):
        effect = effect_with(
            {
                "a": {
                    "emit.rate": 0,
                    "emit.bursts": [{"count": 30}],
                    "launch.lifetime": 0.2,
                    "launch.speed": 3,
                },
                "b": {"emit.rate": 40, "emit.cap": 5},
                "none": {"emit.rate": 0},
            }
        )
        found = stats(effect, 0.5)
        sim, peaks, low, high = Simulation(effect), [0, 0], np.full(3, np.inf), np.full(3, -np.inf)
        for step in range(31):
            for i, name in enumerate("ab"):
                peaks[i] = max(peaks[i], sim.counts(name)["alive"])
            rows = sim.instances("a")
            if step % 4 == 0 and len(rows):
                half = rows["size"].max(axis=1, keepdims=True) / 2
                low = np.minimum(low, (rows["place"] - half).min(axis=0))
                high = np.maximum(high, (rows["place"] + half).max(axis=0))
            if step < 30:
                sim.step()
        self.assertEqual([one["peak"] for one in found], [*peaks, 0])
        self.assertEqual([one["name"] for one in found], ["a", "b", "none"])
        np.testing.assert_allclose(found[0]["bounds"], (low, high), atol=1e-5)
        self.assertIsNone(found[2]["bounds"])
        for one, name in zip(found, ("a", "b"), strict=False):
            counts = sim.counts(name)
            self.assertEqual({key: one[key] for key in counts}, counts)
        self.assertEqual(len(stats(effect, 0.0)), 3)


class Chosen(FolderCase):
    def test_they_are_remembered_once_from_start_to_start_and_not_without_end(self):
        picture = self.folder / "a.png"
        picture.write_bytes(b"x")
        (self.folder / "link.png").symlink_to(picture)
        chosen = ChosenPictures()
        self.assertNotIn(str(picture), chosen)
        chosen.add(str(picture))
        chosen.add(str(self.folder / "link.png"))
        again = ChosenPictures()
        self.assertIn(str(self.folder / "link.png"), again)
        kept = state_folder() / NAME
        self.assertEqual(json.loads(kept.read_text()), [os.path.realpath(picture)])
        kept.write_text(json.dumps([f"/{i}.png" for i in range(MOST + 3)] + [7]))
        many = ChosenPictures()
        self.assertNotIn("/2.png", many)
        self.assertIn("/3.png", many)
        many.add("/new.png")
        self.assertEqual(len(json.loads(kept.read_text())), MOST)
        for wrong in ("{}", "nothing", "[1, 2]"):
            kept.write_text(wrong)
            self.assertNotIn("/4.png", ChosenPictures())

    def test_where_nothing_can_be_kept_it_counts_for_now(self):
        state_folder().parent.mkdir(parents=True, exist_ok=True)
        state_folder().write_text("a file stands where the folder should be")
        chosen = ChosenPictures()
        chosen.add("/a.png")
        self.assertIn("/a.png", chosen)

    def test_an_effect_may_read_what_lies_in_its_own_folder_and_what_was_chosen(self):
        inside = self.folder / "fire"
        (inside / "deep").mkdir(parents=True)
        (inside / "out.png").symlink_to(self.folder / "secret.png")
        chosen = ChosenPictures()
        chosen.add(str(self.folder / "known.png"))
        rule = trusted_from(inside, chosen)
        for path, may in (
            (inside / "a.png", True),
            (inside / "deep" / "a.png", True),
            (inside / ".." / "a.png", False),
            (self.folder / "fire2" / "a.png", False),
            (inside / "out.png", False),
            (self.folder / "known.png", True),
        ):
            self.assertEqual(rule(str(path)), may, path)
        self.assertFalse(trusted_from(None)(str(inside / "a.png")))
        self.assertTrue(trusted_from(Path("/"))("/a.png"))


class Kept(FolderCase):
    def test_a_bundles_layers_and_textures_are_ones_own_and_the_bundle_may_go(self):
        os.environ["PALE_EMBER_BUNDLES"] = str(self.folder / "bundles")
        os.environ["PALE_EMBER_TEXTURES"] = str(self.folder / "shelf")
        textures = [{"name": "soot", "build": {"size": 16, "steps": [{"step": "dot"}]}}]
        effect = effect_with({"flame": {}, "smoke": {}}).edit("textures", textures)
        write_bundle(effect, self.folder / "fire", PLAIN)
        self.assertEqual(keep_bundle(self.folder / "fire"), (2, 1))
        first = sorted(os.listdir(self.folder / "bundles"))
        self.assertEqual(keep_bundle(self.folder / "fire"), (2, 1))
        self.assertEqual(sorted(os.listdir(self.folder / "bundles")), first)
        self.assertTrue(first[0].startswith("fire-"))
        for name in ("flame", "smoke"):
            self.assertEqual(own_of_name(name).layer.name, name)
        self.assertIsNone(own_of_name("soot"))


class Filmstrips(FolderCase):
    def test_what_cannot_be_drawn_is_said(self):
        out = self.folder / "strip.png"
        for words, effect, layer, more in (
            ("at most 8192 each way", single({}), "", {"frames": 129, "size": (64, 64)}),
            ("at most 8192 each way", single({}), "", {"frames": 1, "size": (8, 8193)}),
            ("the effect has no layer; add one", single({}).model_copy(update={"layers": ()}), "", {}),
            ("no layer has this name", single({}), "none", {}),
            ("nothing is born in this layer", single({"emit.rate": 0}), "", {}),
        ):
            self.refused(words, lambda e=effect, i=layer, m=more: filmstrip_file(e, i, out, **m))
        self.assertFalse(out.exists())
