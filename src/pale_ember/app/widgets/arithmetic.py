"""What is typed into a number field: a number, a sum, a change of the number that stands there, with
units.
"""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable

from PyQt6.QtCore import QLocale

# Of more numbers than these it is told how they go on.
MOST_TOLD = 5
_TWO: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}
# The units that may be written behind a number, by the field's unit, with their factors.
_LENGTH = {"m": 1.0, "cm": 0.01, "mm": 0.001, "km": 1000.0}
UNITS: dict[str, dict[str, float]] = {
    "s": {"s": 1.0, "ms": 0.001, "min": 60.0},
    "m": _LENGTH,
    "m/s": {"m/s": 1.0, "cm/s": 0.01, "mm/s": 0.001, "km/h": 1 / 3.6},
    "m/s²": {"m/s²": 1.0, "m/s2": 1.0, "m/s^2": 1.0},
    "°": {"°": 1.0, "deg": 1.0, "rad": 180 / math.pi},
    "°/s": {"°/s": 1.0, "deg/s": 1.0, "rad/s": 180 / math.pi},
    "/s": {"/s": 1.0, "/min": 1 / 60},
    "/m": {"/m": 1.0, "/cm": 100.0, "/km": 0.001},
    "×": {"×": 1.0, "x": 1.0, "%": 0.01},
    "Hz": {"hz": 1.0},
    "": {"%": 0.01},
}


def evaluate(text: str, now: float, unit: str = "", of_several: bool = False) -> float | None:
    """Return the number that a typed text means; None if it means none.

    ``1/3`` and ``2*(3+1)`` are sums; ``*2``, ``/3`` and ``+10%``, ``-10%`` change the present number; units
    may stand behind numbers, such as ``20 cm`` in a field of metres; a comma counts as a decimal point. Where
    it is typed for several, ``+3`` and ``-3`` mean by so much, too. What stands behind ``=`` is the number
    itself.
    """
    typed = text.strip().replace(",", ".").replace("−", "-")
    if not typed or len(typed) > 80:
        return None
    if typed[0] == "=":
        return evaluate(typed[1:], now, unit) if typed[1:].strip()[:1] not in ("*", "/", "=") else None
    if typed.endswith("%") and typed[0] in "+-":
        share = evaluate(typed[1:-1], now)
        return None if share is None else now * (1 + (share if typed[0] == "+" else -share) / 100)
    typed = _without_units(typed, unit).replace("×", "*")
    if typed[:1] in ("*", "/") or (of_several and typed[0] in "+-"):
        typed = f"({now!r}){typed}"
    try:
        found = _value(ast.parse(typed.strip(), mode="eval").body)
    except (
        SyntaxError,
        ValueError,
        ZeroDivisionError,
        OverflowError,
        TypeError,
        RecursionError,
        MemoryError,
    ):
        return None
    return found if math.isfinite(found) else None


def why_not(text: str, unit: str = "") -> str:
    """Return, in a sentence, why a typed text is no number."""
    typed = text.strip()
    shown_text = typed if len(typed) <= 24 else typed[:23] + "…"
    if typed.endswith("%") and evaluate(typed[:-1], 0.0) is not None:
        return f"“{shown_text}” of what? Type +{typed} to raise it by that much, or a number in {unit}."
    behind = re.fullmatch(r"[\d.,]+\s*([^\d\s.,()+*-].*)", typed)
    if behind and unit:
        return f"“{shown_text}”: this field is in {unit}, not in {behind[1][:12]}."
    if behind:
        return f"“{shown_text}”: this field has no unit; type the number alone."
    return f"“{shown_text}” is not a number; type one, or a sum such as 2*3 or +10%."


def becoming(olds: list[float], news: list[float], digits: int) -> str:
    """Return what several numbers become, in words: “0.3, 0.5 → 0.6, 0.8”; of many the first ones."""
    if len(set(news)) == 1:
        return f"all {len(news)} → {shown(news[0], digits)}"
    more = ", …" if len(news) > MOST_TOLD else ""
    said = [", ".join(shown(number, digits) for number in side[:MOST_TOLD]) + more for side in (olds, news)]
    return f"{said[0]} → {said[1]}"


def _without_units(typed: str, unit: str) -> str:
    """Return a text with each number's unit made a factor."""
    known = UNITS.get(unit, {unit.lower(): 1.0} if unit else {})
    if not known:
        return typed
    names = "|".join(re.escape(name) for name in sorted(known, key=len, reverse=True))
    pattern = rf"(?<=[\d.)])\s*({names})(?![\w²^/])"
    return re.sub(
        pattern, lambda m: f"*{known[m[1].lower()]!r}" if m[1].lower() in known else m[0], typed, flags=re.I
    )


def _value(node: ast.expr) -> float:
    """Return what a parsed sum is; ValueError for anything else."""
    if (
        isinstance(node, ast.Constant)
        and isinstance(node.value, int | float)
        and not isinstance(node.value, bool)
    ):
        return float(node.value)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.UAdd):
        inner = _value(node.operand)
        return -inner if isinstance(node.op, ast.USub) else inner
    if isinstance(node, ast.BinOp) and type(node.op) in _TWO:
        left, right = _value(node.left), _value(node.right)
        if isinstance(node.op, ast.Pow) and (abs(right) > 64 or left < 0):
            raise ValueError
        return _TWO[type(node.op)](left, right)
    raise ValueError


def shown(number: float, digits: int, figures: int = 3) -> str:
    """Return a number as a field shows it: so many decimals at most, of what is small as many as make some
    figures.

    The decimal point is that of Qt's default locale.
    """
    if not math.isfinite(number):
        return "–"
    if digits and 1e-4 <= abs(number) < 1.0:
        digits = max(digits, figures - 1 - math.floor(math.log10(abs(number))))
    text = f"{number:.{digits}f}"
    if number and float(text) == 0.0:
        text = f"{number:.3g}"
    elif "." in text:
        text = text.rstrip("0").rstrip(".")
    text = "0" if text == "-0" else text
    return text.replace(".", QLocale().decimalPoint()) if "." in text else text
