"""Builds that bring files in, from disk and back to it."""

import json
import os
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PIL import Image

from pale_ember.effect import EffectError, load_effect, save_effect
from pale_ember.effect.effect import VERSION
from pale_ember.effect.storing.storage import effect_text, parse_effect
from pale_ember.files.baked_textures import bake_textures, folder_beside
from pale_ember.files.chosen_pictures import trusted_from
from pale_ember.files.texture_pool import TexturePool
from pale_ember.files.texture_shelf import keep_texture, shelf
from pale_ember.files.textures import load_texture, problems_of, textures_of

from ..building import single
from ..command_line import run_line


def everything(path):
    return True


class BuildFilesCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(
            os.environ,
            {
                "PALE_EMBER_CACHE": f"{folder.name}/cache",
                "PALE_EMBER_TEXTURES": f"{folder.name}/shelf",
                "PALE_EMBER_STATE": f"{folder.name}/state",
            },
        )
        patch.start()
        self.addCleanup(patch.stop)

    def effect(self, *steps, **entry):
        build = {"size": 32, "steps": list(steps), **entry.pop("build", {})}
        return parse_effect(
            json.dumps(
                {
                    "format": "pale-ember/effect",
                    "version": 3,
                    "layers": [{"id": "a", "look": {"texture": "t"}}],
                    "textures": [{"name": "t", **entry, "build": build}],
                }
            )
        )

    def picture(self, name="a.png", level=None, size=16):
        path = self.folder / "home" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        pixels = (
            np.random.default_rng(1).integers(0, 256, (size, size, 4))
            if level is None
            else np.full((size, size, 4), level)
        )
        Image.fromarray(pixels.astype(np.uint8)).save(path)
        return path


