"""DDS files that Pillow doesn't read: plain pixels of several kinds, half floats, one channel with a sign
(Microsoft's formats).
"""

from __future__ import annotations

import struct
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..effect.errors import EffectError
from .pictures import as_half_floats_hold

Floats = NDArray[np.float32]
_HEADER, _HEADER_DX10 = 128, 148
_FOUR_CC, _ALPHA_ONLY, _RGB, _ALPHA_PIXELS = 0x4, 0x2, 0x40, 0x1


class _Plain(NamedTuple):
    """Pixels one after the other: the type of a channel, how many there are, and which of them are red,
    green, blue, alpha.
    """

    kind: str
    parts: int
    order: tuple[int, int, int, int]
    linear: bool = False


# Places from 0 on; −1 stands for 0, −2 for whole.
_KINDS: dict[int, _Plain] = {
    2: _Plain("<f4", 4, (0, 1, 2, 3), True),
    10: _Plain("<f2", 4, (0, 1, 2, 3), True),
    11: _Plain("<u2", 4, (0, 1, 2, 3)),
    28: _Plain("u1", 4, (0, 1, 2, 3)),
    29: _Plain("u1", 4, (0, 1, 2, 3)),
    34: _Plain("<f2", 2, (0, 1, -1, -2), True),
    54: _Plain("<f2", 1, (0, 0, 0, -2), True),
    49: _Plain("u1", 2, (0, 1, -1, -2)),
    61: _Plain("u1", 1, (0, 0, 0, -2)),
    65: _Plain("u1", 1, (-2, -2, -2, 0)),
    56: _Plain("<u2", 1, (0, 0, 0, -2)),
    87: _Plain("u1", 4, (2, 1, 0, 3)),
    88: _Plain("u1", 4, (2, 1, 0, -2)),
    91: _Plain("u1", 4, (2, 1, 0, 3)),
    93: _Plain("u1", 4, (2, 1, 0, -2)),
}
_OLD_HALVES = {111: 54, 112: 34, 113: 10, 116: 2}
_BC4_SIGNED = (b"BC4S", 81)


class DdsPicture(NamedTuple):
    """Pixels, (height, width, 4), uint8 or float32; whether they are linear; whether there is alpha."""

    pixels: NDArray[np.uint8] | Floats
    linear: bool
    has_alpha: bool


def size_of(data: bytes) -> tuple[int, int]:
    """Return the width and height that a DDS file's header tells."""
    high, wide = struct.unpack_from("<2I", data, 12) if len(data) >= _HEADER else (0, 0)
    return wide, high


def read_plain(data: bytes, place: str) -> DdsPicture | None:
    """Return the first picture of a DDS file of one of these kinds; None if it is of another.

    Raises
    ------
    EffectError
        If it is cut off.
    """
    if len(data) < _HEADER:
        return None
    wide, high = size_of(data)
    flags, code, bits, *masks = struct.unpack_from("<I4sI4I", data, 80)
    begin, number = _HEADER, 0
    if flags & _FOUR_CC and code == b"DX10":
        if len(data) < _HEADER_DX10:
            return None
        begin, number = _HEADER_DX10, struct.unpack_from("<I", data, _HEADER)[0]
    elif flags & _FOUR_CC:
        number = _OLD_HALVES.get(struct.unpack("<I", code)[0], 0)
    if (number or code) in _BC4_SIGNED:
        grey = _signed_blocks(_part(data, begin, 8 * -(-wide // 4) * -(-high // 4), place), wide, high)
        return DdsPicture(np.stack([grey, grey, grey, np.ones_like(grey)], axis=2), False, False)
    kind = _KINDS.get(number) or (_by_masks(flags, bits, masks) if not flags & _FOUR_CC else None)
    if kind is None:
        return None
    whole = np.frombuffer(
        _part(data, begin, wide * high * kind.parts * np.dtype(kind.kind).itemsize, place), kind.kind
    ).reshape(high, wide, kind.parts)
    return DdsPicture(_ordered(whole, kind), kind.linear, kind.order[3] >= 0)


def _part(data: bytes, begin: int, size: int, place: str) -> bytes:
    if len(data) < begin + size:
        raise EffectError(place, "this DDS file is cut off; save it anew.")
    return data[begin : begin + size]


def _by_masks(flags: int, bits: int, masks: list[int]) -> _Plain | None:
    """Return the kind of pixels that an older header's masks tell, if each channel is a byte."""
    places = {0xFF: 0, 0xFF00: 1, 0xFF0000: 2, 0xFF000000: 3}
    if flags & _ALPHA_ONLY and bits == 8:
        return _KINDS[65]
    if not flags & _RGB or bits not in (24, 32) or any(mask not in places for mask in masks[:3]):
        return None
    alpha = places.get(masks[3], -2) if flags & _ALPHA_PIXELS else -2
    red, green, blue = (places[mask] for mask in masks[:3])
    return _Plain("u1", bits // 8, (red, green, blue, alpha))


def _ordered(whole: NDArray[Any], kind: _Plain) -> NDArray[np.uint8] | Floats:
    """Return plain pixels as red, green, blue and alpha."""
    numbers: NDArray[Any] = whole
    full = 255 if whole.dtype == np.uint8 else 1
    if whole.dtype.kind == "u" and full == 1:
        numbers = whole.astype(np.float32) / np.float32(65535.0)
    elif full == 1:
        numbers = as_half_floats_hold(whole.astype(np.float32))
    out: NDArray[Any] = np.zeros((*whole.shape[:2], 4), np.uint8 if full == 255 else np.float32)
    for i, place in enumerate(kind.order):
        if place >= 0:
            out[..., i] = numbers[..., place]
        elif place == -2:
            out[..., i] = full
    return out


def _signed_blocks(data: bytes, wide: int, high: int) -> Floats:
    """Return one channel in blocks of 4 by 4 with a sign, −1 to 1, as 0 to 1: two ends and three bits for
    each pixel.
    """
    blocks = np.frombuffer(data, np.uint8).reshape(-1, 8)
    first, last = (np.maximum(blocks[:, i].view(np.int8).astype(np.float32), -127.0) for i in (0, 1))
    bits = np.zeros(len(blocks), np.uint64)
    for i in range(6):
        bits |= blocks[:, 2 + i].astype(np.uint64) << np.uint64(8 * i)
    which = (bits[:, None] >> (np.uint64(3) * np.arange(16, dtype=np.uint64))[None, :]) & np.uint64(7)
    eight = np.stack([first, last, *(((7 - k) * first + k * last) / 7 for k in range(1, 7))], axis=1)
    six = np.stack(
        [
            first,
            last,
            *(((5 - k) * first + k * last) / 5 for k in range(1, 5)),
            np.full_like(first, -127),
            np.full_like(first, 127),
        ],
        axis=1,
    )
    levels = np.where((first > last)[:, None], eight, six)
    values = np.take_along_axis(levels, which.astype(np.int64), axis=1)
    columns, rows = -(-wide // 4), -(-high // 4)
    whole = values.reshape(rows, columns, 4, 4).swapaxes(1, 2).reshape(rows * 4, columns * 4)
    return np.asarray(whole[:high, :wide] / 254.0 + 0.5, np.float32)
