"""The plain runtime: it agrees with the simulation on known layers and on random ones, and says what it
leaves out.
"""

import json
import subprocess
import sys
import unittest

import numpy as np

from pale_ember.demo import demo
from pale_ember.effect.storing.schema import effect_schema
from pale_ember.effect.storing.storage import part_data
from pale_ember.files.bundle.runtime import known, plain_module
from pale_ember.files.bundle.writing import write_bundle
from pale_ember.simulation import Simulation
from tests.building import single

from .bundle_case import BundleCase, profile


def random_effect(rng, case):
    """Return an effect of one layer of what the runtime knows."""

    def spread(low, high):
        return {"spread": sorted(float(x) for x in rng.uniform(low, high, 2).round(3))}

    edits = {
        "emit.rate": float(rng.uniform(3, 30))
        if case % 3
        else {
            "curve": [
                [0, float(rng.uniform(0, 30))],
                [0.4, 20],
                [0.4, 4],
                [1, float(rng.uniform(0, 30))],
            ]
        },
        "emit.bursts": [
            {
                "at": round(float(rng.uniform(0, 1)), 3),
                "count": {"spread": [2, 7]},
                "repeat": 2,
                "every": 0.21,
                "chance": 0.6,
            }
        ],
        "birthplace.kind": str(rng.choice(["point", "ball", "dome", "cone", "cylinder", "box"])),
        "birthplace.aim": str(rng.choice(["axis", "outward", "inward", "random"])),
        "birthplace.fan": float(rng.choice([0, 40])),
        "birthplace.scatter": float(rng.choice([0, 0.5])),
        "birthplace.radius": float(rng.choice([0, 0.3])),
        "launch.lifetime": spread(0.2, 1.0),
        "launch.speed": spread(-1, 1),
        "launch.push": [0, spread(-1, 1), 0.1],
        "launch.angle": spread(-90, 90),
        "flight.gravity": spread(-0.3, 0.3),
        "flight.drag": spread(0, 2),
        "flight.wind": float(rng.choice([0, 0.5])),
        "flight.thrust": [spread(-1, 1), 0, 0],
        "flight.drift": [0, 0, spread(-0.2, 0.2)],
        "flight.pull": float(rng.choice([0, 1])),
        "flight.spin": spread(-90, 90),
        "flight.pace": float(rng.choice([1, 0.7])),
        "look.tint": {"one_of": ["#ff8040", "#204060", "#80ff80"][: 1 + case % 3]},
        "look.color": {"gradient": [[0, "#ffffff"], [1, "#4060ff"]]},
        "place.rotation": [float(x) for x in rng.uniform(-180, 180, 3)],
        "place.position": [0.1, 0.2, -0.3],
        "place.scale": float(rng.choice([1, 0.6])),
        "emit.cap": int(rng.choice([8, 2000])),
    }
    if case % 4 == 0:
        edits["window"] = {"begin": 0.2, "length": 0.7}
    return single(
        edits,
        duration=1.3 if case % 2 else 1.25,
        seed=case,
        repeat=bool(case % 5 == 0),
        loop=bool(case % 7),
    ).edit("stage.wind", [0.5, 0, -1])


class Proof(BundleCase):
    def test_it_proves_itself_where_the_bundle_lies_with_a_bare_python(self):
        write_bundle(
            demo("kiln-mouth").edit("duration", 1.0),
            self.folder / "kiln",
            profile(bundle__player=False, bundle__textures="png"),
        )
        run = subprocess.run(
            [
                sys.executable,
                "-I",
                "-c",
                "import sys; sys.path[0:0] = ['.']; import reference; [print(n, o) for n, o in "
                "reference.proof()]",
            ],
            cwd=self.folder / "kiln" / "runtime",
            capture_output=True,
            text=True,
            check=True,
        )
        rows = [line.rpartition(" ") for line in run.stdout.splitlines()]
        self.assertGreater(len(rows), 15)
        for name, _, off in rows:
            self.assertLess(float(off), 1e-5, name)
        vectors = json.loads((self.folder / "kiln" / "runtime" / "vectors.json").read_text())
        self.assertIn("flight.turbulence", vectors["own"]["tongues"]["lacks"])
        self.assertGreater(len(vectors["own"]["core"]["moments"][1]["particles"]), 5)
        for one in vectors["layers"]:
            self.assertGreater(len(one["births"]), 20)
            self.assertGreater(min(len(moment["particles"]) for moment in one["moments"]), 2)


class Against(unittest.TestCase):
    def test_the_vectors_are_the_simulations_own(self):
        effect = known("plume")
        sim = Simulation(effect)
        sim.seek(2.0)
        some = sim.particles("plume")
        reference, schema = plain_module("reference"), effect_schema()
        layer = reference.Layer(json.loads(json.dumps(part_data(effect))), 0, schema)
        found = {p.number: p for p in reference.simulate(layer, 2.0)}
        self.assertEqual(set(found), {int(n) for n in some.serial})
        for i, number in enumerate(some.serial):
            np.testing.assert_allclose(found[int(number)].position, some.position[i], atol=1e-5)

    def test_random_layers_agree_too(self):
        rng = np.random.default_rng(14)
        reference, schema = plain_module("reference"), effect_schema()
        for case in range(14):
            effect = random_effect(rng, case)
            layer = reference.Layer(json.loads(json.dumps(part_data(effect))), 0, schema)
            self.assertEqual(layer.lacks(), [])
            sim = Simulation(effect)
            for at in (0.4, 1.2, 2.05):
                sim.seek(at)
                some = sim.particles("a")
                found = {p.number: p for p in reference.simulate(layer, at)}
                self.assertEqual(set(found), {int(n) for n in some.serial}, (case, at))
                for i, number in enumerate(some.serial):
                    p = found[int(number)]
                    np.testing.assert_allclose(
                        p.position, some.position[i], atol=1e-5, err_msg=str((case, at))
                    )
                    np.testing.assert_allclose(p.velocity, some.velocity[i], atol=2e-5)
                    self.assertAlmostEqual(p.angle, float(some.angle[i]), delta=1e-5)
                    shown = reference.shown(layer, p, at)
                    self.assertAlmostEqual(shown["size"], float(some.size[i]), delta=1e-5)
                    np.testing.assert_allclose(shown["color"], some.color[i], atol=2e-3)
