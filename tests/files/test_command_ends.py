"""How commands end: by a sentence and a status, whatever stops them."""

import os
import signal
import subprocess
import sys
import time

from PIL import Image

from pale_ember.effect import save_effect
from pale_ember.files import autosave

from ..building import single
from .folder_case import FolderCase
from .stopping import HEEDING, heeded


class CommandTest(FolderCase):
    def run_line(self, *words, **how):
        command = [sys.executable, "-m", "pale_ember.cli", *map(str, words)]
        return subprocess.run(command, capture_output=True, text=True, timeout=240, check=False, **how)

    def test_findings_outputs_and_odd_names(self):
        file = self.folder / "a.ember"
        effect = single(
            {
                "birthplace.kind": "mesh",
                "birthplace.mesh": str(self.folder / "none.obj"),
                "name": "\x1b[31mred",
            }
        )
        save_effect(effect, file)
        for words in (
            ("check", file),
            ("stats", file),
            ("render", file, "--size", "40x30", "-o", self.folder / "a.png"),
        ):
            done = self.run_line(*words)
            self.assertEqual(done.returncode, 1, words)
            self.assertIn("none.obj", done.stdout + done.stderr)
            self.assertNotIn("\x1b", done.stdout + done.stderr)
        before = file.read_bytes()
        done = self.run_line("render", file, "-o", file)
        self.assertEqual((done.returncode, file.read_bytes()), (1, before))
        with open("/dev/full", "w") as full:
            done = subprocess.run(
                [sys.executable, "-m", "pale_ember.cli", "schema"],
                stdout=full,
                stderr=-1,
                text=True,
                check=False,
            )
        self.assertEqual(done.returncode, 1)
        self.assertEqual(len(done.stderr.splitlines()), 1)
        done = subprocess.run(
            f"{sys.executable} -m pale_ember.cli schema | head -c 5",
            shell=True,
            capture_output=True,
            check=False,
        )
        self.assertEqual(done.stderr, b"")
        done = self.run_line("stats", file, env={**os.environ, "PYTHONIOENCODING": "ascii"})
        self.assertNotIn("Traceback", done.stderr)

    def test_a_stop_that_comes_while_an_object_ends_is_not_lost(self):
        code = (
            "import os, signal, sys, time\n"
            "from pale_ember.cli import command_line as cli\n"
            "cli._speak_safely()\n"
            "class Ends:\n"
            "    def __del__(self):\n"
            "        os.kill(os.getpid(), int(sys.argv[1]))\n"
            "        for _ in range(1000): pass\n"
            "try:\n"
            "    Ends()\n"
            "    time.sleep(30)\n"
            "    print('went on')\n"
            "except BaseException as stopped:\n"
            "    print(type(stopped).__name__)\n"
        )
        for number, name in ((signal.SIGTERM, "Terminated"), (signal.SIGINT, "Interrupted")):
            line = ["env", "--default-signal=INT", sys.executable, "-c", code, str(int(number))]
            done = subprocess.run(line, capture_output=True, text=True, check=False, timeout=120)
            self.assertEqual((done.stdout.strip(), done.stderr), (name, ""))

    def test_nothing_is_raised_in_the_midst_of_the_compiler(self):
        code = (
            "import os, signal, sys, time\n"
            "from pale_ember import early_stop\n"
            "from pale_ember.cli import command_line\n"
            "command_line._speak_safely()\n"
            "signal.signal(signal.SIGINT, early_stop._raise)\n"
            "inside = {'__name__': 'llvmlite.binding.module', 'os': os, 'time': time, 'done': []}\n"
            "exec('def make(number, seconds):\\n'\n"
            "     '    os.kill(os.getpid(), number)\\n'\n"
            "     '    end = time.monotonic() + seconds\\n'\n"
            "     '    while time.monotonic() < end: pass\\n'\n"
            "     '    done.append(1)\\n', inside)\n"
            "try:\n"
            "    inside['make'](int(sys.argv[1]), float(sys.argv[2]))\n"
            "    time.sleep(30)\n"
            "    print('went on')\n"
            "except BaseException as stopped:\n"
            "    print(type(stopped).__name__, inside['done'])\n"
        )
        for number, name in ((signal.SIGTERM, "Terminated"), (signal.SIGINT, "Interrupted")):
            line = [*HEEDING, sys.executable, "-c", code, str(int(number))]
            how = {"capture_output": True, "text": True, "timeout": 120}
            done = subprocess.run([*line, "0.3"], check=False, **how)
            self.assertEqual((done.stdout.strip(), done.stderr), (f"{name} [1]", ""))
            # But nobody waits for it for ever.
            done = subprocess.run([*line, "300"], check=False, **how)
            self.assertEqual((done.returncode, done.stderr), (128 + number, "pale-ember: stopped.\n"))

    def test_a_stop_while_the_line_is_read_is_a_sentence(self):
        code = (
            "import os, signal\n"
            "from pale_ember.cli import command_line as cli\n"
            "whole = cli.parser\n"
            "def stopped():\n"
            "    os.kill(os.getpid(), signal.SIGTERM)\n"
            "    return whole()\n"
            "cli.parser = stopped\n"
            "raise SystemExit(cli.run(['schema']))\n"
        )
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=False, timeout=120
        )
        self.assertEqual(
            (done.returncode, done.stderr, done.stdout), (128 + signal.SIGTERM, "pale-ember: stopped.\n", "")
        )

    def test_commands_end_by_a_sentence(self):
        save_effect(single({"emit.rate": 100}), self.folder / "a.ember")
        for number, status in ((signal.SIGINT, 130), (signal.SIGTERM, 143)):
            command = [
                *HEEDING,
                sys.executable,
                "-m",
                "pale_ember.cli",
                "stats",
                str(self.folder / "a.ember"),
                "--until",
                "36000",
            ]
            pipe = subprocess.PIPE
            with subprocess.Popen(command, stderr=pipe, stdout=subprocess.DEVNULL, text=True) as process:
                self.addCleanup(process.kill)
                heeded(process.pid, number)
                time.sleep(2.0)
                process.send_signal(number)
                try:
                    said = process.communicate(timeout=120)[1]
                except subprocess.TimeoutExpired:
                    process.kill()
                    raise
            self.assertEqual((process.returncode, said), (status, "pale-ember: stopped.\n"))

    def test_a_stop_inside_of_code_from_a_string_ends_by_a_sentence_too(self):
        (self.folder / "stopped_inside.py").write_text(
            "import sys; sys.argv = ['pale-ember', 'stats', 'a.ember']\n"
            "from pale_ember.cli import command_line, main\n"
            "line = 'import os, signal, time; os.kill(os.getpid(), signal.SIGINT); time.sleep(60)'\n"
            "stats = command_line.COMMANDS['stats']._replace(run=lambda chosen: exec(line))\n"
            "command_line.COMMANDS['stats'] = stats\n"
            "sys.exit(main())\n"
        )
        paths = os.pathsep.join([str(self.folder), *sys.path])
        command = [*HEEDING, sys.executable, "-m", "stopped_inside"]
        done = subprocess.run(
            command, capture_output=True, text=True, check=False, env={**os.environ, "PYTHONPATH": paths}
        )
        self.assertEqual((done.returncode, done.stderr), (130, "pale-ember: stopped.\n"))

    def test_without_a_display_the_window_says_so_and_a_picture_needs_none(self):
        bare = {
            k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        }
        for env in (bare, {**bare, "DISPLAY": ":987"}):
            for words in (("demo",), ("open",)):
                done = self.run_line(*words, env=env)
                self.assertEqual((done.returncode, len(done.stderr.splitlines())), (1, 1))
                self.assertIn("xvfb-run", done.stderr)
        shot = self.folder / "shot.png"
        done = self.run_line("demo", "--at", "0.5", "--size", "1280x800", "--shot", shot, env=bare)
        self.assertEqual(done.returncode, 0, done.stderr)
        with Image.open(shot) as image:
            self.assertEqual(image.size, (1280, 800))

    def test_a_window_that_is_stopped_keeps_its_work(self):
        file = self.folder / "x.ember"
        save_effect(single(), file)
        code = (
            "import sys; from PyQt6.QtCore import QTimer; from pale_ember.app.window import launch, "
            "main_window\n"
            "shown = main_window.MainWindow.arrange\n"
            "def arrange(self):\n"
            "    shown(self); self.session.edit('name', 'Kept', 'Rename'); print('up', flush=True)\n"
            "main_window.MainWindow.arrange = arrange\n"
            "sys.exit(launch.launch(sys.argv[1]))\n"
        )
        for number, status in ((signal.SIGINT, 130), (signal.SIGTERM, 143)):
            env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
            command = [*HEEDING, sys.executable, "-c", code.replace("sys.argv[1]", repr(str(file))), "pale"]
            with subprocess.Popen(
                command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=env
            ) as process:
                self.assertEqual(process.stdout.readline(), "up\n")
                time.sleep(1.5)
                process.send_signal(number)
                self.assertEqual(process.wait(timeout=120), status)
            left = autosave.leftover_of(file)
            self.assertEqual(left.effect().name, "Kept")
            left.discard()
            for note in autosave.state_folder().glob("open-*.json"):
                note.unlink()
