"""Work beside the interface of which only the newest answer is wanted."""

import io
import threading
import time
import unittest
from contextlib import redirect_stderr

from pale_ember.newest import Newest


class NewestTest(unittest.TestCase):
    def setUp(self):
        self.done: list[object] = []
        self.begun, self.go_on = threading.Event(), threading.Event()

    def newest(self, work, **how):
        made = Newest("test", work, **how)
        self.addCleanup(made.end)
        self.addCleanup(self.go_on.set)
        return made

    def wait(self, holds):
        end = time.monotonic() + 60.0
        while not holds():
            self.assertLess(time.monotonic(), end, "waited in vain")
            time.sleep(0.002)

    def slow(self, request, overtaken):
        self.begun.set()
        self.go_on.wait(60.0)
        self.done.append((request, overtaken()))

    def test_what_is_asked_for_meanwhile_is_dropped_but_for_the_newest(self):
        newest = self.newest(self.slow)
        newest.ask(1)
        self.assertTrue(self.begun.wait(60.0))
        for request in (2, 3, 4):
            newest.ask(request)
        self.assertEqual(newest.waiting, 4)
        self.go_on.set()
        self.wait(lambda: len(self.done) == 2)
        # The first one knew that it was overtaken; the last was not.
        self.assertEqual(self.done, [(1, True), (4, False)])
        self.assertIsNone(newest.waiting)

    def test_it_may_end_itself_and_one_that_never_began(self):
        made = []

        def work(request, overtaken):
            # Whoever waits for itself would wait for ever.
            made[0].end()
            self.done.append(request)

        made.append(self.newest(work))
        made[0].ask(1)
        self.wait(lambda: self.done == [1])
        self.wait(lambda: not made[0]._thread.is_alive())
        made[0].end()
        self.newest(self.slow, waits=True).end()

    def test_a_request_that_says_nothing_is_one_too(self):
        newest = self.newest(lambda request, overtaken: self.done.append(request))
        for request in (None, 0, ""):
            newest.ask(request)
            self.wait(lambda request=request: self.done[-1:] == [request])

    def test_it_is_idle_only_while_nothing_is_asked_for_and_as_long_as_it_wishes(self):
        turns = []

        def idle(overtaken):
            turns.append(overtaken())
            return 0.0 if len(turns) % 3 else None

        newest = self.newest(lambda request, overtaken: 0.0 if request else None, idle=idle)
        newest.ask(True)
        self.wait(lambda: len(turns) == 3)
        time.sleep(0.05)
        self.assertEqual(turns, [False] * 3)
        newest.ask(False)
        time.sleep(0.05)
        self.assertEqual(len(turns), 3, "it said that there is nothing more to do")
        newest.ask(True)
        self.wait(lambda: len(turns) == 6)

    def test_a_pause_before_idle_work_is_ended_by_a_request(self):
        newest = self.newest(lambda request, overtaken: self.done.append(request) or 3600.0)
        newest.ask(1)
        self.wait(lambda: self.done == [1])
        newest.ask(2)
        self.wait(lambda: self.done == [1, 2])

    def test_it_ends_while_it_works_waits_or_was_never_begun(self):
        working = self.newest(lambda request, overtaken: self.wait(overtaken))
        working.ask(1)
        self.wait(lambda: working.waiting is None)
        waiting = self.newest(lambda request, overtaken: None)
        waiting.ask(1)
        unused = self.newest(lambda request, overtaken: self.done.append(request), waits=True)
        unused.ask(1)
        for newest in (working, waiting, unused):
            newest.end(60.0)
            self.assertFalse(newest.is_working)
            # What comes too late is let go.
            newest.ask(9)
            newest.begin()
            self.assertFalse(newest.is_working)
        self.assertEqual(self.done, [])

    def test_what_comes_first_may_refuse_all(self):
        newest = self.newest(
            lambda request, overtaken: self.done.append(request), first=lambda: False, waits=True
        )
        newest.ask(1)
        self.assertFalse(newest.is_working)
        newest.begin()
        self.wait(lambda: not newest.is_working)
        self.assertEqual((self.done, newest.waiting), ([], 1))

    def test_a_mistake_in_one_answer_keeps_no_other_away(self):
        def work(request, overtaken):
            if request == 1:
                raise ValueError("a mistake")
            self.done.append(request)

        said = io.StringIO()
        with redirect_stderr(said):
            newest = self.newest(work)
            newest.ask(1)
            self.wait(lambda: "a mistake" in said.getvalue())
            newest.ask(2)
            self.wait(lambda: self.done == [2])


if __name__ == "__main__":
    unittest.main()
