"""Plain data to values, by a field's rule; every refusal says where, what and how to mend it."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Any

from ..errors import EffectError, nearest, shown
from ..values.colors import (
    HEX,
    MOST_COLORS,
    ColorSpread,
    ColorValue,
    Flat,
    Gradient,
    GradientBand,
    OneOf,
    Stop,
    Stops,
)
from ..values.curves import EASES, Key, Keys, sorted_keys
from ..values.values import Band, Curve, Fixed, Spread, Value, Vec3Value
from .fields import FieldKind, Rule

MOST_KEYS = 512
LONGEST_TEXT = 20_000
MOST_FILES, MOST_POINTS = 256, 4000


def read_field(rule: Rule, raw: Any) -> Any:
    """Return what ``raw`` means for a field; the error's place starts behind the field's own name."""
    if rule.optional and raw is None:
        return None
    return _READERS[rule.kind](raw, rule, "")


def read_number(raw: Any, rule: Rule, place: str) -> float:
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        raise EffectError(place, f"this must be a number, not {shown(raw)}.")
    try:
        found = float(raw)
    except OverflowError:
        found = math.inf
    if not math.isfinite(found):
        raise EffectError(place, f"{shown(raw)} is not a number that can be used; give a finite one.")
    return _held(found, rule, place)


def _held(found: float, rule: Rule, place: str) -> float:
    low, high = rule.hard
    unit = f" {rule.unit}" if rule.unit else ""
    if found < low:
        raise EffectError(place, f"{found:g} is too low; the least is {low:g}{unit}.")
    if found > high:
        raise EffectError(place, f"{found:g} is too high; the most is {high:g}{unit}.")
    return found


def _integer(raw: Any, rule: Rule, place: str) -> int:
    if isinstance(raw, float) and raw.is_integer():
        raw = int(raw)
    if isinstance(raw, bool) or not isinstance(raw, int):
        raise EffectError(place, f"this must be a whole number, not {shown(raw)}.")
    low, high = rule.hard
    if not low <= raw <= high:
        raise EffectError(place, f"{shown(raw)} is out of range; it may be from {low:g} to {high:g}.")
    return raw


def _flag(raw: Any, rule: Rule, place: str) -> bool:
    if not isinstance(raw, bool):
        raise EffectError(place, f"this must be true or false, not {shown(raw)}.")
    return raw


def _text(raw: Any, rule: Rule, place: str) -> str:
    """Return a text, refusing what is too long or no whole text."""
    if not isinstance(raw, str):
        raise EffectError(place, f"this must be a text, not {shown(raw)}.")
    if len(raw) > LONGEST_TEXT:
        raise EffectError(place, f"this text has {len(raw)} characters; at most {LONGEST_TEXT} fit.")
    try:
        raw.encode("utf-8")
    except UnicodeEncodeError:
        raise EffectError(
            place, "this text holds half a character (a lone surrogate); type it anew."
        ) from None
    return raw


def _choice(raw: Any, rule: Rule, place: str) -> StrEnum:
    if not isinstance(raw, str):
        raise EffectError(place, f"this must be one of {', '.join(rule.choices)}, not {shown(raw)}.")
    if raw not in rule.choices:
        raise EffectError(
            place, f"“{shown(raw).strip(chr(39))}” is not known here; {nearest(raw, rule.choices)}"
        )
    return rule.choices[rule.choices.index(raw)]


def _triple(raw: Any, place: str) -> list[Any]:
    if not isinstance(raw, list | tuple) or len(raw) != 3:
        raise EffectError(place, f"this must be a list of three, [x, y, z], not {shown(raw)}.")
    return list(raw)


def _vec2(raw: Any, rule: Rule, place: str) -> tuple[float, ...]:
    if not isinstance(raw, list | tuple) or len(raw) != 2:
        raise EffectError(place, f"this must be a list of two, [x, y], not {shown(raw)}.")
    return tuple(read_number(part, rule, f"{place}[{i}]") for i, part in enumerate(raw))


def _vec3(raw: Any, rule: Rule, place: str) -> tuple[float, ...]:
    return tuple(read_number(part, rule, f"{place}[{i}]") for i, part in enumerate(_triple(raw, place)))


def _vec3_value(raw: Any, rule: Rule, place: str) -> Vec3Value:
    if isinstance(raw, Vec3Value):
        raw = list(raw)
    parts = [_value(part, rule, f"{place}[{i}]") for i, part in enumerate(_triple(raw, place))]
    return Vec3Value(*parts)


def _pair(raw: Any, what: str, place: str) -> tuple[Any, Any]:
    if not isinstance(raw, list | tuple) or len(raw) != 2:
        raise EffectError(place, f"a {what} takes a list of two, low then high, not {shown(raw)}.")
    return raw[0], raw[1]


def _form(raw: dict[Any, Any], forms: tuple[str, ...], place: str) -> str:
    """Return which form an object has, after refusing all that does not belong to it."""
    found = [name for name in forms if name in raw]
    if len(found) != 1:
        for key in raw:
            if key not in forms and key != "along":
                raise EffectError(place, f"“{str(key)[:40]}” is not known here; {nearest(str(key), forms)}")
        raise EffectError(place, f"an object here has exactly one of {', '.join(forms)}.")
    extra = [str(key)[:40] for key in raw if key not in (found[0], "along")]
    if extra:
        raise EffectError(place, f"“{extra[0]}” is not known here; {nearest(extra[0], (*forms, 'along'))}")
    if found[0] in ("spread", "one_of") and "along" in raw:
        raise EffectError(f"{place}.along", f"“{found[0]}” runs along nothing; leave “along” out.")
    return found[0]


def _along(raw: dict[Any, Any], rule: Rule, place: str) -> str:
    along = raw.get("along", rule.along[0])
    if along not in rule.along or not isinstance(along, str):
        said = "this field's curves run along " + " or ".join(rule.along)
        raise EffectError(f"{place}.along", f"{said}, not {shown(along)}.")
    return along


def _value(raw: Any, rule: Rule, place: str) -> Value:
    """Return a Value in the form that raw data has."""
    if isinstance(raw, Value):
        raw = value_data(raw)
    if not isinstance(raw, dict):
        return Fixed(read_number(raw, rule, place))
    form = _form(raw, ("spread", "curve", "band"), place)
    inner = f"{place}.{form}"
    if form == "spread":
        a, b = _pair(raw["spread"], "spread", inner)
        ends = sorted((read_number(a, rule, f"{inner}[0]"), read_number(b, rule, f"{inner}[1]")))
        return Spread(ends[0], ends[1])
    along = _along(raw, rule, place)
    if form == "curve":
        return Curve(_keys(raw["curve"], rule, inner), along)
    a, b = _pair(raw["band"], "band", inner)
    return Band(_keys(a, rule, f"{inner}[0]"), _keys(b, rule, f"{inner}[1]"), along)


_SHARE = Rule(FieldKind.NUMBER, "", "", hard=(0.0, 1.0))
_SLOPE = Rule(FieldKind.NUMBER, "", "")
_NEAR = Rule(FieldKind.NUMBER, "", "", hard=(-4.0, 4.0))
_FRAME = Rule(FieldKind.INTEGER, "", "", hard=(0, MOST_FILES - 1))


def _keys(raw: Any, rule: Rule, place: str) -> Keys:
    if not isinstance(raw, list | tuple) or not raw:
        raise EffectError(place, f"a curve takes a list of keys, [[x, y], …], not {shown(raw)}.")
    if len(raw) > MOST_KEYS:
        raise EffectError(place, f"a curve of {len(raw)} keys is too long; at most {MOST_KEYS} fit.")
    return sorted_keys(tuple(_key(part, rule, f"{place}[{i}]") for i, part in enumerate(raw)))


def _key(raw: Any, rule: Rule, place: str) -> Key:
    """Return a key of a curve, written as a pair or as an object."""
    if isinstance(raw, Key):
        raw = key_data(raw)
    if isinstance(raw, list | tuple):
        if len(raw) != 2:
            raise EffectError(place, f"a key is [x, y], not {shown(raw)}.")
        return Key(read_number(raw[0], _SHARE, f"{place}[0]"), read_number(raw[1], rule, f"{place}[1]"))
    if not isinstance(raw, dict):
        raise EffectError(place, f"a key is [x, y] or an object with x and y, not {shown(raw)}.")
    known = ("x", "y", "ease", "in", "out")
    for name in raw:
        if name not in known:
            raise EffectError(place, f"“{str(name)[:40]}” is not known in a key; {nearest(str(name), known)}")
    for name in ("x", "y"):
        if name not in raw:
            raise EffectError(place, f"this key has no “{name}”; add it.")
    ease = raw.get("ease", "smooth")
    if not isinstance(ease, str) or ease not in EASES:
        raise EffectError(f"{place}.ease", f"{shown(ease)} is not an ease; known are {', '.join(EASES)}.")
    if ease != "free" and ("in" in raw or "out" in raw):
        raise EffectError(place, "only a key with ease “free” has “in” and “out”.")
    return Key(
        read_number(raw["x"], _SHARE, f"{place}.x"),
        read_number(raw["y"], rule, f"{place}.y"),
        ease,
        read_number(raw.get("in", 0.0), _SLOPE, f"{place}.in"),
        read_number(raw.get("out", 0.0), _SLOPE, f"{place}.out"),
    )


def _color(raw: Any, place: str) -> str:
    if not isinstance(raw, str) or not HEX.fullmatch(raw):
        raise EffectError(place, f"a colour is written as “#ffb070”, not {shown(raw)}.")
    digits = raw[1:].lower()
    return "#" + (digits if len(digits) == 6 else "".join(d * 2 for d in digits))


def _stops(raw: Any, place: str) -> Stops:
    """Return the stops of a gradient, sorted."""
    if not isinstance(raw, list | tuple) or not raw:
        raise EffectError(place, f"a gradient takes a list of stops, [[x, colour], …], not {shown(raw)}.")
    if len(raw) > MOST_KEYS:
        raise EffectError(place, f"a gradient of {len(raw)} stops is too long; at most {MOST_KEYS} fit.")
    found = []
    for i, part in enumerate(raw):
        here = f"{place}[{i}]"
        if isinstance(part, Stop):
            part = (part.x, part.color)
        if not isinstance(part, list | tuple) or len(part) != 2:
            raise EffectError(here, f"a stop is [x, colour], not {shown(part)}.")
        found.append(Stop(read_number(part[0], _SHARE, f"{here}[0]"), _color(part[1], f"{here}[1]")))
    return tuple(sorted(found, key=lambda s: s.x))


def _colors(raw: Any, place: str) -> tuple[str, ...]:
    if not isinstance(raw, list | tuple) or not raw:
        raise EffectError(place, f"“one_of” takes a list of colours, [“#ffb070”, …], not {shown(raw)}.")
    if len(raw) > MOST_COLORS:
        raise EffectError(place, f"{len(raw)} colours are too many; at most {MOST_COLORS} fit.")
    return tuple(_color(one, f"{place}[{i}]") for i, one in enumerate(raw))


def _color_value(raw: Any, rule: Rule, place: str) -> ColorValue:
    """Return a ColorValue in the form that raw data has."""
    if isinstance(raw, ColorValue):
        raw = color_data(raw)
    if not isinstance(raw, dict):
        return Flat(_color(raw, place))
    form = _form(raw, ("spread", "one_of", "gradient", "band"), place)
    inner = f"{place}.{form}"
    if form == "one_of":
        return OneOf(_colors(raw["one_of"], inner))
    if form == "spread":
        a, b = _pair(raw["spread"], "spread", inner)
        return ColorSpread(_color(a, f"{inner}[0]"), _color(b, f"{inner}[1]"))
    along = _along(raw, rule, place)
    if form == "gradient":
        return Gradient(_stops(raw["gradient"], inner), along)
    a, b = _pair(raw["band"], "band", inner)
    return GradientBand(_stops(a, f"{inner}[0]"), _stops(b, f"{inner}[1]"), along)


def plain(x: float) -> float | int:
    """Return a whole float as an int, so that 1.0 is written 1."""
    return int(x) if float(x).is_integer() and abs(x) < 1e15 else float(x)


def key_data(key: Key) -> Any:
    """Return a key as plain data."""
    if key.ease == "smooth":
        return [plain(key.x), plain(key.y)]
    found: dict[str, Any] = {"x": plain(key.x), "y": plain(key.y), "ease": key.ease}
    if key.ease == "free":
        found |= {"in": plain(key.in_slope), "out": plain(key.out_slope)}
    return found


def value_data(value: Value | Vec3Value) -> Any:
    """Return a Value as plain data, always with its ``along``."""
    if isinstance(value, Vec3Value):
        return [value_data(part) for part in value]
    if isinstance(value, Fixed):
        return plain(value.number)
    if isinstance(value, Spread):
        return {"spread": [plain(value.low), plain(value.high)]}
    if isinstance(value, Curve):
        return {"curve": [key_data(k) for k in value.keys], "along": value.along}
    assert isinstance(value, Band)
    return {
        "band": [[key_data(k) for k in value.low], [key_data(k) for k in value.high]],
        "along": value.along,
    }


def color_data(value: ColorValue) -> Any:
    """Return a ColorValue as plain data, always with its ``along``."""
    if isinstance(value, Flat):
        return value.color
    if isinstance(value, ColorSpread):
        return {"spread": [value.low, value.high]}
    if isinstance(value, OneOf):
        return {"one_of": list(value.colors)}
    if isinstance(value, Gradient):
        return {"gradient": [[plain(s.x), s.color] for s in value.stops], "along": value.along}
    assert isinstance(value, GradientBand)
    sides = [[[plain(s.x), s.color] for s in side] for side in (value.low, value.high)]
    return {"band": sides, "along": value.along}


def _pictures(raw: Any, rule: Rule, place: str) -> tuple[str, ...]:
    if isinstance(raw, str):
        raw = [raw] if raw else []
    if not isinstance(raw, list | tuple):
        raise EffectError(place, f"this must be a list of picture files, not {shown(raw)}.")
    if len(raw) > MOST_FILES:
        raise EffectError(place, f"{len(raw)} pictures are too many; at most {MOST_FILES} fit.")
    return tuple(_text(one, rule, f"{place}[{i}]") for i, one in enumerate(raw))


def _points(raw: Any, rule: Rule, place: str) -> tuple[tuple[float, float, float], ...]:
    """Read “x,y x,y,pressure …”; tuples are taken as they are."""
    if isinstance(raw, str):
        raw = [part.split(",") for part in raw.split()]
    if not isinstance(raw, list | tuple):
        raise EffectError(place, f"points are written “0,0.5 0.1,0.4”, not {shown(raw)}.")
    if len(raw) > MOST_POINTS:
        raise EffectError(place, f"a stroke of {len(raw)} points is too long; at most {MOST_POINTS} fit.")
    found = []
    for i, part in enumerate(raw):
        if not isinstance(part, list | tuple) or len(part) not in (2, 3):
            raise EffectError(f"{place}[{i}]", f"a point is x,y or x,y,pressure, not {shown(part)}.")
        try:
            numbers = [float(one) for one in part]
        except (TypeError, ValueError):
            raise EffectError(f"{place}[{i}]", f"a point is made of numbers, not {shown(part)}.") from None
        x, y = (read_number(one, _NEAR, f"{place}[{i}]") for one in numbers[:2])
        found.append(
            (
                round(x, 4),
                round(y, 4),
                round(read_number(numbers[2], _SHARE, f"{place}[{i}]"), 3) if len(numbers) == 3 else 1.0,
            )
        )
    return tuple(found)


def _frames(raw: Any, rule: Rule, place: str) -> tuple[int, ...]:
    if not isinstance(raw, list | tuple):
        raise EffectError(place, f"this must be a list of frames, [0, 1, 2], not {shown(raw)}.")
    if len(raw) > MOST_FILES:
        raise EffectError(place, f"{len(raw)} frames are too many; at most {MOST_FILES} fit.")
    return tuple(_integer(one, _FRAME, f"{place}[{i}]") for i, one in enumerate(raw))


def points_text(points: tuple[tuple[float, float, float], ...]) -> str:
    """Return a stroke's points as the file has them."""
    return " ".join(f"{x:g},{y:g}" if p == 1.0 else f"{x:g},{y:g},{p:g}" for x, y, p in points)


_READERS: dict[str, Any] = {
    "value": _value,
    "vec3_value": _vec3_value,
    "color_value": _color_value,
    "number": read_number,
    "integer": _integer,
    "vec3": _vec3,
    "vec2": _vec2,
    "color": lambda raw, rule, place: _color(raw, place),
    "stops": lambda raw, rule, place: _stops(raw, place),
    "flag": _flag,
    "choice": _choice,
    "mesh": _text,
    "texture": _text,
    "picture": _text,
    "pictures": _pictures,
    "points": _points,
    "frames": _frames,
    "layer": _text,
    "anchor": _text,
    "text": _text,
}
