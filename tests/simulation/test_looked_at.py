"""Figures of many effects beside those that were found when their other tests held: what no closed form tells
stays as it is. ``PALE_EMBER_PICTURES=write`` keeps those of now.
"""

import json
import unittest
from pathlib import Path

import numpy as np

from pale_ember.demo import NAMES, demo
from pale_ember.effect.kinds import EmitterShape, Facing
from pale_ember.simulation import Simulation

from ..building import effect_with
from ..looked_at import is_writing

FILE = Path(__file__).parent / "looked_at.json"
COUNT, MOMENT = 30, 0.8
RISING, BAND = {"curve": [[0, 0.2], [0.4, 1], [1, 0.5]]}, {"band": [[[0, 1], [1, 2]], [[0, 2], [1, 4]]]}
DRAWS = (
    {"look.draw": "sprite", "look.facing": "streak", "look.streak": 0.1},
    {"look.draw": "ribbon", "look.ribbon.lay": "repeat", "look.ribbon.lay_from": "tail"},
    {"look.draw": "mesh", "look.mesh.mesh": "shards", "look.mesh.stand": "tumble", "look.mesh.rim": RISING},
    {"look.draw": "mesh", "look.mesh.stand": "travel", "look.mesh.stretch": [1, RISING, 2]},
)
FORCES = (
    {"flight.gravity": 0.7, "flight.drag": {"spread": [0.3, 2]}, "flight.wind": 0.8},
    {"flight.pull": 2, "flight.swirl": {**BAND, "along": "life"}, "flight.orbit": 90},
    {"flight.turbulence": 4, "flight.eddy": 0.7, "flight.churn": 0.5, "flight.drag": 1},
    {"flight.thrust": [1, 0.5, RISING], "flight.drift": [0.3, 0, {"spread": [-1, 1]}], "flight.pace": RISING},
    {"flight.top_speed": 1.2, "flight.gravity": -0.3, "flight.spin": 200},
    {"flight.drag": {"curve": [[0, 0.1], [1, 3]], "along": "speed"}, "flight.speed_range": 3},
)
WAYS = (
    {},
    {"path": [{}, {"at": 0.5, "position": [2, 1, 0], "rotation": [0, 200, 30], "scale": 1.5}, {"at": 1}]},
    {"place.rotation": [20, 40, 60], "place.scale": 1.7, "place.position": [0.5, 1, -1]},
)


