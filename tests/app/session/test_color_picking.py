"""The colour picker is bound to places in the effect: it outlives every widget, follows what it edits,
and closes with it.
"""

import itertools

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.widgets.color_picker import Picker
from pale_ember.app.widgets.swatch import Swatch
from pale_ember.effect import effect_text
from pale_ember.effect.values.colors import Flat
from pale_ember.effect.values.values import Fixed

from ...building import effect_with
from ..case import LEFT, WindowCase


class PickingTest(WindowCase):
    def first_effect(self):
        return effect_with(
            {"a": {"look.color": "#804020"}, "b": {"look.color": {"spread": ["#101010", "#f0f0f0"]}}}
        )

    def setUp(self):
        super().setUp()
        self.session.play(False)
        row = self.row("look.color")
        QTest.mouseClick(row.findChild(Swatch), LEFT)
        self.picker = self.window.picking.picker
        self.activate(self.picker)

    def color(self, layer=0):
        return self.session.effect.layers[layer].look.color

    def pickers(self):
        return [one for one in self.window.findChildren(Picker) if one.isVisible()]

    def test_it_says_what_it_edits_and_there_is_only_one(self):
        self.assertIn("Colour of a", self.picker.what.text())
        QTest.mouseClick(self.row("look.tint").findChild(Swatch), LEFT)
        self.assertEqual(len(self.pickers()), 1)
        self.assertIn("Tint of a", self.picker.what.text())
        self.picker.set_color("#00ff00")
        self.assertEqual(self.session.layer.look.tint, Flat("#00ff00"))
        self.assertEqual(self.color(), Flat("#804020"))

    def test_a_change_of_the_form_while_it_is_open_closes_it(self):
        for change in (
            lambda: self.row("look.color").parts._to_form("curve", ""),
            lambda: self.window.strip.lanes["look.color"].add_at(0.5),
            self.session.layers.remove,
            lambda: self.window.files.show(self.first_effect(), None),
        ):
            if not self.pickers():
                QTest.mouseClick(self.row("look.color").findChild(Swatch), LEFT)
            picker = self.window.picking.picker
            self.assertIsNotNone(picker)
            change()
            QApplication.processEvents()
            self.assertEqual(self.pickers(), [], change)
            self.session.undo()

    def test_choosing_after_the_row_was_rebuilt_edits_the_effect(self):
        # The swatch that was clicked is deleted with the chapter's rows when the selection changes and comes
        # back.
        self.session.select("b")
        self.window.recipe.show_chapter(0)
        self.session.select("a")
        QTest.qWait(20)
        QTest.mouseClick(self.picker.plane, LEFT, pos=QPoint(200, 40))
        self.assertEqual(self.color(), Flat(self.picker.color))
        self.assertNotEqual(self.color(), Flat("#804020"))
        self.assertEqual(self.color(1).low, "#101010")

    def test_undo_elsewhere_is_followed_and_escape_gives_the_first_again(self):
        self.picker.set_color("#112233")
        self.session.undo()
        self.assertEqual(self.picker.color, "#804020")
        self.picker.set_color("#445566")
        steps = len(self.session.document.history)
        QTest.keyClick(self.picker, Qt.Key.Key_Escape)
        self.assertEqual(self.color(), Flat("#804020"))
        self.assertLess(len(self.session.document.history), steps)

    def test_cancelled_over_several_places_each_has_its_own_colour_again(self):
        stops = [[0, "#ff0000"], [0.4, "#00ff00"], [1, "#0000ff"]]
        self.picker.accept()
        for cancel in (
            lambda picker: QTest.keyClick(picker, Qt.Key.Key_Escape),
            lambda picker: picker.close(),
        ):
            self.session.edit_many(
                [("layers[0].look.color", "#804020"), ("layers[1].look.color", "#ffffff")], "Plain"
            )
            self.session.select("a")
            self.session.select("b", "also")
            QTest.mouseClick(self.row("look.color").findChild(Swatch), LEFT)
            before, steps = effect_text(self.session.effect), self.session.document.index
            self.activate(self.window.picking.picker)
            self.window.picking.picker.set_color("#123456")
            self.assertEqual([self.color(0), self.color(1)], [Flat("#123456")] * 2)
            cancel(self.window.picking.picker)
            self.assertEqual((effect_text(self.session.effect), self.session.document.index), (before, steps))
            self.session.select("a")
            self.session.edit("layers[0].look.color", {"gradient": stops}, "Gradient")
            strip = self.window.strip
            strip.show_lane("layers[0].look.color")
            strip.selection.take_all({(strip.lanes["look.color"].path, 0, at) for at in range(3)})
            strip.pick_stops()
            before = effect_text(self.session.effect)
            self.activate(self.window.picking.picker)
            self.window.picking.picker.set_color("#123456")
            self.assertEqual({stop.color for stop in self.color().stops}, {"#123456"})
            cancel(self.window.picking.picker)
            self.assertEqual(effect_text(self.session.effect), before)

    def test_who_works_elsewhere_has_taken_the_colour(self):
        self.picker.set_color("#112233")
        self.session.edit("layers[0].emit.rate", 9, "Rate")
        self.picker.set_color("#445566")
        QTest.keyClick(self.picker, Qt.Key.Key_Escape)
        self.assertEqual((self.color(), self.session.layer.emit.rate), (Flat("#112233"), Fixed(9)))
        # Esc on the stage closes it, and takes nothing back.
        QTest.mouseClick(self.row("look.color").findChild(Swatch), LEFT)
        # It asks for the keyboard when it opens; one that is slow to get it would take it from the window
        # again.
        self.activate(self.window.picking.picker)
        self.window.picking.picker.set_color("#778899")
        self.activate(self.window)
        QTest.keyClick(self.window.stage, Qt.Key.Key_Escape)
        self.assertEqual((self.pickers(), self.color()), ([], Flat("#778899")))

    def test_what_is_typed_as_hex_counts_on_done_or_is_refused_in_a_sentence(self):
        self.picker.hex.setFocus()
        self.picker.hex.selectAll()
        QTest.keyClicks(self.picker.hex, "0a0b0c")
        self.picker.accept()
        self.assertEqual(self.color(), Flat("#0a0b0c"))
        self.assertEqual(self.pickers(), [])
        QTest.mouseClick(self.row("look.color").findChild(Swatch), LEFT)
        picker = self.window.picking.picker
        picker.hex.setFocus()
        picker.hex.selectAll()
        QTest.keyClicks(picker.hex, "nope")
        picker.accept()
        self.assertTrue(picker.isVisible())
        self.assertIn("“nope” is not a colour", picker.problem.text())

    def test_a_grey_shows_no_trace_of_rounding(self):
        self.picker.set_color("#7f7f7f")
        texts = [box.text() for box in self.picker.boxes.values()]
        self.assertFalse([text for text in texts if "e" in text], texts)
        self.assertEqual(self.picker.boxes["chroma"].text(), "0")

    def test_the_plane_is_smooth_at_the_screens_own_pixels_and_gives_what_is_under_the_mouse(self):
        for hue in (30.0, 140.0, 265.0):
            self.picker.set_oklch(0.5, 0.1, hue)
            image = self.picker.plane.image()
            ratio = self.picker.plane.devicePixelRatioF()
            self.assertEqual((image.width(), image.height()), (round(320 * ratio), round(170 * ratio)))
            # No jump from one pixel to its neighbour, in the dark and at the edge too.
            for y in range(2, image.height(), 7):
                shades = [image.pixelColor(x, y).getRgb()[:3] for x in range(image.width())]
                jumps = [max(abs(a - b) for a, b in zip(one, two)) for one, two in itertools.pairwise(shades)]
                self.assertLessEqual(max(jumps), 6, (hue, y))
            for x, y in ((10, 20), (160, 85), (310, 150)):
                QTest.mouseClick(self.picker.plane, LEFT, pos=QPoint(x, y))
                under = image.pixelColor(round(x * ratio), round(y * ratio))
                chosen = QColor(self.picker.color)
                near = max(abs(a - b) for a, b in zip(under.getRgb()[:3], chosen.getRgb()[:3]))
                self.assertLessEqual(near, 6, (hue, x, y))

    def test_all_selected_layers_get_the_colour_in_one_step(self):
        self.picker.accept()
        self.session.edit("layers[1].look.color", "#ffffff", "Plain")
        self.session.select("b", "also")
        QTest.mouseClick(self.row("look.color").findChild(Swatch), LEFT)
        self.window.picking.picker.set_color("#336699")
        self.assertEqual([self.color(0), self.color(1)], [Flat("#336699")] * 2)
        self.session.undo()
        self.assertEqual([self.color(0), self.color(1)], [Flat("#804020"), Flat("#ffffff")])
