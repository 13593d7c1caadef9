"""Where everything stands in the window, its panels, sheets and dialogs."""

from PyQt6.QtWidgets import QApplication

from pale_ember.app.recipe.chapter_table import CHAPTERS
from pale_ember.app.widgets.color_picker import Picker

from ...building import effect_with
from ..pictures import PictureCase
from ..told import ToldCase, places


class WindowPlaces(PictureCase, ToldCase):
    def first_effect(self):
        path = [{}, {"at": 1, "position": [1, 0, 0]}]
        textures = [{"name": "soot", "frames": 4, "build": {"size": 16, "steps": [{"step": "dot"}]}}]
        effect = effect_with(
            {
                "flame": {
                    "launch.lifetime": {"spread": [1, 2]},
                    "look.color": {"gradient": [[0, "#ffb060"], [1, "#202020"]]},
                    "flight.thrust": [0, {"curve": [[0, 1], [1, 3]]}, {"spread": [1, 2]}],
                    "emit.bursts": [{"at": 0.5}],
                    "path": path,
                    "group": "fire",
                },
                "embers": {"contact.enabled": True, "group": "fire"},
                "glints": {"origin.parent": "embers", "origin.when": "hit"},
            }
        )
        return effect.edit("textures", textures).edit("layers[0].look.texture", "soot")

    def assert_stands(self, name, widget):
        lines = self.settled(lambda: places(widget))
        self.assert_says(f"places-{name}", lines)

    def test_the_window_and_each_chapter(self):
        window = self.window
        window.top_bar.cost.hide()
        self.assert_stands("window", window)
        lines = []
        for index, name in enumerate(CHAPTERS):
            window.recipe.show_chapter(index)
            lines += [f"== {name}", *self.settled(lambda name=name: places(window.recipe.chapters[name]))]
        self.assert_says("places-chapters", lines)

    def test_hand_over(self):
        self.window.desk.reset_profile()
        self.window.show_hand_over(True)
        panel = self.window.hand_over_panel
        lines = []
        for index in range(panel.pages.count()):
            panel.show_chapter(index)
            lines += [f"== {index}", *self.settled(lambda: places(panel))]
        self.assert_says("places-hand-over", lines)

    def test_sheets_and_dialogs(self):
        window, lines = self.window, []
        for opening in (
            window.open_offset,
            window.open_preferences,
            window.open_library,
            window.open_shelf,
            window.open_pack,
            window.open_finder,
        ):
            sheet = opening()
            lines += [f"== {opening.__name__}", *self.settled(lambda sheet=sheet: places(sheet))]
            sheet.close()
            QApplication.processEvents()
        picker = Picker(window, "#c07040", "Colour")
        self.addCleanup(picker.close)
        picker.show()
        lines += ["== picker", *self.settled(lambda: places(picker))]
        self.assert_says("places-sheets", lines)
