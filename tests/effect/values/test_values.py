"""The four forms of a number: what each is at any place, as the design says it."""

import unittest

import numpy as np

from pale_ember.effect import Effect
from pale_ember.effect.effect import Layer
from pale_ember.effect.values.curves import Key, evaluate
from pale_ember.effect.values.values import Band, Curve, Fixed, Spread, level
from pale_ember.simulation.simulation import Simulation
from pale_ember.simulation.values.dice import layer_key, property_key, random_share

AT = np.linspace(-0.1, 1.1, 61)


class ValueTest(unittest.TestCase):
    def test_bounds_of_each_form(self):
        low, high = (Key(0, 1), Key(0.5, 3, "hold"), Key(1, 2)), (Key(0.2, 4, "linear"), Key(0.9, 6))
        for value, wanted in (
            (Fixed(2.5), (np.full(61, 2.5),) * 2),
            (Spread(-1, 4), (np.full(61, -1.0), np.full(61, 4.0))),
            (Curve(low), (evaluate(low, AT),) * 2),
            (Band(low, high), (evaluate(low, AT), evaluate(high, AT))),
        ):
            for found, side in zip(value.bounds_at(AT), wanted, strict=True):
                np.testing.assert_allclose(found, side)
        np.testing.assert_allclose(evaluate(level(3), AT), 3.0)
        # One place is as good as many.
        self.assertEqual(Fixed(1.0).bounds_at(0.3)[0].shape, (1,))

    def test_other_forms_are_special_bands_to_the_simulation(self):
        # The same numbers, written as each form that can say them, give the same particles.
        flat, two = [[0, 0.4], [1, 0.4]], [[[0, 0.2], [1, 0.2]], [[0, 0.6], [1, 0.6]]]
        for same in (
            (0.4, {"spread": [0.4, 0.4]}, {"curve": flat}, {"band": [flat, flat]}),
            ({"spread": [0.2, 0.6]}, {"band": two}),
        ):
            seen = []
            for value in same:
                effect = (
                    Effect(layers=(Layer(id="a", name="a"),))
                    .edit("layers[0].look.opacity", value)
                    .edit("layers[0].flight.drag", value)
                )
                sim = Simulation(effect, threads=1)
                sim.seek(1.5)
                p = sim.particles("a")
                seen.append((p.opacity.copy(), p.position.copy()))
            for opacity, position in seen[1:]:
                np.testing.assert_allclose(opacity, seen[0][0], atol=1e-6)
                np.testing.assert_allclose(position, seen[0][1], atol=1e-5)

    def test_a_spread_is_drawn_by_the_particles_number_and_the_property_alone(self):
        effect = Effect(layers=(Layer(id="a", name="a"),), seed=9).edit(
            "layers[0].launch.size", {"spread": [1, 3]}
        )
        sim = Simulation(effect, threads=1)
        sim.seek(1.2)
        p = sim.particles("a")
        lots = random_share(property_key(layer_key(9, "a"), "launch.size"), p.serial)
        np.testing.assert_allclose(p.size, 1 + 2 * lots, rtol=1e-6)
        self.assertLess(abs(np.corrcoef(p.size, p.serial.astype(float))[0, 1]), 0.6)


if __name__ == "__main__":
    unittest.main()