class BringingTest(BuildFilesCase):
    def test_files_are_named_from_the_effects_folder_and_move_with_it(self):
        path = self.picture("pictures/a.png")
        effect = self.effect({"step": "picture", "files": [str(path)]})
        home = self.folder / "home"
        save_effect(effect, home / "e.ember")
        written = json.loads((home / "e.ember").read_text())
        self.assertEqual(written["textures"][0]["build"]["steps"][0]["files"], ["pictures/a.png"])
        self.assertEqual(load_effect(home / "e.ember"), effect)
        home.rename(self.folder / "elsewhere")
        moved = load_effect(self.folder / "elsewhere" / "e.ember")
        found, wrong = textures_of(moved, trusted_from(self.folder / "elsewhere"))
        self.assertEqual((list(found), wrong), (["t"], []))

    def test_whatever_an_effect_names_is_written_from_its_folder(self):
        home, elsewhere = self.folder / "home", self.folder / "else"
        for folder in (home / "kit", elsewhere):
            folder.mkdir(parents=True)
        inside, outside = home / "kit" / "a", elsewhere / "a"
        for at in (inside, outside):
            effect = single({"birthplace.kind": "mesh", "birthplace.mesh": f"{at}.obj"})
            effect = effect.edit("layers[0].look.mesh.mesh", f"{at}.glb")
            effect = effect.edit("stage.props", [{"kind": "mesh", "mesh": f"{at}.ply"}])
            effect = effect.edit("textures", [{"name": "t", "file": f"{at}.png"}])
            save_effect(effect, home / "e.ember")
            written = json.loads((home / "e.ember").read_text())
            layer, stem = written["layers"][0], "kit/a" if at is inside else "../else/a"
            self.assertEqual(layer["birthplace"]["mesh"], f"{stem}.obj")
            self.assertEqual(layer["look"]["mesh"]["mesh"], f"{stem}.glb")
            self.assertEqual(written["stage"]["props"][0]["mesh"], f"{stem}.ply")
            self.assertEqual(written["textures"][0]["file"], f"{stem}.png")
            self.assertEqual(load_effect(home / "e.ember"), effect)

    def test_an_edit_breaks_off_the_making_that_it_overtakes_and_no_other(self):
        asked = []
        started, go_on = threading.Event(), threading.Event()

        def slow(effect, texture, trusted, told, memory):
            asked.append((texture.name, told))
            started.set()
            go_on.wait(60.0)
            return None if told(0.5) else load_texture(effect, texture, trusted, told, memory)

        effect = self.effect({"step": "dot"})
        with mock.patch("pale_ember.files.texture_pool.load_texture", slow):
            pool = TexturePool()
            self.addCleanup(pool.close)
            pool.take(effect)
            self.assertTrue(started.wait(60.0))
            told = asked[0][1]
            self.assertFalse(told(0.1))
            # What doesn't touch the texture lets it be made; another texture doesn't.
            pool.take(effect.edit("layers[0].emit.rate", 3))
            self.assertFalse(told(0.2))
            pool.take(effect.edit("textures[0].build.size", 24))
            self.assertTrue(told(0.3))
            go_on.set()
            self.assertTrue(pool.wait())
            self.assertEqual(pool.state.ready["t"].pixels.shape[1:3], (24, 24))

    def test_what_was_not_chosen_is_not_read(self):
        outside = self.picture()
        effect = self.effect({"step": "picture", "files": [str(outside)]})
        save_effect(effect, self.folder / "other.ember")
        (self.folder / "nest").mkdir()
        for found in (
            textures_of(effect, trusted_from(self.folder / "nest"))[1],
            problems_of(effect, trusted_from(self.folder / "nest")),
        ):
            (wrong,) = found
            self.assertEqual(wrong.place, "textures[0].build.steps[0].files")
            self.assertIn("was not chosen here", wrong.reason)
        with self.assertRaises(EffectError):
            bake_textures(effect, self.folder / "out", trusted=trusted_from(self.folder / "nest"))

    def test_no_file_whatever_it_is_breaks_anything(self):
        (self.folder / "text.png").write_text("no picture")
        for name in (
            "/dev/zero",
            "/proc/self/mem",
            str(self.folder),
            "",
            " ",
            "\0x",
            "a" * 5000,
            str(self.folder / "text.png"),
        ):
            effect = self.effect({"step": "picture", "files": [name]})
            found, wrong = textures_of(effect, everything)
            self.assertEqual((found, len(wrong)), ({}, 1), name)
            self.assertTrue(wrong[0].reason.endswith((".", "it.")), wrong[0].reason)
        off = self.effect({"step": "picture", "files": ["/gone.png"], "on": False}, {"step": "dot"})
        self.assertEqual(textures_of(off, everything)[1], [], "a step that is off needs no file")

    def test_pictures_together_are_bounded(self):
        path = self.picture(size=64)
        effect = self.effect({"step": "picture", "files": [str(path), str(self.picture("b.png", size=64))]})
        with mock.patch("pale_ember.files.textures.MOST_BROUGHT", 6000):
            _, wrong = textures_of(effect, everything)
        self.assertIn("more than 6,000 pixels", wrong[0].reason)

    def test_a_changed_file_is_brought_in_anew(self):
        path = self.picture(level=40)
        pool = TexturePool(everything)
        self.addCleanup(pool.close)
        pool.take(self.effect({"step": "picture", "files": [str(path)], "channel": "alpha"}))
        self.assertTrue(pool.wait())
        self.assertEqual(pool.state.ready["t"].pixels[0, 8, 8, 3], 40)
        self.picture(level=90)
        os.utime(path, (1, 1))
        pool.look_again()
        for _ in range(200):
            pool.wait(0.5)
            if pool.state.ready["t"].pixels[0, 8, 8, 3] == 90:
                break
            pool.look_again()
        self.assertEqual(pool.state.ready["t"].pixels[0, 8, 8, 3], 90)

    def test_a_mistake_in_one_texture_leaves_the_others(self):
        pool = TexturePool(everything)
        self.addCleanup(pool.close)
        effect = self.effect({"step": "dot"})
        effect = effect.edit(
            "textures", (*effect.textures, effect.textures[0].model_copy(update={"name": "u"}))
        )
        with mock.patch("pale_ember.textures.making.build.frame_of", side_effect=ZeroDivisionError("oh")):
            pool.take(effect)
            self.assertTrue(pool.wait())
        self.assertEqual(len(pool.state.problems), 2)
        self.assertIn("ZeroDivisionError", pool.state.problems[0].reason)
        pool.take(effect.edit("textures[1].build.seed", 3))
        self.assertTrue(pool.wait())
        self.assertIn("u", pool.state.ready)


