"""The choice of a texture: the effect's own, the shipped ones, or a file."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Protocol

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon, QImage, QPixmap

from ...effect.editing.texture_moves import free_texture_name, with_textures
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import Channel, DrawnAs
from ...effect.rules.edit import get
from ...effect.rules.fields import FieldKind
from ...effect.textures import MOST_FRAMES, Texture
from ...textures.library import shipped_textures
from ...textures.prepared import Prepared
from ..session.session import Session
from ..widgets.controls import Combo
from .plays import first_play
from .texture_pictures import channel_image
from .wishes import Wishes

NONE = {DrawnAs.SPRITE: "soft dot", DrawnAs.RIBBON: "soft band", DrawnAs.MESH: "plain"}
PLAIN_NOISE = "plain cloud"
ICON = 20
# The kinds of entries: a texture of the effect, or one that would be added to it.
OWN, SHIPPED, NEW = "own:", "shipped:", "new:"


class Row(Protocol):
    """What the choice needs of the row that it stands in."""

    session: Session
    rule: Any

    def path(self) -> str: ...

    wishes: Wishes

    def paths(self) -> list[str]: ...
    def edit(self, value: Any, merge: str = "", part: str = "", said: str = "Change {}") -> bool: ...


def take_picture(row: Row, file: str) -> None:
    """Let a field take a picture file that the artist chose: its own path, or a texture of it."""
    session = row.session
    session.choose_picture(file)
    if row.rule.kind == FieldKind.PICTURES:
        row.edit([file])
        return
    if row.rule.kind == FieldKind.PICTURE:
        row.edit(file)
        return
    now = session.effect.texture(_value(row))
    broken = now is not None and now.file and now.name not in session.textures.state.ready
    if now is not None and broken:
        # A texture whose file is missing gets another file; its layout stays.
        at = session.effect.textures.index(now)
        session.edit(f"textures[{at}].file", file, f"Browse for {now.name}")
        return
    try:
        effect, name = with_picture(
            session.effect, file, data=".texture" in row.path().partition("].look.")[2]
        )
        _give(row, effect, name, f"Wear {Path(file).name}")
    except EffectError as wrong:
        session.said.emit(f"{Path(file).name} is not taken. {wrong.sentence}")


def take_pictures(row: Row, files: list[str]) -> None:
    """Let a field take a sequence of picture files that the artist chose."""
    session = row.session
    for file in files:
        session.choose_picture(file)
    edits: list[tuple[str, Any]] = [(row.path(), files)]
    sheet = row.path().partition(".build.")[0]
    if len(files) > 1 and get(session.effect, f"{sheet}.frames") < 2:
        # A sequence in a build of one frame: each gets its own.
        edits.append((f"{sheet}.frames", min(len(files), MOST_FRAMES)))
    session.edit_many(edits, f"Bring in {len(files)} picture{'' if len(files) == 1 else 's'}")


def with_picture(effect: Effect, file: str, data: bool = False) -> tuple[Effect, str]:
    """Return the effect with a texture of a file, and its name; one that it has already is taken."""
    for texture in effect.textures:
        if texture.file == file and texture.data == data:
            return effect, texture.name
    name = free_texture_name(effect, Path(file).stem[:60])
    fresh = Texture(name=name, file=file, data=data, wrap=data)
    return effect.edit("textures", (*effect.textures, fresh)), name


def _value(row: Row) -> str:
    return str(get(row.session.effect, row.path()))


def _give(row: Row, effect: Effect, name: str, said: str) -> None:
    for path in row.paths():
        effect = effect.edit(path, name)
        texture = effect.texture(name)
        if path.endswith("].look.texture") and texture is not None:
            look = path.removesuffix(".texture")
            for field, value in first_play(texture, get(effect, look)).items():
                effect = effect.edit(f"{look}.{field}", value)
    row.session.apply(effect, said)


class TextureChoice(Combo):
    """A list of textures with their pictures."""

    def __init__(self, row: Row) -> None:
        super().__init__()
        self.row = row
        self.setIconSize(QSize(ICON, ICON))
        self.setSizeAdjustPolicy(Combo.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(5)
        self.setAccessibleName(row.rule.label)
        self.setToolTip(row.rule.help)
        self._shape: tuple[Any, ...] = ()
        self.textActivated.connect(lambda _: self._chosen())

    @property
    def none(self) -> str:
        """Return the words for no texture."""
        path = self.row.path()
        if path.endswith("].look.texture"):
            return NONE[DrawnAs(get(self.row.session.effect, path.removesuffix("texture") + "draw"))]
        return PLAIN_NOISE if ".look." in path else "none"

    def show_name(self, name: str, differs: bool) -> None:
        """Show the texture of a name, among all that there are."""
        session = self.row.session
        ready = session.textures.state.ready
        own = [(texture.name, ready.get(texture.name)) for texture in session.effect.textures]
        shape = (self.none, tuple((one, id(picture)) for one, picture in own), name)
        if shape != self._shape:
            self._shape = shape
            self._fill(own, name)
        at = self.findData(OWN + name)
        self.setPlaceholderText("mixed")
        self.setCurrentIndex(-1 if differs else at)

    def _fill(self, own: list[tuple[str, Prepared | None]], name: str) -> None:
        """List nothing, the effect's own textures, a new one, and the shipped ones."""
        self.clear()
        self.addItem(self.none, OWN)
        for each, picture in own:
            self.addItem(small_icon(picture), each, OWN + each)
        if name and all(each != name for each, _ in own):
            self.addItem(f"{name} (not there)", OWN + name)
        if self.row.path().endswith("].look.texture"):
            self.addItem("make a new one …", NEW)
        self.insertSeparator(self.count())
        taken = {each for each, _ in own}
        for texture in shipped_textures():
            if texture.name not in taken:
                self.addItem(f"{texture.name} (shipped)", SHIPPED + texture.name)

    def _chosen(self) -> None:
        """Give the layer the chosen texture; a shipped one is taken into the effect first."""
        data = self.currentData()
        if not isinstance(data, str):
            return
        name = data.partition(":")[2]
        if data.startswith(NEW):
            self.row.wishes.bench.emit("")
            return
        if data.startswith(OWN):
            _give(self.row, self.row.session.effect, name, f"Wear {name}" if name else "Wear nothing")
            return
        texture = next(one for one in shipped_textures() if one.name == name)
        try:
            effect, _ = with_textures(self.row.session.effect, (), (texture,))
            _give(self.row, effect, name, f"Wear {name}")
        except EffectError as wrong:
            self.row.session.said.emit(f"{name} is not taken. {wrong.sentence}")


def small_icon(ready: Prepared | None) -> QIcon:
    """Return a texture as an icon."""
    if ready is None:
        return QIcon()
    pixels = channel_image(ready, Channel.ALL, ICON)
    image = QImage(pixels.data, ICON, ICON, ICON * 4, QImage.Format.Format_RGBA8888).copy()  # type: ignore[call-overload]
    return QIcon(QPixmap.fromImage(image))
