from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.effect.values.values import Band, Curve, Fixed, Spread

from ...building import effect_with
from ..case import LEFT, WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


class FieldTest(WindowCase):
    def first_effect(self):
        return effect_with({"a": {}, "b": {"launch.speed": 4}})

    def value(self, path):
        part = self.session.layer
        for name in path.split("."):
            part = getattr(part, name)
        return part

    def test_a_number_is_dragged_typed_nudged_and_reset(self):
        row = self.row("launch.speed")
        box = row.controls[0]
        steps = len(self.session.document.history)
        middle = QPointF(box.rect().center())
        self.drag(box, middle, middle + QPointF(20, 0), middle + QPointF(40, 0))
        self.assertAlmostEqual(self.value("launch.speed").number, 1 + 40 * box.unit_step, places=4)
        self.assertEqual(len(self.session.document.history), steps + 1, "one drag is one step")
        self.type_into(box, "2.5")
        self.assertEqual(self.value("launch.speed"), Fixed(2.5))
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Up, SHIFT)
        self.assertAlmostEqual(self.value("launch.speed").number, 2.5 + 10 * box.unit_step, places=4)
        QTest.mouseClick(row.mark, LEFT)
        self.assertEqual(self.value("launch.speed"), Fixed(1.0))
        self.assertEqual(row.mark.text(), "")

    def test_controls_that_are_older_than_the_effect_take_nothing_and_break_nothing(self):
        self.session.select("b", "also")
        row = self.row("launch.lifetime")
        low = row.controls[0]
        QTest.mouseClick(low, LEFT)
        # While a key is dragged the recipe is not refreshed.
        self.session.hasty = True
        self.session.edit("layers[0].launch.lifetime", 2, "Lifetime")
        before = self.session.effect
        low.selectAll()
        QTest.keyClicks(low, "3")
        QTest.keyClick(low, Qt.Key.Key_Return)
        QTest.keyClick(low, Qt.Key.Key_Up)
        self.assertIs(self.session.effect, before)
        self.session.hasty = False
        self.window.recipe.refresh()
        self.assertEqual(len([part for part in self.row("launch.lifetime").controls if part.isVisible()]), 2)

    def test_a_field_whose_layer_has_gone_copies_nothing(self):
        row = self.row("launch.speed")
        QApplication.clipboard().setText("before")
        self.session.edit("layers", [], "Nothing")
        row.copy()
        self.assertEqual(QApplication.clipboard().text(), "before")

    def test_limits_hold_and_nonsense_is_left_alone(self):
        self.set_field("launch.lifetime", "-4", "nonsense")
        self.assertEqual(self.value("launch.lifetime"), Spread(0.001, 1.5))
        self.set_field("launch.lifetime", "9", "2")
        self.assertEqual(self.value("launch.lifetime"), Spread(2.0, 2.0), "low stays before high")

    def test_forms_are_switched_from_the_menu_and_open_their_lane(self):
        row = self.row("flight.drag")
        for form, kind in (("Spread", Spread), ("Band", Band), ("Curve", Curve), ("Fixed", Fixed)):
            button = next(b for b in row.findChildren(type(row.mark)) if b.menu())
            next(action for action in button.menu().actions() if action.text() == form).trigger()
            QApplication.processEvents()
            self.assertIsInstance(self.value("flight.drag"), kind)
            self.assertEqual("flight.drag" in self.window.strip.lanes, form in ("Band", "Curve"))

    def test_an_empty_length_is_to_the_end(self):
        self.set_field("window.length", "1.5")
        self.assertEqual(self.value("window.length"), 1.5)
        box = self.row("window.length").controls[0]
        QTest.mouseClick(box, LEFT)
        box.selectAll()
        QTest.keyClick(box, Qt.Key.Key_Delete)
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertIsNone(self.value("window.length"))

    def test_fields_follow_the_selection_and_hide_where_they_do_not_count(self):
        row = self.row("launch.speed")
        self.session.select("b")
        self.assertEqual(row.controls[0].text(), "4")
        height = self.row("birthplace.height")
        self.assertFalse(height.isVisible())
        self.row("birthplace.kind").controls[0].textActivated.emit("cone")
        self.assertTrue(height.isVisible())

    def test_bursts_are_added_and_deleted(self):
        self.window.actions_by_name["burst"].trigger()
        self.window.actions_by_name["burst"].trigger()
        self.assertEqual([burst.at for burst in self.session.layer.emit.bursts], [0.0, 0.5])
        bursts = self.window.recipe.chapters["Emit"].lists["emit.bursts"]
        bursts.open_part(0)
        row = next(r for r in bursts.rows if r.rule.label == "Count")
        self.type_into(row.controls[0], "7")
        self.assertEqual(self.session.layer.emit.bursts[0].count, Fixed(7.0))
        gone = next(b for b in bursts.findChildren(type(row.mark)) if b.accessibleName() == "Delete burst 2")
        QTest.mouseClick(gone, LEFT)
        self.assertEqual(len(self.session.layer.emit.bursts), 1)

    def test_letters_typed_into_a_field_are_no_commands(self):
        box = self.row("launch.speed").controls[0]
        playing = self.session.playing
        QTest.mouseClick(box, LEFT)
        QTest.keyClicks(box, "1 [,")
        self.assertEqual(self.session.playing, playing)
        QTest.keyClick(box, Qt.Key.Key_Escape)
        self.assertEqual(self.value("launch.speed"), Fixed(1.0))

    def test_after_enter_letters_are_commands_again(self):
        box = self.row("launch.speed").controls[0]
        self.type_into(box, "2")
        self.assertTrue(box.hasFocus())
        playing, backdrop = self.session.playing, self.session.effect.stage.backdrop
        QTest.keyClick(box, Qt.Key.Key_Space)
        QTest.keyClick(box, Qt.Key.Key_B)
        self.assertNotEqual(self.session.playing, playing)
        self.assertNotEqual(self.session.effect.stage.backdrop, backdrop)
        QTest.keyClicks(box, "3")
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertEqual(self.value("launch.speed"), Fixed(3.0))
