"""Textures of whole effects: read, refused, made, kept, written."""

import contextlib
import json
import os
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PIL import Image

from pale_ember.effect import load_effect, save_effect
from pale_ember.effect.textures import Texture
from pale_ember.files.built_textures import MAKING, _maker, cache_folder
from pale_ember.files.texture_pool import TexturePool
from pale_ember.files.textures import BACKDROP, size_note, textures_of
from pale_ember.textures.pictures import Pictures
from pale_ember.textures.prepared import prepared

from ..building import single
from ..command_line import run_line

CLOUD = {"size": 32, "steps": [{"step": "cloud"}]}


def trusting(path):
    return True


class FolderCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(
            os.environ,
            {"PALE_EMBER_CACHE": str(self.folder / "cache"), "PALE_EMBER_STATE": str(self.folder / "state")},
        )
        patch.start()
        self.addCleanup(patch.stop)

    def picture(self, name, color=(255, 0, 0, 255), size=(16, 16)):
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        Image.new("RGBA", size, color).save(path)
        return path

    def effect(self, textures, **edits):
        return single({"look.texture": textures[0]["name"], **edits}).edit("textures", textures)


class MakerTest(FolderCase):
    def test_what_is_kept_is_made_anew_where_code_that_makes_it_has_changed(self):
        packages = ("pale_ember.textures.making", "pale_ember.textures", "pale_ember.effect.steps")
        for package in packages:
            (self.folder / package).mkdir()
            for name in (*MAKING, "another.py", "notes.txt"):
                (self.folder / package / name).write_text("1")
        patch = mock.patch("pale_ember.files.built_textures.resources.files", self.folder.joinpath)
        with patch:
            before = _maker.__wrapped__()
            for package in packages:
                for name in (*MAKING, "another.py", "notes.txt"):
                    path = self.folder / package / name
                    path.write_text("2")
                    # What only shows, stores or compresses textures doesn't make them.
                    counts = name in MAKING or (name == "another.py" and package != "pale_ember.textures")
                    self.assertEqual(_maker.__wrapped__() != before, counts, path)
                    path.write_text("1")
            self.assertEqual(_maker.__wrapped__(), before)


