"""What a batch reads: odd, endless and broken files, and files that change."""

import json
import os
from unittest import mock

from pale_ember.effect import save_effect
from pale_ember.files.hand_over import worker
from pale_ember.files.profile import profile_text
from pale_ember.simulation.meshes.faces import mesh_faces
from tests.building import single
from tests.command_line import run_line

from .bundle_case import PLAIN, QUICK, BundleCase

TRIANGLE = b"".join(x.to_bytes(4, "little") for x in (0, 0, 0, 0x3F800000, 0, 0, 0, 0x3F800000, 0))
GLTF = {
    "asset": {"version": "2.0"},
    "buffers": [{"uri": "points.bin", "byteLength": 36}],
    "bufferViews": [{"buffer": 0, "byteLength": 36}],
    "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
    "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
    "nodes": [{"mesh": 0}],
    "scenes": [{"nodes": [0]}],
    "scene": 0,
}


class Reads(BundleCase):
    """What effects name: pipes, devices, files that are no meshes, files that change."""

    def effect(self, mesh):
        return single({"birthplace.kind": "mesh", "birthplace.mesh": mesh}, duration=0.3)

    def test_pipes_and_devices_are_refused_and_nobody_waits_for_them(self):
        os.mkfifo(self.folder / "pipe.obj")
        os.mkfifo(self.folder / "points.bin")
        os.mkfifo(self.folder / "paint.mtl")
        (self.folder / "piped.gltf").write_text(json.dumps(GLTF))
        (self.folder / "endless.gltf").write_text(json.dumps(GLTF).replace("points.bin", "/dev/zero"))
        (self.folder / "painted.obj").write_text(
            "mtllib paint.mtl\nusemtl a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
        )
        (self.folder / "flat.obj").write_text("v 1 2\nv 0 0\nv 1 1\nf 1 2 3\n")
        for name, good in (
            ("pipe.obj", False),
            ("piped.gltf", False),
            ("endless.gltf", False),
            ("painted.obj", True),
            ("flat.obj", False),
        ):
            file = self.folder / "a.ember"
            save_effect(self.effect(str(self.folder / name)), file)
            save_effect(
                single({"look.draw": "mesh", "look.mesh.mesh": str(self.folder / name)}, duration=0.3),
                self.folder / "b.ember",
            )
            for one in (file, self.folder / "b.ember"):
                status, out, err = run_line("check", str(one))
                self.assertEqual(status, 0 if good else 1, (name, out, err))
                order = {
                    "file": str(one),
                    "at": str(self.folder / "out" / "a"),
                    "name": "a",
                    "out": str(self.folder / "out"),
                    "product": "bundle",
                    "profile": profile_text(PLAIN),
                }
                found = worker.handle(order, lambda share: False)
                self.assertEqual(found["state"] == "failed", not good, found)

    def test_the_part_of_a_mesh_that_lies_beside_it_counts(self):
        (self.folder / "m.gltf").write_text(json.dumps(GLTF))
        (self.folder / "points.bin").write_bytes(TRIANGLE)
        file = self.folder / "a.ember"
        save_effect(self.effect(str(self.folder / "m.gltf")), file)
        line = ["export", str(file), "--out", str(self.folder / "out"), *QUICK]
        self.assertIn("1 written", run_line(*line)[1])
        self.assertIn("1 unchanged", run_line(*line)[1])
        before = mesh_faces(str(self.folder / "m.gltf")).max()
        (self.folder / "points.bin").write_bytes(TRIANGLE.replace(b"\x80\x3f", b"\x00\x40"))
        self.assertIn("1 written", run_line(*line)[1])
        self.assertEqual((float(before), float(mesh_faces(str(self.folder / "m.gltf")).max())), (1.0, 2.0))

    def test_what_is_saved_while_it_is_written_is_written_anew(self):
        file, out = self.folder / "a.ember", self.folder / "out"
        save_effect(single({"emit.rate": 5}, duration=0.3), file)
        order = {
            "file": str(file),
            "at": str(out / "a"),
            "name": "a",
            "out": str(out),
            "product": "bundle",
            "profile": profile_text(PLAIN),
        }
        real, saves = worker.perform, []

        def saved_meanwhile(work, say):
            if not saves:
                saves.append(1)
                save_effect(single({"emit.rate": 50}, duration=0.3), file)
            return real(work, say)

        with mock.patch.object(worker, "perform", saved_meanwhile):
            self.assertEqual(worker.handle(order, lambda share: False)["state"], "written")
        self.assertIn(b"50", (out / "a" / "effect.json").read_bytes())
        self.assertEqual(worker.handle(order, lambda share: False)["state"], "unchanged")

        # One that never rests is written, but never taken for done.
        def always(work, say):
            saves.append(1)
            save_effect(single({"emit.rate": 100 + len(saves)}, duration=0.3), file)
            return real(work, say)

        save_effect(single({"emit.rate": 7}, duration=0.3), file)
        with mock.patch.object(worker, "perform", always):
            self.assertEqual(worker.handle(order, lambda share: False)["state"], "written")
        self.assertEqual(worker.handle(order, lambda share: False)["state"], "written")
