import os
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.stage.library_view import layers_folder
from pale_ember.effect import save_effect
from pale_ember.effect.values.values import Fixed
from pale_ember.files.library import FAMILIES, own_folder, starts

from ...building import single
from ..case import LEFT, WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


class LibraryTest(WindowCase):
    def setUp(self):
        super().setUp()
        patch = mock.patch.dict(os.environ, {"PALE_EMBER_LAYERS": f"{self.folder.name}/layers"})
        patch.start()
        self.addCleanup(patch.stop)

    def test_a_shipped_layer_is_added_and_an_own_one_kept_and_deleted(self):
        view = self.window.open_library()
        names = [start.name for start in view.found]
        for name in (
            "Flame",
            "Smoke",
            "Spark",
            "Ember",
            "Mist",
            "Rain",
            "Snow",
            "Dust",
            "Debris",
            "Flash",
            "Ring of smoke",
            "Steam burst",
            "Dark smoke",
        ):
            self.assertIn(name, names)
        self.wait(lambda: all(len(view.moving.pictures_of(start)) == 12 for start in view.found), 90)
        for start in view.found:
            image = view.moving.pictures_of(start)[6].pixmap(150, 96).toImage()
            shades = {image.pixel(x, y) for x in range(0, 150, 2) for y in range(0, 96, 2)}
            self.assertGreater(len(shades), 20, f"{start.name} is not to be seen")
        view.list.setCurrentRow(names.index("Flame"))
        self.assertFalse(view.forget.isEnabled())
        QTest.keyClick(view.list, Qt.Key.Key_Return)
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["Flame"])
        self.wait(lambda: self.session.moment.alive > 5)
        self.session.edit("layers[0].name", "My Flame", "Rename")
        self.window.actions_by_name["keep_layer"].trigger()
        view = self.window.open_library()
        self.assertTrue(view.found[-1].own)
        self.assertEqual(view.found[-1].layer, self.session.layer)
        view.list.setCurrentRow(len(view.found) - 1)
        QTest.mouseClick(view.forget, LEFT)
        self.assertFalse(any(start.own for start in view.found))
        view.reject()

    def test_a_layer_that_is_kept_again_replaces_joins_or_leaves_the_one_before_as_is_chosen(self):
        self.window.actions_by_name["add"].trigger()
        self.session.edit("layers[0].name", "Mine", "Rename")
        keep = self.window.actions_by_name["keep_layer"]

        def answered(word):
            def press():
                box = QApplication.activeModalWidget()
                if box is None:
                    QTimer.singleShot(20, press)
                elif word == "Esc":
                    QTest.keyClick(box, Qt.Key.Key_Escape)
                else:
                    QTest.mouseClick(
                        next(one for one in box.buttons() if one.text().replace("&", "") == word), LEFT
                    )

            QTimer.singleShot(20, press)
            keep.trigger()
            return {start.name: start.layer.emit.rate for start in starts(layers_folder())[0] if start.own}

        keep.trigger()
        self.assertEqual([start.name for start in starts(layers_folder())[0] if start.own], ["Mine"])
        first = answered("Cancel")
        for number, word, wanted in (
            (11, "Esc", first),
            (11, "Replace", {"Mine": Fixed(11)}),
            (12, "Keep both", {"Mine": Fixed(11), "Mine 2": Fixed(12)}),
        ):
            self.session.edit("layers[0].emit.rate", number, "Rate")
            self.assertEqual(answered(word), wanted, word)

    def test_starts_stand_by_families_and_own_ones_by_name_behind_them(self):
        own_folder().mkdir()
        for name in ("b", "A"):
            save_effect(single({}, name=name), own_folder() / f"{name}.ember")
        found, _ = starts(layers_folder())
        stems = [stem for family in FAMILIES.values() for stem in family]
        self.assertEqual([start.path.stem for start in found if not start.own], stems)
        self.assertEqual([start.path.stem for start in found if start.own], ["A", "b"])

    def test_it_is_closed_at_any_moment_while_its_pictures_are_made(self):
        # A thread that told a deleted window of its work once brought the program down.
        for pause in (0, 3, 8, 15, 30, 60, 5, 1):
            view = self.window.open_library()
            QTest.qWait(pause)
            view.reject()
            QTest.qWait(2)
        QTest.qWait(300)
        self.assertTrue(self.window.isVisible())

    def test_a_broken_file_in_the_library_is_said_and_left_out(self):
        folder = Path(self.folder.name) / "layers"
        folder.mkdir()
        (folder / "bad.ember").write_text("{")
        view = self.window.open_library()
        self.assertEqual(len(view.found), 28)
        self.assertIn("bad.ember", self.window.notice.words.text())
        view.reject()
