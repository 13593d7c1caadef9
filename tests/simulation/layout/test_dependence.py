"""What things depend on: for every field of a layer, by the model's own list."""

import unittest

import numpy as np

from pale_ember.effect import EffectError
from pale_ember.effect.rules.edit import get
from pale_ember.effect.rules.fields import FieldKind, Rule
from pale_ember.effect.values.values import Value, Vec3Value
from pale_ember.simulation import Simulation
from pale_ember.simulation.layout import dependence
from pale_ember.simulation.time.compile_layer import kernels_of

from ...building import effect_with

# A layer in which every field counts.
RICH = {
    "emit.rate": 60,
    "emit.per_metre": 4,
    "emit.bursts": [{"at": 0.2, "count": 9, "repeat": 2, "every": 0.3, "chance": 0.99}],
    "path": [
        {"position": [0, 0, 0]},
        {"at": 0.4, "position": [0, 1, 1]},
        {"at": 1, "position": [2, 1, 0], "rotation": [0, 90, 20], "scale": 1.4},
    ],
    "birthplace.kind": "cone",
    "birthplace.fan": 20,
    "birthplace.scatter": 0.2,
    "launch.speed": {"spread": [1, 2]},
    "launch.push": [0.3, 0, 0],
    "launch.carry": 0.5,
    "launch.size": {"spread": [0.1, 0.3]},
    "flight.gravity": 0.3,
    "flight.drag": {"curve": [[0, 0.5], [1, 1.5]], "along": "speed"},
    "flight.wind": 0.5,
    "flight.thrust": [0.5, 0, 0],
    "flight.drift": [0, 0.2, 0],
    "flight.pull": 0.5,
    "flight.swirl": 0.5,
    "flight.orbit": 30,
    "flight.turbulence": 1.5,
    "flight.top_speed": 1.2,
    "flight.spin": 90,
    "flight.pace": 0.9,
    "look.opacity": {"curve": [[0, 0], [0.3, 1], [1, 0]]},
}
TIME = 2.6


def rich(**whole):
    effect = effect_with({"a": RICH, "b": {"birthplace.kind": "ball"}}, duration=2.0, **whole)
    return effect.edit("stage.wind", [2, 0, 0]).edit("stage.gust", 0.4)


def another(rule: Rule, now):
    """Return some other value that a field takes."""
    if rule.kind == "flag":
        return not now
    if rule.kind == "choice":
        return next(choice for choice in rule.choices if choice != now)
    if rule.kind == "anchor":
        return "layer:b" if now == "" else ""
    if rule.kind == "text":
        return "other"
    if rule.kind == "mesh":
        return "torus"
    if rule.kind == "texture":
        return "puff" if now == "" else ""
    if rule.kind == "color":
        return "#3366cc"
    if rule.kind == "vec2":
        return [another(Rule(FieldKind.NUMBER, "", "", hard=rule.hard), now[0]), now[1]]
    if rule.kind == "color_value":
        return "#3366cc"
    low, high = rule.hard
    if rule.kind in ("vec3", "vec3_value"):
        first = now[0] if rule.kind == "vec3" else next(iter(now))
        return [another(Rule(FieldKind.NUMBER, "", "", hard=rule.hard), first), list(now)[1], list(now)[2]]
    base = (
        now
        if isinstance(now, int | float)
        else float(now.bounds_at([0.5])[0][0])
        if isinstance(now, Value)
        else 0.5
    )
    found = base * 1.3 + (0.4 if abs(base) < 1e-9 else 0.0)
    found = max(found, low) if found <= high else base * 0.7
    return (
        round(found)
        if rule.kind == "integer" and round(found) != now
        else now + 1
        if rule.kind == "integer"
        else found
    )


