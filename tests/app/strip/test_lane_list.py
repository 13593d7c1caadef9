"""Which lanes there are, and what is measured for them; no window is needed."""

import types
import unittest

import numpy as np

from pale_ember.app.strip.lane_list import ALWAYS, choices, lanes_of, property_of
from pale_ember.app.strip.measured import BINS, Measured
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.effect.effect import Effect
from pale_ember.simulation.layout.instances import INSTANCE
from pale_ember.simulation.simulation import Lives

from ...building import single

EDITS = {
    "emit.rate": {"curve": [[0, 1], [1, 9]]},
    "emit.bursts": [{"at": 0, "count": 5}, {"at": 1, "count": {"curve": [[0, 1], [1, 9]]}}],
    "flight.drag": {"curve": [[0, 0], [1, 2]], "along": "speed"},
    "flight.thrust": [0, {"curve": [[0, 1], [1, 3]]}, 0],
    "look.grow": {"curve": [[0, 1], [1, 2]], "along": "speed"},
}


class LaneListTest(unittest.TestCase):
    def setUp(self):
        self.layer = single(EDITS).layers[0]

    def paths(self, axis, added=(), order=()):
        return [choice.path for choice in lanes_of(self.layer, axis, set(added), list(order))]

    def test_each_axis_has_the_lanes_of_its_curves(self):
        # Grow runs along speed here, so it has no lane along life.
        self.assertEqual(
            self.paths("life"), ["look.opacity", "look.color", "look.intensity", "flight.thrust"]
        )
        self.assertEqual(self.paths("clock"), ["emit.rate", "emit.bursts[1].count"])
        self.assertEqual(self.paths("speed"), ["look.grow", "flight.drag"])

    def test_lanes_of_the_look_appear_with_its_fields(self):
        def more(edits):
            self.layer = single(edits).layers[0]
            return set(self.paths("life")) - set(ALWAYS)

        self.assertEqual(more({}), set())
        self.assertEqual(more({"look.facing": "streak", "look.blend": "mix"}), {"look.streak", "look.mix"})
        self.assertEqual(
            more({"look.erode.amount": 0.5, "look.bend.amount": 0.1, "look.shimmer.amount": 1}),
            {"look.erode.amount", "look.bend.amount", "look.shimmer.amount"},
        )
        self.assertEqual(more({"look.texture": "x", "look.frame": {"spread": [0, 4]}}), {"look.frame"})
        self.assertEqual(property_of(self.layer, "look.erode.amount[0]"), "look.erode.amount")

    def test_lanes_are_added_and_ordered(self):
        added = ("flight.spin", "emit.rate")
        order = ("flight.spin", "look.color", "gone.away")
        self.assertEqual(
            self.paths("life", added, order),
            ["flight.spin", "look.color", "look.opacity", "look.intensity", "flight.thrust"],
        )
        self.assertEqual(len(ALWAYS), 4)

    def test_the_list_says_what_is_used_and_leaves_out_what_has_no_such_axis(self):
        listed = {choice.path: choice.used for choice in choices(self.layer, "life")}
        self.assertTrue(listed["flight.thrust"])
        self.assertFalse(listed["look.grow"])
        self.assertNotIn("emit.rate", listed)
        names = [choice.rule.label for choice in choices(self.layer, "clock") if "bursts" in choice.path]
        self.assertEqual(names, ["Burst 1 count", "Burst 2 count"])

    def test_paths_lead_to_their_property(self):
        for path, found in (
            ("flight.thrust[1]", "flight.thrust"),
            ("emit.bursts[1].count", "emit.bursts[1].count"),
            ("emit.cap", ""),
            ("place.position", ""),
        ):
            self.assertEqual(property_of(self.layer, path), found)


class MeasuredTest(unittest.TestCase):
    def session(self, layer):
        found = types.SimpleNamespace(
            layer=layer, camera=Camera(yaw=0, pitch=0, distance=4), strip_axis="life"
        )
        found.moment, found.effect = Moment(0.0, ()), Effect(layers=(layer,))
        return found

    def moment(self, time, ages, speeds, size):
        n = len(ages)
        rows = np.zeros(n, INSTANCE)
        rows["place"][:, 1], rows["size"][:, 1] = 0.8, size
        lives = np.zeros((5, n), np.float32)
        lives[0], lives[1] = ages, 1.0
        life = Lives(lives, np.arange(n, dtype=np.uint32), 0, 60, np.array(speeds, np.float32))
        return Moment(time, (DrawnLayer("a", rows, Look(), life=life),))

    def test_mean_and_spread_are_those_of_all_that_was_seen(self):
        layer = single({}).layers[0]
        session = self.session(layer)
        measured = Measured(session)
        lane = types.SimpleNamespace(path="layers[0].flight.top_speed")
        for time, speeds in ((0.1, [1.0, 3.0]), (0.2, [2.0, 4.0])):
            session.moment = self.moment(time, [0.01, 0.01], speeds, 0.5)
            measured._told = 0.0
            self.assertTrue(measured.take(400))
            # The same moment is not counted twice.
            self.assertFalse(measured.take(400))
        found = measured.of(lane.path)
        np.testing.assert_allclose((found.age[0], found.mean[0]), (0.5 / BINS, 2.5))
        np.testing.assert_allclose(found.spread[0], np.std([1, 3, 2, 4]))
        # On screen: half a metre, four metres away, in a picture of 400 pixels.
        size = measured.of("layers[0].look.grow")
        np.testing.assert_allclose(size.mean[0], 0.5 * 400 / (2 * 4 * np.tan(np.radians(20))), rtol=1e-3)
        self.assertIsNone(measured.of("layers[0].look.opacity"))

    def test_an_edit_of_the_motion_starts_anew(self):
        layer = single({}).layers[0]
        session = self.session(layer)
        measured, lane = Measured(session), types.SimpleNamespace(path="layers[0].flight.top_speed")
        session.moment = self.moment(0.1, [0.5], [8.0], 1)
        measured.take(400)
        session.layer = single({"launch.speed": 2}).layers[0]
        session.moment = self.moment(0.15, [0.5], [4.0], 1)
        measured.take(400)
        # Wind that this layer doesn't take changes nothing of it; what it does take starts anew.
        session.effect = session.effect.edit("stage.wind", [9, 0, 0])
        measured._told = 0.0
        session.moment = self.moment(0.2, [0.5], [2.0], 1)
        measured.take(400)
        np.testing.assert_allclose(measured.of(lane.path).mean, [3.0])
        session.strip_axis = "clock"
        self.assertIsNone(measured.of(lane.path))


if __name__ == "__main__":
    unittest.main()
