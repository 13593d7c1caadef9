"""Fields in use that do nothing are told, and their mends let them do something: seen in what the
particles do.
"""

import unittest

import numpy as np

from pale_ember.checks.moot import moot_field
from pale_ember.simulation import Simulation

from ..building import single


def places(effect):
    sim = Simulation(effect)
    sim.seek(1.0)
    return sim.particles(effect.layers[0].id).position.copy()


class MootTest(unittest.TestCase):
    def test_wind_that_carries_nothing_is_told_and_mended(self):
        for drag in (0, 2):
            for wind in ([0, 0, 0], [3, 0, 0]):
                with self.subTest(drag=drag, wind=wind):
                    effect = single({"emit.rate": 20, "flight.wind": 1, "flight.drag": drag}).edit(
                        "stage.wind", wind
                    )
                    calm = effect.edit("layers[0].flight.wind", 0)
                    moot = moot_field(effect, effect.layers[0], "flight.wind")
                    does_nothing = np.allclose(places(effect), places(calm), atol=1e-5)
                    self.assertEqual(moot is not None, does_nothing)
                    while moot is not None:
                        self.assertTrue(moot.reason.endswith(".") and moot.mend)
                        for path, value in moot.edits:
                            effect = effect.edit(path, value)
                        moot = moot_field(effect, effect.layers[0], "flight.wind")
                    self.assertFalse(
                        np.allclose(
                            places(effect), places(effect.edit("layers[0].flight.wind", 0)), atol=1e-3
                        )
                    )
                    self.assertIsNone(moot_field(calm, calm.layers[0], "flight.wind"))


if __name__ == "__main__":
    unittest.main()
