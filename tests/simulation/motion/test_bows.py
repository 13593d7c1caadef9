"""Bows: births along a curve, evenly, in a row; ends that stand on things and go along with them."""

import unittest

import numpy as np
from scipy import integrate, stats

from pale_ember.effect import Effect
from pale_ember.effect.editing.companions import companions
from pale_ember.effect.editing.layers import add_layers, duplicate_layers
from pale_ember.effect.editing.snippets import layers_text, parse_layers
from pale_ember.simulation import Simulation
from pale_ember.simulation.motion.bows import bow_points, end_frames, on_cubic

from ...building import effect_with, single

STILL = {"launch.speed": 0, "launch.lifetime": 3, "birthplace.kind": "bow", "emit.rate": 0}
PATH = [{}, {"at": 1, "position": [0, 2, 1], "rotation": [0, 0, 120]}]


def cubic(points, t):
    s = 1 - np.asarray(t)[:, None]
    a, b, c, d = points
    return s**3 * a + 3 * s**2 * (1 - s) * b + 3 * s * (1 - s) ** 2 * c + (1 - s) ** 3 * d


def nearest(points, places):
    """Return how far places are from a cubic, and at which share of its length they are."""
    t = np.linspace(0, 1, 20_001)
    curve = cubic(points, t)
    long = np.append(0, np.cumsum(np.linalg.norm(np.diff(curve, axis=0), axis=1)))
    found = []
    for place in places:
        at = int(np.argmin(np.linalg.norm(curve - place, axis=1)))
        found.append((np.linalg.norm(curve[at] - place), long[at] / long[-1]))
    return np.array(found).T


