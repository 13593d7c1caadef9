"""What is dropped on the window: effects, meshes, palettes and pictures; where it lands says what it
means.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QDropEvent, QPainter
from PyQt6.QtWidgets import QWidget

from ...effect.effect import Layer
from ...effect.errors import EffectError
from ...effect.kinds import Aim, DrawnAs, EmitterShape
from ...effect.rules.edit import get
from ...effect.rules.fields import FieldKind
from ...effect.rules.paths import FieldPath
from ...effect.storing.storage import load_effect
from ...effect.values.colors import ColorValue, Stops
from ...effect.values.forms import with_stops
from ...files.bundle.reading import is_bundle
from ...files.palettes import load_palette
from ...simulation.meshes.reading import ENDINGS
from ...textures.reading import ENDINGS as PICTURES
from ..recipe.field_row import FieldRow
from ..recipe.texture_choice import take_picture
from ..strip.color_lane import ColorLane
from ..strip.gradient_menu import load_gradient, main_colors
from ..widgets import theme
from .editing import bring_in
from .workplace import Workplace

PICTURE_KINDS = ("texture", "picture", "pictures")
EFFECTS, PALETTES = (".ember",), (".gpl",)


@dataclass(frozen=True)
class Landing:
    """What a drop at a place would do: in words, and the deed; none where it can't be taken."""

    words: str
    do: Callable[[], None] | None = None


