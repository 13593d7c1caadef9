"""What opens over the window: it has the keyboard at once, keeps it, and gives it back; and questions
that no test expects.
"""

import unittest

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.session.file_actions import Role
from pale_ember.app.widgets.finder import Finder
from pale_ember.app.widgets.sheet import open_sheet
from pale_ember.effect.effect import Layer

from ..case import LEFT, WindowCase

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class SheetTest(WindowCase):
    def typed(self, key, held=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(self.window.focusWidget() or self.window, key, held)

    def test_what_is_typed_right_after_a_shortcut_is_for_what_it_opens(self):
        self.session.layers.add(Layer(name="Core"))
        self.window.stage.setFocus()
        before = self.session.effect
        # Nothing is waited for in between.
        self.typed(Qt.Key.Key_K, CTRL)
        QTest.keyClicks(self.window.focusWidget(), "facing")
        finder = open_sheet(self.window)
        self.assertIsInstance(finder, Finder)
        self.assertEqual(finder.line.text(), "facing")
        self.typed(Qt.Key.Key_Return)
        self.assertIsNone(open_sheet(self.window))
        self.assertFalse(self.window.recipe.chapters["Look"].rows["look.facing"].isHidden())
        self.typed(Qt.Key.Key_A, CTRL | SHIFT)
        QTest.keyClicks(self.window.focusWidget(), "Smo")
        library = open_sheet(self.window)
        self.assertEqual(library.found[library.list.currentRow()].name, "Smoke")
        self.assertEqual(self.session.effect, before, "no letter was a command of the window")

    def test_it_keeps_tab_and_gives_the_focus_back_on_esc(self):
        self.window.stage.setFocus()
        view = self.window.open_shelf()
        seen = set()
        for _ in range(12):
            seen.add(self.window.focusWidget())
            self.typed(Qt.Key.Key_Tab)
        self.assertTrue(all(view.isAncestorOf(widget) for widget in seen))
        self.assertGreater(len(seen), 2)
        self.typed(Qt.Key.Key_Escape)
        self.assertIsNone(open_sheet(self.window))
        self.assertIs(self.window.focusWidget(), self.window.stage)
        # What had the focus is gone from view by then: the window itself takes it.
        self.row("stage.wind").focus()
        self.window.open_shelf()
        self.window.recipe.hide()
        self.typed(Qt.Key.Key_Escape)
        self.assertIs(self.window.focusWidget(), self.window)

    def test_a_click_elsewhere_ends_it_and_a_smaller_window_holds_it(self):
        view = self.window.open_library()
        self.window.resize(900, 560)
        QApplication.processEvents()
        self.assertTrue(self.window.rect().contains(view.geometry()))
        QTest.mouseClick(self.window.stage, LEFT, pos=QPoint(8, 60))
        QApplication.processEvents()
        self.assertIsNone(open_sheet(self.window))


class Asked(WindowCase):
    """Is run by the test below alone."""

    def runTest(self):
        self.window.files._ask("Unsaved changes", "Nobody knows of this.", {"Save": Role.AcceptRole})


class QuestionTest(unittest.TestCase):
    def test_a_question_that_nobody_answers_fails_its_test_by_name_and_is_closed(self):
        result = unittest.TestResult()
        Asked().run(result)
        self.assertIsNone(QApplication.activeModalWidget())
        self.assertEqual(len(result.failures), 1)
        self.assertIn("nobody answered: Nobody knows of this.", result.failures[0][1])


def load_tests(loader, tests, pattern):
    """Leave out what is run by a test itself."""
    return unittest.TestSuite(loader.loadTestsFromTestCase(case) for case in (SheetTest, QuestionTest))


if __name__ == "__main__":
    unittest.main()
