"""Bundles: kernels read in them what Python put there, by address."""

import sys
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from pale_ember.simulation.kernels.arrays import Float32x2D, Int64x1D
from pale_ember.simulation.kernels.bundles import bundle_type, bundled
from pale_ember.simulation.kernels.compiling import Kernel
from pale_ember.simulation.layout.signatures import D1, INT


@bundled
class Inner(NamedTuple):
    """Some numbers."""

    whole: int
    real: float
    flag: bool


@bundled
class Outer(NamedTuple):
    """Arrays and what is inside."""

    rows: Float32x2D
    inner: Inner
    key: int
    some: Int64x1D


@bundled
class Odd(NamedTuple):
    """Something that a kernel can't take."""

    words: str


OUTER = bundle_type(Outer)


def _read(outer, out):
    out[0], out[1] = outer.inner.whole, outer.inner.real
    out[2] = 1.0 if outer.inner.flag else 0.0
    out[3], out[4] = outer.rows.shape[0], outer.rows.shape[1]
    out[5], out[6] = outer.rows[1, 2], outer.some[outer.some.shape[0] - 1]
    outer.rows[0, 0] = 9.0
    return outer.key


READ = Kernel(_read, INT(OUTER, D1), entry=True)


def outer_of(whole=-7, real=1e300, flag=True, key=1 << 40):
    rows = np.arange(12, dtype=np.float32).reshape(3, 4)
    return Outer(rows, Inner(whole, real, flag), key, np.array([5, -(1 << 60)]))


class BundleTest(unittest.TestCase):
    def test_kernels_read_what_python_put_there(self):
        for whole, real, flag in ((-7, 1e300, True), (0, -0.5, False), (1 << 62, 3.0, True)):
            outer, out = outer_of(whole, real, flag), np.zeros(7)
            self.assertEqual(READ(outer, out), 1 << 40)
            np.testing.assert_array_equal(out, [whole, real, flag, 3, 4, 6.0, -(1 << 60)])
            self.assertEqual(outer.rows[0, 0], 9.0)

    def test_what_is_replaced_is_read_anew_and_the_rest_stays_where_it_is(self):
        outer, out = outer_of(), np.zeros(7)
        READ(outer, out)
        changed = outer._replace(inner=outer.inner._replace(whole=3), some=np.array([8]))
        self.assertIsInstance(changed, Outer)
        READ(changed, out)
        self.assertEqual((out[0], out[6]), (3, 8))
        READ(outer, out)
        self.assertEqual((out[0], out[6]), (-7, -(1 << 60)))
        self.assertEqual(OUTER.address(outer), OUTER.address(outer))
        self.assertNotEqual(OUTER.address(outer), OUTER.address(changed))

    def test_threads_that_lay_it_down_at_once_share_its_words(self):
        interval = sys.getswitchinterval()
        self.addCleanup(sys.setswitchinterval, interval)
        sys.setswitchinterval(1e-6)
        with ThreadPoolExecutor(4) as pool:
            for _ in range(300):
                outer, start = outer_of(), threading.Barrier(4)

                def address(bundle=outer, start=start):
                    start.wait()
                    return OUTER.address(bundle)

                found = [each.result() for each in [pool.submit(address) for _ in range(4)]]
                self.assertEqual(set(found), {OUTER.address(outer)})

    def test_arrays_of_another_kind_are_refused(self):
        for rows in (np.zeros((3, 4)), np.zeros(4, np.float32), np.zeros((4, 3), np.float32).T):
            with self.assertRaises(TypeError):
                READ(outer_of()._replace(rows=rows), np.zeros(7))

    def test_a_field_that_kernels_can_not_read_is_refused_by_its_name(self):
        with self.assertRaisesRegex(TypeError, "Odd.words"):
            bundle_type(Odd)


if __name__ == "__main__":
    unittest.main()
