"""What happens between the window and the disk: other programs, full disks, work that was brought back."""

import os
import subprocess
import sys
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from pale_ember.app.window import keeping
from pale_ember.effect import EffectError, load_effect, save_effect
from pale_ember.files import autosave

from ...building import single
from ..case import WindowCase


class DeskTest(WindowCase):
    def setUp(self):
        super().setUp()
        self.path = Path(self.folder.name) / "x.ember"
        save_effect(single({"name": "first"}), self.path)
        self.files = self.window.files
        self.files.load(self.path)
        self.heard = []
        self.session.said.connect(self.heard.append)

    def change_outside(self, name="theirs"):
        save_effect(single({"name": name}), self.path)
        os.utime(self.path, ns=(1, 1))

    def answer(self, words):
        """Press a button of the question that comes next."""

        def press():
            box = QApplication.activeModalWidget()
            assert isinstance(box, QMessageBox)
            self.asked = box.text()
            next(button for button in box.buttons() if button.text() == words).click()

        QTimer.singleShot(50, press)

    def on_disk(self):
        return load_effect(self.path).layers[0].name

    def test_a_file_that_another_program_changed_is_not_overwritten_without_a_word(self):
        self.session.edit("layers[0].name", "mine", "Rename")
        self.change_outside()
        self.files._look()
        self.files._look()
        self.assertEqual(len([words for words in self.heard if "Another program" in words]), 1)
        self.answer("Cancel")
        self.assertFalse(self.files.save())
        self.assertEqual(self.on_disk(), "theirs")
        self.answer("Take theirs")
        self.assertFalse(self.files.save())
        self.assertEqual(self.session.layer.name, "theirs")
        self.assertFalse(self.session.document.dirty)
        self.session.undo()
        self.assertEqual(self.session.layer.name, "mine")
        self.change_outside("others")
        self.answer("Keep mine")
        self.assertTrue(self.files.save())
        self.assertEqual(self.on_disk(), "mine")
        # What was written here is known: nothing is asked.
        self.session.edit("layers[0].name", "mine 2", "Rename")
        self.assertTrue(self.files.save())
        self.assertEqual(self.on_disk(), "mine 2")

    def test_save_as_asks_about_the_name_that_is_really_written(self):
        other = Path(self.folder.name) / "other.ember"
        save_effect(single({"name": "precious"}), other)
        self.session.edit("layers[0].name", "mine", "Rename")
        with mock.patch.object(
            QFileDialog, "getSaveFileName", return_value=(str(other.with_suffix("")), "")
        ) as dialog:
            self.answer("Cancel")
            self.assertFalse(self.files.save_as())
            self.assertIn("other.ember is there already", self.asked)
            self.assertEqual(load_effect(other).layers[0].name, "precious")
            # Qt's own question would be about the name without the ending.
            self.assertIn(QFileDialog.Option.DontConfirmOverwrite, dialog.call_args.kwargs.values())
            self.answer("Replace")
            self.assertTrue(self.files.save_as())
        self.assertEqual(load_effect(other).layers[0].name, "mine")
        for typed, written in (("v1.2", "v1.2.ember"), ("B.EMBER", "B.EMBER")):
            with mock.patch.object(
                QFileDialog, "getSaveFileName", return_value=(f"{self.folder.name}/{typed}", "")
            ):
                self.assertTrue(self.files.save_as())
            self.assertTrue((Path(self.folder.name) / written).exists(), written)
        # Cancelled in Qt's own dialog: nothing is saved, and whoever asked is told.
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", "")):
            self.assertFalse(self.files.save_as())
        self.assertEqual(self.session.document.path, Path(self.folder.name) / "B.EMBER")

    def test_a_file_that_is_gone_is_not_called_saved(self):
        self.assertFalse(self.session.document.dirty)
        self.path.unlink()
        self.files._look()
        self.assertTrue(self.session.document.dirty)
        self.assertIn("isn't there any more", self.heard[-1])
        self.assertTrue(self.files.save())
        self.assertEqual(self.on_disk(), "first")
        self.assertFalse(self.session.document.dirty)

    def leave_work(self, name):
        code = (
            "import os, sys; from pathlib import Path; from tests.building import single\n"
            "from pale_ember.files.autosave import Autosave\n"
            "Autosave().keep(single({'name': sys.argv[2]}), Path(sys.argv[1])); os.kill(os.getpid(), 9)"
        )
        subprocess.run([sys.executable, "-c", code, str(self.path), name], check=False)
        (left,) = autosave.leftovers()
        return left

    def test_what_is_brought_back_stays_on_disk_until_it_is_there_anew(self):
        left = self.leave_work("lost")
        with mock.patch.object(autosave, "write_whole", side_effect=EffectError("x", "the disk is full.")):
            self.files.restore(left)
            self.assertEqual(self.session.layer.name, "lost")
            self.assertTrue(left.autosave.exists())
            self.assertIn("the disk is full", self.heard[-1])
        self.assertTrue(self.files.keep())
        self.assertEqual(
            autosave.Leftover(None, self.files.autosave.copy_of(self.path), None, 0).effect().layers[0].name,
            "lost",
        )

    def test_work_that_can_not_be_read_is_told_once_and_kept(self):
        left = self.leave_work("cut")
        left.autosave.write_bytes(b'{"format": "pale')
        self.files.offer()
        self.assertIn("can't be read", self.heard[-1])
        self.assertIn(left.autosave.name, self.heard[-1])
        self.assertTrue(left.autosave.exists())
        told = len(self.heard)
        self.files.offer()
        self.assertEqual(len(self.heard), told)

    def test_pictures_of_the_stage_go_to_regular_files_only(self):
        pipe = Path(self.folder.name) / "pipe"
        os.mkfifo(pipe)
        for path, words in ((pipe, "Not saved"), (Path(self.folder.name) / "a.png", "Saved to")):
            with mock.patch("PyQt6.QtWidgets.QFileDialog.getSaveFileName", return_value=(str(path), "")):
                keeping.save_picture(self.window)
            self.assertIn(words, self.heard[-1])
        self.assertTrue(pipe.is_fifo())
        self.assertEqual((Path(self.folder.name) / "a.png").read_bytes()[:4], b"\x89PNG")


if __name__ == "__main__":
    import unittest

    unittest.main()