class BowTest(unittest.TestCase):
    def test_points_lie_on_the_curve_and_evenly(self):
        roll = np.random.default_rng(4)
        for _ in range(12):
            points = np.cumsum(roll.normal(size=(4, 3)), axis=0)
            start, end = points[0], points[3]
            edits = {
                "birthplace.start": start.tolist(),
                "birthplace.end": end.tolist(),
                "birthplace.start_pull": (points[1] - start).tolist(),
                "birthplace.end_pull": (points[2] - end).tolist(),
                "birthplace.in_row": True,
                "emit.bursts": [{"count": 33}],
            }
            sim = Simulation(single(STILL | edits))
            sim.seek(0.1)
            places = sim.particles("a").position.astype(float)
            off, share = nearest(points, places)
            self.assertLess(off.max(), 3e-4)
            np.testing.assert_allclose(share, np.linspace(0, 1, 33), atol=2e-3)

            # Its length by quadrature, of the slope's own closed form.
            def slope(t, p=points):
                first, second, third = p[1] - p[0], p[2] - p[1], p[3] - p[2]
                return 3 * np.linalg.norm((1 - t) ** 2 * first + 2 * (1 - t) * t * second + t * t * third)

            half = integrate.quad(slope, 0, 1, limit=200)[0] / 32
            self.assertLessEqual(np.linalg.norm(np.diff(places, axis=0), axis=1).max(), half * 1.01)

    def test_at_random_they_fill_it_evenly_and_a_rate_goes_along_with_the_window(self):
        sim = Simulation(single(STILL | {"emit.bursts": [{"count": 3000}], "emit.cap": 5000}))
        sim.seek(0.1)
        effect = sim.effect
        _, share = nearest(
            bow_points(effect, effect.layers[0], 0.0), sim.particles("a").position[::10].astype(float)
        )
        self.assertGreater(stats.kstest(share, "uniform").pvalue, 1e-3)
        sim = Simulation(
            single(
                STILL
                | {"emit.rate": 20, "birthplace.in_row": True, "window.length": 2.0, "launch.lifetime": 9}
            )
        )
        sim.seek(3.0)
        _, share = nearest(
            bow_points(effect, effect.layers[0], 0.0), sim.particles("a").position.astype(float)
        )
        np.testing.assert_allclose(share, np.arange(40) / 40, atol=2e-3)

    def test_what_strays_is_nearer_at_the_ends_and_glitters_from_step_to_step(self):
        edits = {"birthplace.in_row": True, "birthplace.stray": 0.1, "emit.bursts": [{"count": 201}]}
        sim = Simulation(single(STILL | edits))
        sim.seek(0.1)
        effect = sim.effect
        points = bow_points(effect, effect.layers[0], 0.0)
        off, share = nearest(points, sim.particles("a").position.astype(float))
        self.assertTrue((off <= 0.1 * np.sqrt(4 * share * (1 - share)) + 2e-3).all())
        self.assertGreater(off.max(), 0.07)
        at = sim.particles("a").position.copy()
        sim.seek(0.5)
        np.testing.assert_array_equal(sim.particles("a").position, at)
        sim = Simulation(effect.edit("layers[0].birthplace.glitter", True))
        seen = []
        for step in range(6, 18):
            sim.seek(step / 60)
            seen.append(sim.particles("a").position.copy())
            _, now = nearest(points, seen[-1].astype(float)[10:-10:30])
            np.testing.assert_allclose(now, np.linspace(0, 1, 201)[10:-10:30], atol=0.08)
        self.assertGreater(np.abs(np.diff(seen, axis=0)).mean(), 0.01)

    def test_ends_follow_what_they_stand_on_without_lag(self):
        props = [
            {
                "name": "Post",
                "position": [1, 0, 0.5],
                "size": [0.2, 1, 0.2],
                "rotation": [0, 40, 0],
                "path": PATH,
            },
            {"name": "Block", "position": [-1, 0, 0]},
        ]
        for follow in (True, False):
            effect = effect_with(
                {
                    "a": STILL
                    | {
                        "birthplace.start_on": "prop:Block",
                        "birthplace.end_on": "prop:Post",
                        "birthplace.start": [0, 1, 0],
                        "birthplace.end": [0.1, 1, 0],
                        "birthplace.in_row": True,
                        "emit.rate": 0,
                        "emit.bursts": [{"count": 17, "repeat": 60, "every": 1 / 15}],
                        "launch.lifetime": 0.4,
                        "place.position": [0.3, 0.2, 0],
                        "place.rotation": [0, 30, 0],
                        "place.scale": 1.5,
                        "flight.follow": follow,
                    },
                }
            ).edit("stage.props", props)
            layer, sim = effect.layers[0], Simulation(effect)
            for step in range(8, 200, 9):
                sim.seek(step / 60)
                points = bow_points(effect, layer, step / 60)
                p = sim.particles("a")
                chosen = np.arange(len(p)) if follow else np.flatnonzero(p.age < 1e-3)
                if len(chosen):
                    off, _ = nearest(points, p.position[chosen].astype(float))
                    self.assertLess(off.max(), 2e-3, (follow, step))
                # The end is where the prop's own pose has it.
                frame = end_frames(effect, layer, step / 60)[1]
                np.testing.assert_allclose(points[3], frame.centre + frame.rotation @ [0.1, 1, 0], atol=1e-6)

    def test_an_end_may_stand_on_another_layers_path(self):
        effect = effect_with(
            {
                "b": {
                    "place.position": [0, 1, 0],
                    "path": PATH,
                    "emit.rate": 0,
                    "emit.bursts": [{"count": 1, "at": 0.0}],
                    "launch.speed": 0,
                    "launch.lifetime": 4,
                },
                "a": STILL
                | {
                    "birthplace.end_on": "layer:b",
                    "birthplace.end": [0, 0, 0],
                    "birthplace.in_row": True,
                    "emit.bursts": [{"count": 5}],
                },
            }
        )
        sim = Simulation(effect)
        for step in range(6, 150, 11):
            sim.seek(step / 60)
            np.testing.assert_allclose(
                sim.particles("a").position[-1], sim.particles("b").position[0], atol=2e-4
            )
            np.testing.assert_allclose(sim.particles("a").position[0], [-0.5, 0, 0], atol=1e-4)

    def test_what_is_not_there_is_said_and_the_rest_goes_on(self):
        sim = Simulation(single(STILL | {"birthplace.start_on": "prop:Gone", "emit.rate": 20}))
        sim.seek(1.0)
        self.assertEqual(sim.counts("a")["alive"], 20)
        (wrong,) = sim.problems()
        self.assertEqual(wrong.place, "layers[0].birthplace.start_on")
        self.assertIn("Gone", wrong.reason)

    def test_copies_stand_on_copies_and_renamed_props_are_kept(self):
        effect = effect_with({"b": {}, "a": {"birthplace.kind": "bow", "birthplace.start_on": "layer:b"}})
        copied = duplicate_layers(effect, ["b", "a"])
        new = [layer for layer in copied.layers if layer.id not in ("a", "b")]
        self.assertEqual(new[1].birthplace.start_on, f"layer:{new[0].id}")
        pasted = add_layers(Effect(), parse_layers(layers_text(effect.layers)).layers)
        self.assertEqual(pasted.layers[1].birthplace.start_on, f"layer:{pasted.layers[0].id}")
        effect = effect.edit(
            "stage.props", [{"name": "Post", "size": [0.2, 1.4, 0.2], "position": [2, 0, 0]}]
        )
        along = companions(effect, "layers[1].birthplace.start_on", "prop:Post")
        self.assertEqual(along[0], ("layers[1].birthplace.start", (0.0, 1.4, 0.0)))
        # Its start is on the other side of its end now: pulls lead there.
        self.assertEqual(
            dict(along[1:]),
            {
                "layers[1].birthplace.start_pull": (-0.2, 0.35, 0.0),
                "layers[1].birthplace.end_pull": (0.2, 0.35, 0.0),
            },
        )
        on = effect.edit("layers[1].birthplace.start_on", "prop:Post")
        for edit in along:
            on = on.edit(*edit)
        self.assertEqual(
            companions(on, "stage.props[0].name", "Pole"), [("layers[1].birthplace.start_on", "prop:Pole")]
        )
        # On nothing any more, the end stays where it is.
        self.assertEqual(
            companions(on, "layers[1].birthplace.start_on", ""),
            [("layers[1].birthplace.start", (2.0, 1.4, 0.0))],
        )

    def test_curves_are_those_of_their_four_points(self):
        points = np.array([[[0, 0, 0], [0, 1, 0], [1, 1, 0], [1, 0, 0]]], float)
        np.testing.assert_allclose(
            on_cubic(points, np.array([0.0, 0.5, 1.0]))[0], [[0, 0, 0], [0.5, 0.75, 0], [1, 0, 0]]
        )


if __name__ == "__main__":
    unittest.main()
