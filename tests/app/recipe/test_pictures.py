"""The recipe's chapters as they are painted."""

from PyQt6.QtTest import QTest

from pale_ember.app.recipe.chapter_table import CHAPTERS

from ...building import single
from ..pictures import PictureCase


class RecipePictures(PictureCase):
    def first_effect(self):
        return single(
            {
                "emit.rate": {"curve": [[0, 0], [0.5, 60], [1, 20]]},
                "emit.bursts": [{"at": 0.5, "count": 20}],
                "launch.speed": {"spread": [1, 3]},
                "flight.drag": {"band": [[[0, 1], [1, 2]], [[0, 2], [1, 4]]]},
                "look.color": {"gradient": [[0, "#ffe0a0"], [1, "#803010"]]},
                "look.tint": {"one_of": ["#ff0000", "#00ff00", "#3060ff"]},
                "look.erode.amount": 0.3,
                "contact.enabled": True,
            }
        )

    def test_every_chapter(self):
        recipe = self.window.recipe
        for index, name in enumerate(CHAPTERS):
            recipe.show_chapter(index)
            page = recipe.chapters[name].widget()
            self.wait(lambda page=page: page.isVisible() and not self.session.textures.busy)
            QTest.qWait(120)
            self.assert_looks(f"chapter-{index}", page)
