"""One particle's life, held against the same particle among all others."""

import unittest

import numpy as np

from pale_ember.simulation import Simulation
from pale_ember.simulation.time.biography import Single

from ...building import single

EDITS = {
    "emit.rate": 40,
    "launch.lifetime": {"spread": [0.6, 1.4]},
    "launch.speed": {"spread": [1, 3]},
    "launch.angle": {"spread": [-90, 90]},
    "launch.size": {"band": [[[0, 0.1], [1, 0.4]], [[0, 0.3], [1, 0.9]]], "along": "clock"},
    "flight.gravity": {"curve": [[0, 0], [1, 1]]},
    "flight.drag": {"spread": [0.2, 2]},
    "flight.turbulence": 4,
    "flight.spin": {"band": [[[0, 0], [1, 200]], [[0, 90], [1, 400]]]},
    "look.grow": {"band": [[[0, 0.2], [1, 1]], [[0, 0.5], [1, 2]]]},
    "look.opacity": {"curve": [[0, 0], [0.3, 1], [1, 0]]},
    "look.intensity": {"curve": [[0, 3], [1, 1]], "along": "speed"},
    "look.color": {"gradient": [[0, "#ff8800"], [1, "#202020"]]},
    "look.tint": {"spread": ["#ffffff", "#808080"]},
}


class BiographyTest(unittest.TestCase):
    def test_it_is_the_same_particle_to_the_bit(self):
        effect = single(EDITS, warm_up=1.0)
        alone = Single(effect, effect.layers[0])
        birth = alone.birth(33)
        life = alone.life(birth)
        serial, born = life.serial, life.born
        sim = Simulation(effect)
        for step in (2, 20, len(life.ages) - 1):
            sim.seek((np.floor(born * 60 + 1e-9) + step + 1) / 60)
            crowd = sim.particles("a")
            (at,) = np.flatnonzero(crowd.serial == serial)
            self.assertEqual(life.ages[step], crowd.age[at])
            np.testing.assert_array_equal(life.states[:6, step], [*crowd.position[at], *crowd.velocity[at]])
            self.assertAlmostEqual(life.lifetime, crowd.lifetime[at], places=5)
            (shown,) = alone.instances(life, [life.ages[step]])
            crowd_rows = sim.instances("a")
            for name in crowd_rows.dtype.names:
                np.testing.assert_allclose(
                    shown[name], crowd_rows[name][at], rtol=3e-6, atol=2e-6, err_msg=name
                )

    def test_low_middle_and_high(self):
        effect = single(EDITS)
        alone = Single(effect, effect.layers[0])
        life = alone.life(alone.birth(3))
        low, middle, high = (alone.instances(life, [0.0, 0.5, 1.0], share) for share in (0.0, 0.5, 1.0))
        clock = life.born / 4
        size = effect.layers[0].launch.size.bounds_at([clock])
        np.testing.assert_allclose(low["size"][[0, 2], 1], np.array([0.2, 1]) * size[0], rtol=2e-3)
        np.testing.assert_allclose(high["size"][[0, 2], 1], np.array([0.5, 2]) * size[1], rtol=2e-3)
        np.testing.assert_allclose(
            middle["size"][[0, 2], 1], np.array([0.35, 1.5]) * sum(size) / 2, rtol=2e-3
        )
        # Fixed and single curves stay what they are.
        np.testing.assert_allclose(low["opacity"], high["opacity"])

    def test_births_are_counted_through_warm_up_and_windows(self):
        effect = single({"emit.rate": 10, "window.begin": 1, "launch.lifetime": 1}, warm_up=2.0)
        alone = Single(effect, effect.layers[0])
        sim = Simulation(effect)
        sim.seek(1.5)
        first = sim.particles("a").serial[0]
        self.assertEqual(alone.birth(0).serial, first)
        self.assertAlmostEqual(alone.life(alone.birth(0)).born, 1.0, places=6)
        self.assertEqual(alone.birth(30), alone.birth(0))
        self.assertIsNone(Single(*self.still()).birth(0))

    def still(self):
        effect = single({"emit.rate": 0})
        return effect, effect.layers[0]

    def test_a_life_shorter_than_a_step_still_has_a_look(self):
        effect = single({"launch.lifetime": 0.004})
        alone = Single(effect, effect.layers[0])
        life = alone.life(alone.birth(1))
        self.assertAlmostEqual(life.lifetime, 0.004, places=6)
        self.assertTrue((alone.instances(life, [0, 0.5, 1])["size"] > 0).all())


if __name__ == "__main__":
    unittest.main()
