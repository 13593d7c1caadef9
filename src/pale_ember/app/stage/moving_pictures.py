"""Moving pictures of layers to start from: each a second of it, simulated in a thread and drawn frame by
frame.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence
from queue import SimpleQueue

from PyQt6.QtCore import QObject, QSize, QTimer, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap

from ...drawing import Moment, moment_of
from ...drawing.camera import framed
from ...drawing.environment import Environment, environment_of
from ...drawing.moment import bounds
from ...effect.chapters.stage import Camera
from ...effect.errors import EffectError
from ...files.chosen_pictures import trusted_from
from ...files.library import Start
from ...files.textures import textures_of
from ...newest import Newest
from ...simulation import Simulation
from ...simulation.warm_up import prepare, to_wait_for
from ..widgets import theme
from .stage import Stage

FRAMES, FRAME_MS = 12, 90
# The window is there, and goes on if nobody stays at the shelf, before the first picture is worked at.
PAUSE_MS = 250


# From the thread: how far the compiling is, or a start's key, camera and moments.
Progress = tuple[int, int, str]
Lived = tuple[str, Camera, Environment, list[Moment]]

# Which starts are wanted, and where what is found of them goes.
Wanted = tuple[list[Start], SimpleQueue[Progress | Lived]]


class MovingPictures(QObject):
    """Draws what is shown, and then turns the pictures over."""

    turned = pyqtSignal(int, QIcon)  # the number of what is shown, and its picture now
    preparing = pyqtSignal(int, int, str)  # kernels done, in all, what comes next; nothing when all are ready

    def __init__(self, stage: Stage, size: QSize, parent: QObject) -> None:
        super().__init__(parent)
        self.stage, self.size = stage, size
        self._starts: list[Start] = []
        self._known: dict[str, list[QIcon]] = {}
        self._waiting: deque[tuple[str, Camera, Environment, Moment]] = deque()
        self._found: SimpleQueue[Progress | Lived] = SimpleQueue()
        # It outlives this object now and then, so it knows nothing of it: it fills a queue.
        self._newest: Newest[Wanted] = Newest("pictures", _live)
        self._newest.end_with(self)
        self._frame = 0
        self._work = QTimer(self)
        self._work.timeout.connect(self._draw_next)
        self._motion = QTimer(self)
        self._motion.timeout.connect(self._turn_over)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._begin)

    def show(self, found: Sequence[Start]) -> None:
        """Show pictures of these; those that are known already at once."""
        self._give_up()
        self._starts = list(found)
        self._waiting.clear()
        self._pause.start(PAUSE_MS)

    def _begin(self) -> None:
        wanted = [start for start in self._starts if len(self._known.get(_key(start), ())) < FRAMES]
        for start in wanted:
            self._known.pop(_key(start), None)
        self._found = SimpleQueue()
        self._newest.ask((wanted, self._found))
        self._work.start(2)
        self._motion.start(FRAME_MS)

    def rest(self) -> None:
        """Draw nothing until shown again."""
        self._give_up()
        self._pause.stop()
        self._work.stop()
        self._motion.stop()

    def _give_up(self) -> None:
        """Let the thread give up what it is at."""
        if self._newest.is_working:
            self._newest.ask(([], SimpleQueue()))

    def pictures_of(self, start: Start) -> list[QIcon]:
        """Return the pictures of a start that are drawn so far."""
        return self._known.get(_key(start), [])

    def _draw_next(self) -> None:
        """Draw one more frame of what the thread has found."""
        while not self._found.empty():
            found = self._found.get()
            if isinstance(found[0], int):
                self.preparing.emit(*found)
            else:
                key, camera, environment, moments = found
                self._waiting.extend((key, camera, environment, moment) for moment in moments)
        if not self._waiting or not self.stage.isVisible():
            return
        key, camera, environment, moment = self._waiting.popleft()
        ratio = self.stage.devicePixelRatioF()
        size = (round(self.size.width() * ratio), round(self.size.height() * ratio))
        picture = QPixmap.fromImage(
            self.stage.picture_of(moment, size, camera, environment, use="moving picture")
        )
        picture.setDevicePixelRatio(ratio)
        icons = self._known.setdefault(key, [])
        icons.append(plain_icon(picture))
        number = next((i for i, start in enumerate(self._starts) if _key(start) == key), -1)
        if len(icons) == 1 and number >= 0:
            self.turned.emit(number, icons[0])

    def _turn_over(self) -> None:
        self._frame += 1
        for number, start in enumerate(self._starts):
            icons = self._known.get(_key(start))
            if icons:
                self.turned.emit(number, icons[self._frame % len(icons)])


def _live(asked: Wanted, overtaken: Callable[[], bool]) -> None:
    """Simulate a second of each start; off the interface's thread, as the first start compiles what this
    needs.
    """

    wanted, found = asked

    def told(done: int, total: int, what: str) -> None:
        found.put((done, total, what))

    # Those first that move at once.
    for start in sorted(wanted, key=lambda start: to_wait_for(start.effect)):
        try:
            prepare(told, start.effect)
            sim = Simulation(start.effect, threads=1)
            textures, _ = textures_of(start.effect, trusted_from(start.path.parent))
            begin = 0.05 if start.layer.emit.bursts else 1.5
            sim.seek(begin + 0.5)
            camera, box = start.effect.stage.camera, bounds(moment_of(sim))
            # Weather is seen from inside, all else as a whole.
            if box is not None and not start.layer.birthplace.around_camera:
                camera = framed(camera, *box)
                camera = camera.model_copy(update={"distance": camera.distance * 0.6})
            moments = []
            for frame in range(FRAMES):
                if overtaken():
                    return
                sim.seek(begin + frame / FRAMES)
                moments.append(moment_of(sim, textures=textures))
            found.put((_key(start), camera, environment_of(start.effect.stage, bare=True), moments))
        except EffectError:
            continue  # it can't be simulated; its picture stays dark


def _key(start: Start) -> str:
    return str(start.path)


def plain_icon(picture: QPixmap) -> QIcon:
    """Return an icon that looks the same when it is selected."""
    found = QIcon(picture)
    found.addPixmap(picture, QIcon.Mode.Selected)
    return found


def blank_icon(size: QSize) -> QIcon:
    """Return a dark picture, for what isn't drawn yet."""
    picture = QPixmap(size)
    picture.fill(theme.color(theme.ASH_0))
    return plain_icon(picture)
