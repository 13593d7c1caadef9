"""How the suite is run: what hangs or dies costs itself alone."""

import contextlib
import io
import unittest

from ..sharing import Shared


class SharingTest(unittest.TestCase):
    def test_a_test_that_hangs_or_ends_the_process_is_a_failure_and_the_others_results_are_kept(self):
        shared = Shared([(["suite.bad_company"], {}, 0), ([], {}, 0)], patience=5.0)
        with contextlib.redirect_stdout(io.StringIO()) as said:
            counts = shared.run()
        self.assertEqual(counts, {"passed": 2, "failed": 3, "skipped": 1})
        became = {name.rpartition(".")[2]: what for name, what in shared.became.items()}
        self.assertEqual(
            [name for name, what in sorted(became.items()) if what == "failed"],
            ["test_b_hangs", "test_c_ends_the_process", "test_d_fails"],
        )
        # Where it stood is said, and what went wrong is said at once.
        self.assertIn("test_b_hangs: it hung", said.getvalue())
        self.assertIn("bad_company.py", said.getvalue())
        self.assertIn("on purpose", said.getvalue())


if __name__ == "__main__":
    unittest.main()
