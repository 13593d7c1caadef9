"""A process that runs test modules one after the other, and tells of each test when it begins and what
became of it.
"""

from __future__ import annotations

import faulthandler
import json
import os
import signal
import sys
import unittest
from collections.abc import Callable, Iterator
from typing import Any

Tell = Callable[[dict[str, Any]], None]


class TellingResult(unittest.TextTestResult):
    """A result that tells of each test at once, so that nothing is lost if a later one ends the process."""

    tell: Tell = staticmethod(lambda told: None)

    def startTest(self, test: unittest.TestCase) -> None:
        self.tell({"test": test.id()})
        super().startTest(test)

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.tell({"test": test.id(), "became": "passed"})

    def addSkip(self, test: unittest.TestCase, reason: str) -> None:
        super().addSkip(test, reason)
        self.tell({"test": test.id(), "became": "skipped"})

    def addExpectedFailure(self, test: unittest.TestCase, err: Any) -> None:
        super().addExpectedFailure(test, err)
        self.tell({"test": test.id(), "became": "passed"})

    def addUnexpectedSuccess(self, test: unittest.TestCase) -> None:
        super().addUnexpectedSuccess(test)
        self.tell({"test": test.id(), "became": "failed"})

    def addFailure(self, test: unittest.TestCase, err: Any) -> None:
        super().addFailure(test, err)
        self._failed(test, self.failures[-1][1])

    def addError(self, test: unittest.TestCase, err: Any) -> None:
        super().addError(test, err)
        self._failed(test, self.errors[-1][1])

    def addSubTest(self, test: unittest.TestCase, subtest: unittest.TestCase, err: Any) -> None:
        super().addSubTest(test, subtest, err)
        if err is not None:
            self._failed(test, str(err[1]))

    def _failed(self, test: unittest.TestCase, words: str) -> None:
        print(f"\nFAILED {test.id()}\n{words}", flush=True)
        self.tell({"test": test.id(), "became": "failed"})


def tests_in(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """Yield the tests of a suite, however deep they lie in others."""
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from tests_in(one)
        else:
            yield one


def run_here(suite: unittest.TestSuite) -> int:
    """Run tests in this process; return the exit status."""
    result = unittest.TextTestRunner(verbosity=2, stream=sys.stdout).run(suite)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(
        f"{result.testsRun - bad - len(result.skipped)} passed, {bad} failed, {len(result.skipped)} skipped",
        flush=True,
    )
    return 1 if bad or not result.testsRun else 0


def work(handle: int) -> None:
    """Run the modules that lines of standard input name, telling through a pipe, until there are no more."""
    faulthandler.register(signal.SIGUSR1, all_threads=True)
    pipe = os.fdopen(handle, "w", encoding="utf-8")

    def tell(told: dict[str, Any]) -> None:
        pipe.write(json.dumps(told) + "\n")
        pipe.flush()

    TellingResult.tell = staticmethod(tell)
    for line in sys.stdin:
        order = json.loads(line)
        loaded = unittest.TestLoader().loadTestsFromName(f"tests.{order['module']}")
        left = unittest.TestSuite(test for test in tests_in(loaded) if test.id() not in order["done"])
        unittest.TextTestRunner(verbosity=2, stream=sys.stdout, resultclass=TellingResult).run(left)
        sys.stdout.flush()
        tell({"module": order["module"]})
    # Qt's threads and GL drivers may be slow to go; all has been counted by then.
    os._exit(0)
