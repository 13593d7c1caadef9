import os
import subprocess
import sys
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from pale_ember.effect import load_effect, save_effect

from ...building import single
from ..case import LEFT, WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


class RecoveryTest(WindowCase):
    def test_after_a_kill_the_next_start_offers_the_work(self):
        path = Path(self.folder.name) / "k.ember"
        save_effect(single(), path)
        code = (
            "import sys; from pathlib import Path; from PyQt6.QtCore import QTimer\n"
            "from tests.app.case import application\n"
            "from pale_ember.app.window.main_window import MainWindow\n"
            "app = application(); window = MainWindow(); window.show(); "
            "window.files.load(Path(sys.argv[1]))\n"
            "window.files.timer.start(30)\n"
            "turn = [0]\n"
            "def edit():\n"
            "    turn[0] += 1; window.session.edit('layers[0].name', f'n{turn[0]}', 'x')\n"
            "    if turn[0] == 40: print('busy', flush=True)\n"
            "timer = QTimer(); timer.timeout.connect(edit); timer.start(5); app.exec()\n"
        )
        process = subprocess.Popen(
            [sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE, env=os.environ.copy()
        )
        process.stdout.readline()
        process.kill()
        process.wait()
        process.stdout.close()
        self.assertEqual(load_effect(path).layers[0].name, "a", "the file itself is as it was saved")
        self.window.files.offer()
        notice = self.window.notice
        self.assertTrue(notice.restore.isVisible())
        self.assertIn("k.ember", notice.words.text())
        QTest.mouseClick(notice.restore, LEFT)
        self.assertRegex(self.session.effect.layers[0].name, r"n\d+")
        self.assertTrue(self.session.document.dirty)
        self.assertEqual(self.session.document.path, path)
        self.assertFalse(notice.isVisible())
        self.window.actions_by_name["save"].trigger()
        self.assertRegex(load_effect(path).layers[0].name, r"n\d+")
        self.assertEqual(list(Path(self.folder.name).glob(".k*")), [])