class DropHint(QWidget):
    """Says over the window what a drop here would do."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.words, self.good = "", True
        self.hide()

    def say(self, words: str, good: bool, at: QPoint) -> None:
        self.words, self.good = words, good
        parent = self.parentWidget()
        assert parent is not None
        wide = self.fontMetrics().horizontalAdvance(words) + 28
        x = min(max(at.x() - wide // 2, 6), parent.width() - wide - 6)
        y = at.y() + 24 if at.y() + 60 < parent.height() else at.y() - 48
        self.setGeometry(x, y, wide, 30)
        self.raise_()
        self.show()
        self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(theme.color(theme.EMBER if self.good else theme.ASH_4))
        painter.setBrush(theme.color(theme.ASH_0, 240))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        painter.setPen(theme.color(theme.BRIGHT if self.good else theme.DIM))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.words)
        painter.end()


class Drops(QObject):
    """Takes drops for the whole window."""

    def __init__(self, window: QWidget, place: Workplace) -> None:
        super().__init__(window)
        self.window, self.place = window, place
        self.hint = DropHint(window)
        window.setAcceptDrops(True)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Say what a drop would do while it hovers, and do it."""
        if isinstance(event, QDropEvent) and watched is self.window:
            landing = self.landing(event.mimeData(), event.position())
            if event.type() == QEvent.Type.Drop:
                self.hint.hide()
                event.acceptProposedAction()
                if landing is not None and landing.do is not None:
                    landing.do()
                elif landing is not None:
                    self.place.session.said.emit(f"Nothing was taken. {landing.words}.")
                return True
            if landing is None:
                event.ignore()
            else:
                self.hint.say(landing.words, landing.do is not None, event.position().toPoint())
                event.acceptProposedAction()
            return True
        if event is not None and event.type() == QEvent.Type.DragLeave and watched is self.window:
            self.hint.hide()
        return False

    def landing(self, mime: QMimeData | None, at: QPointF) -> Landing | None:
        """Return what a drop at a place of the window would do; None if it holds no file."""
        files = [url.toLocalFile() for url in mime.urls()] if mime is not None else []
        files = [file for file in files if file]
        if not files:
            return None
        file = files[0]
        name, ending = Path(file).name, Path(file).suffix.lower()
        under = self.window.childAt(at.toPoint())
        if ending in EFFECTS or is_bundle(file):
            return self._effect(file, name, under)
        if ending in ENDINGS:
            return self._mesh(file, name, self._layer(under, at))
        if isinstance(under, ColorLane) and not under.in_layer and ending in (*PALETTES, *PICTURES):
            lane, load = under, load_palette if ending in PALETTES else main_colors
            return Landing(
                f"Take the colours of {name} for {lane.rule.label.lower()}",
                lambda: load_gradient(lane, file, load),
            )
        if ending in PALETTES:
            return self._colors(file, name, load_palette, under, at)
        if ending in PICTURES:
            row = self.place.recipe.row_of(under)
            if isinstance(under, ColorLane) or (row is not None and row.rule.kind == FieldKind.COLOR_VALUE):
                return self._colors(file, name, main_colors, under, at)
            bench_row = self.place.step_panel.row_of(under)
            if self.place.bench.is_open and (bench_row is None or bench_row.rule.kind not in PICTURE_KINDS):
                found = [one for one in files if Path(one).suffix.lower() in PICTURES]
                said = f"{len(found)} pictures" if len(found) > 1 else name
                return Landing(f"Bring {said} in as a step", lambda: bring_in(self.place, found))
            return self._picture(file, name, bench_row or row, self._layer(under, at))
        return Landing(f"{name} is no effect, mesh, palette or picture")

    def _layer(self, under: QWidget | None, at: QPointF) -> Layer | None:
        """Return the layer that is meant: the one under the mouse in the timeline, else the selected one."""
        rows = self.place.timeline.rows
        if under is rows:
            spot = rows.places.spot_at(QPointF(rows.mapFrom(self.window, at.toPoint())))
            if spot.row is not None and not spot.row.is_group:
                return self.place.session.effect.layers[spot.row.first]
        return self.place.session.layer

    def _effect(self, file: str, name: str, under: QWidget | None) -> Landing:
        timeline = self.place.timeline
        if under is not None and (under is timeline or timeline.isAncestorOf(under)):
            return Landing(f"Add the layers of {name}", lambda: self._add_layers(file))

        def load() -> None:
            if self.place.files.may_leave():
                self.place.files.load(Path(file))

        return Landing(f"Open {name}", load)

    def _add_layers(self, file: str) -> None:
        try:
            effect = self.place.files.bundle_effect(Path(file)) if is_bundle(file) else load_effect(file)
        except EffectError as wrong:
            self.place.session.said.emit(f"{Path(file).name} can't be read. {wrong}")
            return
        self.place.session.layers.add_many(
            effect.layers, f"Add the layers of {Path(file).name}", effect.textures
        )

    def _mesh(self, file: str, name: str, layer: Layer | None) -> Landing:
        if layer is None:
            return Landing("Add a layer first; then a mesh can be its birthplace")
        if layer.look.draw == DrawnAs.MESH:
            return Landing(f"Draw {layer.name} as {name}", lambda: self._be_drawn_as(file, layer))
        return Landing(f"Let {layer.name} be born on {name}", lambda: self._be_born_on(file, layer))

    def _be_born_on(self, file: str, layer: Layer) -> None:
        """Let a layer's particles be born on a mesh."""
        session, place = self.place.session, layer.birthplace
        aim = "outward" if place.kind != EmitterShape.MESH and place.aim == Aim.AXIS else place.aim
        changed = {"birthplace.kind": "mesh", "birthplace.mesh": file, "birthplace.aim": aim}
        session.select(layer.id)
        edits = [(session.layer_path(path, layer.id), value) for path, value in changed.items()]
        if session.edit_many(edits, "Be born on a mesh"):
            self.place.recipe.go_to("birthplace.mesh")

    def _be_drawn_as(self, file: str, layer: Layer) -> None:
        """Let a layer's particles be drawn as a mesh."""
        session = self.place.session
        session.select(layer.id)
        if session.edit(session.layer_path("look.mesh.mesh", layer.id), file, "Draw as a mesh"):
            self.place.recipe.go_to("look.mesh.mesh")

    def _picture(self, file: str, name: str, row: FieldRow | None, layer: Layer | None) -> Landing:
        """A picture goes to the field under the mouse that takes one, else the layer's particles wear it."""
        if row is not None and row.rule.kind in PICTURE_KINDS:
            field = row
            return Landing(f"Take {name} for {row.rule.label.lower()}", lambda: take_picture(field, file))
        if layer is None:
            return Landing("Add a layer first; then its particles can wear a picture")
        return Landing(f"Let {layer.name} wear {name}", lambda: self._wear(file, layer))

    def _wear(self, file: str, layer: Layer) -> None:
        place = self.place
        place.session.select(layer.id)
        place.recipe.go_to("look.texture")
        take_picture(place.recipe.chapters["Look"].rows["look.texture"], file)

    def _colors(
        self, file: str, name: str, take: Callable[[str], Stops], under: QWidget | None, at: QPointF
    ) -> Landing:
        """The colours go to the colour field or lane under the mouse, else to the layer's colour along
        life.
        """
        layer = self._layer(under, at)
        if layer is None:
            return Landing("Add a layer first; then it can take colours")
        path, label, row = "look.color", "Colour", self.place.recipe.row_of(under)
        if isinstance(under, ColorLane):
            path, label = FieldPath(under.path).in_layer, under.rule.label
        elif row is not None and row.rule.kind == FieldKind.COLOR_VALUE:
            path, label = FieldPath(row.path()).in_layer, row.rule.label
        return Landing(
            f"Take the colours of {name} for {label.lower()} of {layer.name}",
            lambda: self._take_colors(file, take, layer, path, label),
        )

    def _take_colors(
        self, file: str, take: Callable[[str], Stops], layer: Layer, path: str, label: str
    ) -> None:
        """Give a field of a layer the colours of a file."""
        session = self.place.session
        try:
            stops = take(file)
        except EffectError as wrong:
            session.said.emit(f"Nothing taken. {wrong}")
            return
        whole = session.layer_path(path, layer.id)
        now = get(session.effect, whole)
        assert isinstance(now, ColorValue)
        along = "clock" if path.endswith("tint") else "life"
        session.select(layer.id)
        session.edit(whole, with_stops(now, stops, along), f"{label} from {Path(file).name}")
