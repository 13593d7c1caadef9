"""Starting the window: theme, kernels with progress, the file, a picture on demand."""

from __future__ import annotations

import os
import signal
import socket
import sys
import time
import traceback
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QObject, QSettings, Qt, QTimer
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QApplication

from ...demo import demo as demo_effect
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.storing.storage import load_effect
from ...effect.storing.whole_files import write_whole
from ..session.document import Document
from ..stage.images import png_of
from .application import new_application
from .main_window import MainWindow
from .preferences import scale_factor

SHOT_SECONDS = 20.0
FIRST_SECONDS = 300.0


_windows: list[MainWindow] = []


def _unexpected(kind: type[BaseException], wrong: BaseException, trace: TracebackType | None) -> None:
    """Keep the window alive through a mistake of ours: print it, keep the work, say so."""
    traceback.print_exception(kind, wrong, trace)
    for window in _windows:
        window.files.keep()
        window.session.said.emit(
            f"Something went wrong inside Pale Ember ({kind.__name__}). Your work was autosaved."
        )


def launch(
    file: str | None = None,
    demo: str = "",
    shot: str | None = None,
    size: tuple[int, int] = (1280, 800),
    at: float | None = None,
    select: str | None = None,
    until: str = "",
) -> int:
    """Open the window, run until it is closed, and end the process; return the exit status where no
    window opens.
    """
    problem = display_problem(bool(shot))
    if problem:
        print(f"pale-ember: {problem}", file=sys.stderr)
        return 1
    QApplication.setAttribute(Qt.ApplicationAttribute.AA_ShareOpenGLContexts)
    factor = scale_factor(QSettings("pale-ember", "pale-ember"))
    if factor and not shot:
        os.environ.setdefault("QT_SCALE_FACTOR", factor)
    app = new_application()
    sys.excepthook = _unexpected
    try:
        effect = demo_effect(demo) if demo else load_effect(file) if file and shot else Effect()
    except EffectError as wrong:
        print(f"pale-ember: {wrong}", file=sys.stderr)
        return 1
    window = MainWindow(effect)
    _windows.append(window)
    window.resize(*size)
    _open_first(window, file, shot, at, select)
    window.show()
    window.arrange()
    if shot is None and not until:
        window.restore_layout()
        if window.notice.left is None:
            window.files.offer()
    status = [0]
    _end_on_signals(app, window, status)
    if until:
        window.stage.drawn.connect(lambda: _leave_when_seen(window, until))
    elif shot is not None:
        _Shot(app, window, Path(shot), at, status).inputs = (file,) if file else ()
    result = app.exec()
    window.files.settings.sync()
    sys.stdout.flush()
    sys.stderr.flush()
    # All that is to be kept is on disk. Taken down at the interpreter's end, Qt's and the driver's objects go
    # in no order, and now and then one asks another that is gone.
    os._exit(status[0] or result)


def display_problem(for_picture: bool = False) -> str:
    """Return, in a sentence, why no window can be opened here; empty if one can.

    For a picture alone no display is needed: where there is none, Qt draws without.
    """
    if os.environ.get("QT_QPA_PLATFORM", "") not in ("", "xcb", "wayland"):
        return ""
    if os.environ.get("WAYLAND_DISPLAY") or _display_answers(os.environ.get("DISPLAY", "")):
        return ""
    if for_picture:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        os.environ.setdefault("QT_LOGGING_RULES", "qt.qpa.*=false")
        return ""
    named = (
        f"the display {os.environ['DISPLAY']} doesn't answer"
        if os.environ.get("DISPLAY")
        else "there is no display here"
    )
    return f"{named}. Take a picture with --shot FILE.png, or put xvfb-run before the command."


def _display_answers(display: str) -> bool:
    """Return whether an X server answers; one on another machine is taken at its word."""
    host, _, number = display.rpartition(":")
    number = number.partition(".")[0]
    if not display or not number.isdigit():
        return False
    if host not in ("", "unix"):
        return True
    for address in (f"\0/tmp/.X11-unix/X{number}", f"/tmp/.X11-unix/X{number}"):
        with socket.socket(socket.AF_UNIX) as line:
            try:
                line.connect(address)
                return True
            except OSError:
                continue
    return False


def _end_on_signals(app: QApplication, window: MainWindow, status: list[int]) -> None:
    """Let Ctrl+C and SIGTERM end the window with its work kept; the session's timer lets Python hear of
    them.
    """

    def end(number: int, frame: object) -> None:
        status[0] = 128 + number
        window.shut(keep_work=True)
        # Not quit, which would ask each window first.
        app.exit(status[0])

    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, end)
    # The session's own timer stops when the window is shut.
    heart = QTimer(app)
    heart.timeout.connect(lambda: None)
    heart.start(200)


def _leave_when_seen(window: MainWindow, until: str) -> None:
    if until == "frame" or window.stage.seen().alive:
        print("seen", flush=True)
        # A measurement needs no more; don't wait for threads and drivers.
        os._exit(0)


def _open_first(
    window: MainWindow, file: str | None, shot: str | None, at: float | None, select: str | None
) -> None:
    """Show the file that the command line names, at a time and with a layer selected."""
    session = window.session
    if file and shot:
        session.document = Document(session.effect, Path(file))
    elif file:
        path = Path(file)
        if path.exists() or path.suffix != ".ember":
            window.files.load(path)
        else:
            session.said.emit(f"{path.name} doesn't exist yet; saving will make it.")
            session.document.path = path.absolute()
    if select:
        try:
            session.select(session.effect.layer(select).id)
        except EffectError as wrong:
            session.said.emit(str(wrong))
    if at is not None:
        session.playing = False
        session.seek(at)


def _leave(app: QApplication, window: MainWindow) -> None:
    window.shut()
    app.exit(0)


class _Shot(QObject):
    """Waits until the wished moment is on the stage, takes a picture of the whole window, and ends."""

    def __init__(
        self, app: QApplication, window: MainWindow, path: Path, at: float | None, status: list[int]
    ) -> None:
        super().__init__(window)
        self.app, self.window, self.path, self.at, self.status = app, window, path, at, status
        self.inputs: tuple[str, ...] = ()
        self.since = time.monotonic()
        self.ready = 0.0
        self.timer = QTimer(self)
        self.timer.timeout.connect(self._look)
        self.timer.start(60)

    def _look(self) -> None:
        """Take the picture as soon as the moment is there."""
        session = self.window.session
        late = time.monotonic() - self.since
        if (session.moment_number == 0 or session.textures.busy) and late < FIRST_SECONDS:
            # The first start compiles, and makes textures; what follows is timed from its end.
            self.ready = late
            return
        late -= self.ready
        there = session.moment_number == session.asked_number
        if self.at is None:
            # Let it run for a moment, as an artist would first see it.
            there = late > 2.5
        if (there and late > 1.0) or late > SHOT_SECONDS:
            self.timer.stop()
            self._take()

    def _take(self) -> None:
        window = self.window
        window.session.playing = False
        try:
            write_whole(self.path, png_of(window_picture(window)), self.inputs)
        except EffectError as wrong:
            print(f"pale-ember: {wrong}", file=sys.stderr)
            self.status[0] = 1
        _leave(self.app, window)


def window_picture(window: MainWindow) -> QPixmap:
    """Return a picture of the whole window, the stage's own picture included."""
    window.stage.repaint()
    return window.grab()