class CommandTest(FolderCase):
    def file(self, textures, name="home/e.ember", **edits):
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        save_effect(self.effect(textures, **edits), path)
        return str(path)

    def pixels(self, file, *more):
        out = str(self.folder / "out.png")
        status, _, err = run_line("render", file, "--time", "1", "--size", "120x80", "-o", out, *more)
        return status, np.asarray(Image.open(out).convert("RGB")).astype(int), err

    def test_what_lies_outside_is_refused_until_it_is_asked_for(self):
        red = self.picture("elsewhere/red.png")
        file = self.file([{"name": "t", "file": str(red)}], **{"launch.size": 1})
        status, dot, err = self.pixels(file)
        self.assertEqual(status, 1)
        self.assertIn("textures[0].file", err)
        self.assertIn("outside", err)
        status, worn, _ = self.pixels(file, "--any-picture")
        self.assertEqual(status, 0)
        self.assertGreater(worn[..., 0].max() - worn[..., 1].max(), 60)
        self.assertLess(abs(dot[..., 0] - dot[..., 1]).max(), 20)
        link = self.folder / "home" / "link.png"
        link.symlink_to(red)
        self.assertEqual(
            self.pixels(self.file([{"name": "t", "file": str(link)}]))[0], 1, "a link leads outside too"
        )

    def test_inside_it_is_read_and_goes_along_when_the_folder_moves(self):
        self.picture("home/red.png")
        file = self.file([{"name": "t", "file": str(self.folder / "home" / "red.png")}])
        self.assertEqual(run_line("check", file)[0], 0)
        (self.folder / "home").rename(self.folder / "moved")
        self.assertEqual(run_line("check", str(self.folder / "moved" / "e.ember"))[0], 0)

    def test_check_says_what_is_missing_broken_or_unknown(self):
        (self.folder / "home").mkdir()
        (self.folder / "home" / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\nxx")
        home = self.folder / "home"
        file = self.file(
            [
                {"name": "t", "file": str(home / "none.png")},
                {"name": "b", "file": str(home / "broken.png")},
                {"name": "e"},
            ],
            **{"look.erode.amount": 0.5, "look.erode.texture": "nowhere"},
        )
        status, out, _ = run_line("check", file, "--json")
        self.assertEqual(status, 1)
        places = {row["place"]: row["reason"] for row in json.loads(out)["problems"]}
        self.assertIn("is not there", places["textures[0].file"])
        self.assertIn("textures[1].file", places)
        self.assertIn("neither a file nor a build", places["textures[2].file"])
        self.assertIn("nowhere", places["layers[0].look.erode.texture"])

    def test_builds_are_baked_to_sheets_and_read_again_as_they_were(self):
        build = {"size": 32, "steps": [{"step": "flow", "seconds": 0.5}, {"step": "normals"}]}
        file = self.file(
            [
                {"name": "my puff", "frames": 5, "build": build},
                {"name": "my_puff", "data": True, "build": CLOUD},
            ]
        )
        status, out, _ = run_line("bake-textures", file, "--out", str(self.folder / "baked"), "--json")
        self.assertEqual(status, 0)
        rows = {(row["texture"], row["kind"]): row for row in json.loads(out)["textures"]}
        self.assertEqual(
            set(rows),
            {("my puff", "picture"), ("my puff", "normals"), ("my puff", "motion"), ("my_puff", "picture")},
        )
        self.assertEqual(len({row["file"] for row in rows.values()}), 4)
        row = rows["my puff", "picture"]
        self.assertEqual((row["columns"], row["rows"], row["frames"]), (3, 2, 5))
        baked = self.folder / "baked"

        def sheet(name, file):
            return {"name": name, "file": str(baked / file), "columns": 3, "rows": 2, "frames": 5}

        again = self.effect(
            [
                {
                    **sheet("p", row["file"]),
                    "normals": "n",
                    "motion": "m",
                    "motion_reach": rows["my puff", "motion"]["reach"],
                },
                {**sheet("n", rows["my puff", "normals"]["file"]), "data": True},
                {**sheet("m", rows["my puff", "motion"]["file"]), "data": True},
            ]
        )
        made, _ = textures_of(load_effect(file), trusting)
        read, wrong = textures_of(again, trusting)
        self.assertEqual(wrong, [])
        # Light is told to 8 bits of what a screen shows, cover to 8 bits.
        one, other = (each.pixels.astype(float) / 255 for each in (read["p"], made["my puff"]))
        np.testing.assert_allclose(one[..., :3] ** 2, other[..., :3] ** 2, atol=0.012)
        np.testing.assert_allclose(one[..., 3], other[..., 3], atol=0.01)
        np.testing.assert_allclose(read["p"].normals.astype(int), made["my puff"].normals.astype(int), atol=3)
        np.testing.assert_allclose(read["p"].motion, made["my puff"].motion, atol=0.002)
        self.assertEqual(run_line("bake-textures", file, "--out", file)[0], 1)
        many = self.file([{"name": "t", "frames": 64, "build": build}], "home/many.ember")
        status, _, err = run_line("bake-textures", many, "--out", str(baked), "--size", "1024")
        self.assertEqual(status, 1)
        self.assertIn("too many", err)

    def test_a_picture_stands_behind_and_a_panorama_goes_all_around(self):
        half = Image.new("RGB", (64, 32), (0, 0, 255))
        half.paste((255, 0, 0), (0, 0, 32, 32))
        for name, size in (("wide.png", (64, 32)), ("plain.png", (30, 20))):
            (self.folder / "home").mkdir(exist_ok=True)
            half.resize(size, 0).save(self.folder / "home" / name)
            edits = {
                "stage.backdrop": "picture",
                "stage.picture": str(self.folder / "home" / name),
                "stage.floor": False,
                "stage.glow": 0.0,
            }
            effect = single({"emit.rate": 0})
            for path, value in edits.items():
                effect = effect.edit(path, value)
            shown = []
            for yaw in (90, 270):
                save_effect(effect.edit("stage.camera.yaw", yaw), self.folder / "home" / "e.ember")
                status, pixels, err = self.pixels(str(self.folder / "home" / "e.ember"))
                self.assertEqual(status, 0, err)
                shown.append(pixels[40, 60])
            if name == "wide.png":
                # Looking the other way one sees the other half.
                self.assertGreater(abs(shown[0] - shown[1]).max(), 150)
            else:
                self.assertLess(abs(shown[0] - shown[1]).max(), 3)
        found, _ = textures_of(effect, trusting)
        self.assertIn(BACKDROP, found)

    def test_props_with_meshes_are_drawn_and_their_faults_told(self):
        effect = single({"emit.rate": 0}).edit(
            "stage.props", [{"kind": "mesh", "mesh": "torus", "size": [2, 1, 2], "color": "#ff0000"}]
        )
        (self.folder / "home").mkdir()
        for mesh, status in (("torus", 0), ("missing.obj", 1)):
            path = self.folder / "home" / "e.ember"
            save_effect(effect.edit("stage.props[0].mesh", mesh), path)
            self.assertEqual(run_line("check", str(path))[0], status)
            pixels = self.pixels(str(path), "--backdrop", "noon")[1]
            self.assertEqual(bool((pixels[..., 0] - pixels[..., 1]).max() > 60), status == 0)


class PoolTest(FolderCase):
    def pool(self, trusted=trusting):
        pool = TexturePool(trusted)
        self.addCleanup(pool.close)
        return pool

    def test_what_is_worn_comes_first_and_undo_brings_back_at_once(self):
        pool = self.pool()
        first = self.effect([{"name": "t", "build": CLOUD}])
        pool.take(first)
        self.assertTrue(pool.wait())
        ready = pool.state.ready["t"]
        pool.take(first.edit("textures[0].build.seed", 5))
        self.assertTrue(pool.wait())
        self.assertIsNot(pool.state.ready["t"], ready)
        pool.take(first)
        self.assertTrue(pool.wait())
        self.assertIs(pool.state.ready["t"], ready)

    def test_an_edit_gives_up_what_is_being_made_and_stop_does_too(self):
        pool = self.pool()
        slow = {"size": 128, "steps": [{"step": "flow"}]}
        pool.take(self.effect([{"name": "t", "frames": 64, "build": slow}]))
        end = time.monotonic() + 20
        while not pool.state.working and time.monotonic() < end:
            time.sleep(0.01)
        pool.take(self.effect([{"name": "t", "build": CLOUD}]))
        self.assertTrue(pool.wait())
        self.assertEqual(pool.state.ready["t"].frames, 1)
        pool.take(self.effect([{"name": "t", "frames": 63, "build": slow}]))
        end = time.monotonic() + 20
        while not pool.state.working and time.monotonic() < end:
            time.sleep(0.01)
        pool.stop()
        self.assertTrue(pool.wait())
        if pool.state.ready["t"].frames == 63:
            self.assertIn("t", pool.state.coarse, "a coarse one stands in")
        else:
            self.assertEqual(pool.state.ready["t"].frames, 1, "the last whole one stays")

    def test_what_takes_long_is_seen_coarse_at_once_and_whole_later(self):
        pool, seen = self.pool(), []
        pool.changed = lambda: seen.append((pool.state.ready.get("t"), "t" in pool.state.coarse))
        pool.take(
            self.effect(
                [
                    {
                        "name": "t",
                        "frames": 32,
                        "build": {"size": 128, "steps": [{"step": "flow", "seconds": 0.5}]},
                    }
                ]
            )
        )
        self.assertTrue(pool.wait())
        sizes = list(dict.fromkeys((one.size[0], coarse) for one, coarse in seen if one is not None))
        self.assertEqual(len(sizes), 2)
        self.assertLess(sizes[0][0], 64)
        self.assertTrue(sizes[0][1])
        self.assertEqual(sizes[1], (128, False))
        self.assertEqual(pool.state.coarse, frozenset())

    def test_an_edit_above_a_flow_does_not_make_the_flow_anew(self):
        pool = self.pool()
        steps = [{"step": "flow", "seconds": 0.5}, {"step": "levels", "bend": 1}]
        pool.take(self.effect([{"name": "t", "frames": 4, "build": {"size": 48, "steps": steps}}]))
        self.assertTrue(pool.wait())
        before = pool.state.ready["t"]
        with mock.patch(
            "pale_ember.textures.making.build.flow_frames", side_effect=AssertionError("it was made anew")
        ):
            steps[1]["bend"] = 2
            pool.take(self.effect([{"name": "t", "frames": 4, "build": {"size": 48, "steps": steps}}]))
            self.assertTrue(pool.wait())
        self.assertEqual(pool.state.problems, ())
        self.assertFalse(np.array_equal(pool.state.ready["t"].pixels, before.pixels))
        fresh, _ = textures_of(
            self.effect([{"name": "t", "frames": 4, "build": {"size": 48, "steps": steps}}]), trusting
        )
        np.testing.assert_array_equal(pool.state.ready["t"].pixels, fresh["t"].pixels)

    def test_random_edits_end_with_the_same_as_a_fresh_pool(self):
        rng = np.random.default_rng(8)
        files = [str(self.picture(f"{i}.png", (40 * i, 90, 200, 255))) for i in range(4)]
        pool = self.pool()
        effect = self.effect([{"name": "a", "file": files[0]}, {"name": "b", "build": CLOUD}])
        for _ in range(30):
            at = int(rng.integers(2))
            path, value = [
                ("file", files[rng.integers(4)]),
                ("file", "/none.png"),
                ("columns", 2),
                ("columns", 1),
                ("data", True),
                ("wrap", True),
                ("name", f"n{rng.integers(9)}x{at}"),
                ("motion", "b"),
                ("motion", ""),
            ][rng.integers(9)]
            with contextlib.suppress(ValueError):
                effect = effect.edit(f"textures[{at}].{path}", value)
            pool.take(effect)
            if rng.random() < 0.3:
                pool.wait(5)
        self.assertTrue(pool.wait(30))
        ready, wrong = pool.state.ready, pool.state.problems
        other = self.pool()
        other.take(effect)
        self.assertTrue(other.wait(30))
        self.assertEqual(set(ready), set(other.state.ready))
        self.assertEqual({str(one) for one in wrong}, {str(one) for one in other.state.problems})
        for name, one in ready.items():
            np.testing.assert_array_equal(one.pixels, other.state.ready[name].pixels)

    def test_builds_are_kept_on_disk_and_a_broken_cache_does_no_harm(self):
        patch = mock.patch("pale_ember.files.built_textures.QUICK", 0.0)
        patch.start()
        self.addCleanup(patch.stop)
        effect = self.effect(
            [{"name": "t", "frames": 8, "build": {"size": 64, "steps": [{"step": "cells"}]}}]
        )
        first, _ = textures_of(effect, trusting)
        kept = list(cache_folder().glob("*.npz"))
        self.assertEqual(len(kept), 1)
        again, _ = textures_of(effect, trusting)
        np.testing.assert_array_equal(first["t"].pixels, again["t"].pixels)
        # Another one beside it, and neither is made again.
        other = [{"name": "o", "build": {"size": 128, "steps": [{"step": "cells"}]}}]
        textures_of(self.effect(other), trusting)
        self.assertEqual(len(list(cache_folder().glob("*.npz"))), 2)
        kept[0].write_bytes(kept[0].read_bytes()[:100])
        whole, _ = textures_of(effect, trusting)
        np.testing.assert_array_equal(first["t"].pixels, whole["t"].pixels)


class NoteTest(unittest.TestCase):
    def note(self, pixels, widest=0.0, **entry):
        texture = Texture(name="t", file="t.png", **entry)
        return size_note(texture, prepared(texture, Pictures(np.asarray(pixels, np.float32)[None])), widest)

    def test_what_is_worth_telling(self):
        dot = np.zeros((64, 64, 4))
        dot[14:50, 14:50] = 1
        self.assertEqual(self.note(dot), "")
        self.assertIn("powers of two", self.note(dot[:60]))
        self.assertIn("particles of 4 pixels", self.note(np.kron(dot, np.ones((8, 8, 1))), widest=4))
        self.assertIn("alpha is never used", self.note(np.ones((64, 64, 4))))
        tiny = np.zeros((64, 64, 4))
        tiny[30:34, 30:34] = 1
        self.assertIn("mostly empty", self.note(tiny))


if __name__ == "__main__":
    unittest.main()
