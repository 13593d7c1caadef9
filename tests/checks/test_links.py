"""Checks of links: each way in which a follow-up can come to nothing has its sentence, its words for a
lane, and a mend that works.
"""

import unittest

from pale_ember.checks import find_problems
from pale_ember.checks.links import link_trouble, link_trouble_seen
from pale_ember.effect import Effect
from pale_ember.effect.effect import Layer
from pale_ember.effect.values.values import Fixed
from pale_ember.simulation import Simulation
from pale_ember.simulation.follow_ups.schedule import FollowUpTally


def linked(**edits):
    effect = Effect(layers=(Layer(id="rain", name="Rain"), Layer(id="dust", name="Dust")))
    fields = {
        "layers[1].origin.parent": "rain",
        "layers[0].contact.enabled": True,
        "layers[0].place.position": [0, 1, 0],
        "layers[0].launch.speed": 0,
        "layers[0].flight.gravity": 1,
    }
    for path, value in (fields | edits).items():
        effect = effect.edit(path, value)
    return effect


class LinkTroubleTest(unittest.TestCase):
    def test_each_dead_link_is_told_and_its_mend_makes_it_well(self):
        self.assertIsNone(link_trouble(linked(), linked().layers[1]))
        self.assertEqual(find_problems(linked()), [])
        for short, edits in (
            ("contact is off", {"layers[0].contact.enabled": False}),
            ("parent disabled", {"layers[0].enabled": False}),
            ("parent gone", {"layers[1].origin.parent": "nobody"}),
            ("count is 0", {"layers[1].origin.count": 0}),
            ("chance is 0", {"layers[1].origin.chance": 0}),
            ("nothing to hit", {"stage.floor": False}),
            ("no rate", {"layers[1].origin.when": "alive", "layers[1].origin.rate": 0}),
            (
                "never dies",
                {
                    "layers[1].origin.when": "death",
                    "layers[0].launch.lifetime": 3000,
                    "layers[0].contact.enabled": False,
                },
            ),
        ):
            with self.subTest(short=short):
                effect = linked(**edits)
                trouble = link_trouble(effect, effect.layers[1])
                self.assertEqual(trouble.short, short)
                self.assertTrue(trouble.reason.endswith(".") and trouble.mend)
                self.assertIn(trouble.place, [wrong.place for wrong in find_problems(effect)])
                for path, value in trouble.edits:
                    effect = effect.edit(path, value)
                self.assertIsNone(link_trouble(effect, effect.layers[1]))

    def test_what_the_simulation_refuses_is_told_with_its_share(self):
        for short, edits in (
            ("all too slow", {"layers[1].origin.min_speed": 90}),
            ("limit reached", {"layers[1].origin.count": 100, "layers[1].origin.limit": 2}),
            (
                "cap is full",
                {"layers[1].origin.count": 100, "layers[1].emit.cap": 3, "layers[1].launch.lifetime": 60},
            ),
        ):
            with self.subTest(short=short):
                effect = linked(**edits)
                sim = Simulation(effect)
                sim.seek(2.0)
                trouble = link_trouble_seen(
                    effect, effect.layers[1], sim.counts("dust"), sim.answer("dust", 1.0)
                )
                self.assertEqual(trouble.short, short)
                for path, value in trouble.edits:
                    effect = effect.edit(path, value)
                self.assertNotEqual(effect, linked(**edits))

    def test_nothing_is_too_slow_before_the_first_have_lived_or_hit(self):
        effect = linked(
            **{
                "layers[1].origin.when": "alive",
                "layers[1].origin.rate": 30,
                "layers[1].origin.min_speed": 90,
            }
        )
        parent = effect.layers[0].id
        for time, short in ((0.1, None), (4.0, "all too slow")):
            sim = Simulation(effect)
            sim.seek(time)
            self.assertGreater(sim.answer("dust", 1.0).events, 0)
            trouble = link_trouble_seen(
                effect, effect.layers[1], sim.counts("dust"), sim.answer("dust", 1.0), sim.counts(parent)
            )
            self.assertEqual(trouble and trouble.short, short, time)

    def test_from_where_on_a_cap_or_a_limit_is_told(self):
        effect = linked(**{"layers[1].emit.cap": 100})
        answer = FollowUpTally(events=50, slow=0, chance=0, outside=0, births=1000, limited=0, seconds=1.0)
        for full, alive, told in (
            (500, 95, False),
            (501, 95, True),
            (501, 90, True),
            (501, 89, False),
            (1500, 89, False),
        ):
            counts = {"born": 1000, "full": full, "alive": alive}
            trouble = link_trouble_seen(effect, effect.layers[1], counts, answer)
            self.assertEqual(trouble is not None, told, (full, alive))
            self.assertEqual(trouble.short if trouble else "", "cap is full" if told else "")
        for births, limited, told in ((500, 500, False), (499, 501, True)):
            some = answer._replace(births=births, limited=limited)
            trouble = link_trouble_seen(effect, effect.layers[1], {}, some)
            self.assertEqual(trouble.short if trouble else "", "limit reached" if told else "")
        some = answer._replace(births=200, limited=600)
        trouble = link_trouble_seen(effect, effect.layers[1], {"born": 0}, some)
        self.assertEqual(trouble.reason, "the limit for one step refuses 75 % of them.")

    def test_the_cap_is_not_blamed_for_what_the_limit_refuses(self):
        effect = linked(
            **{"layers[1].origin.count": 100, "layers[1].origin.limit": 2, "layers[1].emit.cap": 5000}
        )
        sim = Simulation(effect)
        sim.seek(2.0)
        counts = sim.counts("dust")
        self.assertGreater(counts["refused"], 1000)
        self.assertEqual(counts["full"], 0)
        # A full cap and a limit each have their own: with a limit that never binds all of it is the cap's.
        for limit in (2, 1_000_000):
            sim = Simulation(
                linked(
                    **{
                        "layers[1].origin.count": 100,
                        "layers[1].origin.limit": limit,
                        "layers[1].emit.cap": 3,
                        "layers[1].launch.lifetime": 60,
                    }
                )
            )
            sim.seek(2.0)
            counts, wanted = sim.counts("dust"), sim.answer("dust", 2.0)
            self.assertEqual(counts["born"] + counts["refused"], wanted.births + wanted.limited)
            self.assertEqual(counts["full"], wanted.births - counts["born"])

    def test_a_parent_that_never_hits_is_told_and_falls_if_nothing_draws_it_down(self):
        effect = linked(
            **{
                "layers[0].flight.gravity": 0,
                "layers[0].launch.speed": 1,
                "layers[0].launch.push": [0, 2, 0],
                "layers[0].launch.lifetime": 0.4,
            }
        )
        for mended in (False, True):
            sim = Simulation(effect)
            sim.seek(2.5)
            trouble = link_trouble_seen(
                effect,
                effect.layers[1],
                sim.counts("dust"),
                sim.answer("dust", 1.0),
                sim.counts(effect.layers[0].id),
            )
            if mended:
                self.assertNotEqual(effect.layers[0].flight.gravity, Fixed(0.0))
                # It dies too early all the same: that is told, and has no mend of its own.
                self.assertEqual((trouble.short, trouble.mend), ("hits nothing", ""))
                continue
            self.assertEqual((trouble.short, trouble.mend), ("hits nothing", "Let it fall"))
            for path, value in trouble.edits:
                effect = effect.edit(path, value)


if __name__ == "__main__":
    unittest.main()
