"""Reading and writing: regular files only, whole or not at all, and nothing that anybody wants is lost."""

import json
import os
import subprocess
import sys
import unittest
from pathlib import Path

import numpy as np
import trimesh
from PIL import Image

from pale_ember.checks import find_problems
from pale_ember.effect import EffectError, effect_text, load_effect, parse_effect, save_effect
from pale_ember.effect.storing.whole_files import read_regular, temporary_prefix, write_whole
from pale_ember.files import autosave
from pale_ember.files.curve_library import keep_shape, own_shapes
from pale_ember.files.library import keep_layer, starts
from pale_ember.files.palettes import image_colors, load_palette
from pale_ember.simulation.meshes.faces import mesh_faces

from ..building import single
from .folder_case import FolderCase


class WholeFileTest(FolderCase):
    def test_only_regular_files_are_read_and_written_over(self):
        pipe, link = self.folder / "pipe", self.folder / "link"
        os.mkfifo(pipe)
        link.symlink_to(pipe)
        for path in (pipe, link, "/dev/null", self.folder):
            self.refused("", write_whole, path, b"x")
            if path != self.folder:
                self.refused("no regular file", read_regular, path, 1 << 20)
        self.assertTrue(pipe.is_fifo())
        file = self.folder / "a"
        write_whole(file, b"12345")
        self.refused("file that is read", write_whole, file, b"x", (file,))
        (self.folder / "same").symlink_to(file)
        self.refused("file that is read", write_whole, self.folder / "same", b"x", (file,))
        self.assertEqual(file.read_bytes(), b"12345")
        self.refused("larger than", read_regular, file, 4)

    def test_names_as_long_as_they_may_be_and_what_killed_saves_leave(self):
        path = self.folder / ("🔥" * 60 + ".ember")
        save_effect(single(), path)
        self.assertEqual(load_effect(path), single())
        left = self.folder / f"{temporary_prefix().replace(f'-{os.getpid()}-', '-999999999-')}abc.part"
        left.write_text("cut")
        mine = self.folder / f"{temporary_prefix()}abc.part"
        mine.write_text("being written")
        # Another machine's, which nobody here can tell to be dead.
        theirs = self.folder / ".pale-ember-ffffff-999999999-abc.part"
        theirs.mkdir()
        save_effect(single(), path)
        self.assertEqual((left.exists(), mine.exists(), theirs.exists()), (False, True, True))
        copy = autosave.Autosave().copy_of(path)
        self.assertLessEqual(len(copy.name.encode()), 255)

    def test_a_name_twice_is_found_without_looking_at_all_pairs(self):
        text = "{" + ",".join(f'"n{i}": 1' for i in range(60_000)) + ', "n7": 2}'
        self.refused("stands twice", parse_effect, text)

    def test_odd_names_have_a_place(self):
        for name in ("", "\x07x", " ", "a.b", "zoop"):
            with self.assertRaises(EffectError) as caught:
                parse_effect(json.dumps({"format": "pale-ember/effect", "version": 1, name: 1}))
            self.assertTrue(caught.exception.place)
            self.assertTrue(caught.exception.reason.isprintable())

    def test_mutated_files_load_or_are_refused_with_a_place(self):
        texts = [
            effect_text(
                single(
                    {"look.grow": {"band": [[[0, 1], [1, 2]], [[0, 2], [1, 3]]]}, "emit.bursts": [{"at": 1}]}
                )
            )
        ]
        texts += [path.read_text() for path in Path("src/pale_ember/demo").glob("*.ember")]
        dice = np.random.default_rng(5)
        for i in range(1500):
            raw = bytearray(texts[i % len(texts)].encode())
            for _ in range(int(dice.integers(1, 6))):
                at = int(dice.integers(len(raw)))
                kind = dice.integers(4)
                if kind == 0:
                    raw[at] = int(dice.integers(256))
                elif kind == 1:
                    del raw[at : at + int(dice.integers(1, 40))]
                elif kind == 2:
                    raw[at:at] = bytes(raw[at : at + int(dice.integers(1, 60))])
                else:
                    raw[at:at] = dice.choice(
                        [b"1e999", b"null", b"-0", b"{}", b"[[[[", b'"\\u0000"', b"9" * 400]
                    ).tobytes()
            try:
                parse_effect(bytes(raw))
            except EffectError as wrong:
                self.assertTrue(wrong.place and wrong.reason.endswith((".", "?")), wrong)


class LibraryTest(FolderCase):
    def test_names_that_look_alike_as_files_never_overwrite_one_another(self):
        effect = single()
        for name in ("Fire!", "fire", "🔥", "FIRE", "fire", "❄"):
            keep_layer(effect.layers[0].model_copy(update={"name": name}), effect)
        names = [start.name for start in starts(self.folder)[0] if start.own]
        self.assertEqual(sorted(names), sorted(["Fire!", "fire", "🔥", "FIRE", "fire 2", "❄"]))
        keys = single({"look.grow": {"curve": [[0, 0], [1, 1]]}}).layers[0].look.grow.keys
        for name in ("in!", "in", "in"):
            keep_shape(name, keys)
        self.assertEqual(set(own_shapes()[0]), {"in!", "in", "in 2"})


