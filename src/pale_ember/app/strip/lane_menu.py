"""What can be done to a whole lane and to its held keys."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QInputDialog, QMenu

from ...effect.errors import EffectError
from ...effect.rules.fields import FieldKind, Rule
from ...effect.rules.paths import FieldPath
from ...effect.values.colors import Stop
from ...effect.values.curve_edits import fitted, flipped, reversed_keys, simplified, smoothed, there_and_back
from ...effect.values.curve_shapes import SHAPES, in_range, to_unit, value_span
from ...effect.values.curves import EASES, Keys
from ...effect.values.forms import COLOR_FORMS, FORMS, sides_of, to_color_form, to_form
from ...effect.values.values import Band, Curve, Fixed, Value
from ...files.curve_library import keep_shape, own_shapes
from ..session.clipboard import copy_field, pasted_field
from .gradient_menu import add_gradient_items
from .lane import Lane
from .tracks import parts_of, tracks_of

SIMPLE_SHARE = 0.01
# Adds an entry to a menu: its words, what it does, whether it can be done, its tip.
Add = Callable[..., None]


def open_lane_menu(lane: Lane, at: QPoint) -> QMenu:
    """Open a lane's menu at a place of the screen."""
    menu = lane_menu(lane)
    menu.popup(at)
    return menu


def lane_menu(lane: Lane) -> QMenu:
    """Return a lane's menu."""
    menu = QMenu(lane)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.setToolTipsVisible(True)
    strip = lane.strip
    is_color = lane.rule.kind in (FieldKind.COLOR_VALUE, FieldKind.STOPS)
    held = any(key in lane.selection.held for key in lane.all_keys())

    def add(into: QMenu, words: str, do: Callable[[], Any], on: bool = True, tip: str = "") -> None:
        action = into.addAction(words)
        assert action is not None
        action.setEnabled(on)
        action.setToolTip(tip)
        action.triggered.connect(lambda _=False: do())

    def sub(words: str) -> QMenu:
        found = menu.addMenu(words)
        assert found is not None
        found.setToolTipsVisible(True)
        return found

    add(menu, "&Add a key at the cursor", functools.partial(_add_at_cursor, lane))
    add(menu, "&Delete keys", lane.selection.delete, held)
    if is_color:
        add_gradient_items(lane, sub("&Gradient"), add)
        add(menu, "&Colour …", strip.pick_stops, held)
        add(menu, "&Reverse", functools.partial(reverse_stops, lane), bool(lane.all_keys()))
    else:
        _add_curve_items(lane, sub, add, held)
    forms = sub("F&orm")
    for name in COLOR_FORMS if is_color else FORMS:
        # A plain gradient has but one form.
        add(
            forms,
            f"&{name.capitalize()}",
            functools.partial(set_form, lane, name),
            lane.rule.kind != FieldKind.STOPS,
        )
    menu.addSeparator()
    add(menu, "Co&py lane", functools.partial(_copy, lane))
    add(menu, "Pas&te lane", functools.partial(paste, lane, False), tip="The copied lane as it is")
    if not is_color:
        add(
            menu,
            "Paste shape o&nly",
            functools.partial(paste, lane, True),
            tip="The copied curve, in this lane's own range",
        )
    _add_place_items(lane, menu, add)
    return menu


def _add_curve_items(lane: Lane, sub: Callable[[str], QMenu], add: Add, held: bool) -> None:
    """Add what can be done to a lane of numbers."""
    eases = sub("&Ease")
    for ease in EASES:
        add(eases, f"&{ease.capitalize()}", functools.partial(lane.selection.set_ease, ease), held)
    _add_shapes(lane, sub("&Shape"), add)
    edits = sub("&Whole curve")
    has = bool(lane.all_keys())
    for words, do, tip in WHOLE_CURVE:
        change = functools.partial(change_lines, lane, do, words) if do else functools.partial(flip, lane)
        add(edits, words, change, has, tip)
    add(edits, "S&implify …", functools.partial(ask_simplify, lane), has, "Fewer keys, within a tolerance")


