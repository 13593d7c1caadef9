"""Bundles: what is in them, the same bytes each time, back again, and what is refused."""

import io
import json
import os
import zipfile
from pathlib import Path
from unittest import mock

import jsonschema
import numpy as np
import texture2ddecoder
import trimesh
from PIL import Image

from pale_ember.demo import NAMES, demo
from pale_ember.effect import Effect, EffectError, load_effect
from pale_ember.effect.rules.edit import get
from pale_ember.effect.storing.schema import effect_schema
from pale_ember.effect.storing.storage import effect_text
from pale_ember.effect.values.colors import evaluate_stops
from pale_ember.effect.values.curves import evaluate
from pale_ember.files.bundle.baking import texture_files
from pale_ember.files.bundle.figures import figures_of
from pale_ember.files.bundle.meshes import mesh_files
from pale_ember.files.bundle.reading import damaged, is_bundle, load_bundle, read_manifest, unpacked
from pale_ember.files.bundle.tables import tables_of
from pale_ember.files.bundle.tree import read_folder, zip_bytes
from pale_ember.files.bundle.writing import bundle_of, write_bundle
from pale_ember.files.stopping import Stopped
from pale_ember.simulation import Simulation
from pale_ember.textures.compressing import Blocks
from pale_ember.textures.dds import read_dds
from tests.building import effect_with, single

from .bundle_case import PLAIN, BundleCase, gltf_issues, profile


