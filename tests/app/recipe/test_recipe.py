from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QStackedWidget

from pale_ember.app.recipe import chapter_pages
from pale_ember.app.recipe.chapter_table import CHAPTERS
from pale_ember.app.recipe.sentence import pieces
from pale_ember.demo import kiln_mouth

from ...building import single
from ..case import LEFT, WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


class RecipeTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def shown(self):
        return [entry.row.rule.label for entry in self.window.recipe.found.shown if entry.row.isVisible()]

    def test_pages_are_made_ahead_one_at_a_time_in_their_order(self):
        stack = QStackedWidget()
        with mock.patch.object(chapter_pages, "PAUSE_MS", 5):
            pages = chapter_pages.ChapterPages(self.session, self.window.recipe.wishes, stack)
        self.assertEqual(stack.count(), 0)
        flight = pages["Flight"]
        counts = set()

        def is_done():
            counts.add(stack.count())
            return stack.count() == len(CHAPTERS)

        self.wait(is_done)
        made = [stack.widget(i) for i in range(stack.count())]
        self.assertIs(made[0], flight)
        self.assertEqual(made[1:], [pages[name] for name in CHAPTERS if name != "Flight"])
        self.assertEqual(counts, {*range(1, len(CHAPTERS) + 1)})
        self.assertEqual(pages["Emit"].rows["emit.rate"].value, self.session.layer.emit.rate)
        self.wait(lambda: not pages._timer.isActive())

    def test_the_sentence_takes_four_lines_until_all_of_it_is_asked_for(self):
        summary = self.window.recipe.summary
        line = summary.label.fontMetrics().lineSpacing()
        self.session.edit_many(
            [
                (
                    "layers[0].flight",
                    {
                        "drag": 2,
                        "wind": 1,
                        "turbulence": 3,
                        "gravity": 1,
                        "swirl": 2,
                        "orbit": 40,
                        "pull": 1,
                        "top_speed": 9,
                        "spin": 90,
                    },
                ),
                ("layers[0].emit", {"rate": 40, "bursts": [{"at": 0, "count": 9}, {"at": 1, "count": 4}]}),
                ("layers[0].contact.enabled", True),
                ("layers[0].look.lit", 0.5),
                ("layers[0].look.shine", 1),
            ],
            "Much",
        )
        QApplication.processEvents()
        self.assertTrue(summary.more.isVisible())
        self.assertLessEqual(summary.label.height(), 4 * line + 2)
        QTest.mouseClick(summary.more, LEFT)
        QApplication.processEvents()
        self.assertGreaterEqual(
            summary.label.height(), summary.label.heightForWidth(summary.label.width()) - 2
        )
        QTest.mouseClick(summary.more, LEFT)
        QApplication.processEvents()
        self.assertLessEqual(summary.label.height(), 4 * line + 2)
        self.window.files.show(single({}), None)
        QApplication.processEvents()
        self.assertFalse(summary.more.isVisible())
        self.assertLessEqual(
            summary.height(), summary.label.heightForWidth(summary.label.width()) + 10, "no empty lines below"
        )
        self.assertLess(
            abs(
                self.window.recipe.search.mapTo(self.window, QPoint(0, 0)).y()
                - summary.mapTo(self.window, QPoint(0, summary.height())).y()
            ),
            4,
        )

    def test_search_and_changed_only_go_over_all_chapters(self):
        recipe = self.window.recipe
        QTest.keyClick(self.window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(recipe.search, "speed")
        self.assertIn("Speed", self.shown())
        self.assertIn("Top speed", self.shown())
        self.assertNotIn("Rate", self.shown())
        recipe.search.setText("no such thing")
        self.assertTrue(recipe.found.none.isVisible())
        recipe.search.clear()
        self.window.actions_by_name["changed"].trigger()
        self.assertIn("Swirl", (self.session.select("embers"), self.shown())[1])
        self.assertNotIn("Orbit", self.shown())
        row = next(entry.row for entry in recipe.found.shown if entry.at == "flight.eddy")
        self.type_into(row.controls[0], "2")
        self.assertEqual(self.session.layer.flight.eddy, 2)
        QTest.keyClick(self.window, Qt.Key.Key_2)
        self.assertFalse(recipe.only_changed.isChecked())

    def test_each_link_of_the_sentence_leads_to_its_field(self):
        for layer in kiln_mouth().layers:
            self.session.select(layer.id)
            for piece in pieces(layer):
                if piece.path and piece.path != "emit.bursts":
                    self.window.recipe.summary.linkActivated.emit(piece.path)
                    page = self.window.recipe.pages.currentWidget()
                    self.assertTrue(page.rows[piece.path].isVisible(), piece)

    def test_a_chapter_is_copied_to_another_layer_and_reset(self):
        self.session.select("embers")
        self.window.actions_by_name["chapter_4"].trigger()
        self.window.actions_by_name["copy_chapter"].trigger()
        flight = self.session.layer.flight
        self.session.select("core")
        steps = len(self.session.document.history)
        self.window.actions_by_name["paste_chapter"].trigger()
        self.assertEqual(self.session.layer.flight, flight)
        self.window.actions_by_name["reset_chapter"].trigger()
        self.assertEqual(self.session.layer.flight, type(flight)())
        self.assertEqual(len(self.session.document.history), steps + 2)
        QApplication.clipboard().setText("something else")
        self.window.actions_by_name["paste_chapter"].trigger()
        self.assertIn("no chapter", self.window.notice.words.text())

    def test_the_axis_of_a_curve_is_chosen(self):
        self.session.select("embers")
        row = self.row("flight.turbulence")
        button = next(b for b in row.findChildren(type(row.mark)) if b.menu())
        next(action for action in button.menu().actions() if action.text() == "Along speed").trigger()
        self.assertEqual(self.session.layer.flight.turbulence.along, "speed")
