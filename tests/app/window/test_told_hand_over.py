"""What the panel that hands over says for each product."""

from ...building import effect_with
from ..told import ToldCase


class HandOverTold(ToldCase):
    def first_effect(self):
        return effect_with({"flame": {"emit.rate": 30}, "smoke": {}})

    def test_every_product_and_the_budget(self):
        self.window.desk.reset_profile()
        self.window.show_hand_over(True)
        panel = self.window.hand_over_panel
        for index in range(panel.pages.count()):
            panel.show_chapter(index)
            self.assert_says(f"hand-over-{index}", self.told(panel))
