import unittest

from PyQt6.QtCore import Qt

from pale_ember.app.widgets.arithmetic import evaluate, shown

SHIFT = Qt.KeyboardModifier.ShiftModifier


class ArithmeticTest(unittest.TestCase):
    def test_what_may_be_typed(self):
        for text, number in (
            ("1/3", 1 / 3), ("2*(3+1)", 8), ("*2", 10), ("/4", 1.25), ("+10%", 5.5), ("-10%", 4.5), ("-3", -3),
            ("1,5", 1.5), ("2**3", 8), ("1e3", 1000), (".5", 0.5),
        ):  # fmt: skip
            self.assertAlmostEqual(evaluate(text, 5.0), number, msg=text)
        for text in ("", "x", "1/0", "__import__('os')", "9**9**9", "1e999", "(" * 200, "[1]", "True", "1 if 1 else 2"):
            self.assertIsNone(evaluate(text, 5.0), text)
        self.assertEqual([shown(x, 2) for x in (1, 1.5, 0.001, 0, -0.0)], ["1", "1.5", "0.001", "0", "0"])
