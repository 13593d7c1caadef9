"""What is typed into a number field: a number, a sum, or a change of the number that stands there."""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable

_TWO: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}


def evaluate(text: str, now: float) -> float | None:
    """Return the number that a typed text means; None if it means none.

    ``1/3`` and ``2*(3+1)`` are sums; ``*2``, ``/3`` and ``+10%``, ``-10%`` change the present number;
    a comma counts as a decimal point.
    """
    typed = text.strip().replace(",", ".").replace("×", "*").replace("−", "-")
    if not typed or len(typed) > 80:
        return None
    if typed.endswith("%") and typed[0] in "+-":
        share = evaluate(typed[1:-1], now)
        return None if share is None else now * (1 + (share if typed[0] == "+" else -share) / 100)
    if typed[0] in "*/":
        typed = f"({now!r}){typed}"
    try:
        found = _value(ast.parse(typed, mode="eval").body)
    except (SyntaxError, ValueError, ZeroDivisionError, OverflowError, TypeError, RecursionError, MemoryError):
        return None
    return found if math.isfinite(found) else None


def _value(node: ast.expr) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
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


def shown(number: float, digits: int) -> str:
    """Return a number as a field shows it: so many decimals at most, more where it would read as zero."""
    if not math.isfinite(number):
        return "–"
    text = f"{number:.{digits}f}"
    if number and float(text) == 0.0:
        return f"{number:.3g}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text
