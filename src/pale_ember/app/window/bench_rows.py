"""What commands mean on the bench, where the window's instruments are turned to a texture."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QMenu

from ...effect.errors import EffectError
from ...effect.kinds import Channel
from ...effect.rules.descriptions import description_of
from ...effect.steps import CHANGERS, FINISHERS, MAKERS, Step
from ...files.texture_shelf import keep_texture
from . import editing
from .workplace import Workplace


@dataclass(frozen=True)
class Turned:
    """A command's other meaning: its title, what it says of itself, what it does, and when it can be done."""

    title: str
    tip: str
    do: Callable[[Workplace], Any]
    enabled: Callable[[Workplace], bool] = lambda w: True


def _step(w: Workplace) -> bool:
    return w.bench.step is not None


def _build(w: Workplace) -> bool:
    return w.bench.build is not None


def step_menu(w: Workplace) -> QMenu:
    """Return the menu of all steps that can be added."""
    menu = QMenu(w.step_list)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.setToolTipsVisible(True)
    groups: tuple[tuple[str, tuple[type[Step], ...]], ...] = (
        ("Make", MAKERS),
        ("Change", CHANGERS),
        ("Finish", FINISHERS),
    )
    for title, kinds in groups:
        part = menu.addMenu(f"&{title}")
        assert part is not None
        part.setToolTipsVisible(True)
        for kind in kinds:
            name = kind.default_of("step")
            action = part.addAction(name.capitalize())
            assert action is not None
            action.setToolTip(description_of(kind))
            action.triggered.connect(lambda _=False, name=name: w.bench.add(name))
    return menu


def open_step_menu(w: Workplace) -> QMenu:
    """Open that menu beside the steps."""
    menu = step_menu(w)
    menu.popup(w.step_list.mapToGlobal(QPoint(12, 8)))
    return menu


def rows_menu(w: Workplace, at: QPoint) -> None:
    """Open the menu of the step in view."""
    menu = QMenu(w.step_list)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    for name in (
        "add",
        "library",
        "cut",
        "copy",
        "paste",
        "duplicate",
        "delete",
        "up",
        "down",
        "enable",
        "dice",
        "keep_layer",
    ):
        menu.addAction(w.actions_by_name[name])
    menu.popup(at)


def keep_on_shelf(w: Workplace) -> None:
    """Keep the texture on the bench as one of the artist's own to start from."""
    texture = w.bench.texture
    if texture is None:
        return
    try:
        path = keep_texture(texture, w.session.effect)
        w.session.said.emit(f"{texture.name} is on the shelf now, as {path}.")
    except EffectError as wrong:
        w.session.said.emit(f"Not kept. {wrong}")


def _channel(channel: Channel) -> Callable[[Workplace], None]:
    return lambda w: w.bench.look_at(channel=channel)


BENCH: dict[str, Turned] = {
    "add": Turned("Add a step …", "Choose a step; it comes behind the one in view", open_step_menu),
    "library": Turned(
        "Textures to start from …",
        "Choose a ready-made texture, or one of your own",
        lambda w: w.open_shelf(),
    ),
    "keep_layer": Turned(
        "Keep texture on the shelf", "Save the texture as one of your own to start from", keep_on_shelf
    ),
    "duplicate": Turned(
        "Duplicate step", "Make a copy of the step in view", lambda w: w.bench.duplicate(), _step
    ),
    "delete": Turned(
        "Delete step", "Delete the step in view; among the steps, Del does", lambda w: w.bench.remove(), _step
    ),
    "up": Turned(
        "Move step up",
        "Let the step come one place earlier",
        lambda w: w.bench.shift(-1),
        lambda w: w.bench.index > 0,
    ),
    "down": Turned(
        "Move step down",
        "Let the step come one place later",
        lambda w: w.bench.shift(1),
        lambda w: 0 <= w.bench.index < len(w.bench.steps) - 1,
    ),
    "enable": Turned(
        "Switch step off or on", "Leave the step out, or take it back in", lambda w: w.bench.toggle(), _step
    ),
    "rename": Turned(
        "Rename texture",
        "Type another name for the texture",
        lambda w: w.step_panel.go_to(w.bench.path("name")),
    ),
    "previous": Turned(
        "Look at the step above",
        "Look at the step before",
        lambda w: w.bench.select(max(w.bench.index - 1, 0)),
        _step,
    ),
    "next": Turned(
        "Look at the step below",
        "Look at the step behind",
        lambda w: w.bench.select(w.bench.index + 1),
        _step,
    ),
    "cut": Turned(
        "Cut",
        "Copy the held keys, the field in focus or the step in view, and delete it",
        editing.cut_on_bench,
    ),
    "copy": Turned(
        "Copy", "Copy the held keys, the field in focus, or the step in view", editing.copy_on_bench
    ),
    "paste": Turned("Paste", "Paste keys, a field, steps, or a picture", editing.paste_on_bench),
    "dice": Turned(
        "Other dice",
        "Throw other dice for the step in view, or for the whole build",
        lambda w: w.bench.roll(),
        _build,
    ),
    "field": Turned("Find a field", "Show the fields of all steps that have some words", editing.find_field),
    "frame": Turned(
        "See all of the picture",
        "Put the picture in the middle, as large as fits",
        lambda w: w.picture_view.reset(),
    ),
    "step_back": Turned(
        "One frame back", "Stop and go one frame back", lambda w: w.bench.show_frame(w.bench.frame - 1)
    ),
    "step": Turned(
        "One frame on", "Stop and go one frame on", lambda w: w.bench.show_frame(w.bench.frame + 1)
    ),
    "restart": Turned("First frame", "Stop at the first frame", lambda w: w.bench.show_frame(0)),
    "chapter_1": Turned("All of the picture", "Show all of the picture", _channel(Channel.ALL)),
    "chapter_2": Turned("Red", "Show the red channel alone", _channel(Channel.RED)),
    "chapter_3": Turned("Green", "Show the green channel alone", _channel(Channel.GREEN)),
    "chapter_4": Turned("Blue", "Show the blue channel alone", _channel(Channel.BLUE)),
    "chapter_5": Turned("Alpha", "Show the alpha channel alone", _channel(Channel.ALPHA)),
}

# Commands that have nothing to work on while a texture is on the bench.
AWAY = frozenset(
    (
        "changed",
        "copy_chapter",
        "paste_chapter",
        "reset_chapter",
        "offset",
        "alone",
        "burst",
        "path_key",
        "all",
        "wear",
        "layout_of_sheet",
        "group",
        "ungroup",
        "zoom_in",
        "zoom_out",
        "zoom_all",
        "axis_life",
        "axis_clock",
        "axis_speed",
        "three",
        "lane",
        "unfollow",
        "home_view",
        "keep_view",
        "tracks",
        "grid",
        "wire",
        "overdraw",
        "prop",
        "axes",
        "chapter_6",
    )
)