def _add_place_items(lane: Lane, menu: QMenu, add: Add) -> None:
    """Add where the lane stands among the others."""
    strip = lane.strip
    menu.addSeparator()
    add(menu, "Unfo&ld" if lane.folded else "Fo&ld", lambda: strip.toggle_fold(lane))
    alone = strip.alone == strip.path_of(lane)
    add(menu, "Show &all lanes" if alone else "Show alone (double-click)", lambda: strip.toggle_alone(lane))
    at = strip.lane_paths.index(strip.path_of(lane))
    add(menu, "Move &up", lambda: strip.move_lane(strip.path_of(lane), at - 1), at > 0)
    add(
        menu,
        "Move down",
        lambda: strip.move_lane(strip.path_of(lane), at + 1),
        at < len(strip.lane_paths) - 1,
    )
    add(
        menu,
        "Put lane away",
        lambda: strip.hide_lane(lane),
        strip.path_of(lane) in strip.added and not lane.all_keys(),
    )


def _copy(lane: Lane) -> None:
    copy_field(lane.rule, lane.value)
    lane.session.said.emit(f"{lane.rule.label} is copied.")


def _add_at_cursor(lane: Lane) -> None:
    lane.selection.begin()
    lane.add_at(lane.session.cursor)
    lane.selection.end()


def _add_shapes(lane: Lane, menu: QMenu, add: Callable[..., None]) -> None:
    """Add the shapes that a curve can take to a menu."""
    for name in SHAPES:
        add(menu, name, functools.partial(set_shape, lane, name, None))
    own, wrong = own_shapes()
    if own:
        menu.addSeparator()
    for name, keys in own.items():
        add(menu, name, functools.partial(set_shape, lane, name, keys), tip="A shape of your own")
    for words in wrong[:1]:
        lane.session.said.emit(words)
    menu.addSeparator()
    add(menu, "Keep this curve as a shape …", functools.partial(ask_keep, lane), bool(lane.all_keys()))


# What is done to the lane's lines


def change_lines(lane: Lane, change: Callable[[Keys], Keys], words: str) -> None:
    """Make other keys of each line of a lane."""
    changes = {track.id: change(track.points) for track in tracks_of(lane.path, lane.value)}
    name = words.replace("&", "")
    if changes and lane.selection.give(changes, f"{name}: {lane.rule.label.lower()}"):
        lane.selection.refresh()


def _all_smoothed(keys: Keys) -> Keys:
    return smoothed(keys, range(len(keys)))


def _span(lane: Lane) -> tuple[float, float]:
    """Return the lowest and highest that a lane's lines reach."""
    lows, highs = zip(*(value_span(part) for _, part in parts_of(lane.path, lane.value)), strict=True)
    return min(lows), max(highs)


def flip(lane: Lane) -> None:
    """Turn a lane's lines upside down about the middle of what they reach together."""
    middle = sum(_span(lane)) / 2
    changes: dict[Any, Keys] = {}
    for path, part in parts_of(lane.path, lane.value):
        sides = [flipped(keys, middle) for keys in sides_of(part)]
        # Flipping swaps the low and the high edge of a band.
        changes |= {(path, side): keys for side, keys in enumerate(sides[::-1])}
    if changes:
        lane.selection.give(changes, f"Flip: {lane.rule.label.lower()}")


def reverse_stops(lane: Lane) -> None:
    """Run a lane's gradients backwards."""
    changes = {
        track.id: tuple(Stop(round(1.0 - stop.x, 6), stop.color) for stop in track.points[::-1])
        for track in tracks_of(lane.path, lane.value)
    }
    if changes:
        lane.selection.give(changes, f"Reverse: {lane.rule.label.lower()}")


def ask_simplify(lane: Lane) -> None:
    """Ask for a tolerance and leave out keys that are not missed within it."""
    share, taken = QInputDialog.getDouble(
        lane.window(), "Simplify", "Tolerance, in % of the curve's range:", SIMPLE_SHARE * 100, 0.01, 50.0, 2
    )
    if taken:
        simplify(lane, share / 100)


def simplify(lane: Lane, share: float) -> None:
    """Leave out keys of a lane whose absence changes its lines by no more than a share of their range."""
    low, high = _span(lane)
    before = len(lane.all_keys())
    change_lines(lane, lambda keys: simplified(keys, share * max(high - low, 1e-9)), "Simplify")
    after = len(lane.all_keys())
    none = f"None of the {before} keys of {lane.rule.label.lower()} can be left out within that tolerance."
    lane.session.said.emit(
        none if after == before else f"{lane.rule.label}: {after} keys instead of {before}."
    )