class Whole(BundleCase):
    def test_it_comes_back_byte_for_byte_and_needs_nothing_outside(self):
        _, effect = self.rich()
        first = write_bundle(effect, self.folder / "one", PLAIN)
        os.rename(self.folder / "work", self.folder / "gone")
        again = load_bundle(self.folder / "one")
        second = write_bundle(again, self.folder / "two", PLAIN)
        self.assertEqual(first, second)
        self.assertEqual(read_folder(self.folder / "one"), read_folder(self.folder / "two"))
        third = bundle_of(load_bundle(unpacked(self._zipped(second), self.folder / "kept")), PLAIN)
        self.assertEqual(first, third)
        whole = b"\n".join(data for name, data in first.items() if name.endswith((".json", ".html")))
        self.assertNotIn(str(self.folder).encode(), whole)
        self.assertEqual(damaged(self.folder / "two"), [])

    def _zipped(self, tree):
        at = self.folder / "whole.zip"
        at.write_bytes(zip_bytes(tree))
        return at

    def test_what_it_holds_fits_its_schemas(self):
        _, effect = self.rich()
        tree = bundle_of(effect, PLAIN)
        for data, schema in (("effect.json", "effect.schema.json"), ("bundle.json", "bundle.schema.json")):
            jsonschema.Draft202012Validator(json.loads(tree[schema])).validate(json.loads(tree[data]))
        told = json.loads(tree["bundle.json"])
        self.assertEqual(set(told["files"]), set(tree) - {"bundle.json"})
        self.assertEqual({row["mesh"] for row in told["meshes"]}, {"sources/stone.obj", "ball"})
        self.assertEqual(
            sorted(name for name in tree if name.startswith("sources/")),
            ["sources/puff-2.png", "sources/puff.png", "sources/stone.obj"],
        )

    def test_all_demos_fit_their_schema_and_come_back(self):
        schema = jsonschema.Draft202012Validator(effect_schema())
        for name in NAMES:
            schema.validate(json.loads(effect_text(demo(name))))
        write_bundle(demo("quench"), self.folder / "quench", PLAIN)
        self.assertEqual(load_bundle(self.folder / "quench"), demo("quench"))

    def test_textures_are_read_by_two_readers_and_keep_forty_decibels(self):
        tree, rows = texture_files(demo("kiln-mouth"), lambda path: True, {}, None)
        plain, plain_rows = texture_files(demo("kiln-mouth"), lambda path: True, {}, Blocks.PLAIN)
        pngs = {(row["texture"], row["kind"]): row["file"] for row in plain_rows}
        self.assertEqual({row["format"] for row in rows}, {"bc4", "bc5", "bc7"})
        for row in rows:
            data = tree[row["file"]]
            wanted = np.asarray(
                Image.open(io.BytesIO(plain[pngs[row["texture"], row["kind"]]])).convert("RGBA")
            ).astype(float)
            ours = read_dds(data).levels
            self.assertEqual(len(ours), row["levels"])
            other = np.asarray(Image.open(io.BytesIO(data)))
            other = np.atleast_3d(other)
            wide, high = row["size"]
            third = np.frombuffer(
                getattr(texture2ddecoder, f"decode_{row['format']}")(data[148:], wide, high), np.uint8
            ).reshape(high, wide, 4)[..., [2, 1, 0, 3]]
            # Of each channel that is stored, what the picture has there.
            for channel, place in enumerate(row["swizzle"]):
                if place in "rgba":
                    at = "rgba".index(place)
                    for found in (ours[0], other, third):
                        self.assertLess(
                            float(((found[..., at].astype(float) - wanted[..., channel]) ** 2).mean()),
                            255**2 / 10**4,
                            row["file"],
                        )

    def test_meshes_are_whole_by_the_validator_and_another_reader(self):
        for name in ("column", "flask"):
            tree, rows = mesh_files(demo(name))
            for row in rows:
                scene = trimesh.load(io.BytesIO(tree[row["file"]]), file_type="glb")
                self.assertEqual(len(scene.geometry), row["parts"])
                self.assertEqual(sum(len(one.faces) for one in scene.geometry.values()), row["triangles"])
                issues = gltf_issues(tree[row["file"]])
                self.assertIn(issues, ([], None))

    def test_tables_are_as_near_as_they_say(self):
        effect = demo("column")
        rng = np.random.default_rng(2)
        for row in tables_of(effect):
            value, x = get(effect, row["path"]), rng.uniform(0, 1, 2000)
            sides = [
                getattr(value, name) for name in ("keys", "stops", "low", "high") if hasattr(value, name)
            ] or [value]
            for name, side in zip(("low", "high"), sides, strict=False):
                samples, even = np.array(row[name]), np.linspace(0, 1, row["samples"])
                colored = samples.ndim == 2
                true = evaluate_stops(side, x) if colored else evaluate(side, x)[:, None]
                found = np.stack([np.interp(x, even, one) for one in samples.reshape(len(samples), -1).T], 1)
                away = np.all(
                    [np.abs(x - step) > 1 / (row["samples"] - 1) for step in row["steps"]]
                    or [np.ones(len(x), bool)],
                    axis=0,
                )
                self.assertLessEqual(np.abs(found - true)[away].max(), row["error"] * 1.2 + 1e-6, row["path"])

    def test_layers_that_show_nothing_have_bundles_too(self):
        silent = effect_with(
            {
                "none": {"emit.rate": 0},
                "late": {"window.begin": 0.29},
                "off": {"enabled": False},
                "bands": {"look.draw": "ribbon", "emit.rate": 0},
                "behind": {
                    "look.draw": "ribbon",
                    "look.ribbon.join": "parent",
                    "origin.parent": "none",
                    "origin.when": "alive",
                },
                "bodies": {"look.draw": "mesh", "emit.rate": 0},
            },
            duration=0.3,
            name="</script>%DATA% & co",
        )
        for effect in (silent, Effect(), silent.edit("layers[0].emit.rate", 8)):
            tree = bundle_of(effect)
            self.assertEqual(tree["player.html"].count(b"</script>"), 2)
            self.assertEqual(len(json.loads(tree["bundle.json"])["figures"]["layers"]), len(effect.layers))

    def test_very_long_and_very_full_effects_have_small_pages(self):
        full = single(
            {
                "emit.rate": 2000,
                "launch.lifetime": 0.6,
                "look.color": {"gradient": [[0, "#ffffff"], [1, "#000000"]]},
            },
            duration=0.7,
        )
        with mock.patch("pale_ember.files.bundle.recordings.MOST", 1 << 20):
            small = bundle_of(full, profile(bundle__runtime=False))["player.html"]
        self.assertLess(len(small), len(bundle_of(full, profile(bundle__runtime=False))["player.html"]))
        long = single({"emit.rate": 0.5}, duration=400.0, step_rate=30)
        self.assertLess(len(bundle_of(long, profile(bundle__runtime=False))["player.html"]), 1 << 20)

    def test_figures_and_bounds_are_those_of_every_step(self):
        effect = self.rich()[1].edit("layers[0].look.facing", "streak").edit("layers[0].look.streak", 0.2)
        found = figures_of(effect)
        sim, peak = Simulation(effect), 0
        low, high = np.array(found["bounds"])
        for step in range(61):
            sim.seek(step / 60)
            peak = max(peak, sum(sim.counts(layer.id)["alive"] for layer in effect.layers))
            for layer in effect.layers:
                place = sim.particles(layer.id).position
                if len(place):
                    self.assertTrue((place >= low).all() and (place <= high).all())
        self.assertEqual(found["peak"], peak)
        self.assertGreater(found["layers"][3]["refused"], 0)


