"""Garbage is collected, and by the interface's thread alone."""

import gc
import os
import threading
import time
import unittest

from PyQt6.QtCore import QObject
from PyQt6.QtTest import QTest

from pale_ember.app.window.tidying import YOUNG
from pale_ember.newest import Newest

from ..case import application


class Cycle:
    """Something that only a look for cycles releases; it notes who does."""

    released: list[int] = []

    def __init__(self):
        self.me = self

    def __del__(self):
        Cycle.released.append(threading.get_ident())


@unittest.skipUnless(os.environ.get("DISPLAY"), "needs a display")
class TidyingTest(unittest.TestCase):
    def setUp(self):
        application()
        Cycle.released.clear()

    def test_what_threads_leave_behind_is_released_here_and_memory_does_not_grow(self):
        ended = threading.Event()

        def work():
            while not ended.is_set():
                for _ in range(300):
                    Cycle()
                time.sleep(0.001)

        thread = threading.Thread(target=work)
        thread.start()
        end = time.monotonic() + 2.0
        most = 0
        while time.monotonic() < end:
            QTest.qWait(20)
            most = max(most, gc.get_count()[0])
        ended.set()
        thread.join()
        self.assertFalse(gc.isenabled())
        self.assertEqual(set(Cycle.released), {threading.get_ident()})
        self.assertGreater(len(Cycle.released), 20_000)

    def test_a_thread_ends_with_its_owner_though_that_stands_in_a_circle(self):
        newests = []
        for turn in range(40):
            above = QObject()
            owner = QObject(above)
            # Each leads to the other, and so does what the thread is to do.
            above.owner, owner.above = owner, above
            newest = Newest("circle", lambda request, overtaken: None)
            newest.end_with(owner)
            owner.newest = newest
            if turn % 2:
                newest.ask(turn)
            newests.append(newest)
        self.assertFalse(any(newest.has_ended for newest in newests))
        del above, owner, newest
        gc.collect()
        self.assertTrue(all(newest.has_ended for newest in newests))
        end = time.monotonic() + 60.0
        while any(newest.is_working for newest in newests) and time.monotonic() < end:
            time.sleep(0.01)
        self.assertFalse(any(newest.is_working for newest in newests))

    def test_cycles_that_have_been_there_for_some_looks_are_found_too(self):
        older = [Cycle() for _ in range(50)]
        for _ in range(2):
            gc.collect(0)
        del older
        Cycle.released.clear()
        end = time.monotonic() + 10.0
        kept: list[list[int]] = []
        while len(Cycle.released) < 50 and time.monotonic() < end:
            kept += [[] for _ in range(YOUNG)]
            QTest.qWait(20)
        self.assertGreaterEqual(len(Cycle.released), 50)


if __name__ == "__main__":
    unittest.main()
