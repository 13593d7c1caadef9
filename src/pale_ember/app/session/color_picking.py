"""The one colour picker, bound to places in the effect: it follows them, and closes when they go."""

from __future__ import annotations

import dataclasses
import itertools
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.rules.edit import get
from ...effect.rules.paths import FieldPath
from ...effect.values.colors import ColorSpread, Flat, Gradient, GradientBand, OneOf, Stop
from ...effect.values.forms import sides_of
from ..widgets.color_picker import Picker
from .session import Session

_picks = itertools.count(1)


@dataclass(frozen=True)
class ColorPlace:
    """Where a colour stands: in a layer's field, on its low (0) or high (1) side, as its stop of that number
    or whole.

    Of one of several colours ``side`` is its number.
    """

    layer_id: str
    path: str
    side: int = 0
    stop: int = -1

    def value(self, effect: Effect) -> Any:
        """Return what the field holds; None without the layer. A field of the effect itself has no
        layer's id.
        """
        if not self.layer_id:
            try:
                return get(effect, self.path)
            except EffectError:
                return None
        at = effect.index(self.layer_id)
        if at < 0:
            return None
        try:
            return get(effect, FieldPath.of_layer(at, self.path))
        except EffectError:
            return None

    def color(self, effect: Effect) -> str | None:
        """Return the colour there; None if there is none any more."""
        value = self.value(effect)
        if self.stop >= 0:
            sides = sides_of(value) if isinstance(value, Gradient | GradientBand | tuple) else []
            if self.side < len(sides) and self.stop < len(sides[self.side]):
                return str(sides[self.side][self.stop].color)
            return None
        if isinstance(value, str):
            return value
        if isinstance(value, Flat):
            return value.color if self.side == 0 else None
        if isinstance(value, ColorSpread):
            return (value.low, value.high)[self.side]
        if isinstance(value, OneOf) and self.side < len(value.colors):
            return value.colors[self.side]
        return None

    def count(self, effect: Effect) -> int:
        """Return of how many colours its field takes one; 0 if it doesn't."""
        value = self.value(effect)
        return len(value.colors) if isinstance(value, OneOf) else 0

    def with_color(self, effect: Effect, color: str) -> Any:
        """Return the field's value with another colour there."""
        value = self.value(effect)
        if self.stop >= 0:
            sides = [list(side) for side in sides_of(value)]
            sides[self.side][self.stop] = Stop(sides[self.side][self.stop].x, color)
            if isinstance(value, tuple):
                return tuple(sides[0])
            if isinstance(value, Gradient):
                return Gradient(tuple(sides[0]), value.along)
            return GradientBand(tuple(sides[0]), tuple(sides[1]), value.along)
        if isinstance(value, str):
            return color
        if isinstance(value, Flat):
            return Flat(color)
        if isinstance(value, OneOf):
            return OneOf((*value.colors[: self.side], color, *value.colors[self.side + 1 :]))
        return dataclasses.replace(value, **{("low", "high")[self.side]: color})


class ColorPicking(QObject):
    """Opens the picker for places in the effect; there is never more than one.

    Esc takes back what has been chosen since it was opened, or since the artist last did something else:
    whoever works on elsewhere has taken the colour.
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.picker: Picker | None = None
        self.places: tuple[ColorPlace, ...] = ()
        self._merge, self._name, self._count = "", "", 0
        self._document = session.document
        # The effect that Esc leads back to, and the one that was seen last.
        self._before = self._seen = session.effect
        session.effect_changed.connect(self._follow)

    def open(self, parent: QWidget, places: tuple[ColorPlace, ...], words: str) -> Picker | None:
        """Let a colour be chosen for all of some places; the first gives the one to begin with. ``words``
        name them.
        """
        color = _first_color(places, self.session.effect)
        if color is None:
            return None
        self._document = self.session.document
        self._take()
        self._count = places[0].count(self.session.effect)
        self.places, self._merge, self._name = (
            places,
            f"color {next(_picks)}",
            f"Choose {words[:1].lower()}{words[1:]}",
        )
        if self.picker is not None:
            self.picker.turn_to(color, words)
        else:
            self.picker = Picker(parent, color, words)
            self.picker.chosen.connect(self._give)
            self.picker.ended.connect(self._end)
            self.picker.left.connect(self._leave)
        self.picker.show()
        self.picker.raise_()
        self.picker.activateWindow()
        return self.picker

    def is_on_stops(self) -> bool:
        """Return whether the picker is open for stops of a gradient."""
        return self.picker is not None and bool(self.places) and self.places[0].stop >= 0

    def close(self) -> None:
        """Close the picker; what was chosen stays."""
        picker, self.picker = self.picker, None
        self.places = ()
        if picker is not None:
            picker.blockSignals(True)
            picker.close()

    def _give(self, color: str) -> None:
        session = self.session
        effect = session.effect
        # Several stops of one field are given one after the other.
        for place in self.places:
            if place.color(effect) is not None:
                path = session.layer_path(place.path, place.layer_id) if place.layer_id else place.path
                effect = effect.edit(path, place.with_color(effect, color))
        self._seen = effect
        session.apply(effect, self._name, self._merge)

    def _take(self) -> None:
        """Let what is chosen so far count: the next choice is a step of its own."""
        self.session.document.end_merge()
        self._before = self._seen = self.session.effect

    def _leave(self) -> None:
        """Take the colour as the keyboard goes to another window."""
        if self.picker is not None:
            self._take()
            self.picker.begin_with(self.picker.color)

    def _follow(self) -> None:
        """Show what the colour is after an edit from elsewhere; close where it is gone."""
        if self.picker is None:
            return
        color = _first_color(self.places, self.session.effect)
        # After one of several colours was taken out, or put in, the numbers of the others mean others.
        if (
            self.session.document is not self._document
            or color is None
            or self.places[0].count(self.session.effect) != self._count
        ):
            self.close()
            return
        if self.session.effect is not self._seen:
            self._take()
            # The picker shows beside the new colour the one that Esc returns to.
            self.picker.begin_with(color)
        self.picker.follow(color)

    def _end(self, kept: bool) -> None:
        # Each place has its own colour again, not the first one's.
        if self.picker is not None and not kept:
            self._seen = self._before
            self.session.give_up(self._before)
        self.session.document.end_merge()
        self.picker, self.places = None, ()


def _first_color(places: tuple[ColorPlace, ...], effect: Effect) -> str | None:
    """Return the colour at the first of some places that has one."""
    return next((color for place in places if (color := place.color(effect)) is not None), None)
