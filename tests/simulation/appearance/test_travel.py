"""The way that streaks are drawn out by, frames, dice and seconds lived, against the particles' own
places and ages.
"""

import unittest

import numpy as np

from pale_ember.simulation import Simulation
from pale_ember.simulation.time.biography import Single

from ...building import single

MOVING = {
    "emit.rate": 80,
    "launch.lifetime": 2,
    "launch.speed": 3,
    "birthplace.kind": "ball",
    "birthplace.fan": 60,
    "flight.gravity": 0.6,
    "flight.drag": 0.8,
    "flight.orbit": 240,
    "flight.drift": [1, 0.4, 0],
    "flight.turbulence": 4,
    "flight.pace": {"curve": [[0, 2], [1, 0.3]]},
    "path": [{}, {"at": 1, "position": [3, 1, 0], "rotation": [0, 200, 0]}],
}


class WayTest(unittest.TestCase):
    def places(self, sim):
        p = sim.particles("a")
        return dict(zip(p.serial.tolist(), p.position.copy(), strict=True))

    def test_it_is_how_far_each_went_in_its_last_step_whatever_moved_it(self):
        effect = single({**MOVING, "look.facing": "streak", "look.streak": 1.0})
        sim = Simulation(effect)
        sim.seek(1.5)
        before = self.places(sim)
        sim.step()
        p, way = sim.particles("a"), sim.instances("a")["way"].copy()
        old = np.array([serial in before for serial in p.serial.tolist()])
        self.assertGreater(old.sum(), 50)
        went = (p.position[old] - np.array([before[s] for s in p.serial[old].tolist()])) * 60
        np.testing.assert_allclose(way[old], went, atol=2e-2, rtol=1e-3)

    def test_the_newborn_have_a_way_too_and_it_is_the_same_by_every_way_to_a_moment(self):
        effect = single({**MOVING, "look.facing": "streak", "look.streak": 0.1})
        sim = Simulation(effect)
        sim.seek(1.2)
        there = sim.instances("a").copy()
        self.assertTrue((np.linalg.norm(there["way"], axis=1) > 1e-3).all())
        sim.seek(3.0)
        sim.seek(1.2)
        np.testing.assert_array_equal(sim.instances("a"), there)
        threaded = Simulation(effect, threads=4)
        threaded.seek(1.2)
        np.testing.assert_array_equal(threaded.instances("a"), there)

    def test_a_layer_that_is_not_drawn_along_its_way_moves_to_the_bit_as_one_that_is(self):
        plain, drawn = (
            Simulation(single({**MOVING, "look.facing": facing})) for facing in ("camera", "streak")
        )
        for sim in (plain, drawn):
            sim.seek(2.0)
        np.testing.assert_array_equal(plain.particles("a").position, drawn.particles("a").position)
        self.assertNotIn("way", plain.instances("a").dtype.names)

    def test_frames_go_by_rate_from_where_they_begin(self):
        effect = single(
            {
                "emit.rate": 50,
                "look.texture": "t",
                "look.frame": {"spread": [0, 8]},
                "look.frame_rate": {"spread": [4, 9]},
            }
        )
        sim = Simulation(effect)
        sim.seek(1.0)
        first = dict(
            zip(sim.particles("a").serial.tolist(), sim.instances("a")["frame"].tolist(), strict=True)
        )
        sim.seek(1.5)
        p = sim.particles("a")
        later = dict(zip(p.serial.tolist(), sim.instances("a")["frame"].tolist(), strict=True))
        rates = np.array([(later[s] - first[s]) / 0.5 for s in later if s in first])
        self.assertTrue(((rates > 3.99) & (rates < 9.01)).all())
        self.assertGreater(np.ptp(rates), 3)

    def test_steady_dice_of_the_look(self):
        edits = {"emit.rate": 50, "look.texture": "t", "look.mirror": 0.5, "look.erode.amount": 0.3}
        a, b = (
            Simulation(single({**edits, **more}))
            for more in ({}, {"emit.rate": 90, "look.erode.amount": 0.7, "launch.size": 3})
        )
        for sim in (a, b):
            sim.seek(1.0)
        of = [
            dict(zip(sim.particles("a").serial.tolist(), sim.instances("a")["dice"].tolist(), strict=True))
            for sim in (a, b)
        ]
        shared = set(of[0]) & set(of[1])
        self.assertGreater(len(shared), 30)
        self.assertTrue(all(of[0][s] == of[1][s] for s in shared))
        lots = np.array(list(of[1].values()))
        self.assertLess(abs(np.corrcoef(lots.T)[0, 1]), 0.35, "two throws that know nothing of each other")

    def test_a_filmed_life_knows_its_way(self):
        effect = single({**MOVING, "look.facing": "streak", "look.streak": 0.2})
        alone = Single(effect, effect.layers[0])
        life = alone.life(alone.birth(5))
        rows = alone.instances(life, life.ages[[10, 30]])
        for row, step in zip(rows, (10, 30), strict=True):
            went = (life.places[step] - life.places[step - 1]) * 60 * 0.2
            np.testing.assert_allclose(row["way"], went, atol=1e-2)


if __name__ == "__main__":
    unittest.main()
