"""The Hand over panel and the compression view, driven as a new user would; bundles opened, dropped and
kept.
"""

import json
import os
import shlex
import tomllib
from pathlib import Path
from unittest import mock

from PIL import Image
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from pale_ember.app.widgets.number_box import NumberBox
from pale_ember.demo import demo
from pale_ember.effect import load_effect, save_effect
from pale_ember.files.bundle.reading import load_bundle
from pale_ember.files.bundle.writing import write_bundle
from tests.app.case import LEFT, WindowCase
from tests.app.window.layout_check import faults
from tests.command_line import run_line
from tests.files.bundle_case import PLAIN

KEY = Qt.Key


class HandOverCase(WindowCase):
    def first_effect(self):
        return demo("quench")

    def setUp(self):
        self.enterContext(mock.patch.dict(os.environ))
        super().setUp()
        for name in ("LAYERS", "TEXTURES", "BUNDLES"):
            os.environ[f"PALE_EMBER_{name}"] = f"{self.folder.name}/{name.lower()}"
        self.out = Path(self.folder.name, "out")
        self.out.mkdir()
        self.window.files.settings.remove("hand over")
        self.window.desk.reset_profile()
        self.window.desk.go_to("")

    @property
    def panel(self):
        return self.window.hand_over_panel

    def open_panel(self, chapter=0):
        if not self.window.hands_over:
            QTest.keyClick(self.window, KEY.Key_E, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(self.panel.isVisible())
        QTest.mouseClick(self.panel.rail.buttons.button(chapter), LEFT)

    def type_into(self, path, text):
        box = self.panel.rows[path].parts.controls[0]
        assert isinstance(box, NumberBox)
        QTest.mouseClick(box, LEFT)
        QTest.keyClicks(box, text)
        QTest.keyClick(box, KEY.Key_Return)

    def hand_over(self, seconds=60.0):
        QTest.mouseClick(self.panel.foot.go, LEFT)
        self.wait(lambda: not self.window.desk.busy and self.panel.foot.result.isVisible(), seconds)


class Panel(HandOverCase):
    def test_a_sheet_from_the_first_click_to_the_file(self):
        self.open_panel(1)
        self.type_into("sheet.columns", "3")
        self.type_into("sheet.rows", "2")
        self.type_into("sheet.frame", "32")
        self.assertIn("6 frames of 32 pixels, 96 × 64", self.panel.words.text())
        with mock.patch.object(QFileDialog, "getExistingDirectory", return_value=str(self.out)):
            self.hand_over()
        self.assertIn("written", self.panel.foot.result.text())
        about = json.loads((self.out / "Quench.json").read_text())
        self.assertEqual((about["columns"], about["rows"], about["frames"]), (3, 2, 6))
        self.assertEqual(sorted(one.name for one in self.out.iterdir()), ["Quench.json", "Quench.png"])
        self.assertTrue(self.panel.foot.show_folder.isVisible())

    def test_nothing_is_replaced_without_a_question(self):
        self.open_panel(4)
        self.window.desk.go_to(str(self.out))
        at = self.out / "Quench.npz"
        at.write_bytes(b"mine")
        with (
            mock.patch.object(QMessageBox, "exec"),
            mock.patch.object(QMessageBox, "clickedButton", return_value=None),
        ):
            QTest.mouseClick(self.panel.foot.go, LEFT)
        self.assertFalse(self.window.desk.busy)
        self.assertEqual(at.read_bytes(), b"mine")

    def test_the_command_line_that_it_shows_does_the_same(self):
        file = Path(self.folder.name, "marsh quench.ember")
        save_effect(self.session.effect, file)
        self.window.files.load(file)
        self.open_panel(4)
        self.window.desk.go_to(str(self.out))
        self.type_into("cache.rate", "5")
        self.hand_over()
        ours = (self.out / "marsh quench.npz").read_bytes()
        words = shlex.split(self.panel.foot.command.toPlainText())
        self.assertEqual(words[:2], ["pale-ember", "cache"])
        (self.out / "marsh quench.npz").unlink()
        status, _, said = run_line(*words[1:])
        self.assertEqual((status, said), (0, ""))
        self.assertEqual((self.out / "marsh quench.npz").read_bytes(), ours)

    def test_what_does_not_fit_is_said_beside_the_field(self):
        self.open_panel(1)
        self.type_into("sheet.columns", "900")
        row = self.panel.rows["sheet.columns"]
        self.assertTrue(row.problem.isVisible())
        self.assertLessEqual(self.window.desk.profile.sheet.columns, 64)
        self.type_into("sheet.columns", "4")
        self.assertFalse(row.problem.isVisible())
        QTest.mouseClick(row.mark, LEFT)
        self.assertEqual(self.window.desk.profile.sheet.columns, 8)

    def test_profiles_are_saved_opened_and_go_on_the_next_time(self):
        self.open_panel(1)
        self.type_into("sheet.columns", "5")
        at = Path(self.folder.name, "marsh game.toml")
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(at), "")):
            self.panel.save_profile()
        self.assertEqual(tomllib.loads(at.read_text()), {"sheet": {"columns": 5}})
        self.assertIn("marsh game", self.panel.profile.text())
        self.type_into("sheet.rows", "2")
        self.assertIn("changed", self.panel.profile.text())
        self.assertIn("--set sheet.rows=2", self.panel.foot.command.toPlainText())
        at.write_text("[sheet]\ncolumns = 0\n")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(at), "")):
            self.panel.open_profile()
        self.assertIn("out of range", self.panel.foot.result.text())
        self.assertEqual(self.window.desk.profile.sheet.columns, 5)

    def test_it_can_be_stopped_and_leaves_nothing(self):
        self.window.desk.go_to(str(self.out))
        self.open_panel(3)
        QTest.mouseClick(self.panel.foot.go, LEFT)
        self.wait(lambda: self.panel.foot.stop.isVisible() and self.panel.foot.bar.value() > 0, 60)
        QTest.mouseClick(self.panel.foot.stop, LEFT)
        self.wait(lambda: not self.window.desk.busy and self.panel.foot.result.isVisible(), 120)
        self.assertIn("Stopped", self.panel.foot.result.text())
        self.assertEqual(list(self.out.iterdir()), [])
        self.assertEqual(list(Path(self.folder.name, "state").glob("hand-over-*")), [])

    def test_only_pictures_that_lie_with_the_effect_or_were_chosen_here_are_handed_over(self):
        home, elsewhere = Path(self.folder.name, "home"), Path(self.folder.name, "elsewhere")
        for folder in (home, elsewhere):
            folder.mkdir()
            Image.new("RGBA", (8, 8), (255, 90, 0, 255)).save(folder / "soot.png")
        for folder, words in ((elsewhere, "was not chosen here"), (home, "written")):
            effect = demo("quench").edit("textures", [{"name": "soot", "file": str(folder / "soot.png")}])
            save_effect(effect, home / "e.ember")
            self.assertTrue(self.window.files.load(home / "e.ember"))
            self.window.desk.go_to(str(self.out))
            self.open_panel(4)
            self.hand_over()
            self.assertIn(words, self.panel.foot.result.text())
            self.assertEqual(bool(list(self.out.iterdir())), folder == home)

    def test_a_folder_that_has_gone_is_told(self):
        self.open_panel(4)
        blocked = self.out / "file"
        blocked.write_text("x")
        self.window.desk.go_to(str(blocked / "below"))
        self.hand_over()
        self.assertIn("Not written", self.panel.foot.result.text())

    def test_every_chapter_fits_and_the_recipe_comes_back(self):
        for chapter in range(6):
            self.open_panel(chapter)
            QApplication.processEvents()
            self.assertEqual(faults(self.window), [])
        QTest.keyClick(self.window, KEY.Key_E, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(self.window.recipe.isVisible())
        self.open_panel(0)
        self.window.toggle_bench()
        self.assertTrue(self.window.step_panel.isVisible())


class Compression(HandOverCase):
    def test_textures_stand_beside_what_becomes_of_them(self):
        view = self.window.open_compression()
        self.wait(lambda: view._now is not None and "Compressing" not in view.words.text(), 60)
        names = [view.list.item(i).text() for i in range(view.list.count())]
        self.assertEqual(names[:3], ["puff", "puff, normals", "puff, motion"])
        self.assertIn("BC4", view.pair._words[1])
        self.assertIn("dB", view.words.text())
        shown = view.pair.grab().toImage()
        self.assertGreater(len({shown.pixel(x, 200) for x in range(0, shown.width(), 3)}), 4)
        view.list.setCurrentRow(1)
        self.wait(lambda: view._now.sheet.kind == "normals", 30)
        view.form.setCurrentText("bc1")
        view._choose("bc1")
        self.wait(lambda: view._now.how.blocks == "bc1", 30)
        self.assertEqual(dict(self.window.desk.profile.textures), {"puff/normals": "bc1"})
        view._choose("as all")
        self.wait(lambda: view._now.how.blocks == "bc5", 30)
        self.assertEqual(dict(self.window.desk.profile.textures), {})
        view.view.setCurrentIndex(2)
        self.assertIn("Difference", view.pair._words[1])
        view.close()


class Bundles(HandOverCase):
    def bundle(self):
        at = Path(self.folder.name, "lantern bundle")
        write_bundle(demo("lantern"), at, PLAIN)
        return at

    def drop(self, file, at):
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(file))])
        event = QDropEvent(QPointF(at), Qt.DropAction.CopyAction, mime, LEFT, Qt.KeyboardModifier.NoModifier)
        self.window.drops.eventFilter(self.window, event)
        return event.type() == QEvent.Type.Drop

    def test_a_dropped_bundle_opens_and_stays_as_it_is(self):
        at = self.bundle()
        self.drop(at, QPoint(300, 200))
        self.assertEqual(self.session.effect, load_bundle(at))
        self.assertIsNone(self.session.document.path)
        self.drop(at / "bundle.json", self.window.timeline.mapTo(self.window, QPoint(100, 200)))
        self.assertEqual(len(self.session.effect.layers), 2 * len(load_bundle(at).layers))

    def test_the_effect_in_a_bundle_opens_as_the_bundle_and_is_not_saved_over(self):
        at = self.bundle()
        before = {file: file.read_bytes() for file in at.rglob("*") if file.is_file()}
        self.assertTrue(self.window.files.load(at / "effect.json"))
        self.assertEqual((self.session.effect, self.session.document.path), (load_bundle(at), None))
        self.assertEqual(self.session.document.title, "lantern bundle")
        self.session.edit("duration", 7, "Duration")
        target = Path(self.folder.name, "own.ember")
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(target), "")):
            self.assertTrue(self.window.files.save())
        self.assertEqual(load_effect(target).duration, 7)
        self.assertEqual({file: file.read_bytes() for file in at.rglob("*") if file.is_file()}, before)
        # Alone, it is a file like any other.
        alone = Path(self.folder.name, "effect.json")
        alone.write_bytes((at / "effect.json").read_bytes())
        self.assertTrue(self.window.files.load(alone))
        self.assertEqual(self.session.document.path, alone)

    def test_layers_and_textures_of_a_bundle_are_kept(self):
        at = self.bundle()
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(at / "bundle.json"), "")):
            self.window.actions_by_name["keep_bundle"].trigger()
        layers = sorted(Path(os.environ["PALE_EMBER_LAYERS"]).glob("*.ember"))
        self.assertEqual(len(layers), len(demo("lantern").layers))
        self.assertEqual(
            len(list(Path(os.environ["PALE_EMBER_TEXTURES"]).glob("*.ember"))), len(demo("lantern").textures)
        )
        self.assertTrue(load_effect(layers[0]).layers)
        broken = at / "bundle.json"
        broken.write_text("{}")
        said = []
        self.session.said.connect(said.append)
        self.window.files.load(broken)
        self.assertIn("no bundle", said[-1])
