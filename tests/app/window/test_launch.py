"""The window as the command line starts it: pictures of it, what it opens first, starts without a display."""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from PyQt6.QtGui import QImage

from pale_ember.app.window.launch import _display_answers, _open_first, display_problem
from pale_ember.effect import save_effect

from ...building import effect_with
from ..case import WindowCase


def started(*words, **more):
    """Start the program by a command line of its own."""
    return subprocess.Popen(
        [sys.executable, "-m", "pale_ember.cli", *words],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env={**os.environ, **more},
    )


def run(*words, **more):
    """Return how the program ends, and what it says on the way."""
    with started(*words, **more) as process:
        out, wrong = process.communicate(timeout=300)
    return process.returncode, out, wrong


class Shots(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file, self.shot = self.folder / "fire.ember", self.folder / "fire.png"
        save_effect(effect_with({"flame": {"emit.rate": 40}, "smoke": {"launch.size": 2}}), self.file)
        self.state = {
            "PALE_EMBER_STATE": str(self.folder / "state"),
            "XDG_CONFIG_HOME": str(self.folder / "config"),
        }

    def test_a_picture_of_the_whole_window_at_a_moment(self):
        words = (
            "open",
            str(self.file),
            "--shot",
            str(self.shot),
            "--size",
            "1100x700",
            "--at",
            "1.5",
            "--select",
            "smoke",
        )
        status, _, wrong = run(*words, **self.state)
        self.assertEqual((status, wrong), (0, ""))
        image = QImage(str(self.shot))
        self.assertEqual((image.width(), image.height()), (1100, 700))
        colors = {image.pixel(x, y) for x in range(0, 1100, 7) for y in range(0, 700, 7)}
        self.assertGreater(len(colors), 200, "the window is empty")

    def test_where_there_is_no_display_a_picture_is_taken_and_a_window_refused(self):
        away = {"DISPLAY": "", "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
        status, _, wrong = run(
            "demo", "quench", "--shot", str(self.shot), "--at", "0.2", **self.state, **away
        )
        self.assertEqual(status, 0, wrong)
        self.assertEqual(QImage(str(self.shot)).width(), 1280)
        status, _, wrong = run("demo", "quench", **self.state, **away)
        self.assertEqual(status, 1)
        self.assertIn("there is no display here. Take a picture with --shot FILE.png", wrong)

    def test_what_is_wrong_is_one_sentence(self):
        bad = self.folder / "bad.ember"
        bad.write_text("nothing")
        for words, said in (
            (("demo", "none", "--shot", str(self.shot)), "none"),
            (("open", str(bad), "--shot", str(self.shot)), "not whole JSON"),
            (("open", str(self.file), "--shot", str(self.file), "--at", "0"), "the file that is read"),
            (
                ("open", str(self.file), "--shot", str(self.folder / "no" / "a.png"), "--at", "0"),
                "can't be written",
            ),
        ):
            status, _, wrong = run(*words, **self.state)
            self.assertEqual(status != 0, True, words)
            self.assertIn(said, wrong)
            self.assertNotIn("Traceback", wrong)
        self.assertFalse(self.shot.exists())

    def test_a_window_that_is_ended_by_a_signal_keeps_its_work(self):
        with started("open", str(self.file), **self.state) as process:
            time.sleep(4.0)
            process.send_signal(signal.SIGTERM)
            _, wrong = process.communicate(timeout=60)
        self.assertEqual(process.returncode, 128 + signal.SIGTERM, wrong)


class Displays(unittest.TestCase):
    def problem(self, shot=False, **named):
        plain = {"DISPLAY": "", "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
        with mock.patch.dict(os.environ, plain | named):
            found = display_problem(shot)
            return found, os.environ["QT_QPA_PLATFORM"]

    def test_a_display_is_needed_for_a_window_and_not_for_a_picture(self):
        own = os.environ.get("DISPLAY", "")
        self.assertEqual(self.problem(DISPLAY=own), ("", ""))
        self.assertEqual(self.problem(WAYLAND_DISPLAY="wayland-0"), ("", ""))
        self.assertEqual(self.problem(QT_QPA_PLATFORM="offscreen"), ("", "offscreen"))
        for platform in ("", "xcb", "wayland"):
            found, _ = self.problem(QT_QPA_PLATFORM=platform)
            self.assertTrue(found.startswith("there is no display here. "), found)
            self.assertEqual(self.problem(True, QT_QPA_PLATFORM=platform), ("", "offscreen"))
        found, _ = self.problem(DISPLAY=":6543")
        self.assertTrue(found.startswith("the display :6543 doesn't answer. "), found)

    def test_a_display_answers_by_its_number(self):
        own = os.environ.get("DISPLAY", "")
        number = own.rpartition(":")[2].partition(".")[0]
        for display in (own, f":{number}.0", f"unix:{number}", "elsewhere:7"):
            self.assertTrue(_display_answers(display), display)
        for display in ("", ":", ":x", ":6543", "word"):
            self.assertFalse(_display_answers(display), display)
        with socket.socket(socket.AF_UNIX) as line:
            line.bind("\0/tmp/.X11-unix/X6544")
            line.listen()
            self.assertTrue(_display_answers(":6544"))


class First(WindowCase):
    def test_what_is_opened_selected_and_looked_at_first(self):
        window, session, said = self.window, self.window.session, []
        session.said.connect(said.append)
        file = Path(self.folder.name, "fire.ember")
        save_effect(effect_with({"flame": {}, "smoke": {}}), file)
        _open_first(window, str(file), None, 1.25, "smoke")
        self.assertEqual(session.effect.layer(session.selected).name, "smoke")
        self.assertEqual((session.playing, session.time), (False, 1.25))
        self.assertEqual(session.document.path, file)
        _open_first(window, None, None, None, "none")
        self.assertIn("no layer has this name", said[-1])
        before = session.effect
        new = file.with_name("new.ember")
        _open_first(window, str(new), None, None, None)
        self.assertEqual((session.effect, session.document.path), (before, new))
        self.assertEqual(said[-1], "new.ember doesn't exist yet; saving will make it.")
        _open_first(window, str(file.with_name("none.png")), None, None, None)
        self.assertIn("none.png", said[-1])