class BakingTest(BuildFilesCase):
    STEPS = (
        {"step": "dot", "radius": {"curve": [[0, 0.3], [1, 0.9]]}, "softness": 0.7},
        {"step": "color", "gradient": [[0, "#204080"], [1, "#ffc080"]]},
    )

    def baked(self, *more, **entry):
        effect = self.effect(*self.STEPS, *more, frames=5, **entry)
        row = bake_textures(effect, self.folder / "out")[0]
        sheet = {
            "name": "t",
            "file": str(self.folder / "out" / row["file"]),
            "columns": row["columns"],
            "rows": row["rows"],
            "frames": row["frames"],
            "margin": row["padding"],
            "gap": 2 * row["padding"],
        }
        return effect, row, sheet

    def test_a_padded_sheet_is_read_again_as_it_was(self):
        effect, row, sheet = self.baked(build={"padding": 3})
        self.assertEqual((row["columns"], row["rows"], row["padding"]), (3, 2, 3))
        with Image.open(sheet["file"]) as image:
            self.assertEqual(image.size, (3 * 38, 2 * 38))
        again = parse_effect(json.dumps({"format": "pale-ember/effect", "version": 3, "textures": [sheet]}))
        ours = load_texture(effect, effect.textures[0], everything)
        theirs = load_texture(again, again.textures[0], everything)
        np.testing.assert_array_equal(ours.pixels[..., 3], theirs.pixels[..., 3])
        clear = ours.pixels[..., 3] > 8
        self.assertLessEqual(np.abs(ours.pixels.astype(int) - theirs.pixels)[clear].max(), 6)

    def test_premultiplied_colours_are_written_so_and_read_so(self):
        effect, _, sheet = self.baked({"step": "premultiply"})
        again = parse_effect(
            json.dumps(
                {
                    "format": "pale-ember/effect",
                    "version": VERSION,
                    "textures": [sheet | {"cover": "premultiplied"}],
                }
            )
        )
        ours, theirs = (
            load_texture(effect, effect.textures[0], everything),
            load_texture(again, again.textures[0], everything),
        )
        self.assertLessEqual(np.abs(ours.pixels.astype(int) - theirs.pixels).max(), 1)

    def test_only_what_is_wished_is_written_and_never_over_what_is_brought_in(self):
        path = self.picture("t.png")
        effect = self.effect({"step": "picture", "files": [str(path)]})
        before = path.read_bytes()
        self.assertEqual(bake_textures(effect, path.parent, wished=lambda texture: texture.beside), [])
        with self.assertRaises(EffectError):
            bake_textures(effect, path.parent)
        self.assertEqual(path.read_bytes(), before)
        self.assertEqual(folder_beside(Path("/x/kiln.ember")), Path("/x/kiln textures"))

    def test_the_command_line_bakes_what_lies_with_the_effect(self):
        path = self.picture()
        save_effect(
            self.effect({"step": "picture", "files": [str(path)]}, build={"order": [0], "trim": True}),
            path.parent / "e.ember",
        )
        status, out, _ = run_line(
            "bake-textures", str(path.parent / "e.ember"), "--out", str(self.folder / "out"), "--json"
        )
        self.assertEqual(status, 0)
        self.assertEqual(json.loads(out)["textures"][0]["frames"], 1)
        self.assertEqual(run_line("check", str(path.parent / "e.ember"))[0], 0)
        path.unlink()
        self.assertEqual(run_line("check", str(path.parent / "e.ember"))[0], 1)


class ShelfTest(BuildFilesCase):
    def test_own_textures_go_along_with_what_they_name(self):
        effect = self.effect({"step": "cloud"}, normals="bump")
        bump = effect.textures[0].model_copy(update={"name": "bump", "normals": ""})
        effect = effect.edit("textures", (effect.textures[0], bump))
        first = keep_texture(effect.textures[0], effect)
        second = keep_texture(effect.textures[0], effect)
        self.assertNotEqual(first, second)
        own = [one for one in shelf()[0] if one.own]
        self.assertEqual([one.name for one in own], ["t", "t 2"])
        self.assertEqual(own[0].beside, (bump,))

    def test_what_is_shipped_is_a_shelf_to_start_from(self):
        found, wrong = shelf()
        self.assertEqual(wrong, [])
        self.assertGreaterEqual(len(found), 24)
        names = " ".join(one.name for one in found)
        for word in (
            "puff",
            "flame",
            "spark",
            "drop",
            "flake",
            "shard",
            "smoke ring",
            "crack",
            "scorch",
            "wisp",
            "bolt",
            "noise",
        ):
            self.assertIn(word, names)


class VersionTest(BuildFilesCase):
    def test_a_file_of_version_2_means_the_same(self):
        effect = self.effect({"step": "flow", "kind": "ring"}, {"step": "levels", "bend": 2})
        old = json.loads(effect_text(effect)) | {"version": 2}
        self.assertEqual(parse_effect(json.dumps(old)), effect)


if __name__ == "__main__":
    unittest.main()
