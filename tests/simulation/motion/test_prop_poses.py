"""Where moving props are in a step, and how they come round with the loop."""

import unittest

import numpy as np

from pale_ember.effect import Effect
from pale_ember.effect.chapters.path import evaluate_path
from pale_ember.effect.chapters.place import PathKey
from pale_ember.effect.chapters.stage import Prop
from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation.layout.program import CENTRE, ROTATION, STRETCH
from pale_ember.simulation.motion.prop_poses import prop_clock, prop_pose, standing, step_poses

KEYS = (
    PathKey(at=0.0),
    PathKey(at=0.5, position=(1.0, 0.5, 0.0), rotation=(0, 120, 40), scale=2.0),
    PathKey(at=1.0, position=(0.0, 1.0, 1.0)),
)
PROP = Prop(
    name="p",
    kind="box",
    position=(0.2, 0.1, -0.4),
    rotation=(10.0, 50.0, 0.0),
    size=(1.0, 2.0, 0.5),
    path=KEYS,
)


def by_hand(clock):
    """Return a pose, (4, 4), from the path's own numbers."""
    path, turn = evaluate_path(KEYS, [clock])[0], matrix_of(PROP.rotation)
    found = np.eye(4)
    found[:3, :3] = turn @ matrix_of(tuple(path[3:6])) * path[6]
    found[:3, 3] = np.array(PROP.position) + turn @ path[:3]
    return found


def pose_of(row):
    found = np.eye(4)
    found[:3, :3], found[:3, 3] = row[ROTATION:STRETCH].reshape(3, 3) * row[STRETCH], row[CENTRE:ROTATION]
    return found


class PropPoseTest(unittest.TestCase):
    def test_a_pose_is_the_place_and_then_the_path(self):
        for clock in (0.0, 0.1, 0.5, 0.77, 1.0):
            np.testing.assert_allclose(prop_pose(PROP, clock), by_hand(clock), atol=1e-9)
            still = standing(PROP, clock)
            np.testing.assert_allclose(prop_pose(still, 0.0)[:3, 3], by_hand(clock)[:3, 3], atol=1e-9)
            np.testing.assert_allclose(
                np.array(still.size) / PROP.size, np.cbrt(np.linalg.det(by_hand(clock)[:3, :3])), atol=1e-9
            )
        self.assertIs(standing(PROP.model_copy(update={"path": ()}), 0.3).path, ())

    def test_each_step_begins_where_the_last_one_ended_but_for_the_loops_end(self):
        for duration, rate in ((2.0, 30), (1.0, 60), (0.73, 60)):
            effect = Effect(duration=duration, loop=True, step_rate=rate)
            count = round(3 * duration * rate)
            poses = step_poses(effect, PROP, -3, count)
            whole = duration * rate
            for i in range(1, count):
                step = i - 3
                crosses = np.floor(step / whole + 1e-9) != np.floor((step - 1) / whole + 1e-9)
                same = np.allclose(poses[i, 0], poses[i - 1, 1], atol=1e-9)
                self.assertEqual(same, not crosses, (duration, step))
                wanted = by_hand(prop_clock(effect, step / rate))
                if not crosses:
                    np.testing.assert_allclose(pose_of(poses[i, 0]), wanted, atol=1e-6)

    def test_the_very_end_of_a_loop_is_the_beginning_of_the_next(self):
        for duration in (0.7, 1.0, 4.0 / 3.0, 2.3):
            effect = Effect(duration=duration, loop=True)
            for loop in range(40):
                self.assertAlmostEqual(prop_clock(effect, loop * duration), 0.0, delta=1e-6)
                self.assertAlmostEqual(prop_clock(effect, (loop + 0.25) * duration), 0.25, delta=1e-6)
            once = effect.edit("loop", False)
            self.assertEqual([prop_clock(once, x * duration) for x in (-1, 0.5, 1, 3)], [0.0, 0.5, 1.0, 1.0])

    def test_without_a_loop_it_stands_before_and_behind(self):
        effect = Effect(duration=1.0, loop=False, step_rate=60)
        poses = step_poses(effect, PROP, -10, 90)
        np.testing.assert_allclose(pose_of(poses[0, 0]), by_hand(0.0), atol=1e-9)
        np.testing.assert_allclose(pose_of(poses[-1, 1]), by_hand(1.0), atol=1e-9)
        np.testing.assert_allclose(pose_of(poses[40, 1]), by_hand(31 / 60), atol=1e-9)
        # However the steps are asked for, they are the same.
        np.testing.assert_array_equal(step_poses(effect, PROP, 20, 5), poses[30:35])


if __name__ == "__main__":
    unittest.main()
