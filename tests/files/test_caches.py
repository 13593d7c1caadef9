"""Caches: the numbers are the simulation's, in every form, read by others."""

import csv
import json
import unittest
from unittest import mock

import numpy as np

from pale_ember.demo import demo
from pale_ember.effect import EffectError
from pale_ember.files.caches.scenes import _scale, _turn
from pale_ember.files.caches.writing import write_cache
from pale_ember.files.glb import read_glb
from pale_ember.files.product_options import CacheOptions
from pale_ember.simulation import Simulation
from tests.building import single

from .bundle_case import BundleCase, gltf_issues


def layer():
    return single(
        {"emit.rate": 20, "launch.lifetime": {"spread": [0.3, 0.6]}, "flight.spin": 90, "look.intensity": 3},
        duration=1.0,
    )


class Caches(BundleCase):
    def test_arrays_are_what_the_simulation_has_at_each_moment(self):
        effect, at = demo("flask"), self.folder / "x.npz"
        write_cache(effect, CacheOptions(rate=12, begin=0.5, length=1.0), at)
        found = np.load(at)
        np.testing.assert_allclose(found["times"], 0.5 + np.arange(13) / 12, atol=1e-9)
        about = json.loads(str(found["about"]))
        self.assertEqual(set(about["layers"]), {one.id for one in effect.layers})
        sim = Simulation(effect)
        for i in (0, 7, 12):
            sim.seek(float(found["times"][i]))
            for one in effect.layers:
                first = found[f"{one.id}/first"]
                rows, some = slice(first[i], first[i + 1]), sim.particles(one.id)
                np.testing.assert_array_equal(found[f"{one.id}/serial"][rows], some.serial)
                for name in ("position", "velocity", "age", "color", "opacity", "angle"):
                    np.testing.assert_array_equal(found[f"{one.id}/{name}"][rows], getattr(some, name))
                np.testing.assert_array_equal(found[f"{one.id}/size"][rows][:, 1], some.size)

    def test_progress_grows_to_the_whole(self):
        told = []
        write_cache(
            layer(), CacheOptions(rate=10), self.folder / "x.npz", lambda share: bool(told.append(share))
        )
        self.assertEqual(told, sorted(told))
        self.assertTrue(0.0 < told[0] <= 0.2 and told[-1] == 1.0, told)

    def test_text_and_arrays_say_the_same(self):
        effect = layer()
        write_cache(effect, CacheOptions(form="npz", rate=10), self.folder / "x.npz")
        write_cache(effect, CacheOptions(form="csv", rate=10), self.folder / "x.csv")
        found = np.load(self.folder / "x.npz")
        with open(self.folder / "x.csv", newline="") as file:
            rows = list(csv.DictReader(file))
        self.assertEqual([int(row["serial"]) for row in rows], found["a/serial"].tolist())
        np.testing.assert_allclose(
            [float(row["position_y"]) for row in rows], found["a/position"][:, 1], rtol=1e-6
        )
        np.testing.assert_allclose([float(row["width"]) for row in rows], found["a/size"][:, 0], rtol=1e-6)
        self.assertEqual(sorted({row["time"] for row in rows}, key=float)[-1], "1")

    def test_gltf_is_whole_and_moves_its_nodes_as_particles_go(self):
        effect, at = layer(), self.folder / "x.glb"
        write_cache(effect, CacheOptions(form="glb", rate=30), at)
        self.assertIn(gltf_issues(at.read_bytes()), ([], None))
        parts, data = read_glb(at.read_bytes())

        def numbers(accessor):
            one = parts["accessors"][accessor]
            view, wide = (
                parts["bufferViews"][one["bufferView"]],
                {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[one["type"]],
            )
            return np.frombuffer(data, np.float32, one["count"] * wide, view["byteOffset"]).reshape(-1, wide)

        animation = parts["animations"][0]
        tracks = {}
        for channel in animation["channels"]:
            sampler = animation["samplers"][channel["sampler"]]
            tracks.setdefault(channel["target"]["node"], {})[channel["target"]["path"]] = numbers(
                sampler["output"]
            )
            times = numbers(sampler["input"])[:, 0]
        sim = Simulation(effect)
        for i in (4, 17, 30):
            sim.seek(float(times[i]) + 1e-4)
            shown = sorted(
                tuple(np.round(one["translation"][i], 5))
                for one in tracks.values()
                if one["scale"][i].max() > 0
            )
            self.assertEqual(
                shown, sorted(tuple(np.round(place, 5)) for place in sim.particles("a").position)
            )

    def test_usd_has_the_particles_at_its_time_codes(self):
        try:
            from pxr import Usd, UsdGeom
        except ImportError:
            self.skipTest("USD is not installed here")
        effect, at = demo("column"), self.folder / "x.usdc"
        write_cache(effect, CacheOptions(form="usd", rate=20), at)
        stage = Usd.Stage.Open(str(at))
        self.assertEqual(UsdGeom.GetStageUpAxis(stage), "Y")
        sim = Simulation(effect)
        sim.seek(2.0)
        for i, one in enumerate(effect.layers):
            instancer = UsdGeom.PointInstancer(stage.GetPrimAtPath(f"/effect/layer_{i}"))
            code = Usd.TimeCode(2.0 * stage.GetTimeCodesPerSecond())
            np.testing.assert_array_equal(
                np.array(instancer.GetPositionsAttr().Get(code)).reshape(-1, 3),
                sim.particles(one.id).position,
            )
            np.testing.assert_array_equal(
                np.array(instancer.GetIdsAttr().Get(code)), sim.particles(one.id).serial
            )
            self.assertEqual(len(instancer.GetPrototypesRel().GetTargets()) > 0, True)
        self.assertIn("primvars:displayColor", stage.GetPrimAtPath("/effect/layer_0").GetPropertyNames())

    def test_what_cannot_be_is_a_sentence_and_the_old_file_stays(self):
        at = self.folder / "x.glb"
        at.write_bytes(b"old")
        with self.assertRaisesRegex(EffectError, "alive at once"):
            write_cache(
                layer().edit("layers[0].emit.rate", 9000).edit("layers[0].emit.cap", 9000),
                CacheOptions(form="glb", rate=4),
                at,
            )
        with mock.patch.dict("sys.modules", {"pxr": None}), self.assertRaisesRegex(EffectError, "usd-core"):
            write_cache(layer(), CacheOptions(form="usd"), at)
        self.assertEqual(at.read_bytes(), b"old")


class InScenes(unittest.TestCase):
    def test_pictures_turn_about_z_by_their_angle_and_meshes_as_they_are(self):
        found = {
            "angle": np.array([0.0, np.pi / 2, np.pi]),
            "size": np.array([[1.0, 2.0], [3.0, 1.0], [2.0, 2.0]]),
            "turn": np.array([[0.0, 0.0, 0.0, 2.0], [1.0, 0.0, 0.0, 0.0], [0.0, 3.0, 0.0, 4.0]]),
            "stretch": np.array([[1.0, 1.0, 1.0], [2.0, 1.0, 0.5], [1.0, 3.0, 1.0]]),
        }
        sprite = single({"look.draw": "sprite"}).layers[0]
        half = np.sqrt(0.5)
        np.testing.assert_allclose(
            _turn(sprite, found), [[0, 0, 0, 1], [0, 0, half, half], [0, 0, 1, 0]], atol=1e-12
        )
        np.testing.assert_array_equal(_scale(sprite, found), [[1, 2, 1], [3, 1, 1], [2, 2, 2]])
        mesh = single({"look.draw": "mesh"}).layers[0]
        np.testing.assert_allclose(
            _turn(mesh, found), [[0, 0, 0, 1], [1, 0, 0, 0], [0, 0.6, 0, 0.8]], atol=1e-12
        )
        np.testing.assert_array_equal(_scale(mesh, found), [[1, 2, 1], [6, 1, 1.5], [2, 6, 2]])


if __name__ == "__main__":
    unittest.main()
