"""The four forms of a number that an artist shapes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .curves import Key, Keys, evaluate


class Value:
    """A number in one of four forms: Fixed, Spread, Curve, Band."""

    __slots__ = ()
    along: str = ""

    def bounds_at(self, x: ArrayLike) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return the low and the high curve at x, each of shape (n,)."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Fixed(Value):
    """Always this number."""

    number: float

    def bounds_at(self, x: ArrayLike) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        level = np.full(np.atleast_1d(np.asarray(x)).shape, float(self.number))
        return level, level


@dataclass(frozen=True, slots=True)
class Spread(Value):
    """Drawn once per particle between low and high."""

    low: float
    high: float

    def bounds_at(self, x: ArrayLike) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        shape = np.atleast_1d(np.asarray(x)).shape
        return np.full(shape, float(self.low)), np.full(shape, float(self.high))


@dataclass(frozen=True, slots=True)
class Curve(Value):
    """Read off a curve along ``life``, ``clock`` or ``speed``."""

    keys: Keys
    along: str = "life"

    def bounds_at(self, x: ArrayLike) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        level = evaluate(self.keys, x)
        return level, level


@dataclass(frozen=True, slots=True)
class Band(Value):
    """Between two curves, at a place drawn once per particle."""

    low: Keys
    high: Keys
    along: str = "life"

    def bounds_at(self, x: ArrayLike) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        return evaluate(self.low, x), evaluate(self.high, x)


@dataclass(frozen=True, slots=True)
class Vec3Value:
    """Three Values."""

    x: Value
    y: Value
    z: Value

    def __iter__(self):  # type: ignore[no-untyped-def]
        return iter((self.x, self.y, self.z))


def level(y: float) -> Keys:
    """Return the keys of a level curve."""
    return (Key(0.0, float(y)), Key(1.0, float(y)))
