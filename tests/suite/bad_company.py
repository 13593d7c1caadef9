"""Tests that hang, end the process, fail and are left out, for the test of how the suite is run."""

import os
import time
import unittest


class BadCompany(unittest.TestCase):
    def test_a_passes(self):
        pass

    def test_b_hangs(self):
        time.sleep(1000)

    def test_c_ends_the_process(self):
        os._exit(3)

    def test_d_fails(self):
        self.fail("on purpose")

    def test_e_passes(self):
        pass

    @unittest.skip("on purpose")
    def test_f_is_left_out(self):
        pass