class Refused(BundleCase):
    def test_a_texture_that_is_missing_is_told_and_what_was_there_stays(self):
        at, effect = self.rich()
        write_bundle(effect, self.folder / "out", PLAIN)
        before = read_folder(self.folder / "out")
        (at.parent / "a" / "puff.png").unlink()
        with self.assertRaisesRegex(EffectError, "puff.png"):
            write_bundle(load_effect(at), self.folder / "out", PLAIN)
        self.assertEqual(read_folder(self.folder / "out"), before)

    def test_files_outside_are_only_brought_in_if_trusted(self):
        _, effect = self.rich()
        with self.assertRaisesRegex(EffectError, "outside the effect"):
            bundle_of(effect, PLAIN, lambda path: "stone" not in path)

    def test_no_other_folder_or_file_is_written_over(self):
        _, effect = self.rich()
        other = self.folder / "other"
        other.mkdir()
        (other / "diary.txt").write_text("salt")
        with self.assertRaisesRegex(EffectError, "no bundle"):
            write_bundle(effect, other, PLAIN)
        with self.assertRaisesRegex(EffectError, "file of this name"):
            write_bundle(effect, other / "diary.txt", PLAIN)
        with self.assertRaises(EffectError):
            write_bundle(effect, self.folder / "work", PLAIN, inputs=(self.folder / "work" / "stones.ember",))
        self.assertEqual((other / "diary.txt").read_text(), "salt")

    def test_a_full_disk_leaves_what_was_there(self):
        _, effect = self.rich()
        write_bundle(effect, self.folder / "out", PLAIN)
        before = read_folder(self.folder / "out")
        with (
            mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")),
            self.assertRaisesRegex(EffectError, "no space left"),
        ):
            write_bundle(effect.edit("name", "Another"), self.folder / "out", PLAIN)
        self.assertEqual(read_folder(self.folder / "out"), before)
        self.assertEqual([one.name for one in self.folder.iterdir() if one.name.startswith(".pale")], [])

    def test_it_can_be_stopped(self):
        _, effect = self.rich()
        seen = []
        with self.assertRaises(Stopped):
            bundle_of(effect, PLAIN, progress=lambda share: seen.append(share) or share > 0.4)
        self.assertEqual(seen, sorted(seen))

    def test_zips_that_mean_harm_or_are_broken_are_refused(self):
        def packed(**files):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w") as file:
                for name, data in files.items():
                    file.writestr(name.replace("__", "/"), data)
            return out.getvalue()

        cases = {
            "outside": packed(**{"..__..__evil": b"x", "bundle.json": b"{}"}),
            "no bundle": packed(a=b"x"),
            "can't be unpacked": b"PK\x03\x04 not a zip",
            "can't": zip_bytes({"bundle.json": b"{}" * 400})[:60],
        }
        for words, data in cases.items():
            at = self.folder / "x.zip"
            at.write_bytes(data)
            with self.assertRaisesRegex(EffectError, words):
                unpacked(at, self.folder / "kept")
        self.assertEqual(list((self.folder / "kept").iterdir()), [])
        self.assertFalse(Path(self.folder.parent, "evil").exists())

    def test_manifests_that_are_wrong_are_refused_in_a_sentence(self):
        at = self.folder / "b"
        at.mkdir()
        for text, words in (
            ("", "whole JSON"),
            ("[]", "no bundle"),
            ('{"format": "pale-ember/bundle", "version": 9}', "newer"),
            ('{"format": "pale-ember/bundle"}', "name"),
        ):
            (at / "bundle.json").write_text(text)
            self.assertTrue(is_bundle(at))
            with self.assertRaisesRegex(EffectError, words):
                read_manifest(at)
