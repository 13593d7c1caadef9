"""The bench inside the window: its shelf, its panels, the way there and back."""

from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QInputDialog

from pale_ember.app.window.command_rows import COMMANDS
from pale_ember.effect.storing.storage import effect_text
from pale_ember.effect.values.values import Fixed
from pale_ember.files.texture_shelf import shelf

from ...building import single
from ..case import LEFT
from ..window.layout_check import faults
from .bench_case import SheetCase


class ShelfTest(SheetCase):
    def test_a_texture_is_taken_from_the_shelf_and_an_own_one_kept_and_deleted(self):
        self.window.actions_by_name["keep_layer"].trigger()
        self.assertEqual([one.name for one in shelf()[0] if one.own], ["puff"])
        view = self.window.open_shelf()
        names = [view.list.item(i).text() for i in range(view.list.count())]
        self.assertGreaterEqual(len(names), 25)
        self.assertEqual(names[-1], "puff  (own)")
        view.list.setCurrentRow(names.index("hailstone"))
        QTest.mouseClick(view.take_button, LEFT)
        self.assertIn("strokes", self.kinds)
        self.assertEqual(self.bench.name, "puff", "it stands in this one's place")
        self.session.undo()
        self.assertEqual(self.kinds, ["dot", "cloud", "levels", "color"])
        view = self.window.open_shelf()
        view.list.setCurrentRow(names.index("ring"))
        QTest.mouseClick(view.add_steps, LEFT)
        self.assertEqual(self.kinds[:4], ["dot", "cloud", "levels", "color"])
        self.assertEqual(self.kinds[4], "ring")
        view = self.window.open_shelf()
        view.list.setCurrentRow(len(names) - 1)
        QTest.mouseClick(view.forget, LEFT)
        self.assertEqual([one for one in shelf()[0] if one.own], [])
        view.reject()
        # From the stage it is worn at once, and plays.
        QTest.keyClick(self.view, Qt.Key.Key_N)
        view = self.window.open_shelf()
        view.search.setFocus()
        QTest.keyClicks(view.search, "crack")
        shown = [view.list.item(i).text() for i in range(view.list.count()) if not view.list.isRowHidden(i)]
        self.assertEqual(shown, ["crackle noise", "cracks"])
        view.list.setCurrentRow(names.index("cracks"))
        QTest.keyClick(view.search, Qt.Key.Key_Return)
        self.assertEqual(self.session.layer.look.texture, "cracks")
        self.assertNotEqual(self.session.layer.look.frame, Fixed(0.0))
        self.assertEqual(self.bench.name, "cracks")

    def test_a_broken_file_on_the_shelf_is_said_and_left_out(self):
        folder = Path(self.folder.name) / "shelf"
        folder.mkdir()
        (folder / "bad.ember").write_text("{")
        found, wrong = shelf()
        self.assertEqual(len(wrong), 1)
        self.assertIn("bad.ember", wrong[0])
        self.assertFalse(any(one.own for one in found))


class WindowTest(SheetCase):
    def first_effect(self):
        effect = super().first_effect()
        return effect.edit(
            "layers", (*effect.layers, *single({"look.texture": "puff"}).edit("layers[0].id", "b").layers)
        )

    def test_what_is_worn_is_on_the_bench_by_double_click_and_the_corner_leads_back(self):
        QTest.mouseClick(self.window.tools.back, LEFT)
        self.assertFalse(self.bench.is_open)
        self.assertTrue(self.window.stage.isVisible())
        box = self.window.recipe.chapters["Look"].lists["textures"]
        self.window.recipe.show_chapter(4)
        self.window.recipe.chapters["Look"].ensureWidgetVisible(box)
        QApplication.processEvents()
        QTest.mouseDClick(box.channels["all"], LEFT)
        self.assertTrue(self.bench.is_open)
        QTest.mouseClick(self.view.corner, LEFT)
        self.assertFalse(self.bench.is_open)

    def test_the_picture_stands_beside_the_corner_where_there_is_little_room(self):
        for size in ((1024, 640), (1100, 700), (1280, 800)):
            self.window.resize(*size)
            self.window.arrange()
            for _ in range(4):
                QApplication.processEvents()
            box, corner = self.view.box, self.view.corner
            self.assertTrue(corner.isHidden() or box.right() < corner.x(), size)
            self.assertGreater(box.left(), 0)

    def test_the_corner_shows_all_wearers_live(self):
        self.session.seek(1.0)
        self.wait_for_moment()
        self.assertEqual(len(self.bench.wearers), 2)
        self.wait(lambda: self.view.corner._image is not None)
        before = self.view.corner.grab().toImage()
        self.session.edit(self.bench.step_path("radius", 0), 0.1, "smaller")
        self.made()
        self.wait(lambda: self.view.corner.grab().toImage() != before)

    def test_nothing_is_cut_or_covered_on_the_bench(self):
        for size in ((1024, 640), (1280, 800), (1920, 1080)):
            self.window.resize(*size)
            self.window.arrange()
            for index in range(len(self.bench.steps)):
                self.bench.select(index)
                for chapter in (0, 1):
                    self.window.step_panel.show_chapter(chapter)
                    for _ in range(4):
                        QApplication.processEvents()
                    self.assertEqual(faults(self.window), [], (size, index, chapter))
            self.bench.add("strokes")
            for _ in range(4):
                QApplication.processEvents()
            self.assertEqual(faults(self.window), [], (size, "brush"))
            self.session.undo()

    def test_every_command_works_on_the_bench_or_is_away(self):
        before = effect_text(self.session.effect)
        with mock.patch.object(QInputDialog, "getText", return_value=("x", True)):
            for command in COMMANDS:
                action = self.window.actions_by_name[command.name]
                if (
                    command.group in ("File", "View")
                    or command.name in ("bench", "quit", "give_up")
                    or not action.isEnabled()
                ):
                    continue
                action.trigger()
                QApplication.processEvents()
                while (popup := QApplication.activePopupWidget()) is not None:
                    popup.close()
                if self.on_top() is not self.window:
                    self.on_top().reject()
        self.assertTrue(self.bench.is_open)
        self.assertFalse(self.window.actions_by_name["tracks"].isEnabled())
        self.undo_all()
        self.assertEqual(effect_text(self.session.effect), before)
        # Back on the stage all means what it did.
        QTest.keyClick(self.view, Qt.Key.Key_Escape)
        self.wait(lambda: not self.bench.is_open)
        self.assertEqual(self.window.actions_by_name["add"].text(), "Add a layer")
        self.assertTrue(self.window.actions_by_name["tracks"].isEnabled())

    def test_the_bench_closes_when_its_texture_or_all_layers_go(self):
        self.session.edit("textures", (), "none")
        self.assertFalse(self.bench.is_open)
        self.session.undo()
        self.bench.open("puff")
        self.session.select_all()
        self.session.layers.remove()
        self.assertFalse(self.bench.is_open)
        self.session.undo()
