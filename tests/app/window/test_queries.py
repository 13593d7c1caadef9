"""What people type most in the finder leads to what they mean, and the recipe's search to lists as well."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from ...building import single
from ..case import WindowCase
from .queries import QUERIES


class QueriesTest(WindowCase):
    def first_effect(self):
        return single({"emit.rate": 5})

    def test_a_hundred_and_fifty_queries_find_what_is_meant_first(self):
        asked = 0
        finder = self.window.open_finder()
        for meant, queries in QUERIES.items():
            for typed in queries.split(", "):
                finder.line.setText(typed)
                first = finder.list.item(0).text().replace("   ·   ", " · ").partition("   ")[0]
                self.assertEqual(first, meant, typed)
                asked += 1
        self.assertGreaterEqual(asked, 150)
        finder.reject()

    def test_what_is_found_is_gone_to_a_list_too(self):
        for typed, shown in (("path", "path"), ("burst", "emit.bursts"), ("obstacle", "stage.props")):
            finder = self.window.open_finder()
            QTest.keyClicks(finder.line, typed)
            while not finder.list.currentItem().text().startswith(("Path", "Bursts", "Props   ·   Effect")):
                QTest.keyClick(finder.line, Qt.Key.Key_Down)
            QTest.keyClick(finder.line, Qt.Key.Key_Return)
            self.assertTrue(self.window.recipe.pages.currentWidget().lists[shown].isVisible(), typed)

    def test_the_recipes_search_knows_choices_lists_and_where_else_to_look(self):
        recipe = self.window.recipe
        for typed, at in (
            ("ring", "birthplace.kind"),
            ("multiply", "look.blend"),
            ("night", "stage.backdrop"),
            ("streak", "look.facing"),
        ):
            recipe.search.setText(typed)
            self.assertIn(at, [entry.at for entry in recipe.found.shown[:4]], typed)
        for typed, at in (
            ("path", "path"),
            ("burst", "emit.bursts"),
            ("obstacle", "stage.props"),
            ("sub-emitter", "followers"),
        ):
            recipe.search.setText("")
            recipe.search.setText(typed)
            self.assertEqual(recipe.found.led[:1], [at])
            self.assertTrue(recipe.found.leads[at].isVisible())
        recipe.search.setText("path")
        QTest.keyClick(recipe.search, Qt.Key.Key_Return)
        self.assertTrue(recipe.pages.currentWidget().lists["path"].isVisible())
        recipe.search.setText("export")
        self.assertTrue(recipe.found.none.isVisible())
        self.assertIn("Ctrl+K", recipe.found.none.text())
