"""What becomes of a follow-up when links are cut and layers taken away."""

import unittest

from pale_ember.effect import EffectError
from pale_ember.effect.effect import Layer
from pale_ember.simulation import Simulation

from .chained import RAIN, STILL, chain_of


class LinkTest(unittest.TestCase):
    def test_loops_and_chains_too_deep_are_refused_with_a_sentence(self):
        effect = chain_of({}, {}, {}, {})
        for at, parent in ((0, "l0"), (0, "l3"), (1, "l2")):
            with self.assertRaises(EffectError) as refused:
                effect.edit(f"layers[{at}].origin.parent", parent)
            self.assertIn("origin.parent", refused.exception.place)
        with self.assertRaises(EffectError) as refused:
            effect.edit(
                "layers",
                (
                    *effect.layers,
                    Layer(id="l4").model_copy(
                        update={"origin": effect.layers[1].origin.model_copy(update={"parent": "l3"})}
                    ),
                ),
            )
        self.assertIn("deep", refused.exception.reason)

    def test_a_parent_that_is_gone_or_disabled_starts_nothing(self):
        effect = chain_of(RAIN, STILL)
        for changed in (
            effect.edit("layers[1].origin.parent", "nobody"),
            effect.edit("layers[0].enabled", False),
        ):
            sim = Simulation(changed)
            sim.seek(2.0)
            self.assertEqual(sim.counts("l1")["born"], 0)
