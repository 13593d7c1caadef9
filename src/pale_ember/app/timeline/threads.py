"""Threads between lanes: which layer follows which event of which, and how many that makes; painting and
dragging them.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from ...checks.links import LinkTrouble
from ...effect.editing.chains import follow_ups, parent_of
from ...effect.effect import Layer
from ...effect.kinds import When
from ...simulation.time.population import BORN
from ..widgets import theme
from ..widgets.icons import paint
from .geometry import PORTS, Geometry
from .rows import Row

EVENT_WORDS = {When.BIRTH: "birth", When.ALIVE: "flight", When.HIT: "hit", When.DEATH: "death"}
# A drag begins behind so many pixels.
FROM = 4.0


def rate_words(rate: float | None) -> str:
    """Return a number a second in a few letters."""
    if rate is None:
        return ""
    return f"{rate:,.0f}/s" if rate >= 9.5 or rate == 0.0 else f"{rate:.1f}/s"


class ThreadPaint:
    """Paints ports, threads and what they say."""

    def __init__(self, places: Geometry) -> None:
        self.places, self.session = places, places.session
        self.lit: tuple[str, When | None] = ("", None)

    def ports(self, painter: QPainter, row: Row, layer: Layer, chosen: bool) -> None:
        """Paint a lane's four ports; those that something hangs on in ember."""
        used = {child.origin.when for child in follow_ups(self.session.effect, layer.id)}
        for when in PORTS:
            box, lit = self.places.port_box(row, when), self.lit == (layer.id, when)
            tone = theme.EMBER if when in used else theme.BRIGHT if lit else theme.DIM
            if lit:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color(theme.ASH_4))
                painter.drawRoundedRect(box.adjusted(-1.5, -1.5, 1.5, 1.5), 3, 3)
            paint(
                painter, f"port-{when}", box, theme.color(tone, 255 if lit or chosen or when in used else 150)
            )

    def thread(self, painter: QPainter, row: Row, layer: Layer) -> None:
        """Paint the thread that a follow-up hangs on: from its parent's port down to its picture."""
        parent = parent_of(self.session.effect, layer)
        above = self.places.row_of_layer(parent.id) if parent is not None else None
        trouble = self.session.links.trouble_of(layer)
        tone = theme.color(theme.WARN if trouble is not None else theme.EMBER, 200)
        picture = self.places.picture_box(row)
        end = QPointF(picture.left() - 2, picture.center().y())
        if above is None or above.is_group:
            painter.setPen(QPen(tone, 1.2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(end.x() - 7, end.y()), end)
            return
        x = self.places.picture_box(above).left() + 3
        y = above.top + above.height - 3.0 if above.top < row.top else float(above.top + 3)
        path = QPainterPath(QPointF(x, y))
        path.lineTo(x, end.y() - (4 if above.top < row.top else -4))
        path.quadTo(QPointF(x, end.y()), QPointF(min(x + 4, end.x()), end.y()))
        path.lineTo(end)
        painter.setPen(QPen(tone, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)

    def words(self, painter: QPainter, row: Row, layer: Layer) -> bool:
        """Say which event starts a follow-up and how many that makes, or why none; return whether it took
        the whole lane.
        """
        box, trouble = self.places.thread_box(row), self.session.links.trouble_of(layer)
        painter.setFont(theme.font(11))
        if trouble is not None:
            self._trouble(painter, row, trouble)
            return True
        words = rate_words(self.session.moment.each_second(layer.id, BORN))
        lit = self.lit == (layer.id, None)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.ASH_4 if lit else theme.ASH_1, 230))
        painter.drawRoundedRect(
            box.adjusted(0, 0, -74 + 24 + painter.fontMetrics().horizontalAdvance(words), 0), 3, 3
        )
        paint(
            painter,
            f"port-{layer.origin.when}",
            QRectF(box.left() + 3, box.top() + 2.5, 12, 12),
            theme.color(theme.EMBER),
        )
        painter.setPen(theme.color(theme.TEXT))
        painter.drawText(box.adjusted(19, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
        return False

    def _trouble(self, painter: QPainter, row: Row, trouble: LinkTrouble) -> None:
        """Draw what is wrong with a link, with the button that mends it."""
        mend = trouble.mend
        whole, button = self.places.thread_box(row), self.places.mend_box(row)
        right = button.left() - 4 if mend else self.places.width - 16
        box = QRectF(whole.left(), whole.top(), right - whole.left(), whole.height())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.ASH_0, 240))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.color(theme.WARN))
        # The whole sentence where there is room for it.
        whole_words, room = trouble.reason[:1].upper() + trouble.reason[1:], int(box.width() - 10)
        words = (
            whole_words
            if painter.fontMetrics().horizontalAdvance(whole_words) <= room
            else trouble.short[:1].upper() + trouble.short[1:]
        )
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room)
        painter.drawText(box.adjusted(5, 0, -5, 0), Qt.AlignmentFlag.AlignVCenter, words)
        if mend:
            painter.setPen(QPen(theme.color(theme.EMBER, 200)))
            painter.setBrush(theme.color(theme.ASH_2))
            painter.drawRoundedRect(button.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
            painter.setPen(theme.color(theme.EMBER))
            painter.drawText(button, Qt.AlignmentFlag.AlignCenter, "Mend")


class LinkDrag:
    """A thread that is drawn from a port, or an old one that is taken elsewhere.

    Parameters
    ----------
    source : str
        The layer whose event it is; empty for a thread that hung on a layer that is gone.
    child : str
        The follow-up whose thread is taken elsewhere; empty for a new thread.
    """

    def __init__(self, places: Geometry, source: str, when: When, start: QPointF, child: str = "") -> None:
        self.places, self.session = places, places.session
        self.source, self.when, self.child = source, when, child
        self.start = self.at = start
        self.moved = False

    def move(self, at: QPointF) -> None:
        self.at = at
        self.moved = self.moved or (at - self.start).manhattanLength() > FROM

    @property
    def target(self) -> Row | None:
        """Return the lane under the mouse."""
        inside = 0 <= self.at.x() < self.places.width
        row = self.places.row_at(self.at.y()) if inside else None
        return None if row is None or row.is_group else row

    @property
    def target_id(self) -> str:
        row = self.target
        return self.session.effect.layers[row.first].id if row is not None else ""

    def said(self) -> str:
        """Return what letting go would do."""
        effect, target = self.session.effect, self.target_id
        if self.child:
            if not target:
                return "Cut the thread"
            return "" if target in (self.child, self.source) else f"Follow {effect.layer(target).name}"
        if not target:
            return (
                f"A new layer at each {EVENT_WORDS[self.when]}"
                if self.when != When.ALIVE
                else "A new layer along the flight"
            )
        return "" if target == self.source else f"{effect.layer(target).name} follows"

    def drop(self, copies: bool) -> None:
        """Link, move, copy or cut; on empty space a new layer follows."""
        target = self.target_id
        if self.child:
            if not target:
                self.session.links.cut_link(self.child)
            elif target not in (self.child, self.source):
                spot = self.places.spot_at(self.at)
                when = spot.when if spot.part == "port" else None
                if copies:
                    self.session.links.copy_link(self.child, target, when)
                else:
                    self.session.links.link(self.child, target, when)
        elif not target:
            self.session.links.add_follow_up(self.when, self.source)
        elif target != self.source:
            self.session.links.link(target, self.source, self.when)

    def paint(self, painter: QPainter) -> None:
        """Paint the thread on its way, and what it would do."""
        row = self.target
        if row is not None and self.said():
            painter.setPen(QPen(theme.color(theme.EMBER), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(1, row.top + 1, self.places.width - 2, row.height - 2), 3, 3)
        path = QPainterPath(self.start)
        path.cubicTo(self.start + QPointF(0, 24), self.at - QPointF(0, 24), self.at)
        painter.setPen(QPen(theme.color(theme.EMBER), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        words = self.said()
        if words:
            painter.setFont(theme.font(11))
            wide = painter.fontMetrics().horizontalAdvance(words) + 14
            box = QRectF(self.at.x() + 10, self.at.y() - 9, wide, 18)
            box.moveRight(min(box.right(), self.places.width - 4.0))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color(theme.ASH_0, 235))
            painter.drawRoundedRect(box, 3, 3)
            painter.setPen(theme.color(theme.BRIGHT))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
