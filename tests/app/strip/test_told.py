"""What the menus and lanes of the life strip say."""

from pale_ember.app.strip.lane_menu import lane_menu

from ..told import ToldCase, told_menu
from .strip_case import StripCase


class StripTold(ToldCase, StripCase):
    def test_menus_of_lanes_of_every_form_and_the_list_of_lanes(self):
        for path in ("look.opacity", "look.grow", "look.color", "flight.thrust"):
            self.assert_says(f"menu-{path.rpartition('.')[2]}", told_menu(lane_menu(self.lane(path))))
        self.assert_says("menu-lanes", told_menu(self.strip.lane_menu()))

    def test_lanes_axes_and_exact_numbers(self):
        opacity = self.lane("look.opacity")
        self.selection.take((opacity.path, 0, 1))
        lines = self.told(self.strip)
        for path, lane in self.strip.lanes.items():
            lines.append(f"{path}: {lane.reading()}")
        self.assert_says("strip-life", lines)
        self.window.actions_by_name["axis_clock"].trigger()
        self.assert_says("strip-clock", self.told(self.strip))
