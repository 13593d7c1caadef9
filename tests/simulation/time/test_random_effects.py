"""Random effects at and near their limits: the same by every way, bounded, and never a number that is
none of their own.
"""

import unittest

import numpy as np

from pale_ember.checks import find_problems
from pale_ember.effect import Effect, EffectError, effect_text, parse_effect
from pale_ember.effect.effect import Layer
from pale_ember.effect.rules.edit import get
from pale_ember.simulation import Simulation
from pale_ember.simulation.time.weight import slowness

CHAPTERS = ("emit", "birthplace", "launch", "flight", "look", "place", "window", "contact", "origin")


class Dice:
    """Random values by the fields' own rules."""

    def __init__(self, seed: int) -> None:
        self.roll = np.random.default_rng(seed)

    def number(self, rule):
        low, high = max(rule.hard[0], -1e6), min(rule.hard[1], 1e7)
        size = 10 ** self.roll.uniform(-4, 6) * self.roll.choice([1, -1])
        ways = (
            low,
            high,
            self.roll.uniform(*rule.soft),
            self.roll.uniform(*rule.soft),
            self.roll.uniform(low, high),
            size,
        )
        return float(np.clip(ways[self.roll.integers(len(ways))], low, high))

    def keys(self, rule):
        found = []
        for _ in range(self.roll.integers(1, 6)):
            key = {"x": float(self.roll.choice([0, 0.5, 1, self.roll.uniform()])), "y": self.number(rule)}
            key["ease"] = str(self.roll.choice(["smooth", "linear", "hold", "free"]))
            if key["ease"] == "free":
                key |= {"in": float(self.roll.uniform(-999, 999)), "out": float(self.roll.uniform(-999, 999))}
            found.append(key)
        return found

    def value(self, rule):
        along = str(self.roll.choice(rule.along))
        return (
            self.number(rule),
            {"spread": [self.number(rule), self.number(rule)]},
            {"curve": self.keys(rule), "along": along},
            {"band": [self.keys(rule), self.keys(rule)], "along": along},
        )[self.roll.integers(4)]

    def anything(self, rule):
        stops = [[float(x), f"#{self.roll.integers(1 << 24):06x}"] for x in self.roll.uniform(0, 1, 4)]
        makers = {
            "value": lambda: self.value(rule),
            "vec3_value": lambda: [self.value(rule) for _ in range(3)],
            "vec3": lambda: [self.number(rule) for _ in range(3)],
            "number": lambda: self.number(rule),
            "integer": lambda: int(self.number(rule)),
            "flag": lambda: bool(self.roll.integers(2)),
            "choice": lambda: str(self.roll.choice([str(one) for one in rule.choices])),
            "color_value": lambda: (
                {"gradient": stops, "along": str(self.roll.choice(rule.along))}
                if self.roll.integers(2)
                else {"one_of": [one for _, one in stops]}
            ),
            "mesh": lambda: str(self.roll.choice(["ball", "torus", "plane"])),
            "text": lambda: "x",
            "vec2": lambda: [self.number(rule) for _ in range(2)],
            "color": lambda: f"#{self.roll.integers(1 << 24):06x}",
            "texture": lambda: str(self.roll.choice(["", "x"])),
            "anchor": lambda: str(self.roll.choice(["layer:l0", "layer:l1", "prop:Prop", ""])),
            "layer": lambda: str(self.roll.choice(["l0", "l1", "l2", ""])),
        }
        return makers[rule.kind]()

    def edit(self, effect, path, likely):
        if self.roll.uniform() > likely:
            return effect
        where, _, name = path.rpartition(".")
        rule = type(get(effect, where) if where else effect).rules()[name]
        try:
            return effect.edit(path, self.anything(rule))
        except EffectError:
            return effect

    def effect(self) -> Effect:
        effect = Effect(layers=tuple(Layer(id=f"l{k}") for k in range(self.roll.integers(1, 4))))
        effect = effect.edit("layers[0].emit.bursts", [{"at": 0.1}] * int(self.roll.integers(0, 4)))
        effect = effect.edit(
            "layers[0].path", [{"at": float(x)} for x in self.roll.uniform(0, 1, self.roll.integers(0, 4))]
        )
        places = [f"layers[{i}].{chapter}" for i in range(len(effect.layers)) for chapter in CHAPTERS]
        places += [f"layers[0].emit.bursts[{i}]" for i in range(len(effect.layers[0].emit.bursts))]
        places += [f"layers[0].path[{i}]" for i in range(len(effect.layers[0].path))]
        for place in places:
            for name in type(get(effect, place)).rules():
                effect = self.edit(effect, f"{place}.{name}", 0.5)
        props = [
            {"kind": str(kind), "mesh": "torus"}
            for kind in self.roll.choice(["box", "ball", "cylinder", "mesh"], self.roll.integers(0, 5))
        ]
        effect = effect.edit("stage.props", props)
        for i in range(len(props)):
            if self.roll.uniform() < 0.3:
                effect = effect.edit(
                    f"stage.props[{i}].path", [{"at": float(x)} for x in self.roll.uniform(0, 1, 3)]
                )
                for k in range(3):
                    for name in ("position", "rotation", "scale", "ease"):
                        effect = self.edit(effect, f"stage.props[{i}].path[{k}].{name}", 0.5)
            for name in ("position", "rotation", "size", "hit"):
                effect = self.edit(effect, f"stage.props[{i}].{name}", 0.5)
        for i in range(len(effect.layers)):
            if self.roll.uniform() < 0.6:
                effect = effect.edit(f"layers[{i}].contact.enabled", True)
        for path in ("stage.wind", "stage.gust", "stage.gust_period", "stage.gravity"):
            effect = self.edit(effect, path, 0.4)
        for path in ("duration", "loop", "repeat", "warm_up", "seed"):
            effect = self.edit(effect, path, 0.4)
        return effect.edit("step_rate", int(self.roll.choice([30, 60, 120])))


class RandomEffectTest(unittest.TestCase):
    def same(self, a, b, effect):
        for layer in effect.layers:
            self.assertEqual(a.counts(layer.id), b.counts(layer.id))
            p, q = a.particles(layer.id), b.particles(layer.id)
            for name in ("serial", "position", "velocity", "age", "size", "color", "opacity"):
                np.testing.assert_array_equal(
                    getattr(p, name), getattr(q, name), err_msg=f"{layer.id} {name}"
                )

    def test_they_are_bounded_or_said_to_be_heavy_and_the_same_by_every_way(self):
        compared = 0
        for seed in range(40):
            dice = Dice(seed)
            effect = dice.effect()
            with self.subTest(seed=seed):
                self.assertEqual(parse_effect(effect_text(effect)), effect)
                heavy = find_problems(effect)
                if heavy:
                    self.assertTrue(all(wrong.place and wrong.reason.endswith(".") for wrong in heavy))
                    continue
                sought = Simulation(effect)
                sought.seek(1.0)
                alive = sum(sought.counts(layer.id)["alive"] for layer in effect.layers)
                if alive > 20_000 or slowness(effect, 6.0) is not None:
                    continue
                compared += 1
                played = Simulation(effect, threads=1)
                for _ in range(effect.step_rate):
                    played.step()
                self.same(sought, played, effect)
                sought.seek(1.7), sought.seek(0.4), sought.seek(1.0)
                self.same(sought, played, effect)
                edited = dice.edit(effect, "layers[0].launch.speed", 1.0)
                sought.replace(edited), sought.replace(effect)
                self.same(sought, played, effect)
        self.assertGreater(compared, 8)


if __name__ == "__main__":
    unittest.main()
