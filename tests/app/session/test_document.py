"""The history of an open effect, without a window."""

import unittest
from pathlib import Path

from pale_ember.app.session.document import Document

from ...building import single


class DocumentTest(unittest.TestCase):
    def setUp(self):
        self.document = Document(single({"emit.rate": 1}))

    def rate(self, value, merge=""):
        return self.document.apply(
            self.document.effect.edit("layers[0].emit.rate", value), f"Rate {value}", merge
        )

    @property
    def now(self):
        return self.document.effect.layers[0].emit.rate.number

    def test_a_drag_is_one_step_and_one_that_leads_back_is_none(self):
        for value in (2, 3, 4):
            self.assertTrue(self.rate(value, "drag"))
        self.assertEqual((self.now, len(self.document.history)), (4, 2))
        self.rate(1, "drag")
        self.assertEqual((self.now, len(self.document.history)), (1, 1))
        self.assertFalse(self.rate(1))

    def test_a_saved_step_is_not_merged_over(self):
        self.rate(2, "drag")
        self.document.mark_saved(Path("x.ember"))
        self.assertFalse(self.document.dirty)
        self.rate(3, "drag")
        self.assertTrue(self.document.dirty)
        self.assertTrue(self.document.undo())
        self.assertEqual(self.now, 2)
        self.assertFalse(self.document.dirty, "what was saved can be reached")
        # While a save is still under way its step is held too, though the drag goes on.
        self.rate(4, "slide")
        self.document.saved = self.document.effect
        self.rate(5, "slide")
        self.document.undo()
        self.assertEqual(self.now, 4)

    def test_undo_goes_back_and_forth_and_a_new_edit_ends_what_was_undone(self):
        for value in (2, 3, 4):
            self.rate(value)
        self.assertEqual(self.document.undo_name, "Rate 4")
        self.document.undo()
        self.document.undo()
        self.assertEqual((self.now, self.document.redo_name), (2, "Rate 3"))
        self.document.redo()
        self.assertEqual(self.now, 3)
        self.rate(9)
        self.assertFalse(self.document.redo())
        names = [entry.name for entry in self.document.history]
        self.assertEqual(names, ["Open", "Rate 2", "Rate 3", "Rate 9"])

    def test_after_undo_the_same_drag_begins_a_step_of_its_own(self):
        self.rate(2, "drag")
        self.rate(3, "other")
        self.document.undo()
        self.rate(5, "drag")
        self.document.undo()
        self.assertEqual(self.now, 2)

    def test_only_so_many_steps_are_kept_and_the_newest_of_them(self):
        self.document.most_steps = 5
        for value in range(2, 20):
            self.rate(value)
        back = [self.now]
        while self.document.undo():
            back.append(self.now)
        self.assertEqual(back, [19, 18, 17, 16, 15, 14])

    def test_what_is_given_up_is_gone_as_if_it_had_not_been(self):
        first = self.document.effect
        self.rate(2, "drag")
        self.assertTrue(self.document.give_up(first))
        self.assertEqual((self.now, len(self.document.history)), (1, 1))
        self.assertFalse(self.document.give_up(first))
        # From further back it is one more step, which can be undone.
        self.rate(2)
        self.rate(3)
        self.assertTrue(self.document.give_up(first))
        self.assertEqual(self.now, 1)
        self.document.undo()
        self.assertEqual(self.now, 3)


if __name__ == "__main__":
    unittest.main()
