"""The life strip's lanes as they are painted."""

import numpy as np
from PyQt6.QtCore import QPoint

from pale_ember.app.strip.band import Band
from pale_ember.app.strip.measured import Measure

from ..pictures import PictureCase
from .strip_case import lanes_of_every_form


class StripPictures(PictureCase):
    def first_effect(self):
        return lanes_of_every_form()

    def test_lanes_of_every_form_keys_that_are_held_and_the_axes(self):
        strip = self.window.strip
        # What was measured so far depends on how long the window has played; it is painted as given here.
        ages = np.linspace(0.05, 0.95, 10)
        measured = Measure(ages, 10 + 30 * ages, 3 + ages, 40.0, False, "on screen, up to 40 px", 1)
        strip.measured.of = lambda path: measured if path.endswith("grow") else None
        for path in ("look.opacity", "look.grow", "look.color", "look.intensity", "flight.thrust"):
            lane = strip.lanes[path]
            self.assert_looks(f"lane-{path.rpartition('.')[2]}", lane)
        opacity = strip.lanes["look.opacity"]
        strip.selection.take((opacity.path, 0, 1))
        self.session.pin_cursor(0.4)
        self.assert_looks("lane-held", opacity)
        strip.selection.take((opacity.path, 0, 2), True)
        self.assert_looks("axis-held", strip.axis)
        band = Band(opacity)
        band.begin(QPoint(120, 8), set())
        band.drag(QPoint(200, 40))
        self.assert_looks("lane-band", opacity)
        band.hide()
        strip.toggle_fold(opacity)
        self.assert_looks("lane-folded", opacity)
        self.assert_looks("axis-life", strip.axis)
        strip.show_lane("layers[0].emit.rate")
        self.assert_looks("axis-clock", strip.axis)
