"""Forces are found, linked where they act, and added one after the other."""

import unittest
from unittest import mock

import numpy as np

from pale_ember.simulation import Simulation
from pale_ember.simulation.layout import scratch
from pale_ember.simulation.motion.force import FORCES, Force, force, forces_of
from pale_ember.simulation.time.compile_layer import kernels_of

from ...building import single

STILL = {
    "emit.rate": 0,
    "emit.bursts": [{"count": 3}],
    "launch.speed": 0,
    "launch.lifetime": 60,
    "birthplace.radius": 0,
    "flight.gravity": 0,
    "flight.drag": 0,
}


def lifting(field, up):
    """Declare a force by itself, beside those of the program."""
    before = list(FORCES)

    @force(field)
    def lift(scr, around, tables, form, ends, serial, start, n, calls):
        rise = scr[scratch.AY]
        for i in range(n):
            rise[i] += np.float32(up)

    made = FORCES[-1]
    FORCES[:] = before
    return made


class ForceTest(unittest.TestCase):
    def test_only_forces_whose_fields_say_anything_are_linked(self):
        for edits, names in (
            ({}, []),
            ({"flight.pull": 1}, ["about_centre"]),
            ({"flight.swirl": {"curve": [[0, 0], [1, 2]]}}, ["about_centre"]),
            ({"flight.turbulence": 1}, ["stir_up"]),
            ({"flight.turbulence": 1, "flight.pull": 2, "flight.swirl": 3}, ["about_centre", "stir_up"]),
            ({"flight.wind": 1, "flight.drag": 2, "flight.thrust": [1, 0, 0]}, []),
        ):
            layer = single(edits).layers[0]
            found = [kernel.name.rpartition(".")[2] for kernel in forces_of(layer.flight)]
            self.assertEqual(found, names)
            self.assertLessEqual(set(forces_of(layer.flight)), set(kernels_of(layer).values()))

    def test_what_is_declared_in_its_own_file_acts_as_it_says(self):
        lift, more = lifting("pull", 2.0), lifting("swirl", 0.5)
        with mock.patch("pale_ember.simulation.motion.force.FORCES", [lift, more]):
            for edits, up in (
                ({}, 0.0),
                ({"flight.pull": 1}, 2.0),
                ({"flight.swirl": 1}, 0.5),
                ({"flight.pull": 1, "flight.swirl": 1, "flight.gravity": 1}, 2.5 - 9.81),
            ):
                sim = Simulation(single({**STILL, **edits}))
                sim.seek(1.5)
                p = sim.particles("a")
                self.assertEqual(len(p.serial), 3)
                np.testing.assert_allclose(p.velocity, [[0, up * 1.5, 0]] * 3, atol=2e-5)
                np.testing.assert_allclose(p.position, [[0, up * 1.125, 0]] * 3, atol=2e-5)

    def test_each_declares_fields_that_there_are(self):
        flight = type(single().layers[0].flight)
        self.assertGreaterEqual(len(FORCES), 2)
        for one in FORCES:
            self.assertIsInstance(one, Force)
            self.assertTrue(one.fields)
            self.assertLessEqual(set(one.fields), set(flight.model_fields))


if __name__ == "__main__":
    unittest.main()