def made(number):
    """Return an effect of two layers; each number has other kinds, forces and ways."""
    kinds, facings = list(EmitterShape), list(Facing)
    first = {
        "emit.rate": 150,
        "emit.bursts": [
            {"at": 0.2, "count": {"spread": [10, 30]}, "repeat": 3, "every": 0.15, "chance": 0.8}
        ],
        "birthplace.kind": kinds[number % len(kinds)],
        "birthplace.fill": ("volume", "skin", "rim")[number % 3],
        "birthplace.aim": ("axis", "outward", "inward", "random")[number % 4],
        "birthplace.fan": 20 * (number % 3),
        "birthplace.arc": 360 - 70 * (number % 3),
        "birthplace.extents": [1, 0.5, 2],
        "birthplace.scatter": 0.2 * (number % 2),
        "launch.speed": {"spread": [0.5, 3]},
        "launch.lifetime": {"spread": [0.4, 1.1]},
        "launch.size": {"spread": [0.1, 0.4]},
        "launch.aspect": 1.5,
        "launch.push": [0.2, {"spread": [0, 1]}, 0],
        "launch.carry": 0.5 * (number % 2),
        "look.grow": RISING,
        "look.opacity": RISING,
        "look.color": {"gradient": [[0, "#ffe0a0"], [1, "#803010"]]},
        "look.tint": {"spread": ["#ff8080", "#8080ff"]},
        "look.facing": facings[number % len(facings)],
        "look.texture": "t" if number % 2 else "",
        "look.frame_rate": {"spread": [4, 9]},
        "look.erode.amount": RISING if number % 3 == 1 else 0,
        **FORCES[number % len(FORCES)],
        **WAYS[number % len(WAYS)],
        **DRAWS[number % len(DRAWS)],
    }
    second = {
        "origin.parent": "first",
        "origin.when": ("birth", "hit", "death", "alive")[number % 4],
        "origin.count": {"spread": [1, 4]},
        "origin.take_color": bool(number % 2),
        "origin.take_size": bool(number % 3),
        "origin.carry": 0.4,
        "origin.aim": ("own", "travel", "surface", "mirror")[number % 4],
        "launch.speed": 1,
        "flight.gravity": 1,
    }
    if number % 2:
        touch = ("bounce", "stick", "vanish")[number // 2 % 3]
        first |= {"contact.enabled": True, "contact.on_hit": touch, "contact.wear": 0.1, "flight.gravity": 1}
        first |= {"contact.bounce": {"spread": [0.2, 0.8]}, "contact.reach": 0.3}
    props = [
        {"kind": "box", "position": [0.8, 0, 0], "size": [0.5, 0.6, 3], "rotation": [0, 25, 0]},
        {"kind": "ball", "position": [-0.7, 0, 0.4], "size": [0.8, 0.8, 0.8]},
        {
            "kind": "mesh",
            "mesh": "torus",
            "position": [0, 0, -1],
            "path": [{}, {"at": 1, "rotation": [0, 90, 0]}],
        },
    ]
    effect = effect_with({"first": first, "second": second}, seed=number + 1)
    return effect.edit("stage.props", props).edit("stage.wind", [1, 0, 0.5]).edit("stage.gust", 0.4)


def figures(effect, moment):
    """Return, for each layer, what is counted and the mean and spread of all that its particles carry."""
    sim = Simulation(effect)
    sim.seek(moment)
    found = {}
    for layer in effect.layers:
        p, rows = sim.particles(layer.id), sim.instances(layer.id)
        each = {name: getattr(p, name) for name in ("position", "velocity", "age", "lifetime", "opacity")}
        each |= {f"as seen {name}": rows[name] for name in rows.dtype.names}
        own: dict[str, object] = dict(sim.counts(layer.id))
        for name, values in each.items():
            if name == "as seen angle" or not len(values):
                continue
            whole = np.asarray(values, np.float64).reshape(len(values), -1)
            own[name] = [*whole.mean(axis=0).tolist(), *whole.std(axis=0).tolist()]
        found[layer.name] = own
    return json.loads(json.dumps(found), parse_float=lambda text: float(f"{float(text):.6g}"))


class LookedAtTest(unittest.TestCase):
    def compare(self, kept, now):
        """Compare figures as far as other processors round alike: one of a hundred particles may meet what it
        missed.
        """
        self.assertEqual(list(kept), list(now))
        for layer, own in kept.items():
            self.assertEqual(list(own), list(now[layer]), layer)
            for name, value in own.items():
                other = now[layer][name]
                if isinstance(value, int):
                    self.assertLessEqual(abs(value - other), 1 + 0.01 * value, f"{layer} {name}")
                else:
                    np.testing.assert_allclose(other, value, rtol=0.01, atol=0.015, err_msg=f"{layer} {name}")

    def test_demos_and_effects_of_every_kind_have_the_figures_that_they_had(self):
        effects = {name: demo(name) for name in NAMES} | {f"made {i}": made(i) for i in range(COUNT)}
        if is_writing():
            whole = {name: figures(effect, MOMENT) for name, effect in effects.items()}
            FILE.write_text(json.dumps(whole, indent=0, ensure_ascii=False), encoding="utf-8")
        kept = json.loads(FILE.read_text(encoding="utf-8"))
        self.assertEqual(list(kept), list(effects))
        for name, effect in effects.items():
            with self.subTest(name):
                self.compare(kept[name], figures(effect, MOMENT))
