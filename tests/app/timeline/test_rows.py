"""The rows of the timeline and the moments of bursts, without a window."""

import unittest

from pale_ember.app.timeline.rows import GROUP, LANE, burst_moments, rows_of
from pale_ember.simulation import Simulation

from ...building import effect_with, single


class Rows(unittest.TestCase):
    def test_each_layer_has_a_lane_below_its_group_and_folded_groups_have_one_row(self):
        effect = effect_with(
            {
                "a": {},
                "b": {"group": "fire"},
                "c": {"group": "fire", "origin.parent": "b"},
                "d": {"group": "smoke"},
                "e": {},
                "f": {"group": "fire"},
            }
        )
        rows = rows_of(effect, set())
        told = [(row.first, row.group, row.inside, row.depth, row.ids) for row in rows]
        self.assertEqual(
            told,
            [
                (0, "", False, 0, ()),
                (1, "fire", False, 0, ("b", "c")),
                (1, "", True, 0, ()),
                (2, "", True, 1, ()),
                (3, "smoke", False, 0, ("d",)),
                (3, "", True, 0, ()),
                (4, "", False, 0, ()),
                (5, "fire", False, 0, ("f",)),
                (5, "", True, 0, ()),
            ],
        )
        heights = [GROUP if row.group else LANE for row in rows]
        self.assertEqual([row.height for row in rows], heights)
        self.assertEqual([row.top for row in rows], [sum(heights[:i]) for i in range(len(rows))])
        folded = rows_of(effect, {"fire"})
        self.assertEqual(
            [(row.first, row.group) for row in folded],
            [(0, ""), (1, "fire"), (3, "smoke"), (3, ""), (4, ""), (5, "fire")],
        )

    def test_a_burst_fires_where_the_simulation_lets_it(self):
        for begin, length in ((0.0, None), (0.5, 1.0), (1.5, 9.0), (2.0, 1.0)):
            effect = single(
                {
                    "emit.rate": 0,
                    "emit.bursts": [{"at": 0.5, "repeat": 4, "every": 0.25}, {"at": 1.0, "count": 3}],
                    "window": {"begin": begin, "length": length},
                    "launch.lifetime": 9,
                },
                duration=2.0,
                loop=False,
            )
            layer = effect.layers[0]
            found = burst_moments(layer, effect.duration)
            self.assertEqual([one[:2] for one in found], [(0, 0), (0, 1), (0, 2), (0, 3), (1, 0)])
            self.assertEqual(
                [one[2] for one in found], [begin + after for after in (0.5, 0.75, 1.0, 1.25, 1.0)]
            )
            counts = [layer.emit.bursts[one[0]].count for one in found]
            fires = sum(
                float(count.bounds_at([0.0])[0][0])
                for one, count in zip(found, counts, strict=True)
                if one[3]
            )
            simulation = Simulation(effect)
            simulation.seek(effect.duration)
            self.assertEqual(simulation.counts("a")["alive"], fires, (begin, length))
        self.assertEqual(len(burst_moments(layer.model_copy(update={"emit": layer.emit}), 2.0, most=2)), 3)
