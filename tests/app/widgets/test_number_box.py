import unittest

from PyQt6.QtCore import Qt

from pale_ember.app.widgets.number_box import NumberBox

SHIFT = Qt.KeyboardModifier.ShiftModifier


class NumberBoxTest(unittest.TestCase):
    def test_steps_are_round(self):
        from ..case import application

        application()
        steps = [
            NumberBox(soft, digits=digits).unit_step
            for soft, digits in (((0, 1), 2), ((0, 200), 1), ((0, 5), 2), ((0, 9), 0))
        ]
        self.assertEqual(steps, [0.01, 1.0, 0.1, 1.0])
