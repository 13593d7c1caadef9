"""The filmstrip: one particle from birth to death, as it will look, over the lanes' axis."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ...drawing.filmstrip import fitting_scale
from ...effect.chapters.look import texture_names
from ...effect.effect import Layer
from ...effect.errors import EffectError
from ...simulation.births.schedule import Birth
from ...simulation.layout import dependence
from ...simulation.layout.payload_columns import PLACE
from ...simulation.time.biography import Biography, Single
from ..stage.films import film_of
from ..stage.stage import Stage
from ..widgets import theme
from ..widgets.along_axis import HEAD, RIGHT, AlongAxis
from ..widgets.arithmetic import shown
from .host import Host

FEWEST, MOST = 12, 24
# About how wide a frame is, how high it is, and how high each of three rows is, pixels: small, and with more
# room.
SMALL, LARGE = (38, 48, 36), (54, 72, 50)
# A strip of this height has room for the larger ones.
ROOMY = 360
# Of the highest opacity in a strip, what counts as seen.
FAINT = 0.08
# Births of a follow-up, of which the nearest to what is looked at is shown.
LOOKED_AT = 200
SHARES = (0.0, 0.5, 1.0)
ROWS = ("low", "middle", "high")


class Film(QWidget, AlongAxis):
    """Pictures at equal ages. A throw of the dice shows another particle; or low, middle and high
    together.
    """

    def __init__(self, strip: Host, stage: Stage) -> None:
        super().__init__()
        self.strip, self.session, self.stage = strip, strip.session, stage
        self.throw = 0
        self.three = False
        self.images: list[QImage] = []
        self.single: Single | None = None
        self.life: Biography | None = None
        self.scale = 0.0
        self._single_of: tuple[Any, ...] = ()
        self._births: dict[int, Birth | None] = {}
        self._life_of: tuple[Any, ...] = ()
        self._drawn: tuple[Any, ...] = ()
        self.layer: Layer | None = None
        self.words = ""
        self.setMouseTracking(True)
        self.setAccessibleName("Filmstrip")
        self.setToolTip(
            "One particle at equal ages, at its true relative size. D throws the dice for another one."
        )
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.draw)
        self.set_three(False)

    def set_three(self, three: bool) -> None:
        """Show low, middle and high of all that is drawn, or one particle."""
        self.three = three
        self.fit()
        self.refresh()

    def fit(self) -> None:
        """Take the height that the strip has room for."""
        _, high, each = self.sizes
        wanted = 3 * each + 4 if self.three else high + 4
        if self.height() != wanted:
            self.setFixedHeight(wanted)

    @property
    def sizes(self) -> tuple[int, int, int]:
        """Return a frame's width, its height, and the height of each of three rows, about."""
        return LARGE if self.strip.height() >= ROOMY else SMALL

    def roll(self) -> None:
        """Show another particle."""
        self.session.pick(None)
        self.throw += 1
        self.refresh()

    @property
    def lifetime(self) -> float | None:
        """Return the lifetime of the particle in view, s."""
        return None if self.life is None or self.three else self.life.lifetime

    @property
    def wide(self) -> float:
        """Return the width of all frames together, which is that of the lanes' plots."""
        return float(max(self.width() - HEAD - RIGHT - self.strip.bar_room, 10))

    @property
    def plot(self) -> QRectF:
        return QRectF(HEAD, 2, self.wide, self.height() - 4)

    @property
    def count(self) -> int:
        """Return how many frames fit."""
        return min(max(int(self.wide) // self.sizes[0], FEWEST), MOST)

    def refresh(self) -> None:
        """Draw anew as soon as the window has time, if something is another; at once while a key is
        dragged.
        """
        if self.session.hasty:
            # Meanwhile the simulation's thread is at work on the same edit.
            self.draw()
        elif not self._timer.isActive():
            self._timer.start(0)

    def draw(self) -> None:
        """Draw all frames, unless they are what they should be already."""
        layer, session = self.session.layer, self.session
        # The first start compiles what this needs, in the simulation's thread.
        if not self.isVisible() or session.moment_number == 0:
            return
        if session.waits_for_mesh:
            self.images, self.words = [], "Reading the mesh …"
            self._drawn = ()
            self.update()
            return
        frame, effect = self._frame_size(), session.effect
        flight = look = None
        if layer is not None:
            flight = dependence.motion(effect, layer)
            ready = session.textures.state.ready
            worn = tuple(id(ready.get(name)) for name in texture_names(layer.look))
            look = (
                dependence.appearance(effect, layer),
                dependence.drawing(effect, layer),
                worn,
                session.environment(bare=True),
            )
        key = (flight, look, session.picked, self.throw, self.three, frame, self.count, session.camera)
        if key == self._drawn and self.images:
            self.layer = layer
            return
        self._drawn, self.layer = key, layer
        self.images, self.words = [], ""
        if layer is None:
            self.life = None
        else:
            try:
                self._live(layer, flight)
                self._draw_frames(layer, frame)
            except EffectError as wrong:
                self.life, self.words = None, wrong.reason
        self.update()
        if not session.hasty:
            self.strip.touch_axis()

    def _frame_size(self) -> tuple[int, int]:
        """Return a frame's size in pixels of the screen, even numbers."""
        ratio = self.devicePixelRatioF()
        wide = self.wide / self.count * ratio
        high = self.sizes[2 if self.three else 1] * ratio
        return max(2 * round(wide / 2), 8), max(2 * round(high / 2), 8)

    def _live(self, layer: Layer, flight: Any) -> None:
        """Let the particle live its life, unless it is known already; ``flight`` is what that depends on."""
        session = self.session
        if self.single is None or flight != self._single_of:
            self.single, self._single_of, self._births = Single(session.effect, layer), flight, {}
        else:
            self.single.set_appearance(layer)
        picked = session.picked
        if picked is None and self.throw not in self._births:
            self._births[self.throw] = self._thrown()
        birth = picked.birth if picked is not None else self._births[self.throw]
        if birth is None:
            nothing = "Nothing is born in this layer. Raise its rate, or add a burst."
            if layer.origin.parent:
                nothing = "Nothing has started these yet: Follow-ups says what does."
            self.life, self.words = None, nothing
            return
        life_of = (self.single, birth)
        if self.life is None or life_of != self._life_of:
            self.life, self._life_of = self.single.life(birth), life_of
        places = self.life.places
        if session.show_event(
            layer.id, self.life.birth.payload, float(np.linalg.norm(places - places[0], axis=1).max())
        ):
            self.stage.update()

    def _thrown(self) -> Birth | None:
        """Return the birth of the particle that is shown for a throw; of a follow-up one that is near
        what is looked at.
        """
        assert self.single is not None
        target = np.array(self.session.camera.target)

        def far(birth: Birth) -> float:
            return (
                float(np.linalg.norm(np.array(birth.payload[PLACE : PLACE + 3]) - target))
                if birth.payload
                else 0.0
            )

        return min(self.single.beside(self.throw * 7, LOOKED_AT), key=far, default=None)

    def _draw_frames(self, layer: Layer, frame: tuple[int, int]) -> None:
        """Draw the particle at the ages of all frames."""
        if self.life is None or self.single is None:
            return
        ages = (np.arange(self.count) + 0.5) / self.count
        shares = SHARES if self.three else (None,)
        rows = [self.single.instances(self.life, ages, share) for share in shares]
        every = np.concatenate(rows)
        # Frames that can hardly be seen get no room: smoke is largest when it has faded.
        seen = every["opacity"]
        scale = fitting_scale(every[seen >= FAINT * seen.max()], *frame, layer.look, self.session.camera)
        # A scale that follows every small change would hide the change itself.
        held = self.strip.selection.dragging and self.scale > 0.0 and 0.5 < self.scale / scale < 2.0
        self.scale = self.scale if held else scale
        self.images = film_of(self.stage, rows, self.scale, frame, layer, self.session.hasty)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() >= HEAD:
            self.session.pin_cursor(self.share_of(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() < HEAD:
            return
        share = self.share_of(event.position().x())
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.session.pin_cursor(share)
        else:
            self.session.point_at(share)

    def leaveEvent(self, event: Any) -> None:
        self.session.point_at(None)

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        plot, each = self.plot, self.sizes[2 if self.three else 1]
        painter.setFont(theme.font(11))
        for row, image in enumerate(self.images):
            top = plot.top() + row * each
            painter.drawImage(QRectF(plot.left(), top, plot.width(), each), image)
            if self.three:
                painter.setPen(theme.color(theme.DIM))
                painter.drawText(QRectF(18, top, HEAD - 24, each), Qt.AlignmentFlag.AlignVCenter, ROWS[row])
        painter.setPen(QPen(theme.color(theme.ASH_1), 1))
        for i in range(1, self.count):
            x = round(self.x_of(i / self.count)) + 0.5
            painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
        if self.images and not self.three:
            self._paint_who(painter)
        elif not self.images:
            painter.setPen(theme.color(theme.DIM))
            painter.drawText(self.rect().adjusted(12, 0, -12, 0), Qt.AlignmentFlag.AlignVCenter, self.words)
        painter.setPen(QPen(theme.color(theme.EMBER, 220 if self.session.cursor_shown else 70), 1.0))
        x = self.x_of(self.session.cursor)
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.end()

    def _paint_who(self, painter: QPainter) -> None:
        """Say whose life it is, and how large it gets."""
        if self.life is None:
            return
        picked = self.session.picked is not None
        painter.setPen(theme.color(theme.EMBER if picked else theme.TEXT))
        painter.drawText(
            QRectF(18, 4, HEAD - 20, 14), Qt.AlignmentFlag.AlignLeft, "Following" if picked else "Particle"
        )
        painter.setPen(theme.color(theme.DIM))
        lines = (f"born at {abs(self.life.born):.2f} s", f"lives {shown(self.life.lifetime, 2, 2)} s")
        for i, words in enumerate(lines):
            painter.drawText(QRectF(18, 18 + 14 * i, HEAD - 20, 14), Qt.AlignmentFlag.AlignLeft, words)