def fields(effect):
    """Give every field of layer 0 and of the stage and the effect that particles could depend on, with
    its rule.
    """
    for chapter in (
        "emit",
        "birthplace",
        "launch",
        "flight",
        "look",
        "place",
        "window",
        "emit.bursts[0]",
        "path[0]",
        "look.erode",
        "look.bend",
        "look.shimmer",
        "look.ribbon",
        "look.mesh",
    ):
        part = get(effect, f"layers[0].{chapter}")
        for name, rule in type(part).rules().items():
            yield f"layers[0].{chapter}.{name}", rule
    for name in ("wind", "gust", "gust_period", "gravity", "backdrop"):
        yield f"stage.{name}", type(effect.stage).rules()[name]
    for name in ("duration", "loop", "repeat", "warm_up", "seed", "name"):
        yield name, type(effect).rules()[name]


def shown(sim, name="a"):
    p = sim.particles(name)
    motion = [
        np.ascontiguousarray(v).tobytes()
        for v in (p.position, p.velocity, p.age, p.lifetime, p.angle, p.serial)
    ]
    rows = sim.instances(name)
    look = [
        np.ascontiguousarray(v).tobytes() for v in (p.size, p.color, p.opacity, p.intensity, rows["size"])
    ]
    drawn = (
        "way",
        "frame",
        "mix",
        "erode",
        "bend",
        "shimmer",
        "dice",
        "lived",
        "across",
        "laid",
        "turn",
        "stretch",
        "rim_light",
        "lot",
    )
    look += [
        rows[each].tobytes() if each in rows.dtype.names else sim.fixed(name).get(each) for each in drawn
    ]
    look += [sim.joined(name) is None, tuple(len(part.faces) for part in sim.body(name))]
    return motion, look, sim.counts(name)


# The same, drawn otherwise and born along lines and bows.
DRAWN = {
    "sprite": {},
    "sweep": {
        "look.draw": "ribbon",
        "look.ribbon.across": "line",
        "look.ribbon.lay": "repeat",
        "look.ribbon.lay_from": "tail",
        "birthplace.kind": "line",
    },
    "bow": {
        "look.draw": "ribbon",
        "birthplace.kind": "bow",
        "birthplace.in_row": True,
        "birthplace.stray": 0.1,
        "birthplace.end_on": "layer:b",
    },
    "mesh": {
        "look.draw": "mesh",
        "look.mesh.stand": "tumble",
        "look.mesh.stretch": [1, {"spread": [1, 2]}, 1],
        "look.mesh.rim": {"curve": [[0, 1], [1, 0]]},
    },
}


