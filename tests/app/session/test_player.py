"""The simulation's own thread: overtaken, out of memory, ended while busy."""

import threading
import time
import unittest
from unittest import mock

from PyQt6.QtCore import Qt

from pale_ember.app.session import player as players
from pale_ember.app.session.player import Player
from pale_ember.simulation import Simulation

from ...building import single
from ..case import application


class PlayerTest(unittest.TestCase):
    def setUp(self):
        application()
        self.player = Player()
        self.addCleanup(self.player.end)
        self.arrived, self.failed = [], []
        direct = Qt.ConnectionType.DirectConnection
        self.player.arrived.connect(
            lambda moment, number, taken: self.arrived.append((number, moment)), direct
        )
        self.player.failed.connect(self.failed.append, direct)

    def wait(self, holds, seconds=20.0):
        end = time.monotonic() + seconds
        while not holds():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.005)

    def test_a_wish_that_is_overtaken_is_broken_off_and_the_newest_is_answered(self):
        heavy = single(
            {"emit.rate": 20_000, "emit.cap": 60_000, "launch.lifetime": 3, "flight.turbulence": 2},
            duration=60.0,
        )
        with mock.patch.object(players, "PATIENCE", 0.01):
            self.player.ask(heavy, 50.0)
            self.player.begin()
            time.sleep(1.5)
            last = self.player.ask(single(), 0.5)
            self.wait(lambda: self.arrived and self.arrived[-1][0] == last)
        self.assertEqual([number for number, _ in self.arrived], [last], "the one before was broken off")
        self.assertAlmostEqual(self.arrived[-1][1].time, 0.5)

    def test_out_of_memory_and_mistakes_are_said_and_the_next_wish_is_answered(self):
        real, wrongs = Simulation.seek, [MemoryError(), RuntimeError("broken")]

        def seek(sim, *args, **how):
            if wrongs:
                raise wrongs.pop(0)
            return real(sim, *args, **how)

        with mock.patch.object(Simulation, "seek", seek), mock.patch("traceback.print_exc"):
            self.player.begin()
            for count in (1, 2):
                self.player.ask(single(), 0.2 * count)
                self.wait(lambda count=count: len(self.failed) == count)
            self.player.ask(single(), 0.7)
            self.wait(lambda: bool(self.arrived))
        self.assertIn("not enough memory", self.failed[0])
        self.assertIn("started anew", self.failed[1])
        self.assertGreater(self.arrived[-1][1].counts["a"]["born"], 10)

    def test_an_effect_that_fits_nowhere_is_said_with_its_place(self):
        huge = {"emit.cap": 4_000_000, "emit.rate": 10_000_000, "launch.lifetime": 3600}
        from ...building import effect_with

        self.player.ask(effect_with({f"l{i}": huge for i in range(200)}), 1.0)
        self.player.begin()
        self.wait(lambda: bool(self.failed))
        self.assertIn("lower the caps", self.failed[0])

    def test_it_ends_while_it_is_busy(self):
        heavy = single(
            {"emit.rate": 20_000, "emit.cap": 60_000, "launch.lifetime": 3, "flight.turbulence": 2},
            duration=60.0,
        )
        self.player.ask(heavy, 55.0)
        self.player.begin()
        time.sleep(1.0)
        self.player.end()
        self.assertEqual(self.arrived, [], "it was broken off")
        self.assertNotIn("player", [thread.name for thread in threading.enumerate()])


if __name__ == "__main__":
    unittest.main()
