"""The program's own icons, drawn as paths on a grid of 16."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap

from .theme import BRIGHT, EMBER, TEXT


def _lines(*points: tuple[float, float]) -> QPainterPath:
    path = QPainterPath(QPointF(*points[0]))
    for point in points[1:]:
        path.lineTo(*point)
    return path


def _play(p: QPainter) -> None:
    p.fillPath(_lines((4.5, 3), (13, 8), (4.5, 13)), p.pen().color())


def _pause(p: QPainter) -> None:
    p.fillRect(QRectF(4, 3, 3, 10), p.pen().color())
    p.fillRect(QRectF(9, 3, 3, 10), p.pen().color())


def _restart(p: QPainter) -> None:
    # Once round and back to the upright start: not a step.
    p.drawLine(QPointF(3, 3), QPointF(3, 13))
    p.drawPath(_lines((13, 8), (6, 8)))
    p.drawPath(_lines((9, 4.5), (5.5, 8), (9, 11.5)))


def _step(p: QPainter) -> None:
    p.fillPath(_lines((3, 3), (9.5, 8), (3, 13)), p.pen().color())
    p.fillRect(QRectF(11, 3, 2, 10), p.pen().color())


def _back(p: QPainter) -> None:
    p.translate(16, 0)
    p.scale(-1, 1)
    _step(p)


def _loop(p: QPainter) -> None:
    p.drawArc(QRectF(3, 3.5, 10, 9), 60 * 16, 270 * 16)
    p.fillPath(_lines((8.6, 0.8), (13, 3.6), (8.6, 6.6)), p.pen().color())


def _eye(p: QPainter) -> None:
    path = QPainterPath(QPointF(1.5, 8))
    path.quadTo(8, 1.5, 14.5, 8)
    path.quadTo(8, 14.5, 1.5, 8)
    p.drawPath(path)
    p.setBrush(p.pen().color())
    p.drawEllipse(QPointF(8, 8), 1.9, 1.9)


def _hidden(p: QPainter) -> None:
    path = QPainterPath(QPointF(1.5, 7))
    path.quadTo(8, 13.5, 14.5, 7)
    p.drawPath(path)
    for x, y in ((3.5, 12), (8, 13.6), (12.5, 12)):
        p.drawLine(QPointF(8 + (x - 8) * 0.8, y - 2.4), QPointF(x, y))


def _alone(p: QPainter) -> None:
    p.drawEllipse(QPointF(8, 8), 5.6, 5.6)
    p.setBrush(p.pen().color())
    p.drawEllipse(QPointF(8, 8), 2.2, 2.2)


def _plus(p: QPainter) -> None:
    p.drawLine(QPointF(8, 3), QPointF(8, 13))
    p.drawLine(QPointF(3, 8), QPointF(13, 8))


def _copy(p: QPainter) -> None:
    p.drawRect(QRectF(2.5, 5.5, 8, 8))
    p.drawPath(_lines((5.5, 5.5), (5.5, 2.5), (13.5, 2.5), (13.5, 10.5), (10.5, 10.5)))


def _library(p: QPainter) -> None:
    for x, y in ((2.5, 2.5), (9, 2.5), (2.5, 9), (9, 9)):
        p.drawRect(QRectF(x, y, 4.5, 4.5))


def _bin(p: QPainter) -> None:
    p.drawLine(QPointF(2.5, 4.5), QPointF(13.5, 4.5))
    p.drawPath(_lines((4.2, 4.5), (5, 13.5), (11, 13.5), (11.8, 4.5)))
    p.drawPath(_lines((6, 4.5), (6, 2.5), (10, 2.5), (10, 4.5)))


def _open(p: QPainter) -> None:
    p.drawPath(_lines((2, 13), (2, 3.5), (6, 3.5), (7.5, 5.5), (13, 5.5), (13, 7.5)))
    p.drawPath(_lines((2, 13), (4.5, 7.5), (15, 7.5), (12.5, 13), (2, 13)))


def _up(p: QPainter) -> None:
    p.drawPath(_lines((3.5, 9.5), (8, 4.5), (12.5, 9.5)))


def _down(p: QPainter) -> None:
    p.drawPath(_lines((3.5, 6.5), (8, 11.5), (12.5, 6.5)))


def _menu(p: QPainter) -> None:
    for y in (4.5, 8, 11.5):
        p.drawLine(QPointF(3, y), QPointF(13, y))


def _undo(p: QPainter) -> None:
    p.drawArc(QRectF(3, 5, 10, 9), -70 * 16, 215 * 16)
    p.fillPath(_lines((6.4, 3.6), (1.6, 5.2), (4.8, 9.2)), p.pen().color())


def _redo(p: QPainter) -> None:
    p.translate(16, 0)
    p.scale(-1, 1)
    _undo(p)


def _frame(p: QPainter) -> None:
    for x, y, dx, dy in ((2.5, 2.5, 1, 1), (13.5, 2.5, -1, 1), (2.5, 13.5, 1, -1), (13.5, 13.5, -1, -1)):
        p.drawPath(_lines((x + 3.5 * dx, y), (x, y), (x, y + 3.5 * dy)))
    p.drawEllipse(QPointF(8, 8), 2.4, 2.4)


def _burst(p: QPainter) -> None:
    for i in range(8):
        a = i * math.pi / 4
        p.drawLine(
            QPointF(8 + 2.5 * math.cos(a), 8 + 2.5 * math.sin(a)),
            QPointF(8 + 6 * math.cos(a), 8 + 6 * math.sin(a)),
        )


def _fixed(p: QPainter) -> None:
    p.drawLine(QPointF(2.5, 8), QPointF(13.5, 8))


def _spread(p: QPainter) -> None:
    p.drawLine(QPointF(2.5, 4.5), QPointF(13.5, 4.5))
    p.drawLine(QPointF(2.5, 11.5), QPointF(13.5, 11.5))


def _one_of(p: QPainter) -> None:
    for x, y in ((3, 3), (9, 3), (3, 9)):
        p.drawRect(QRectF(x, y, 4, 4))
    p.fillRect(QRectF(8.5, 8.5, 5, 5), p.pen().color())


def _wave(y: float, rise: float) -> QPainterPath:
    path = QPainterPath(QPointF(2.5, y))
    path.cubicTo(7, y, 7, y - rise, 13.5, y - rise)
    return path


def _curve(p: QPainter) -> None:
    p.drawPath(_wave(12, 8))


def _band(p: QPainter) -> None:
    p.drawPath(_wave(9, 6))
    p.drawPath(_wave(13.5, 5))


def _dice(p: QPainter) -> None:
    p.drawRoundedRect(QRectF(2.5, 2.5, 11, 11), 2.5, 2.5)
    p.setBrush(p.pen().color())
    p.setPen(Qt.PenStyle.NoPen)
    for x, y in ((5.4, 5.4), (10.6, 10.6), (8, 8)):
        p.drawEllipse(QPointF(x, y), 1.2, 1.2)


def _three(p: QPainter) -> None:
    for y, wide in ((3.5, 5), (8, 8), (12.5, 11)):
        p.drawLine(QPointF(2.5, y), QPointF(2.5 + wide, y))


def _wide(p: QPainter) -> None:
    p.drawLine(QPointF(2, 8), QPointF(14, 8))
    p.drawPath(_lines((5, 5), (2, 8), (5, 11)))
    p.drawPath(_lines((11, 5), (14, 8), (11, 11)))


def _stage(p: QPainter) -> None:
    p.drawRect(QRectF(2.5, 3.5, 11, 9))
    p.fillRect(QRectF(5, 6, 6, 4), p.pen().color())


def _bench(p: QPainter) -> None:
    # A picture on a bench's top.
    p.drawRect(QRectF(4, 2, 8, 8))
    p.drawPath(_lines((5, 8.5), (7.2, 5.5), (8.8, 7.3), (11, 4.5)))
    p.drawLine(QPointF(1.5, 12.5), QPointF(14.5, 12.5))
    p.drawLine(QPointF(4, 12.5), QPointF(3, 15))
    p.drawLine(QPointF(12, 12.5), QPointF(13, 15))


def _tracks(p: QPainter) -> None:
    for rise, wide in ((3.0, 11.0), (6.5, 12.0), (10.0, 12.0)):
        path = QPainterPath(QPointF(3, 13))
        path.quadTo(4.5 + rise * 0.2, rise, wide + 1.0, rise + 0.5)
        p.drawPath(path)


def _port_birth(p: QPainter) -> None:
    # A bud that opens.
    p.setBrush(p.pen().color())
    p.drawEllipse(QPointF(8, 10.5), 2.6, 2.6)
    p.drawPath(_lines((3.5, 6.5), (5.2, 8)))
    p.drawPath(_lines((8, 3), (8, 5.4)))
    p.drawPath(_lines((12.5, 6.5), (10.8, 8)))


def _port_flight(p: QPainter) -> None:
    path = QPainterPath(QPointF(1.5, 11.5))
    path.cubicTo(5, 2.5, 9, 13.5, 14, 4.5)
    p.drawPath(path)


def _port_hit(p: QPainter) -> None:
    # Down onto a floor, and up again.
    p.drawPath(_lines((3, 3.5), (8, 11), (13, 3.5)))
    p.drawPath(_lines((2, 13.5), (14, 13.5)))


def _port_death(p: QPainter) -> None:
    # A ring that falls apart.
    p.drawArc(QRectF(3, 3, 10, 10), 20 * 16, 80 * 16)
    p.drawArc(QRectF(3, 3, 10, 10), 140 * 16, 80 * 16)
    p.drawArc(QRectF(3, 3, 10, 10), 260 * 16, 80 * 16)


def _ribbon(p: QPainter) -> None:
    # A band that narrows behind its head.
    path = QPainterPath(QPointF(1.5, 12.5))
    path.cubicTo(6, 12, 7, 3, 14, 3)
    path.lineTo(14, 8)
    path.cubicTo(9, 8, 8, 13, 1.5, 12.5)
    p.drawPath(path)


_DRAWN: dict[str, Callable[[QPainter], None]] = {
    "play": _play,
    "pause": _pause,
    "restart": _restart,
    "step": _step,
    "back": _back,
    "loop": _loop,
    "eye": _eye,
    "hidden": _hidden,
    "alone": _alone,
    "plus": _plus,
    "copy": _copy,
    "library": _library,
    "bin": _bin,
    "open": _open,
    "up": _up,
    "down": _down,
    "menu": _menu,
    "undo": _undo,
    "redo": _redo,
    "frame": _frame,
    "burst": _burst,
    "port-birth": _port_birth,
    "port-alive": _port_flight,
    "port-hit": _port_hit,
    "port-death": _port_death,
    "ribbon": _ribbon,
    "stage": _stage,
    "bench": _bench,
    "tracks": _tracks,
    "dice": _dice,
    "three": _three,
    "wide": _wide,
    "fixed": _fixed,
    "spread": _spread,
    "one of": _one_of,
    "curve": _curve,
    "band": _band,
}


def paint(painter: QPainter, name: str, box: QRectF, ink: QColor) -> None:
    """Draw an icon into a box."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(box.topLeft())
    painter.scale(box.width() / 16, box.height() / 16)
    pen = QPen(ink, 1.4)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    _DRAWN[name](painter)
    painter.restore()


@functools.cache
def icon(name: str) -> QIcon:
    """Return an icon in the theme's inks: plain, and in ember where it is switched on."""
    found = QIcon()
    for state, ink in ((QIcon.State.Off, TEXT), (QIcon.State.On, EMBER)):
        for mode in (QIcon.Mode.Normal, QIcon.Mode.Active):
            found.addPixmap(
                _picture(name, BRIGHT if mode == QIcon.Mode.Active and ink == TEXT else ink), mode, state
            )
    found.addPixmap(_picture(name, "#56524f"), QIcon.Mode.Disabled, QIcon.State.Off)
    return found


def _picture(name: str, ink: str) -> QPixmap:
    picture = QPixmap(32, 32)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    paint(painter, name, QRectF(0, 0, 32, 32), QColor(ink))
    painter.end()
    picture.setDevicePixelRatio(2.0)
    return picture
