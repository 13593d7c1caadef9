"""Kernels: compiled once each, called by address, kept as long as what they depend on stays the same."""

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from pale_ember import first_start
from pale_ember.demo import NAMES, demo
from pale_ember.simulation import Simulation, warm_up
from pale_ember.simulation.kernels import cache as kernel_cache
from pale_ember.simulation.kernels.compiling import KERNELS, kernel
from pale_ember.simulation.layout.scratch import motion_scratch
from pale_ember.simulation.layout.signatures import F1, INT, NOTHING, REAL
from pale_ember.simulation.time.compile_layer import UnlinkedKernel
from pale_ember.simulation.time.stepping import live

from ...building import effect_with

CACHED = (kernel_cache.stamp, kernel_cache._imports, kernel_cache._declared, kernel_cache._source)


@kernel(REAL, REAL, INT)
def _powered(x, n):
    out = 1.0
    for _ in range(n):
        out *= x
    return out


call_powered = _powered.call


@kernel(NOTHING, F1, INT, entry=True)
def _all_powered(values, powering):
    for i in range(values.shape[0]):
        values[i] = call_powered(powering, values[i], 3)


class KernelTest(unittest.TestCase):
    def test_a_kernel_calls_another_by_its_address(self):
        values = np.arange(6, dtype=np.float32)
        _all_powered(values, _powered.address)
        np.testing.assert_array_equal(values, np.arange(6) ** 3)

    def test_one_that_a_layer_is_not_linked_with_is_an_error_of_that_name(self):
        sim = Simulation(effect_with({"a": {"emit.rate": 100}}))
        sim.seek(0.5)
        run = sim._runs["a"]
        self.assertGreater(run.alive, 10)
        # As if the layer glittered: what moves it from place to place is not linked.
        wrong = run.program._replace(shape=run.program.shape._replace(glitter=True))
        scratch, alive = motion_scratch(), run.alive
        with self.assertRaises(UnlinkedKernel):
            live(wrong, run.state.copy(), run.serial.copy(), 0, alive, 0, 30, scratch)
        calls = run.program.calls._asdict()
        self.assertEqual(len(calls.pop("forces")), 0)
        self.assertTrue(all(calls.values()))

    def test_each_is_compiled_for_one_signature_and_only_if_it_is_used(self):
        for name in NAMES:
            sim = Simulation(demo(name))
            sim.seek(0.5)
            for layer in sim.effect.layers:
                sim.instances(layer.id)
        for name, made in KERNELS.items():
            self.assertLessEqual(len(made._dispatcher.overloads), 1, name)
            self.assertIn(name.rpartition(".")[2], repr(made._dispatcher))
        self.assertTrue(KERNELS["time.integration.advance"].is_ready)

    def test_what_is_wanted_first_are_kernels_and_both_halves_are_about_as_long(self):
        second = warm_up._second_half()
        weights = [
            sum(one.cost for one in warm_up._everyday() if (one.name in second) == mine)
            for mine in (True, False)
        ]
        self.assertLess(abs(weights[0] - weights[1]), 6.0)
        told = []
        for made in KERNELS.values():
            _ = made.address
        warm_up.prepare(lambda done, of, name: told.append((done, of, name)), demo("kiln-mouth"))
        self.assertEqual(told, [], "all are ready, so there is nothing to tell")


class CacheTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.copy = Path(folder.name) / "simulation"
        shutil.copytree(kernel_cache._HERE, self.copy, ignore=shutil.ignore_patterns("__pycache__"))
        (self.copy.parent / "effect").mkdir()
        for name in kernel_cache._ENUMERATIONS:
            shutil.copy(kernel_cache._file_of(name), self.copy.parent / "effect")
        patch = mock.patch.object(kernel_cache, "_HERE", self.copy)
        patch.start()
        self.addCleanup(patch.stop)
        self.forget()
        self.addCleanup(self.forget)

    def forget(self):
        for cached in CACHED:
            cached.cache_clear()

    def changed(self, module, old, new):
        """Return which modules' kernels are to be compiled again when a line of one is another."""
        names = [kernel_cache._module_of(path) for path in self.copy.glob("**/*.py")]
        before = {name: kernel_cache.stamp(name) for name in names}
        file = kernel_cache._file_of(module)
        text = file.read_text()
        self.assertIn(old, text)
        file.write_text(text.replace(old, new))
        self.forget()
        return {name for name, stamp in before.items() if kernel_cache.stamp(name) != stamp}

    def test_a_changed_kernel_compiles_what_holds_its_code_and_nothing_else(self):
        inside = self.changed("motion.turbulence", "quick *= QUICKER", "quick *= QUICKER * 1.0")
        self.assertIn("motion.turbulence", inside)
        self.assertNotIn("time.integration", inside)
        self.assertNotIn("appearance.appear", inside)
        self.assertNotIn("births.shapes", inside)
        # How it is called matters to those that call it.
        called = self.changed("motion.turbulence", "@kernel(NOTHING, F1, F1,", "@kernel(NOTHING, F2, F1,")
        self.assertIn("motion.stirring", called)
        self.assertNotIn("motion.pushing", called)
        self.assertNotIn("time.integration", called)
        shared = self.changed(
            "values.sampling", "share = np.float32(1.0 / reach)", "share = np.float32(1 / reach)"
        )
        self.assertLessEqual(
            {"values.sampling", "time.integration", "appearance.appear", "births.shapes"}, shared
        )

    def test_another_order_of_an_enumeration_compiles_what_holds_it(self):
        found = self.changed(
            "effect.kinds", '    BALL = "ball"\n    DOME = "dome"', '    DOME = "dome"\n    BALL = "ball"'
        )
        self.assertLessEqual({"births.shapes", "births.aiming", "contact.first_hit"}, found)
        self.assertFalse({"motion.forces", "values.sampling", "ribbons.band_edges"} & found)

    def test_other_numbers_of_slots_compile_what_holds_them(self):
        before = {name: kernel_cache.stamp(name) for name in ("motion.orbit", "ribbons.band_edges")}
        with mock.patch.dict(kernel_cache._constants):
            kernel_cache.note_constants("layout.slots", {"ORBIT": 3})
            self.forget()
            self.assertNotEqual(kernel_cache.stamp("motion.orbit"), before["motion.orbit"])
            self.assertEqual(kernel_cache.stamp("ribbons.band_edges"), before["ribbons.band_edges"])

    def test_kernels_come_from_the_cache_the_second_time(self):
        code = (
            "from pale_ember.simulation.kernels.compiling import KERNELS; import "
            "pale_ember.simulation.warm_up\n"
            "k = KERNELS['motion.orbit.orbit']; print(k.is_kept(), bool(k.address), k.was_kept)"
        )
        env = {**os.environ, "NUMBA_CACHE_DIR": str(self.copy.parent / "cache")}
        said = [
            subprocess.run(
                [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
            ).stdout.split()
            for _ in range(2)
        ]
        self.assertEqual(said, [["False", "True", "False"], ["True", "True", "True"]])


class FirstStartTest(unittest.TestCase):
    def test_a_change_in_any_room_of_the_simulation_is_compiled_by_two_again(self):
        with tempfile.TemporaryDirectory() as folder:
            here = Path(folder)
            files = [here / "simulation" / "run.py", here / "simulation" / "contact" / "hits.py"]
            files.append(here / "effect" / "kinds.py")
            for file in files:
                file.parent.mkdir(parents=True, exist_ok=True)
                file.write_text("one = 1")
            with mock.patch.object(first_start, "__file__", str(here / "first_start.py")):
                marks = [first_start._mark()]
                for file in files:
                    file.write_text("one = 2")
                    marks.append(first_start._mark())
                self.assertEqual(first_start._mark(), marks[-1])
        self.assertEqual(len(set(marks)), 4)

    def test_a_second_process_is_started_once_and_not_when_all_is_there(self):
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict(os.environ, {"NUMBA_CACHE_DIR": folder}),
        ):
            started = []

            def popen(command, **how):
                started.append(command)
                return mock.Mock(pid=os.getpid())

            with mock.patch.object(subprocess, "Popen", popen), mock.patch.object(os, "cpu_count", lambda: 2):
                self.assertTrue(first_start.begin())
                self.assertEqual(len(started), 1)
                self.assertFalse(first_start.is_helped(), "the process of that number is another one's")
                first_start.note_all_compiled()
                self.assertFalse(first_start.begin())
                self.assertEqual(len(started), 1)
            with mock.patch.object(os, "cpu_count", lambda: 1):
                self.assertFalse(first_start.begin())

    def test_the_second_process_compiles_its_half_and_ends(self):
        with tempfile.TemporaryDirectory() as folder:
            env = {**os.environ, "NUMBA_CACHE_DIR": folder, "PALE_EMBER_NEEDED_ONLY": "1"}
            code = (
                "from pale_ember.simulation import warm_up\n"
                "warm_up._second_half = lambda: ['motion.orbit.orbit', 'births.shapes.on_line']\n"
                "warm_up.help_along()\n"
                "print([n for n, k in warm_up.KERNELS.items() if k.is_kept()])"
            )
            done = subprocess.run(
                [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
            )
            self.assertEqual(sorted(eval(done.stdout)), ["births.shapes.on_line", "motion.orbit.orbit"])


if __name__ == "__main__":
    unittest.main()
