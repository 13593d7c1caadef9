"""Whose a key, a click or the wheel is: the control's that has the focus, or the window's."""

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.widgets.controls import Check, Combo, ToolButton
from pale_ember.effect.values.values import Fixed, Spread

from ...building import effect_with
from ..case import LEFT, WindowCase, turn_wheel

CTRL, SHIFT, NONE = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.NoModifier,
)


class ControlsTest(WindowCase):
    def first_effect(self):
        return effect_with({"a": {"launch.speed": 3}, "b": {}})

    @property
    def launch(self):
        return self.session.layer.launch

    def box(self, at="launch.speed", number=0):
        return self.row(at).controls[number]

    def wheel(self, widget):
        turn_wheel(widget, QPointF(widget.rect().center()), QPoint(0, -120), NONE)

    # Undo

    def test_undo_works_in_a_field_once_nothing_half_typed_is_left(self):
        box = self.box()
        self.type_into(box, "5")
        QTest.keyClick(box, Qt.Key.Key_Up)
        self.assertTrue(box.hasFocus())
        QTest.keyClick(box, Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.launch.speed, Fixed(5))
        QTest.keyClick(box, Qt.Key.Key_Z, CTRL)
        self.assertEqual((self.launch.speed, box.text()), (Fixed(3), "3"))
        QTest.keyClick(box, Qt.Key.Key_Z, CTRL | SHIFT)
        self.assertEqual(self.launch.speed, Fixed(5))
        # While something is half typed, undo is the text's.
        QTest.keyClicks(box, "78")
        QTest.keyClick(box, Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.launch.speed, Fixed(5))

    # Clicks and drags

    def test_a_second_click_takes_the_whole_number_and_typing_replaces_it(self):
        box = self.box()
        for _ in range(3):
            QTest.mouseClick(box, LEFT, pos=QPoint(box.width() - 4, box.height() // 2))
            self.assertEqual(box.selectedText(), box.text())
        QTest.keyClicks(box, "5")
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertEqual(self.launch.speed, Fixed(5))
        QTest.mouseDClick(box, LEFT)
        self.assertEqual(box.selectedText(), box.text())

    def test_a_field_that_has_the_focus_is_dragged_too(self):
        box = self.box()
        QTest.mouseClick(box, LEFT)
        middle = QPointF(box.rect().center())
        self.drag(box, middle, middle + QPointF(30, 0))
        self.assertAlmostEqual(self.launch.speed.number, 3 + 30 * box.unit_step, places=4)

    def test_escape_gives_a_drag_up_wherever_the_focus_is(self):
        box, steps = self.box(), len(self.session.document.history)
        self.window.timeline.rows.setFocus()
        middle = box.rect().center()
        QTest.mousePress(box, LEFT, NONE, middle)
        for x in (10, 25, 40):
            QTest.mouseMove(box, middle + QPoint(x, 0))
            QApplication.processEvents()
        self.assertNotEqual(self.launch.speed, Fixed(3))
        QTest.keyClick(self.window.timeline.rows, Qt.Key.Key_Escape)
        self.assertEqual(self.launch.speed, Fixed(3))
        QTest.mouseMove(box, middle + QPoint(80, 0))
        QTest.mouseRelease(box, LEFT, NONE, middle + QPoint(80, 0))
        self.assertEqual((self.launch.speed, len(self.session.document.history)), (Fixed(3), steps))

    def test_a_change_of_chapter_moves_the_focus_into_no_field(self):
        QTest.mouseClick(self.box(), LEFT)
        QTest.keyClick(self.box(), Qt.Key.Key_Return)
        QTest.keyClick(self.window, Qt.Key.Key_4)
        focus = QApplication.focusWidget()
        self.assertTrue(focus is None or not self.window.recipe.pages.isAncestorOf(focus), focus)
        self.assertEqual(self.window.recipe.chapter, "Flight")

    # The wheel

    def test_the_wheel_changes_nothing_that_has_no_focus(self):
        self.window.recipe.show_chapter(4)
        before = self.session.effect
        blend = self.row("look.blend").findChild(Combo)
        for widget in (
            blend,
            self.window.top_bar.speed,
            self.window.top_bar.backdrop,
            self.box("launch.speed"),
        ):
            self.wheel(widget)
        self.assertIs(self.session.effect, before)
        blend.setFocus()
        self.wheel(blend)
        self.assertNotEqual(self.session.layer.look.blend, before.layers[0].look.blend)

    # Space and Enter

    def test_space_and_enter_are_the_controls_that_has_the_focus(self):
        playing = self.session.playing
        check = self.row("flight.follow").findChild(Check)
        check.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(check, Qt.Key.Key_Space)
        self.assertFalse(self.session.layer.flight.follow)
        QTest.keyClick(check, Qt.Key.Key_Return)
        self.assertTrue(self.session.layer.flight.follow)
        combo = self.row("look.blend").findChild(Combo)
        for key in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            combo.setFocus(Qt.FocusReason.TabFocusReason)
            QTest.keyClick(combo, key)
            self.assertTrue(combo.view().isVisible(), key)
            combo.hidePopup()
        button = next(
            b
            for b in self.window.findChildren(ToolButton)
            if b.defaultAction() is self.window.actions_by_name["loop"]
        )
        button.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(button, Qt.Key.Key_Return)
        self.assertFalse(self.session.effect.loop)
        self.assertEqual(self.session.playing, playing)
        for widget in (
            self.window.stage,
            self.window.timeline.rows,
            next(iter(self.window.strip.lanes.values())),
        ):
            widget.setFocus()
            QTest.keyClick(widget, Qt.Key.Key_Space)
            self.assertNotEqual(self.session.playing, playing, widget)
            playing = self.session.playing

    def test_deleting_a_word_while_typing_deletes_no_layer(self):
        for at, typed in (("launch.speed", "12"), ("name", "two words")):
            box = self.box(at)
            box.setFocus()
            QTest.keyClicks(box, typed)
            QTest.keyClick(box, Qt.Key.Key_Backspace, CTRL)
            QTest.keyClick(box, Qt.Key.Key_Delete, CTRL)
            self.assertEqual(len(self.session.effect.layers), 2)
            QTest.keyClick(box, Qt.Key.Key_Escape)
        self.assertEqual(self.launch.speed, Fixed(3))

    # What is typed

    def test_units_are_taken_as_they_are_written(self):
        for at, typed, number in (
            ("launch.speed", "5 m/s", 5),
            ("launch.speed", "36km/h", 10),
            ("launch.size", "20 cm", 0.2),
            ("launch.angle", "90°", 90),
            ("place.scale", "150 %", 1.5),
            ("window.begin", "250ms", 0.25),
        ):
            self.type_into(self.box(at), typed)
            part = self.session.layer
            for name in at.split("."):
                part = getattr(part, name)
            self.assertAlmostEqual(getattr(part, "number", part), number, msg=typed)

    def test_what_is_refused_or_limited_is_said_beside_the_field(self):
        row = self.row("launch.speed")
        for typed, words in (
            ("abc", "is not a number"),
            ("5 kg", "in m/s, not in kg"),
            ("5 %", "of what?"),
            ("1e9", "Held at 100000 m/s"),
        ):
            self.type_into(row.controls[0], typed)
            self.assertTrue(row.problem is not None and row.problem.isVisible(), typed)
            self.assertIn(words, row.problem.text())
        QTest.keyClicks(row.controls[0], "4")
        self.assertFalse(row.problem.isVisible())
        QTest.keyClick(row.controls[0], Qt.Key.Key_Return)
        self.assertEqual(self.launch.speed, Fixed(4))

    def test_what_is_half_typed_counts_for_the_layer_it_was_typed_in(self):
        box = self.box()
        box.setFocus()
        box.selectAll()
        QTest.keyClicks(box, "7")
        self.window.actions_by_name["next"].trigger()
        self.assertEqual(self.session.selected, "b")
        self.assertEqual([layer.launch.speed for layer in self.session.effect.layers], [Fixed(7), Fixed(1)])

    def test_a_label_toggles_its_check_box(self):
        row = self.row("flight.follow")
        QTest.mouseClick(row.label, LEFT)
        self.assertFalse(self.session.layer.flight.follow)

    def test_notes_have_room_and_are_kept_on_leaving(self):
        row = self.row("notes")
        notes = row.controls[0]
        self.assertGreater(notes.width(), 130)
        self.assertGreater(notes.height(), 60)
        notes.setFocus()
        QTest.keyClicks(notes, "for the yard")
        QTest.keyClick(notes, Qt.Key.Key_Return)
        QTest.keyClicks(notes, "at night")
        QTest.keyClick(notes, Qt.Key.Key_Tab)
        self.assertEqual(self.session.effect.notes, "for the yard\nat night")
        notes.setFocus()
        QTest.keyClicks(notes, "xx")
        QTest.keyClick(notes, Qt.Key.Key_Escape)
        self.assertEqual(self.session.effect.notes, "for the yard\nat night")

    def test_each_form_remembers_what_it_had(self):
        row = self.row("launch.lifetime")
        for form in ("curve", "fixed", "band", "spread"):
            row.parts._to_form(form, "")
        self.assertEqual(self.launch.lifetime, Spread(1, 1.5))
        row.parts._to_form("curve", "")
        self.session.edit("layers[0].launch.lifetime.curve", [[0, 2], [1, 4]], "Shape")
        row.parts._to_form("spread", "")
        self.assertEqual(
            self.launch.lifetime, Spread(2, 4), "edited since, so what it had before means nothing"
        )
