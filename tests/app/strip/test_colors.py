"""The life strip in the real window: keys over several lanes, axes, filmstrip, the particle that is
followed.
"""

from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from pale_ember.app.strip.gradient_menu import ask_load, ask_save, main_colors, take_gradient
from pale_ember.app.widgets.color_picker import Picker
from pale_ember.app.widgets.screen_eye import ScreenEye
from pale_ember.effect.values.colors import GradientBand, Stop
from pale_ember.files.palettes import load_palette, load_strip

from ..case import LEFT
from .strip_case import StripCase

SHIFT, CONTROL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


class ColourTest(StripCase):
    def test_the_picker_keeps_to_what_a_screen_has(self):
        color = self.lane("look.color")
        self.selection.take((color.path, 0, 1))
        steps = self.steps()
        self.strip.pick_stops()
        picker = self.window.findChild(Picker)
        QTest.qWait(30)
        QTest.mouseClick(picker.plane, LEFT, pos=QPoint(20, 30))
        light = self.look.color.stops[1].color
        self.assertNotEqual(light, "#804020")
        self.type_into(picker.boxes["hue"], "250")
        red, blue = (int(self.look.color.stops[1].color[i : i + 2], 16) for i in (1, 5))
        self.assertGreater(blue, red)
        self.type_into(picker.boxes["green"], "200")
        self.assertEqual(self.look.color.stops[1].color[3:5], "c8")
        picker.hex.selectAll()
        QTest.keyClicks(picker.hex, "#123456")
        QTest.keyClick(picker.hex, Qt.Key.Key_Return)
        self.assertTrue(picker.isVisible())
        self.assertEqual(self.look.color.stops[1].color, "#123456")
        QTest.keyClick(picker, Qt.Key.Key_Escape)
        # All of it was one step, and Esc takes it back.
        self.assertEqual(self.look.color.stops[1].color, "#804020")
        self.assertLessEqual(self.steps(), steps + 1)
        self.strip.pick_stops()
        picker = self.window.picking.picker
        picker.take_from_screen()
        eye = next(w for w in QApplication.topLevelWidgets() if isinstance(w, ScreenEye) and w.isVisible())
        QTest.mouseClick(eye, LEFT, pos=QPoint(640, 4))
        self.assertEqual(self.look.color.stops[1].color, eye.image.pixelColor(640, 4).name())
        # Without a window manager the keyboard may be the main window's by now, whose own Esc comes first.
        self.activate(picker)
        QTest.keyClick(picker, Qt.Key.Key_Escape)
        self.assertEqual(self.look.color.stops[1].color, "#804020")
        self.strip.pick_stops()
        picker = self.window.picking.picker
        picker.set_color("#336699")
        picker.accept()
        self.assertEqual(self.look.color.stops[1].color, "#336699")

    def test_gradients_from_files_and_to_files(self):
        color, folder = self.lane("look.color"), self.folder.name
        for ending, kinds in ((".gpl", "GIMP palettes (*.gpl)"), (".png", "PNG pictures (*.png)")):
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(f"{folder}/a{ending}", "")):
                ask_save(color, kinds, ending)
        first = self.look.color
        for load, file in ((load_palette, "a.gpl"), (load_strip, "a.png"), (main_colors, "a.png")):
            with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(f"{folder}/{file}", "")):
                ask_load(color, "", load)
            if load is load_palette:
                self.assertEqual([s.color for s in self.look.color.stops], [s.color for s in first.stops])
            self.assertGreaterEqual(len(self.look.color.stops), 3)
        said = []
        self.session.said.connect(said.append)
        Path(f"{folder}/bad.gpl").write_text("no palette")
        before = self.session.effect
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(f"{folder}/bad.gpl", "")):
            ask_load(color, "", load_palette)
        self.assertIn("GIMP Palette", said[-1])
        self.assertIs(self.session.effect, before)
        # Of a band, colours go to the side of the stop that is held; else to the low one.
        fresh = (Stop(0.0, "#102030"), Stop(1.0, "#405060"))
        band = GradientBand((Stop(0.0, "#ffffff"),), (Stop(0.0, "#000000"), Stop(1.0, "#808080")), "life")
        for side in (1, 0, None):
            self.session.edit(color.path, band, "Band")
            lane = self.lane("look.color")
            lane.selection.let_go()
            if side is not None:
                self.selection.take((lane.path, side, 0))
            self.assertTrue(take_gradient(lane, fresh))
            now = self.look.color
            self.assertEqual((now.low, now.high), (band.low, fresh) if side == 1 else (fresh, band.high))
