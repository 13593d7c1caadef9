"""One of several colours: chosen as a form, filled by the picker, taken out, over several layers."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.recipe.color_parts import ListSwatch
from pale_ember.app.widgets.controls import ToolButton
from pale_ember.effect import effect_text
from pale_ember.effect.values.colors import MOST_COLORS, Flat, OneOf

from ...building import effect_with
from ..case import LEFT, WindowCase


class OneOfTest(WindowCase):
    def first_effect(self):
        return effect_with(
            {"a": {"look.tint": {"spread": ["#ff0000", "#0000ff"]}}, "b": {"look.tint": "#336699"}}
        )

    def setUp(self):
        super().setUp()
        self.session.play(False)

    def swatches(self):
        QApplication.processEvents()
        return [one for one in self.row("look.tint").findChildren(ListSwatch) if one.isVisible()]

    def add(self):
        (found,) = [
            one
            for one in self.row("look.tint").findChildren(ToolButton)
            if one.accessibleName() == "Add a colour to tint" and one.isVisible()
        ]
        return found

    def choose_form(self, words):
        menus = [
            part.menu()
            for part in self.row("look.tint").parts.controls
            if isinstance(part, ToolButton) and part.menu() is not None
        ]
        (action,) = [action for action in menus[0].actions() if action.text() == words]
        action.trigger()

    def tint(self, layer=0):
        return self.session.effect.layers[layer].look.tint

    def test_a_list_is_built_by_mouse_and_keys_and_undone(self):
        before = effect_text(self.session.effect)
        self.choose_form("One of")
        self.assertEqual(self.tint(), OneOf(("#ff0000", "#0000ff")))
        QTest.mouseClick(self.add(), LEFT)
        self.assertEqual(self.tint(), OneOf(("#ff0000", "#0000ff", "#0000ff")))
        # The picker is open for the new one.
        self.window.picking.picker.set_color("#00ff00")
        self.assertEqual(self.tint(), OneOf(("#ff0000", "#0000ff", "#00ff00")))
        self.assertIn("colour 3", self.window.picking.picker.what.text())
        self.window.picking.close()
        self.assertEqual([one.color for one in self.swatches()], ["#ff0000", "#0000ff", "#00ff00"])
        second = self.swatches()[1]
        second.setFocus()
        self.activate(self.window)
        QTest.keyClick(second, Qt.Key.Key_Delete)
        self.assertEqual(self.tint(), OneOf(("#ff0000", "#00ff00")))
        self.assertEqual(len(self.session.effect.layers), 2)
        QTest.mouseClick(self.swatches()[0], LEFT)
        self.window.picking.picker.set_color("#ffffff")
        self.assertEqual(self.tint(), OneOf(("#ffffff", "#00ff00")))
        # Another is taken out: the picker doesn't go on with what has its number now.
        QTest.keyClick(self.swatches()[0], Qt.Key.Key_Delete)
        self.assertIsNone(self.window.picking.picker)
        # The last one stays.
        QTest.keyClick(self.swatches()[0], Qt.Key.Key_Delete)
        self.assertEqual(self.tint(), OneOf(("#00ff00",)))
        self.choose_form("Fixed")
        self.assertEqual(self.tint(), Flat("#00ff00"))
        while self.session.document.undo_name:
            self.window.actions_by_name["undo"].trigger()
        self.assertEqual(effect_text(self.session.effect), before)

    def test_several_layers_get_it_together_and_many_stand_in_lines(self):
        self.session.select("b", "also")
        self.session.edit_chosen(
            [
                (path, OneOf(("#ff0000", "#00ff00")))
                for path in ("layers[0].look.tint", "layers[1].look.tint")
            ][:1],
            "Tint",
        )
        self.assertEqual(self.tint(1), OneOf(("#ff0000", "#00ff00")))
        for _ in range(3, MOST_COLORS + 1):
            QTest.mouseClick(self.add(), LEFT)
        self.window.picking.close()
        self.assertEqual([len(self.tint(i).colors) for i in range(2)], [MOST_COLORS] * 2)
        self.assertFalse(self.add().isEnabled())
        swatches, row = self.swatches(), self.row("look.tint")
        self.assertEqual(len(swatches), MOST_COLORS)
        for one in swatches:
            self.assertGreaterEqual(one.width(), 24)
            self.assertLessEqual(one.mapTo(row, one.rect().bottomRight()).x(), row.width())
        QTest.keyClick(swatches[-1], Qt.Key.Key_Delete)
        self.assertEqual([len(self.tint(i).colors) for i in range(2)], [MOST_COLORS - 1] * 2)
        # With different lists one stands for all.
        self.session.apply(self.session.effect.edit("layers[1].look.tint", OneOf(("#ffffff",))), "Other")
        self.assertEqual(self.swatches(), [])
