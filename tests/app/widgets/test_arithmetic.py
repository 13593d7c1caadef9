import unittest

import numpy as np
from PyQt6.QtCore import Qt

from pale_ember.app.widgets.arithmetic import evaluate, shown, why_not

SHIFT = Qt.KeyboardModifier.ShiftModifier


class ArithmeticTest(unittest.TestCase):
    def test_what_may_be_typed(self):
        for text, number in (
            ("1/3", 1 / 3),
            ("2*(3+1)", 8),
            ("*2", 10),
            ("/4", 1.25),
            ("+10%", 5.5),
            ("-10%", 4.5),
            ("-3", -3),
            ("1,5", 1.5),
            ("2**3", 8),
            ("1e3", 1000),
            (".5", 0.5),
        ):
            self.assertAlmostEqual(evaluate(text, 5.0), number, msg=text)
        for text in (
            "",
            "x",
            "1/0",
            "__import__('os')",
            "9**9**9",
            "1e999",
            "(" * 200,
            "[1]",
            "True",
            "1 if 1 else 2",
        ):
            self.assertIsNone(evaluate(text, 5.0), text)
        self.assertEqual([shown(x, 2) for x in (1, 1.5, 0.001, 0, -0.0)], ["1", "1.5", "0.001", "0", "0"])

    def test_a_sign_is_by_so_much_for_several_and_what_is_behind_equals_is_the_number_itself(self):
        for text, alone, of_several in (
            ("+3", 3, 8),
            ("-3", -3, 2),
            ("−3", -3, 2),
            ("=3", 3, 3),
            ("= -3", -3, -3),
            ("+10%", 5.5, 5.5),
            ("*2", 10, 10),
            ("3-1", 2, 2),
            ("+1+1", 2, 7),
        ):
            self.assertAlmostEqual(evaluate(text, 5.0), alone, msg=text)
            self.assertAlmostEqual(evaluate(text, 5.0, of_several=True), of_several, msg=text)
        self.assertAlmostEqual(evaluate("+20 cm", 0.5, "m", of_several=True), 0.7)
        for text in ("=", "=*2", "==3", "= "):
            self.assertIsNone(evaluate(text, 5.0, of_several=True), text)

    def test_units_stand_behind_numbers_in_fields_that_have_them(self):
        for text, unit, number in (
            ("20 cm", "m", 0.2),
            ("5mm", "m", 0.005),
            ("1 km", "m", 1000),
            ("3 m + 20 cm", "m", 3.2),
            ("250 ms", "s", 0.25),
            ("2 min", "s", 120),
            ("36 km/h", "m/s", 10),
            ("0.5 rad", "°", 28.6478898),
            ("90 deg", "°", 90),
            ("30 %", "×", 0.3),
            ("2x", "×", 2),
            ("120 /min", "/s", 2),
            ("1 rad/s", "°/s", 57.2957795),
        ):
            self.assertAlmostEqual(evaluate(text, 0.0, unit), number, places=6, msg=text)
        for text, unit in (("20 cm", "s"), ("3 kg", "m"), ("5 s", "")):
            self.assertIsNone(evaluate(text, 1.0, unit), text)
            self.assertIn("this field", why_not(text, unit))
        for text in ("five", "", "1+", "30%"):
            self.assertTrue(why_not(text, "m").endswith("."), text)

    def test_numbers_are_shown_with_as_many_figures_as_tell_them(self):
        for number, digits, text in (
            (0.015, 2, "0.015"),
            (0.0125, 2, "0.0125"),
            (0.12345, 2, "0.123"),
            (0.5, 2, "0.5"),
            (1.234, 2, "1.23"),
            (12.0, 2, "12"),
            (-0.007, 2, "-0.007"),
            (0.00004, 2, "4e-05"),
            (1234.5678, 1, "1234.6"),
            (99.99, 0, "100"),
            (float("inf"), 2, "–"),
            (-0.0, 2, "0"),
        ):
            self.assertEqual(shown(number, digits), text)
        # Along an axis two figures do.
        self.assertEqual([shown(x, 2, 2) for x in (0.0717, 0.141, 0.353)], ["0.072", "0.14", "0.35"])

    def test_what_is_shown_and_typed_again_is_nearly_the_same(self):
        roll = np.random.default_rng(4)
        for number in 10 ** roll.uniform(-3.9, 4, 300) * roll.choice([1, -1], 300):
            again = evaluate(shown(float(number), 2), 0.0)
            self.assertLess(abs(again - number), 0.0051 * max(abs(number), 1.0), number)
