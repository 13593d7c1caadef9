"""What the panel that hands over says for each product."""

from PyQt6.QtTest import QTest

from ...building import effect_with
from ..told import ToldCase, told


class HandOverTold(ToldCase):
    def first_effect(self):
        return effect_with({"flame": {"emit.rate": 30}, "smoke": {}})

    def test_every_product_and_the_budget(self):
        self.window.show_hand_over(True)
        panel = self.window.hand_over_panel
        for index in range(panel.pages.count()):
            panel.show_chapter(index)
            QTest.qWait(60)
            self.assert_says(f"hand-over-{index}", told(panel))