class AutosaveTest(FolderCase):
    def note(self, name, **data):
        folder = autosave.state_folder()
        folder.mkdir(exist_ok=True)
        (folder / f"open-{name}.json").write_text(json.dumps(data))

    def test_no_note_keeps_the_window_from_starting(self):
        os.mkfifo(self.folder / "pipe")
        self.note("1", pid=999_999_999, path=7, autosave="x")
        self.note("2", pid=1e300, path=None, autosave=str(self.folder))
        self.note("3", pid=999_999_999, path=None, autosave=str(self.folder / "pipe"))
        self.note("4", pid=999_999_999, path="x\0y", autosave="x\0y")
        folder = autosave.state_folder()
        (folder / "open-5.json").write_text("[" * 100_000)
        (folder / "open-6.json").write_text('{"pid": 1e999, "path": null, "autosave": "x"}')
        os.mkfifo(folder / "open-7.json")
        self.assertEqual([left for left in autosave.leftovers() if not left.problem], [])

    def test_two_windows_on_one_file_keep_two_and_a_cut_one_is_told(self):
        path = self.folder / "x.ember"
        save_effect(single(), path)
        mine = autosave.Autosave()
        mine.keep(single({"name": "mine"}), path)
        code = (
            "import os, sys; from pathlib import Path; from tests.building import single\n"
            "from pale_ember.files.autosave import Autosave\n"
            "Autosave().keep(single({'name': 'theirs'}), Path(sys.argv[1])); os.kill(os.getpid(), 9)"
        )
        subprocess.run([sys.executable, "-c", code, str(path)], check=False)
        self.assertEqual(autosave.leftover_of(path).effect().layers[0].name, "theirs")
        self.assertEqual(parse_effect(mine.copy_of(path).read_bytes()).layers[0].name, "mine")
        (left,) = autosave.leftovers()
        left.autosave.write_bytes(left.autosave.read_bytes()[:40])
        self.assertTrue(autosave.leftover_of(path).problem)
        self.assertTrue(autosave.leftovers()[0].problem)
        mine.clear()


class MeshFileTest(FolderCase):
    def test_comments_in_any_letters_and_plain_words_for_what_is_wrong(self):
        box = trimesh.creation.box()
        obj = trimesh.exchange.export.export_mesh(box, self.folder / "a.obj", file_type="obj")
        obj = obj if isinstance(obj, bytes) else obj.encode()
        (self.folder / "a.obj").write_bytes("# größe\n".encode("latin-1") + obj)
        self.assertEqual(len(mesh_faces(str(self.folder / "a.obj"))), 12)
        stl = box.export(file_type="stl_ascii")
        (self.folder / "a.stl").write_bytes(stl.replace("solid", "solid größe", 1).encode("latin-1"))
        self.assertEqual(len(mesh_faces(str(self.folder / "a.stl"))), 12)
        for name in ("b.glb", "b.ply", "b.stl", "b.gltf"):
            (self.folder / name).write_bytes(b"solid \0\1\2 nothing of the kind")
            wrong = self.refused("", mesh_faces, str(self.folder / name))
            self.assertNotRegex(
                wrong.reason.replace(str(self.folder), ""), r"Error|numpy|trimesh|0x|Traceback|Expecting"
            )
        os.mkfifo(self.folder / "pipe.obj")
        self.refused("no regular file", mesh_faces, str(self.folder / "pipe.obj"))

    def test_a_file_of_very_many_parts_is_refused_at_once(self):
        nodes = [{"mesh": 0, "translation": [i, 0, 0]} for i in range(20_000)]
        (self.folder / "many.gltf").write_text(
            json.dumps({"asset": {"version": "2.0"}, "nodes": nodes, "meshes": []})
        )
        self.refused("20000 parts", mesh_faces, str(self.folder / "many.gltf"))

    def test_a_missing_mesh_is_found(self):
        effect = single({"birthplace.kind": "mesh", "birthplace.mesh": str(self.folder / "none.obj")})
        (wrong,) = find_problems(effect)
        self.assertEqual(wrong.place, "layers[0].birthplace.mesh")
        self.assertEqual(find_problems(effect.edit("layers[0].enabled", False)), [])


class PictureTest(FolderCase):
    def test_large_palettes_and_pictures_take_no_time_and_no_memory(self):
        rows = "GIMP Palette\n" + "1 2 3 x\n" * 40_000
        file = self.folder / "a.gpl"
        file.write_bytes(b"\xef\xbb\xbf" + rows.encode())
        self.assertEqual(len(load_palette(file)), 64)
        file.write_text("GIMP Palette\n" + "1 2 3\n" * 9_000_000)
        self.refused("larger than", load_palette, file)
        Image.new("L", (13_300, 13_300)).save(self.folder / "big.png")
        self.refused("too many", image_colors, self.folder / "big.png")


if __name__ == "__main__":
    unittest.main()
