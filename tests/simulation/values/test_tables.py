import unittest
from unittest import mock

import numpy as np

from pale_ember.effect.values.colors import Gradient, Stop, evaluate_stops, hex_to_linear
from pale_ember.effect.values.curves import Key, breaks, evaluate
from pale_ember.effect.values.values import Band
from pale_ember.simulation import Simulation
from pale_ember.simulation.layout.slots import CONSTANT, TINT_R
from pale_ember.simulation.time.biography import pinned
from pale_ember.simulation.values.dice import layer_key, property_key, random_share
from pale_ember.simulation.values.tables import bake, baked_cells

from ...building import effect_with, single


def baked(keys):
    return baked_cells(
        lambda x, before: evaluate(keys, x, before)[:, None], breaks(keys), [k.x for k in keys]
    )


class TableTest(unittest.TestCase):
    def test_baked_curves_are_within_a_thousandth(self):
        rng = np.random.default_rng(2)
        x = np.linspace(0, 0.99999, 5003)
        for _ in range(120):
            at = np.sort(rng.uniform(0, 1, rng.integers(2, 7)))
            at = at[np.concatenate([[True], np.diff(at) > 0.02])]
            keys = tuple(
                Key(float(a), float(rng.normal()), str(rng.choice(["smooth", "linear"]))) for a in at
            )
            true = evaluate(keys, x)
            self.assertLess(np.abs(baked(keys).at(x)[:, 0] - true).max(), 1e-3 * max(np.ptp(true), 1e-9))

    def test_steps_stay_sharp(self):
        keys = (
            Key(0, 1, "hold"),
            Key(0.25, 3, "linear"),
            Key(0.5, 2, "linear"),
            Key(0.5, 7, "linear"),
            Key(1, 7),
        )
        eps = 1e-6
        found = baked(keys).at(np.array([0.1, 0.25 - eps, 0.25, 0.5 - eps, 0.5, 0.9]))[:, 0]
        np.testing.assert_allclose(found, [1, 1, 3, 2, 7, 7], atol=1e-4)

    def test_jumps_stay_where_they_are_however_close(self):
        dice = np.random.default_rng(3)
        for _ in range(60):
            at = np.sort(np.concatenate([dice.uniform(0, 1, 5), dice.uniform(0.4, 0.41, 4), [1 / 3]]))
            keys = tuple(
                Key(float(x), float(dice.normal()), str(dice.choice(["hold", "linear"]))) for x in at
            )
            table = baked(keys)
            x = np.concatenate([at, at - 1e-6, at + 1e-6, dice.uniform(0, 1, 2000)]).clip(0, 1)
            x = x[np.abs(x[:, None] - at).min(axis=1) > 3e-7] if keys[0].ease else x
            np.testing.assert_allclose(
                table.at(x)[:, 0], evaluate(keys, x), atol=2e-3 * max(np.ptp([k.y for k in keys]), 1)
            )

    def test_a_pulse_of_a_thousandth_of_life_shows(self):
        pulse = [
            {"x": 0, "y": 0, "ease": "hold"},
            {"x": 0.5, "y": 1, "ease": "hold"},
            {"x": 0.503, "y": 0, "ease": "hold"},
        ]
        edits = {"emit.rate": 2000, "launch.lifetime": 1, "look.opacity": {"curve": pulse}, "emit.cap": 3000}
        sim = Simulation(single(edits))
        sim.seek(1.5)
        p = sim.particles("a")
        on = p.opacity > 0.5
        self.assertTrue(4 <= on.sum() <= 8, on.sum())
        np.testing.assert_array_equal(on, (p.age >= np.float32(0.5)) & (p.age < np.float32(0.503)))
        third = [{"x": 0, "y": 0, "ease": "hold"}, [1 / 3, 1]]
        sim = Simulation(single({**edits, "look.opacity": {"curve": third}}))
        sim.seek(1.5)
        p = sim.particles("a")
        np.testing.assert_array_equal(p.opacity > 0.5, p.age >= np.float32(1 / 3))

    def test_a_jump_at_the_very_end_is_reached(self):
        end = [{"x": 0, "y": 1, "ease": "hold"}, [1, 0.25]]
        once = {"emit.rate": 0, "emit.bursts": [{"at": 0, "count": 2}], "launch.lifetime": 100}
        for speed, wanted in ((2.0, 1.0), (4.0, 0.25), (9.0, 0.25)):
            edits = {
                **once,
                "launch.speed": speed,
                "flight.speed_range": 4,
                "look.opacity": {"curve": end, "along": "speed"},
            }
            sim = Simulation(single(edits))
            sim.seek(1.0)
            self.assertEqual(float(sim.particles("a").opacity[0]), wanted)
        edits = {**once, "window.length": 1, "look.opacity": {"curve": end, "along": "clock"}}
        sim = Simulation(single(edits))
        for moment, wanted in ((0.9, 1.0), (1.1, 0.25), (3.0, 0.25)):
            sim.seek(moment)
            self.assertEqual(float(sim.particles("a").opacity[0]), wanted)

    def test_one_of_several_colours_is_drawn_by_each_particle_for_itself_and_nothing_is_mixed(self):
        tints, hues = ["#ff0000", "#00ff00", "#0000ff"], ["#ffffff", "#808080", "#404040"]
        light = {"spread": [0.5, 2.0]}
        edits = {
            "emit.rate": 4000,
            "emit.cap": 8000,
            "launch.lifetime": 2,
            "look.tint": {"one_of": tints},
            "look.color": {"one_of": hues},
            "look.intensity": light,
            "look.opacity": {"band": [[[0, 0], [1, 1]], [[0, 0.5], [1, 1]]]},
            "look.widen": {"spread": [1, 2]},
        }
        self.assert_drawn(edits, tints, hues)
        # Nothing between the two that is read elsewhere: the second's draws must not be looked up where the
        # first's were.
        self.assert_drawn({**edits, "look.opacity": 1, "look.widen": 1}, tints, hues)

    def test_so_many_colours_as_fit_and_one_alone(self):
        for many in (1, 2, 7, 32):
            colors = [f"#{k * 7:02x}{255 - k:02x}10" for k in range(many)]
            sim = Simulation(
                single(
                    {
                        "emit.rate": 4000,
                        "emit.cap": 8000,
                        "launch.lifetime": 2,
                        "look.tint": {"one_of": colors},
                    }
                )
            )
            sim.seek(1.0)
            some = sim.particles("a")
            place = random_share(property_key(layer_key(1, "a"), "look.tint"), some.serial)
            np.testing.assert_allclose(
                some.color,
                np.stack([hex_to_linear(one) for one in colors])[(many * place).astype(int)],
                atol=1e-6,
            )
            # What the life strip shows of low, middle and high is one of them too.
            for share in (0.0, 0.5, 1.0):
                tables = pinned(bake(single({"look.tint": {"one_of": colors}}).layers[0], 1, 9.81), share)
                np.testing.assert_allclose(
                    tables.ends[TINT_R : TINT_R + 3, 0],
                    hex_to_linear(colors[min(int(share * many), many - 1)]),
                    atol=1e-6,
                )
                self.assertEqual(set(tables.form[TINT_R : TINT_R + 3]), {CONSTANT})

    def assert_drawn(self, edits, tints, hues):
        sim = Simulation(single(edits))
        sim.seek(1.9)
        some, key = sim.particles("a"), layer_key(1, "a")
        whose = {
            path: random_share(property_key(key, path), some.serial)
            for path in ("look.tint", "look.color", "look.intensity")
        }
        at = {path: (3 * whose[path]).astype(int) for path in ("look.tint", "look.color")}
        wanted = (
            np.stack([hex_to_linear(one) for one in tints])[at["look.tint"]]
            * np.stack([hex_to_linear(one) for one in hues])[at["look.color"]]
        )
        np.testing.assert_allclose(some.color, wanted, atol=1e-6)
        np.testing.assert_allclose(some.intensity, 0.5 + 1.5 * whose["look.intensity"], atol=1e-5)
        # Each as likely, and each tint with each hue.
        shares = np.bincount(3 * at["look.tint"] + at["look.color"], minlength=9) / len(some.serial)
        np.testing.assert_allclose(shares, 1 / 9, atol=4 * np.sqrt(1 / 9 / len(some.serial)))

    def test_follow_ups_take_the_colour_that_was_drawn(self):
        parent = {
            "emit.rate": 0,
            "emit.bursts": [{"at": 0, "count": 300}],
            "launch.lifetime": 0.5,
            "look.tint": {"one_of": ["#ff0000", "#00ff00"]},
        }
        child = {
            "origin": {"parent": "a", "when": "death", "take_color": True, "count": 1},
            "launch.lifetime": 5,
        }
        sim = Simulation(effect_with({"a": parent, "b": child}))
        sim.seek(0.4)
        drawn = sim.particles("a").color
        sim.seek(0.8)
        taken = sim.particles("b").color
        self.assertEqual(len(taken), 300)
        self.assertEqual(
            sorted(map(tuple, taken.round(4).tolist())), sorted(map(tuple, drawn.round(4).tolist()))
        )
        self.assertEqual({tuple(one) for one in taken.round(4).tolist()}, {(1.0, 0.0, 0.0), (0.0, 1.0, 0.0)})

    def test_many_hard_edges_are_baked_in_a_moment(self):
        from pale_ember.simulation.values import tables as baking

        stops = [stop for k in range(256) for stop in ([k / 255, "#000000"], [k / 255, f"#{k:02x}80ff"])]
        layer = single({"look.color": {"gradient": stops}}).layers[0]
        with mock.patch.object(baking, "evaluate_stops", wraps=evaluate_stops) as evaluated:
            tables = baking.bake(layer, 1, 9.81)
        # All edges are looked at together, a few times for each number of cells.
        self.assertLess(evaluated.call_count, 60)
        self.assertGreater(len(tables.cut), 200)

    def test_values_reach_particles_along_life_and_clock(self):
        grow = {"band": [[[0, 1], [0.3, 4], [1, 0]], [[0, 2], [1, 9]]]}
        color = {"gradient": [[0, "#ff8000"], [0.4, "#0080ff"], [1, "#000000"]]}
        edits = {
            "emit.rate": 300,
            "launch.size": {"curve": [[0, 1], [1, 3]]},
            "look.grow": grow,
            "look.color": color,
        }
        edits |= {
            "look.opacity": {"curve": [[0, 0.2], [1, 0.8]], "along": "clock"},
            "look.tint": {"spread": ["#000000", "#ffffff"]},
        }
        effect = single(edits, duration=4.0)
        sim = Simulation(effect)
        sim.seek(2.0)
        p = sim.particles("a")
        layer = effect.layers[0]
        dice = layer_key(effect.seed, "a")
        self.assertIsInstance(layer.look.grow, Band)
        low, high = layer.look.grow.bounds_at(p.age)
        u = random_share(property_key(dice, "look.grow"), p.serial)
        born = 2.0 - p.age * p.lifetime
        size = evaluate((Key(0, 1), Key(1, 3)), born / 4)
        np.testing.assert_allclose(p.size, size * (low + (high - low) * u), rtol=4e-3)
        np.testing.assert_allclose(p.opacity, 0.5, atol=1e-3)
        tint = random_share(property_key(dice, "look.tint"), p.serial)
        stops = layer.look.color.stops
        np.testing.assert_allclose(p.color, evaluate_stops(stops, p.age) * tint[:, None], atol=2e-3)

    def test_values_along_speed_follow_each_particles_speed(self):
        grow = {"band": [[[0, 1], [1, 5]], [[0, 2], [0.5, 9], [1, 3]]], "along": "speed"}
        color = {"gradient": [[0, "#000000"], [1, "#ffffff"]], "along": "speed"}
        edits = {
            "emit.rate": 400,
            "launch.speed": {"spread": [0, 5]},
            "flight.speed_range": 4,
            "look.grow": grow,
        }
        edits |= {"launch.size": 1, "look.color": color, "launch.lifetime": 9}
        effect = single(edits)
        sim = Simulation(effect)
        sim.seek(1.0)
        p = sim.particles("a")
        share = np.minimum(np.linalg.norm(p.velocity, axis=1) / 4, 1)
        self.assertGreater(np.ptp(share), 0.9)
        low, high = effect.layers[0].look.grow.bounds_at(share)
        u = random_share(property_key(layer_key(effect.seed, "a"), "look.grow"), p.serial)
        np.testing.assert_allclose(p.size, low + (high - low) * u, atol=8e-3)
        np.testing.assert_allclose(p.color[:, 0], share, atol=2e-3)
        # Drag that grows with speed: dv/dt = -(2 v / 4) v has the solution v0 / (1 + v0 t / 2).
        drag = {"curve": [{"x": 0, "y": 0, "ease": "linear"}, [1, 2]], "along": "speed"}
        once = {
            "emit.rate": 0,
            "emit.bursts": [{"at": 0, "count": 1}],
            "launch.speed": 4,
            "launch.lifetime": 9,
        }
        sim = Simulation(single({**once, "flight.drag": drag, "flight.speed_range": 4}, step_rate=120))
        sim.seek(2.0)
        self.assertAlmostEqual(float(sim.particles("a").velocity[0, 1]), 4 / (1 + 4 * 2.0 / 2), delta=0.02)

    def test_gusts_swell_the_wind(self):
        once = {
            "emit.rate": 0,
            "emit.bursts": [{"at": 0, "count": 1}],
            "launch.speed": 0,
            "launch.lifetime": 100,
        }
        effect = single({**once, "flight.drag": 200, "flight.wind": 1}, duration=20.0).edit(
            "stage.wind", [3, 0, 0]
        )
        calm, gusty = (
            Simulation(effect),
            Simulation(effect.edit("stage.gust", 0.5).edit("stage.gust_period", 2)),
        )
        found = []
        for time in np.arange(1, 15, 0.25):
            calm.seek(time), gusty.seek(time)
            self.assertAlmostEqual(float(calm.particles("a").velocity[0, 0]), 3, places=4)
            found.append(float(gusty.particles("a").velocity[0, 0]))
        self.assertTrue(1.4 < min(found) < 2.3 and 3.7 < max(found) < 4.6, found)

    def test_gradients_mix_in_linear_light_with_hard_edges(self):
        stops = Gradient(
            (Stop(0, "#000000"), Stop(0.5, "#ffffff"), Stop(0.5, "#ff0000"), Stop(1, "#ff0000"))
        ).stops
        found = evaluate_stops(stops, [0.25, 0.49999, 0.5, 0.8])
        np.testing.assert_allclose(found, [[0.5] * 3, [0.99998] * 3, [1, 0, 0], [1, 0, 0]], atol=1e-4)
        np.testing.assert_allclose(hex_to_linear("#808080"), [0.21586] * 3, atol=1e-5)


if __name__ == "__main__":
    unittest.main()
