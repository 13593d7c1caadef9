"""Icons, and controls that paint themselves."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor

from pale_ember.app.widgets import icons, theme
from pale_ember.app.widgets.color_picker import Picker

from ..pictures import PictureCase, drawn


class WidgetPictures(PictureCase):
    def test_every_icon(self):
        names = sorted(icons._DRAWN)

        def paint(painter):
            for i, name in enumerate(names):
                icons.paint(painter, name, QRectF(i % 16 * 36, i // 16 * 36, 32, 32), QColor(theme.TEXT))

        self.assert_looks("icons", drawn(16 * 36, (len(names) + 15) // 16 * 36, paint))

    def test_the_colour_picker(self):
        picker = Picker(self.window, "#c07040", "Colour")
        self.addCleanup(picker.close)
        picker.show()
        picker.set_color("#c09040")
        for name, part in (("plane", picker.plane), ("hues", picker.hues), ("compared", picker.shown)):
            part.clearFocus()
            self.assert_looks(f"picker-{name}", part)
