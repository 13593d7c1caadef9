"""Loops that are to be equal and can't be, because a cap refuses births."""

import unittest

import numpy as np

from pale_ember.checks import find_problems
from pale_ember.files.hand_over.telling import summary
from pale_ember.files.hand_over.works import Product
from pale_ember.files.product_options import FilmOptions
from pale_ember.files.profile import Profile
from pale_ember.simulation import Simulation
from tests.building import single


class RepeatTest(unittest.TestCase):
    def effect(self, cap, repeat=True):
        return single(
            {"emit.rate": 100, "emit.cap": cap, "launch.lifetime": {"spread": [1.0, 3.0]}},
            duration=0.7,
            loop=True,
            repeat=repeat,
        )

    def places(self, effect, loops):
        sim = Simulation(effect)
        sim.seek(effect.duration * loops)
        return np.sort(sim.particles("a").position[:, 1])

    def test_a_cap_that_may_refuse_is_told_where_loops_shall_be_equal(self):
        found = find_problems(self.effect(120))
        self.assertEqual([wrong.place for wrong in found], ["layers[0].emit.cap"])
        self.assertIn("loops differ", found[0].reason)
        wished = Profile(film=FilmOptions(close=True))
        self.assertIn(
            "may not lead into its first: the cap of “a”",
            summary(Product.FILM, wished, self.effect(120, repeat=False)),
        )
        # What is told is so, and the cap that is named mends it.
        self.assertFalse(np.array_equal(self.places(self.effect(120), 6), self.places(self.effect(120), 7)))
        raised = self.effect(int(found[0].reason.rpartition(" ")[2].rstrip(".").replace(",", "")))
        self.assertEqual((find_problems(raised), find_problems(self.effect(120, repeat=False))), ([], []))
        np.testing.assert_array_equal(self.places(raised, 6), self.places(raised, 7))
        self.assertIn("leads into its first", summary(Product.FILM, wished, raised))


if __name__ == "__main__":
    unittest.main()
