"""Gradients from palettes, strips and pictures, and to them."""

from __future__ import annotations

import functools
from collections.abc import Callable

from PyQt6.QtWidgets import QFileDialog, QMenu

from ...effect.errors import EffectError
from ...effect.values.colors import ColorValue, GradientBand, Stops, evenly
from ...effect.values.forms import sides_of, with_stops
from ...files.palettes import image_colors, load_palette, load_strip, save_palette, save_strip
from .lane import Lane

PALETTES, STRIPS = "GIMP palettes (*.gpl)", "PNG pictures (*.png)"
PICTURES = "Pictures (*.png *.jpg *.jpeg *.webp *.bmp *.tif *.tiff)"


def add_gradient_items(lane: Lane, menu: QMenu, add: Callable[..., None]) -> None:
    """Put what is done with files into a menu."""
    add(menu, "Take a &palette …", functools.partial(ask_load, lane, PALETTES, load_palette))
    add(menu, "Take a &strip of colour …", functools.partial(ask_load, lane, PICTURES, load_strip))
    add(menu, "Take the &colours of a picture …", functools.partial(ask_load, lane, PICTURES, main_colors))
    has = bool(sides_of(lane.value))
    menu.addSeparator()
    add(menu, "Save as a p&alette …", functools.partial(ask_save, lane, PALETTES, ".gpl"), has)
    add(menu, "Save as a s&trip of colour …", functools.partial(ask_save, lane, STRIPS, ".png"), has)


def main_colors(path: str) -> Stops:
    return evenly(image_colors(path))


def take_gradient(lane: Lane, stops: Stops) -> bool:
    """Give a lane's line a gradient: of a band, the side of the held stop, or the low one."""
    value = lane.value
    if isinstance(value, GradientBand):
        side = lane.selection.main[1] if lane.selection.main is not None else 0
        ends = (stops, value.high) if side == 0 else (value.low, stops)
        new: ColorValue | Stops = GradientBand(*ends, value.along)
    elif isinstance(value, tuple):
        new = stops
    else:
        new = with_stops(value, stops, lane.strip.axis_name)
    lane.selection.let_go()
    return lane.session.edit_chosen([(lane.path, new)], f"Gradient of {lane.rule.label.lower()}")


def ask_load(lane: Lane, kinds: str, load: Callable[[str], Stops]) -> None:
    name, _ = QFileDialog.getOpenFileName(lane.window(), "Take colours from a file", "", kinds)
    if name:
        load_gradient(lane, name, load)


def load_gradient(lane: Lane, file: str, load: Callable[[str], Stops]) -> None:
    """Give a lane's line the colours of a file."""
    try:
        take_gradient(lane, load(file))
    except EffectError as wrong:
        lane.session.said.emit(f"Nothing taken. {wrong}")


def ask_save(lane: Lane, kinds: str, ending: str) -> None:
    """Ask for a file, and save the gradient there as palette or strip."""
    sides = sides_of(lane.value)
    name, _ = QFileDialog.getSaveFileName(
        lane.window(), "Save the gradient", f"{lane.rule.label}{ending}", kinds
    )
    if not name or not sides:
        return
    side = lane.selection.main[1] if lane.selection.main is not None else 0
    stops = sides[min(side, len(sides) - 1)]
    try:
        if ending == ".gpl":
            layer = lane.session.layer
            save_palette(stops, f"{layer.name if layer else ''} {lane.rule.label.lower()}", name)
        else:
            save_strip(stops, name)
        lane.session.said.emit(f"Saved to {name}.")
    except EffectError as wrong:
        lane.session.said.emit(f"Not saved. {wrong}")
