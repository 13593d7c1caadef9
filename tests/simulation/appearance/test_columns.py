"""What each particle carries to the graphics card, against its fields read by hand."""

import unittest

import numpy as np

from pale_ember.simulation import Simulation
from pale_ember.simulation.layout.instances import INSTANCE, NAMES, PLAIN, checked, field_of, instance_type
from pale_ember.simulation.layout.slots import STRAIGHT

from ...building import single

RISING = {"curve": [[0, 0], [1, 1]], "along": "life"}
# Where fields stand that only some layers use.
USED = {"look.blend": "mix", "look.texture": "t"}


class ColumnsTest(unittest.TestCase):
    def shown(self, edits):
        sim = Simulation(single({"emit.rate": 60, "launch.lifetime": 1, **edits}))
        sim.seek(0.9)
        return sim.particles("a"), sim.instances("a")

    def test_every_field_with_a_column_is_read_at_its_own_age_and_carried_only_if_it_differs(self):
        for name, straight in STRAIGHT.items():
            more = {"look.draw": "mesh"} if straight.rule.draws else USED
            value = [RISING] * 3 if straight.parts == 3 else RISING
            with self.subTest(name):
                p, rows = self.shown({**more, straight.path: value})
                wanted = np.repeat(p.age[:, None], straight.parts, 1)
                np.testing.assert_allclose(rows[name].reshape(len(rows), -1), wanted, atol=3e-3)
                level = [0.5] * 3 if straight.parts == 3 else 0.5
                self.assertNotIn(name, self.shown({**more, straight.path: level})[1].dtype.names)

    def test_only_instances_are_taken_for_such(self):
        for names in ((), ("color",), NAMES):
            rows = np.zeros(3, instance_type(names))
            self.assertIs(checked(rows), rows)
        whole = np.zeros(3, INSTANCE)
        others = np.zeros(3, [("place", "<f8", 3), ("size", "<f4", 2)])
        for rows in (whole[["place", "color"]], others, np.zeros(3), whole[["size", "angle"]]):
            with self.assertRaisesRegex(TypeError, "INSTANCE"):
                checked(rows)

    def test_frames_light_and_shape_along_life_are_those_of_each_ones_age(self):
        edits = {
            **USED,
            "look.frame": {"curve": [[0, 0], [1, 8]], "along": "life"},
            "look.frame_rate": 2,
            "look.grow": RISING,
            "look.widen": {"curve": [[0, 1], [1, 3]], "along": "life"},
            "look.color": {"gradient": [[0, "#000000"], [1, "#ffffff"]], "along": "life"},
            "launch.size": 2,
        }
        p, rows = self.shown(edits)
        np.testing.assert_allclose(rows["frame"], 8 * p.age + 2 * p.age, atol=0.03)
        np.testing.assert_allclose(rows["size"][:, 1], 2 * p.age, atol=6e-3)
        np.testing.assert_allclose(rows["size"][:, 0], 2 * p.age * (1 + 2 * p.age), atol=3e-2)
        np.testing.assert_allclose(rows["color"][:, 1], p.age, atol=6e-3)

    def test_what_keeps_to_the_birth_is_read_at_the_clock_of_each_ones_birth(self):
        rising = {"curve": [[0, 0], [1, 4]], "along": "clock"}
        p, rows = self.shown(
            {"look.texture": "t", "launch.size": rising, "launch.aspect": rising, "look.frame_rate": rising}
        )
        born = (0.9 - p.age) / 4
        np.testing.assert_allclose(rows["size"][:, 1], 4 * born, atol=2e-2)
        np.testing.assert_allclose(rows["size"][:, 0], (4 * born) ** 2, atol=4e-2)
        np.testing.assert_allclose(rows["frame"], 4 * born * p.age, atol=2e-2)

    def test_a_column_that_is_not_carried_reads_as_what_all_share_else_as_nothing_special(self):
        rows = np.zeros(3, np.dtype([("place", np.float32, 3), ("size", np.float32, 2)]))
        for name in NAMES[2:]:
            found = field_of(rows, name).reshape(3, -1)
            np.testing.assert_array_equal(found, [PLAIN[name]] * 3)
            shared = tuple(float(i + 2) for i in range(found.shape[1]))
            np.testing.assert_array_equal(field_of(rows, name, {name: shared}).reshape(3, -1), [shared] * 3)
        self.assertEqual(INSTANCE.itemsize, 4 * sum(len(PLAIN[name]) for name in NAMES))


if __name__ == "__main__":
    unittest.main()