class DependenceTest(unittest.TestCase):
    def test_what_a_hit_does_counts_where_it_does_it(self):
        for on_hit, counting in (
            ("bounce", {"bounce", "friction", "wear"}),
            ("stick", {"wear"}),
            ("vanish", set()),
        ):
            effect = effect_with({"a": {"contact.enabled": True, "contact.on_hit": on_hit}})
            before = dependence.motion(effect, effect.layers[0])
            for name, value in (("bounce", 0.123), ("friction", 0.234), ("wear", 0.345)):
                other = effect.edit(f"layers[0].contact.{name}", value)
                changed = dependence.motion(other, other.layers[0]) != before
                self.assertEqual(changed, name in counting, (on_hit, name))

    def test_each_field_is_taken_as_a_fresh_run_takes_it_and_keys_change_with_results(self):
        for drawn, edits in DRAWN.items():
            effect = rich()
            for path, value in edits.items():
                effect = effect.edit(f"layers[0].{path}", value)
            with self.subTest(drawn):
                self.each_field(effect, drawn)

    def each_field(self, effect, drawn):
        sim = Simulation(effect)
        sim.seek(TIME)
        before = shown(sim)
        layer = effect.layers[0]
        keys = (
            dependence.motion(effect, layer),
            dependence.appearance(effect, layer),
            dependence.births(effect, layer),
        )
        seen = 0
        for path, rule in fields(effect):
            if drawn != "sprite" and not path.startswith(
                ("layers[0].look", "layers[0].birthplace", "layers[0].path")
            ):
                continue
            try:
                edited = effect.edit(path, another(rule, get(effect, path)))
            except EffectError:
                continue
            self.assertFalse(edited is effect, path)
            seen += 1
            sim.replace(edited)
            fresh = Simulation(edited)
            fresh.seek(sim.time)
            after = shown(sim)
            self.assertEqual(after, shown(fresh), path)
            now = edited.layers[0]
            moved = dependence.motion(edited, now) != keys[0]
            looks = dependence.appearance(edited, now) != keys[1]
            born = dependence.births(edited, now) != keys[2]
            # Those may need more of a run than is seen of it here.
            if not path.endswith(
                (
                    ".cap",
                    "warm_up",
                    "look.facing",
                    "look.draw",
                    "mesh.stand",
                    "lay_from",
                    "ribbon.lay",
                    "ribbon.across",
                    "birthplace.kind",
                )
            ):
                self.assertEqual(moved, (after[0], after[2]) != (before[0], before[2]), path)
            self.assertTrue(moved or (after[0], after[2]) == (before[0], before[2]), path)
            if not moved:
                self.assertEqual(looks, after[1] != before[1], path)
            self.assertTrue(moved or not born, path)
            # A layer that has nothing to do with it stays as it is.
            if path.startswith("layers[0]"):
                self.assertEqual(
                    dependence.motion(edited, edited.layers[1]), dependence.motion(effect, effect.layers[1])
                )
                self.assertIs(edited.layers[1], effect.layers[1])
            sim.replace(effect)
        self.assertGreater(seen, 30)
        self.assertEqual(shown(sim), before)

    def test_what_a_layer_does_not_take_does_not_restart_it(self):
        effect = effect_with({"a": {"birthplace.kind": "box"}})
        sim = Simulation(effect)
        sim.seek(1.0)
        run = sim._runs["a"]
        for path, value in (
            ("stage.wind", [3, 0, 0]),
            ("stage.gravity", 2),
            ("stage.gust", 1),
            ("layers[0].flight.eddy", 3),
            ("layers[0].flight.speed_range", 9),
            ("layers[0].birthplace.around_camera", True),
            ("layers[0].birthplace.radius", 3),
            ("layers[0].look.blend", "add"),
            ("layers[0].name", "b"),
            ("layers[0].flight.wind", 1),
        ):
            sim.replace(effect.edit(path, value))
            self.assertIs(sim._runs["a"], run, path)
        sim.replace(effect.edit("layers[0].flight.drag", 1))
        self.assertIsNot(sim._runs["a"], run)

    def test_random_pairs_of_edits_touch_only_what_they_should(self):
        dice = np.random.default_rng(11)
        effect = rich()
        known = list(fields(effect))
        for _ in range(1000):
            edited = effect
            for i in dice.choice(len(known), 2, replace=False):
                path, rule = known[i]
                try:
                    edited = edited.edit(path, another(rule, get(edited, path)))
                except EffectError:
                    continue
            self.assertIs(edited.layers[1], effect.layers[1])
            for chapter in ("emit", "birthplace", "launch", "flight", "look", "place", "window"):
                old, new = getattr(effect.layers[0], chapter), getattr(edited.layers[0], chapter)
                for name in type(old).model_fields:
                    a, b = getattr(old, name), getattr(new, name)
                    # What says the same is the same object, down to the Values.
                    self.assertTrue(a is b or a != b, (chapter, name))
                    if isinstance(a, Vec3Value):
                        self.assertTrue(
                            all(x is y or x != y for x, y in zip(a, b, strict=True)), (chapter, name)
                        )

    def test_only_what_is_used_is_compiled(self):
        plain = effect_with({"a": {}}).layers[0]
        self.assertLessEqual(
            set(kernels_of(plain)), {"values", "at_clock", "drag", "spawn", "bear", "advance"}
        )
        self.assertLess(set(kernels_of(plain)), set(kernels_of(rich().layers[0])))


if __name__ == "__main__":
    unittest.main()
