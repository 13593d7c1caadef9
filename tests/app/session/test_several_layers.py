from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from ...building import effect_with
from ..case import WindowCase


class ManyTest(WindowCase):
    """Several layers edited at once."""

    def first_effect(self):
        return effect_with(
            {
                "a": {"emit.rate": 10, "launch.speed": {"spread": [1, 2]}, "look.blend": "add"},
                "b": {"emit.rate": 40, "launch.speed": 5},
                "c": {"emit.rate": 7},
            }
        )

    def setUp(self):
        super().setUp()
        self.window.stage.setUpdatesEnabled(False)
        self.session.select("a")
        self.session.select("b", "also")

    def rates(self):
        return [layer.emit.rate.number for layer in self.session.effect.layers]

    def test_mixed_values_are_shown_as_mixed_and_set_for_all(self):
        box = self.row("emit.rate").controls[0]
        self.assertEqual((box.text(), box.placeholderText()), ("", "mixed"))
        self.set_field("emit.rate", "25")
        self.assertEqual(self.rates(), [25, 25, 7])
        self.assertEqual(self.row("emit.rate").controls[0].text(), "25")
        self.session.undo()
        self.assertEqual(self.rates(), [10, 40, 7])

    def test_arithmetic_and_nudges_go_by_each_ones_own_number(self):
        self.set_field("emit.rate", "*2")
        self.assertEqual(self.rates(), [20, 80, 7])
        self.set_field("emit.rate", "+10%")
        self.assertEqual(self.rates(), [22, 88, 7])
        box = self.row("emit.rate").controls[0]
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Up)
        before = self.rates()
        self.assertEqual((before[0] - 22, before[2]), (before[1] - 88, 7))
        self.assertGreater(before[0], 22)

    def test_mixed_forms_and_words(self):
        row = self.row("launch.speed")
        self.assertEqual(row.parts._shape, ("mixed",))
        row.parts._to_form("curve", "")
        speeds = [layer.launch.speed for layer in self.session.effect.layers]
        self.assertEqual([type(one).__name__ for one in speeds], ["Curve", "Curve", "Fixed"])
        self.assertEqual(self.row("look.blend").controls[0].currentIndex(), -1)
        self.row("look.blend").controls[0].textActivated.emit("add")
        self.assertEqual([layer.look.blend for layer in self.session.effect.layers], ["add", "add", "alpha"])

    def test_a_field_is_copied_to_another_of_its_kind(self):
        self.session.select("a")
        self.row("launch.speed").copy()
        self.session.select("c")
        self.row("launch.size").paste()
        self.assertEqual(
            self.session.effect.layers[2].launch.size, self.session.effect.layers[0].launch.speed
        )
        said = []
        self.session.said.connect(said.append)
        self.row("look.color").paste()
        self.assertIn("another kind", said[-1])

    def test_what_is_deleted_is_no_longer_selected_and_undo_selects_it_again(self):
        session = self.session
        for keep in ("a", "b", "c"):
            session.select(next(name for name in "abc" if name != keep))
            for name in "abc":
                if name != keep and name != session.selected:
                    session.select(name, "also")
            before = set(session.chosen)
            self.assertEqual(len(before), 2)
            session.layers.remove()
            self.assertEqual([layer.id for layer in session.effect.layers], [keep])
            self.assertEqual((session.selected, session.others, session.chosen), (keep, set(), [keep]))
            # What is typed next goes to what is there.
            self.set_field("emit.rate", "33")
            session.undo()
            session.undo()
            self.assertEqual(set(session.chosen), before)
        session.select("a")
        session.select("b", "also")
        session.select("c", "also")
        session.layers.remove()
        self.assertEqual((session.selected, session.others, session.layer), ("", set(), None))
        session.undo()
        self.assertEqual(set(session.chosen), {"a", "b", "c"})

    def test_several_are_deleted_and_duplicated(self):
        self.window.actions_by_name["duplicate"].trigger()
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["a", "a 2", "b", "b 2", "c"])
        self.assertEqual(len(self.session.chosen), 2)
        self.window.actions_by_name["delete"].trigger()
        self.assertEqual([layer.id for layer in self.session.effect.layers], ["a", "b", "c"])