def set_shape(lane: Lane, name: str, keys: Keys | None) -> None:
    """Give a lane's lines a named shape, each in the range that it has; a level gets the room from 0 to
    itself.
    """
    # Chosen again, a shape of chance is another.
    lane.strip.seed += 1
    shape = keys if keys is not None else SHAPES[name](lane.strip.seed)
    parts = parts_of(lane.path, lane.value)
    if len(parts) > 1:
        # Of a vector, those that are there; where none is, its Y, which is mostly meant.
        parts = [(path, part) for path, part in parts if part != Fixed(0.0)] or parts[1:2]
    edits = [(path, _shaped(lane, part, shape)) for path, part in parts]
    lane.session.edit_chosen(edits, f"{name}: {lane.rule.label.lower()}")


def _shaped(lane: Lane, part: Value, shape: Keys) -> Value:
    """Return a Value whose curves have a shape, over the range that it has."""
    axis = part.along or lane.strip.axis_name
    sides = part.bounds_at([0.0]) if not part.along else None
    if sides is not None:
        tops = sorted({float(side[0]) for side in sides})
        measured = lane.strip.measured.of(lane.path)
        usual = measured.top if measured is not None and measured.same_unit else lane.rule.soft[1]
        tops = [top if top != 0.0 else float(f"{usual:.3g}") for top in tops]
        curves = [in_range(shape, 0.0, top) for top in tops]
        return Curve(curves[0], axis) if len(curves) == 1 else Band(curves[0], curves[1], axis)
    if isinstance(part, Band):
        low, high = (in_range(shape, *value_span(Curve(keys))) for keys in (part.low, part.high))
        return Band(low, high, axis)
    assert isinstance(part, Curve)
    bottom, top = value_span(part)
    return Curve(in_range(shape, bottom if top - bottom > 1e-9 else 0.0, top), axis)


def ask_keep(lane: Lane) -> None:
    """Ask for a name and keep a lane's curve as a shape of the artist's own."""
    name, taken = QInputDialog.getText(lane.window(), "Keep as a shape", "Name of the shape:")
    track = next(iter(tracks_of(lane.path, lane.value)), None)
    if taken and name.strip() and track is not None:
        try:
            path = keep_shape(name.strip(), to_unit(track.points))
            lane.session.said.emit(f"{name.strip()} is among the shapes now, as {path}.")
        except EffectError as wrong:
            lane.session.said.emit(f"Not kept. {wrong}")


def set_form(lane: Lane, form: str) -> None:
    """Give a lane another form."""
    axis, edits = lane.strip.axis_name, []
    for path, part in parts_of(lane.path, lane.value):
        turn = to_color_form if lane.rule.kind == FieldKind.COLOR_VALUE else to_form
        place = (lane.session.layer_of(path), FieldPath(path).in_owner)
        edits.append(
            (path, lane.session.forms.turned(place, part, form, functools.partial(turn, part, form, axis)))
        )
    lane.selection.let_go()
    lane.session.edit_chosen(edits, f"Change form of {lane.rule.label.lower()}")


def paste(lane: Lane, shape_only: bool) -> None:
    """Give a lane the copied one's value; or only its shape, in the lane's own range."""
    if shape_only:
        keys = _copied_keys()
        if keys is None:
            lane.session.said.emit(
                "Not pasted. There is no curve on the clipboard; copy a lane from its menu."
            )
        else:
            set_shape(lane, "Paste shape", to_unit(keys))
        return
    try:
        lane.session.edit_chosen([(lane.path, pasted_field(lane.rule))], f"Paste {lane.rule.label.lower()}")
    except EffectError as wrong:
        lane.session.said.emit(f"Not pasted. {wrong.sentence}")


def _copied_keys() -> Keys | None:
    """Return the first line of the lane on the clipboard, whatever limits its field has."""
    for kind in (FieldKind.VALUE, FieldKind.VEC3_VALUE):
        try:
            value = pasted_field(Rule(kind, "", "", along=("life", "clock", "speed", "frames")))
        except EffectError:
            continue
        track = next(iter(tracks_of("", value)), None)
        if track is not None:
            return track.points  # type: ignore[no-any-return]
    return None


# Edits of a whole curve: words, function (None flips in the lane's own range), tip.
WHOLE_CURVE: tuple[tuple[str, Callable[[Keys], Keys] | None, str], ...] = (
    ("&Reverse", reversed_keys, "Run the curve backwards"),
    ("&Flip", None, "Turn the curve upside down inside its range"),
    (
        "&There and back",
        there_and_back,
        "The curve in the first half, its mirror image in the second",
    ),
    (
        "Stretch to the &whole axis",
        fitted,
        "The first key to the axis's beginning, the last to its end",
    ),
    ("&Smooth", _all_smoothed, "Draw all keys half-way to their neighbours"),
)
