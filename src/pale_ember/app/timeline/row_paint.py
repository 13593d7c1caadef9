"""Painting the lanes of the timeline: heads, windows, rates, levels, bursts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from ...effect.effect import Layer
from ...simulation.time.population import BORN, HITS
from ..session.schedules import Schedules
from ..stage.thumbnails import Thumbnails
from ..widgets import theme
from ..widgets.cached import CachedPixmap
from ..widgets.curve_paint import paint_gradient
from ..widgets.icons import paint
from .geometry import PIP, Geometry
from .rows import Row, burst_moments
from .threads import ThreadPaint, rate_words
from .time_view import HEAD


class RowPaint:
    """Paints rows; what stays the same from frame to frame is painted once and kept."""

    def __init__(self, places: Geometry, thumbnails: Thumbnails, ratio: Callable[[], float]) -> None:
        self.places, self.session, self.thumbnails = places, places.session, thumbnails
        self.schedules = Schedules()
        self.threads = ThreadPaint(places)
        # Of the screen's pixels to the widget's.
        self._ratio = ratio
        self._heads: defaultdict[str, CachedPixmap] = defaultdict(CachedPixmap)
        self._bodies: defaultdict[str, CachedPixmap] = defaultdict(CachedPixmap)

    def row(self, painter: QPainter, row: Row) -> None:
        """Paint a whole row."""
        places, session = self.places, self.session
        box = QRectF(0, row.top, places.width, row.height)
        if row.is_group:
            self._group(painter, row, box)
            return
        layer = session.effect.layers[row.first]
        chosen = layer.id == session.selected or layer.id in session.others
        if chosen:
            painter.fillRect(box, theme.color(theme.ASH_2))
            strong = layer.id == session.selected
            painter.fillRect(
                QRectF(0, box.top(), 2, box.height()), theme.color(theme.EMBER, 255 if strong else 120)
            )
        painter.setPen(QPen(theme.color(theme.ASH_0)))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        shown = session.is_shown(layer.id) and layer.enabled
        self._head(painter, row, layer, shown, chosen)
        painter.setOpacity(1.0 if shown else 0.4)
        left = QPointF(HEAD - PIP - 2, box.top())
        painter.drawPixmap(left, self._body(row, layer, chosen))
        painter.setOpacity(1.0)

    def counts(self, painter: QPainter, row: Row) -> None:
        """Say how many are alive in a row, and how many births were refused."""
        if not row.is_group:
            layer = self.session.effect.layers[row.first]
            if not layer.origin.parent or not self.threads.words(painter, row, layer):
                self._counts(painter, row, [layer.id])
        elif row.group in self.session.layers.folded:
            self._counts(painter, row, list(row.ids))

    def _head(self, painter: QPainter, row: Row, layer: Layer, shown: bool, chosen: bool) -> None:
        """Draw the head of a layer's lane."""
        box = self.places.picture_box(row)
        painter.setOpacity(1.0 if shown else 0.35)
        picture = self.thumbnails.picture(layer.id)
        if picture is None:
            paint_gradient(painter, box, layer.look.color)
        else:
            painter.drawPixmap(box.topLeft(), picture)
        if layer.look.order:
            self._order(painter, box, layer.look.order)
        painter.setOpacity(1.0)
        painter.drawPixmap(QPointF(0, row.top), self._words(row, layer, shown, chosen))
        if layer.origin.parent:
            self.threads.thread(painter, row, layer)
        self.threads.ports(painter, row, layer, chosen)

    def _words(self, row: Row, layer: Layer, shown: bool, chosen: bool) -> QPixmap:
        """Return a head's name and switches, kept as a picture."""
        session = self.session
        switches = (bool(session.alone) and layer.id in session.alone, layer.enabled)
        key = (layer.name, row.inside, row.depth, shown, chosen, switches)

        def paint_words(painter: QPainter) -> None:
            """Draw the name and the switches."""
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(0, -row.top)
            painter.setOpacity(1.0 if shown else 0.35)
            painter.setFont(theme.font(12))
            painter.setPen(theme.color(theme.BRIGHT if chosen else theme.TEXT))
            place = self.places.name_box(row.first)
            name = painter.fontMetrics().elidedText(
                layer.name, Qt.TextElideMode.ElideRight, int(place.width())
            )
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, name)
            painter.setOpacity(1.0)
            self._switches(painter, row, [layer.id])

        size = QSize(HEAD, row.height)
        return self._heads[layer.id].picture(size, self._ratio(), key, paint_words)

    def _order(self, painter: QPainter, box: QRectF, order: int) -> None:
        """Say in the corner of the picture over which others the layer is drawn."""
        painter.setFont(theme.font(10))
        words = f"{order:+d}".replace("-", "−")
        corner = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-2, 0, 2, 0)
        corner.moveBottomRight(box.bottomRight())
        painter.fillRect(corner, theme.color(theme.ASH_0, 200))
        painter.setPen(theme.color(theme.TEXT))
        painter.drawText(corner, Qt.AlignmentFlag.AlignCenter, words)

    def _switches(self, painter: QPainter, row: Row, ids: list[str]) -> None:
        session = self.session
        alone = bool(session.alone) and set(ids) <= session.alone
        off = not any(layer.enabled for layer in session.effect.layers if layer.id in ids)
        tone = theme.color(theme.EMBER if alone else theme.DIM)
        paint(painter, "alone", self.places.switch_of(row, "alone"), tone)
        tone = theme.color(theme.DIM if off else theme.TEXT)
        paint(painter, "hidden" if off else "eye", self.places.switch_of(row, "eye"), tone)

    def _group(self, painter: QPainter, row: Row, box: QRectF) -> None:
        """Draw the head of a group, and the window of all its layers."""
        painter.fillRect(box, theme.color(theme.ASH_0))
        folded = row.group in self.session.layers.folded
        x, y = 12.0, box.center().y()
        points = (
            [(x - 3, y - 4), (x + 4, y), (x - 3, y + 4)]
            if folded
            else [(x - 4, y - 3), (x + 4, y - 3), (x, y + 4)]
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.DIM))
        painter.drawPolygon(QPolygonF([QPointF(*point) for point in points]))
        painter.setFont(theme.font(12))
        painter.setPen(theme.color(theme.DIM))
        name = f"{row.group}  {len(row.ids)}"
        place = QRectF(24, box.top(), HEAD - 24 - 50, box.height())
        name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(place.width()))
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, name)
        self._switches(painter, row, list(row.ids))
        ends = [self.places.window_ends(self.session.effect.layer(layer_id)) for layer_id in row.ids]
        left = max(self.places.x_of(min(begin for begin, _ in ends)), HEAD)
        right = min(self.places.x_of(max(end for _, end in ends)), float(self.places.width))
        if right > left:
            painter.fillRect(QRectF(left, y - 2, right - left, 4), theme.color(theme.ASH_3))

    def _counts(self, painter: QPainter, row: Row, ids: list[str]) -> None:
        """Draw how many are alive, refused and hit, in words."""
        counts = [self.session.moment.counts.get(layer_id) for layer_id in ids]
        known = [count for count in counts if count]
        if not known:
            return
        alive, refused, full = (sum(count[what] for count in known) for what in ("alive", "refused", "full"))
        painter.setFont(theme.font(11))
        painter.setPen(theme.color(theme.WARN if refused else theme.DIM))
        text = f"{alive:,} alive" + (f", {refused:,} refused" if refused else "")
        if full and self.session.effect.loop and self.session.effect.repeat:
            text += ", loops differ"
        if len(ids) == 1 and self.session.effect.layer(ids[0]).contact.enabled:
            hits = rate_words(self.session.moment.each_second(ids[0], HITS))
            text = (
                f"{hits.replace('/s', ' hits/s')}, {text}"
                if hits and self.places.width - HEAD > 150
                else text
            )
        box = QRectF(HEAD, row.top, self.places.width - HEAD - 18, row.height)
        wide = painter.fontMetrics().horizontalAdvance(text) + 8
        ground = QRectF(box.right() - wide + 4, box.center().y() - 8, wide, 16)
        painter.fillRect(ground, theme.color(theme.ASH_1, 215))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    # The body, kept as a picture

    def _body(self, row: Row, layer: Layer, chosen: bool) -> QPixmap:
        """Return the picture of a lane's body; it is drawn anew only where something is another."""
        places, session = self.places, self.session
        levels = session.moment.levels.get(layer.id)
        effect = session.effect
        loop = int(session.time / effect.duration) if effect.loop else 0
        whole = (effect.duration, effect.loop, effect.seed)
        # While it plays more is known of the past with every few steps; it is enough to see it grow now and
        # then.
        known = None if levels is None else len(levels) // 12 if session.playing else id(levels)
        key = (layer, chosen, places.view.key, known, loop, whole)

        def paint_body(painter: QPainter) -> None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(-(HEAD - PIP - 2), -row.top)
            self._paint_body(painter, row, layer, chosen, levels, loop)

        size = QRectF(0, 0, places.width - HEAD + PIP + 2, row.height).toRect().size()
        return self._bodies[layer.id].picture(size, self._ratio(), key, paint_body)

    def _paint_body(
        self, painter: QPainter, row: Row, layer: Layer, chosen: bool, levels: np.ndarray | None, loop: int
    ) -> None:
        """Draw the window, the number alive, the rate and the bursts."""
        bar = self.places.bar_of(row, layer)
        painter.setPen(QPen(theme.color(theme.EMBER if chosen else theme.ASH_4, 170 if chosen else 255)))
        painter.setBrush(theme.color(theme.ASH_3, 150))
        painter.drawRoundedRect(bar, 3, 3)
        ground = QRectF(HEAD, bar.top() + 1, self.places.width - HEAD, bar.height() - 2)
        if levels is not None:
            self._level(painter, levels, loop, ground)
        count = min(max(int(bar.width()) // 3, 2), 1200)
        if layer.origin.parent:
            if levels is not None:
                self._born(painter, levels, loop, ground, chosen)
            return
        rates = self.schedules.rates(self.session.effect, layer, count)
        if rates is not None:
            x = np.linspace(bar.left(), bar.right(), len(rates))
            y = bar.bottom() - 1.5 - rates * (bar.height() - 6)
            painter.setPen(QPen(theme.color(theme.EMBER, 230 if chosen else 170), 1.3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist())]))
        for _, turn, moment, fires in burst_moments(layer, self.places.view.duration):
            self._pip(painter, QPointF(self.places.x_of(moment), bar.center().y()), turn == 0, fires)

    def _born(self, painter: QPainter, levels: np.ndarray, loop: int, ground: QRectF, chosen: bool) -> None:
        """Paint how many a follow-up's events made in each moment of this loop, as far as it is known."""
        begin = loop * self.places.view.duration
        known = levels[
            (levels[:, 0] >= begin - 1e-9) & (levels[:, 0] <= begin + self.places.view.duration + 1e-9)
        ]
        if len(known) < 3:
            return
        rates = np.diff(known[:, BORN]) / np.maximum(np.diff(known[:, 0]), 1e-9)
        most = max(float(rates.max()), 1e-9)
        x = [self.places.x_of(time - begin) for time in ((known[1:, 0] + known[:-1, 0]) / 2).tolist()]
        y = (ground.bottom() - np.maximum(rates, 0.0) / most * (ground.height() - 6)).tolist()
        painter.setPen(QPen(theme.color(theme.EMBER, 230 if chosen else 170), 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in zip(x, y)]))

    def _level(self, painter: QPainter, levels: np.ndarray, loop: int, ground: QRectF) -> None:
        """Paint the number alive as an area, and where births were refused, a line on top."""
        duration, rate = self.places.view.duration, self.session.effect.step_rate
        begin = loop * duration
        known = levels[(levels[:, 0] >= begin - 1e-9) & (levels[:, 0] <= begin + duration + 1e-9)]
        if len(known) < 3:
            begin = 0.0
            known = levels[levels[:, 0] <= duration]
        if len(known) < 2:
            return
        most = max(float(levels[:, 1].max()), 1.0)
        x = [self.places.x_of(time - begin) for time in known[:, 0].tolist()]
        y = (ground.bottom() - known[:, 1] / most * (ground.height() - 5)).tolist()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.SALT, 46))
        first, last = QPointF(x[0], ground.bottom()), QPointF(x[-1], ground.bottom())
        painter.drawPolygon(QPolygonF([first, *(QPointF(a, b) for a, b in zip(x, y)), last]))
        painter.setPen(QPen(theme.color(theme.WARN), 2.4))
        near = 4.5 * (known[1, 0] - known[0, 0] + 1.0 / rate)
        for i in np.flatnonzero(np.diff(known[:, 2]) > 0).tolist():
            if known[i + 1, 0] - known[i, 0] < near:
                painter.drawLine(QPointF(x[i], ground.top() + 1), QPointF(x[i + 1], ground.top() + 1))

    def _pip(self, painter: QPainter, at: QPointF, first: bool, fires: bool) -> None:
        """Draw a burst; one that never fires is hollow."""
        points = [
            QPointF(at.x() + a * PIP, at.y() + b * PIP * 1.15) for a, b in ((0, -1), (1, 0), (0, 1), (-1, 0))
        ]
        if fires:
            painter.setPen(QPen(theme.color(theme.ASH_0), 1.0))
            painter.setBrush(theme.color(theme.EMBER, 255 if first else 150))
        else:
            # It comes when the window is over.
            painter.setPen(QPen(theme.color(theme.WARN), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(QPolygonF(points))
