import unittest

import numpy as np

from pale_ember.effect.colors import Gradient, Stop, evaluate_stops, hex_to_linear
from pale_ember.effect.curves import Key, evaluate
from pale_ember.effect.values import Band
from pale_ember.simulation import Simulation
from pale_ember.simulation.dice import draw, layer_key, property_key
from pale_ember.simulation.tables import baked_keys

from ..building import single


def read(baked, x):
    value, rise = baked
    cell = np.minimum((x * len(value)).astype(int), len(value) - 1)
    return value[cell] + rise[cell] * (x * len(value) - cell)


class TableTest(unittest.TestCase):
    def test_baked_curves_are_within_a_thousandth(self):
        rng = np.random.default_rng(2)
        x = np.linspace(0, 0.99999, 5003)
        for _ in range(120):
            at = np.sort(rng.uniform(0, 1, rng.integers(2, 7)))
            at = at[np.concatenate([[True], np.diff(at) > 0.02])]
            keys = tuple(Key(float(a), float(rng.normal()), str(rng.choice(["smooth", "linear"]))) for a in at)
            true = evaluate(keys, x)
            self.assertLess(np.abs(read(baked_keys(keys), x) - true).max(), 1e-3 * max(np.ptp(true), 1e-9))

    def test_steps_stay_sharp(self):
        keys = (Key(0, 1, "hold"), Key(0.25, 3, "linear"), Key(0.5, 2, "linear"), Key(0.5, 7, "linear"), Key(1, 7))
        baked = baked_keys(keys)
        eps = 1e-6
        found = read(baked, np.array([0.1, 0.25 - eps, 0.25, 0.5 - eps, 0.5, 0.9]))
        np.testing.assert_allclose(found, [1, 1, 3, 2, 7, 7], atol=1e-4)

    def test_values_reach_particles_along_life_and_clock(self):
        grow = {"band": [[[0, 1], [0.3, 4], [1, 0]], [[0, 2], [1, 9]]]}
        color = {"gradient": [[0, "#ff8000"], [0.4, "#0080ff"], [1, "#000000"]]}
        edits = {"emit.rate": 300, "launch.size": {"curve": [[0, 1], [1, 3]]}, "look.grow": grow, "look.color": color}
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
        u = draw(property_key(dice, "look.grow"), p.serial)
        born = 2.0 - p.age * p.lifetime
        size = evaluate((Key(0, 1), Key(1, 3)), born / 4)
        np.testing.assert_allclose(p.size, size * (low + (high - low) * u), rtol=4e-3)
        np.testing.assert_allclose(p.opacity, 0.5, atol=1e-3)
        tint = draw(property_key(dice, "look.tint"), p.serial)
        stops = layer.look.color.stops
        np.testing.assert_allclose(p.color, evaluate_stops(stops, p.age) * tint[:, None], atol=2e-3)

    def test_gradients_mix_in_linear_light_with_hard_edges(self):
        stops = Gradient((Stop(0, "#000000"), Stop(0.5, "#ffffff"), Stop(0.5, "#ff0000"), Stop(1, "#ff0000"))).stops
        found = evaluate_stops(stops, [0.25, 0.49999, 0.5, 0.8])
        np.testing.assert_allclose(found, [[0.5] * 3, [0.99998] * 3, [1, 0, 0], [1, 0, 0]], atol=1e-4)
        np.testing.assert_allclose(hex_to_linear("#808080"), [0.21586] * 3, atol=1e-5)


if __name__ == "__main__":
    unittest.main()
