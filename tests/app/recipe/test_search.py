"""Finding fields: in every chapter, by their own and by other words, best first, by keyboard alone."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.widgets.matching import score

from ...building import single
from ..case import LEFT, WindowCase


class SearchTest(WindowCase):
    def first_effect(self):
        return single({"emit.bursts": [{"at": 0}, {"at": 1}], "path": [{}, {"at": 1, "position": [1, 0, 0]}]})

    def look(self, typed):
        search = self.window.recipe.search
        search.setFocus()
        search.selectAll()
        QTest.keyClicks(search, typed)
        QApplication.processEvents()
        return [entry.at for entry in self.window.recipe.found.shown]

    def test_common_words_find_what_is_meant_first(self):
        for typed, at in (
            ("color", "look.color"),
            ("max", "emit.cap"),
            ("bright", "look.intensity"),
            ("noise", "flight.turbulence"),
            ("fade", "look.opacity"),
            ("rotate", "place.rotation"),
            ("delay", "window.begin"),
            ("emission", "emit.rate"),
            ("alpha", "look.opacity"),
            ("velocity", "launch.speed"),
            ("vortex", "flight.swirl"),
            ("life", "launch.lifetime"),
            ("speed", "launch.speed"),
            ("top speed", "flight.top_speed"),
            ("glow", "look.intensity"),
            ("gravity", "flight.gravity"),
        ):
            found = self.look(typed)
            self.assertIn(at, found[:3], (typed, found[:5]))

    def test_the_effects_own_fields_bursts_and_path_keys_are_found(self):
        self.assertIn("warm_up", self.look("warm"))
        self.assertIn("stage.wind", self.look("wind"))
        found = self.look("chance")
        self.assertEqual(found[:2], ["emit.bursts[0].chance", "emit.bursts[1].chance"])
        self.assertIn("path[1].ease", self.look("ease"))
        row = next(e.row for e in self.window.recipe.found.shown if e.at == "path[1].ease")
        self.assertTrue(row.isVisible())

    def test_down_and_enter_go_to_the_best_and_escape_clears(self):
        for key in (Qt.Key.Key_Down, Qt.Key.Key_Return):
            self.look("orbit")
            QTest.keyClick(self.window.recipe.search, key)
            focus = QApplication.focusWidget()
            self.assertTrue(focus.accessibleName().startswith("Orbit"), focus.accessibleName())
        QTest.keyClicks(focus, "90")
        QTest.keyClick(focus, Qt.Key.Key_Return)
        self.assertEqual(self.session.layer.flight.orbit.number, 90)
        self.look("orbit")
        QTest.keyClick(self.window.recipe.search, Qt.Key.Key_Escape)
        self.assertEqual(self.window.recipe.search.text(), "")
        self.assertIs(self.window.recipe.pages.currentWidget(), self.window.recipe.chapters["Emit"])

    def test_names_go_before_help_and_every_word_must_fit(self):
        self.assertGreater(score("size", "Size"), score("size", "Eddy size"))
        self.assertGreater(score("size", "Eddy size"), score("size", "Grow", help="Multiplies the size."))
        self.assertEqual(score("eddy blue", "Eddy size"), 0)
        self.assertEqual(score("max", "Drift", help="climax"), 4)

    def test_the_finder_goes_to_a_field_that_is_put_away(self):
        finder = self.window.open_finder()
        QTest.keyClicks(finder.line, "noise")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        row = self.window.recipe.chapters["Flight"].rows["flight.turbulence"]
        self.assertTrue(row.isVisible())
        self.assertTrue(row.controls[0].hasFocus())


class GroupsTest(WindowCase):
    def first_effect(self):
        return single({"flight.drag": 2, "flight.turbulence": 1})

    def rows(self):
        page = self.window.recipe.chapters["Flight"]
        return [at for at, row in page.rows.items() if row.isVisible()]

    def words(self, title):
        page = self.window.recipe.chapters["Flight"]
        line = next(group.line for group in page.groups if group.name == title)
        return line, [at for at, _, _ in line.words] if line.isVisible() else []

    def test_what_is_in_use_stands_as_rows_and_the_rest_is_one_line_of_words(self):
        self.window.recipe.show_chapter(3)
        # With turbulence, what belongs to it.
        self.assertEqual(
            self.rows(), ["flight.drag", "flight.turbulence", "flight.eddy", "flight.churn", "flight.octaves"]
        )
        self.assertEqual(self.words("air")[1], ["flight.wind"])
        self.assertEqual(self.words("centre")[1], ["flight.pull", "flight.swirl", "flight.orbit"])

    def test_a_word_is_opened_by_click_by_key_and_by_command(self):
        self.window.recipe.show_chapter(3)
        line, _ = self.words("centre")
        QTest.mouseClick(line, LEFT, pos=line.boxes()[1].center().toPoint())
        self.assertIn("flight.swirl", self.rows())
        self.assertEqual(self.session.document.index, 0, "to open a field edits nothing")
        self.assertTrue(QApplication.focusWidget().accessibleName().startswith("Swirl"))
        line, words = self.words("centre")
        self.assertEqual(words, ["flight.pull", "flight.orbit"])
        line.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(line, Qt.Key.Key_Right)
        QTest.keyClick(line, Qt.Key.Key_Space)
        self.assertIn("flight.orbit", self.rows())
        self.window.recipe.go_to("flight.octaves")
        self.set_field("flight.swirl", "3")
        self.session.undo()
        self.assertIn("flight.swirl", self.rows(), "what was opened stays")

    def test_a_field_whose_leader_is_at_rest_is_not_even_a_word(self):
        self.session.edit("layers[0].flight.turbulence", 0, "Calm")
        self.window.recipe.show_chapter(3)
        self.assertEqual(self.words("eddies")[1], ["flight.turbulence"])
        self.window.recipe.go_to("flight.churn")
        self.assertIn("flight.churn", self.rows())
        self.assertIn("flight.turbulence", self.rows())
