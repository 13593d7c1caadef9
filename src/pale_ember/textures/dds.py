"""Pictures in blocks as DDS files, with their smaller copies (Microsoft's DirectDraw Surface, with the
DX10 header).
"""

from __future__ import annotations

import struct
from typing import NamedTuple

from .compressing import BLOCKS, Blocks, Bytes, decompressed

_MAGIC = b"DDS "
# The older header's names, which all readers know; the newer header says the format by number.
_OLD = {Blocks.BC1: b"DXT1", Blocks.BC3: b"DXT5"}
# What the header says is there: sizes, pixel format, number of copies, bytes of the first.
_FLAGS = 0x1 | 0x2 | 0x4 | 0x1000 | 0x20000 | 0x80000
_FOUR_CC, _TEXTURE, _COMPLEX, _MIPS = 0x4, 0x1000, 0x8, 0x400000
_FLAT = 3


def dds_bytes(levels: list[tuple[int, int, bytes]], blocks: Blocks, srgb: bool) -> bytes:
    """Return a DDS file of a picture and its smaller copies.

    Parameters
    ----------
    levels : list of (int, int, bytes)
        Width, height and blocks of each, the largest first.
    srgb : bool
        Whether its colours are sRGB; only BC7's header can say it.
    """
    row, old = BLOCKS[blocks], _OLD.get(blocks)
    wide, high, first = levels[0]
    caps = _TEXTURE | (_COMPLEX | _MIPS if len(levels) > 1 else 0)
    pixel_format = struct.pack("<II4s5I", 32, _FOUR_CC, old or b"DX10", 0, 0, 0, 0, 0)
    header = (
        struct.pack("<7I44x", 124, _FLAGS, high, wide, len(first), 1, len(levels))
        + pixel_format
        + struct.pack("<5I", caps, 0, 0, 0, 0)
    )
    more = struct.pack("<5I", row.srgb if srgb and row.srgb else row.plain, _FLAT, 0, 1, 0)
    return _MAGIC + header + (b"" if old else more) + b"".join(data for _, _, data in levels)


class Dds(NamedTuple):
    """What a DDS file of this kind holds: its format, whether its colours are sRGB, and its pictures, the
    largest first.
    """

    blocks: Blocks
    srgb: bool
    levels: list[Bytes]


def read_dds(data: bytes) -> Dds:
    """Return what :func:`dds_bytes` wrote.

    Raises
    ------
    ValueError
        If it is no such file.
    """
    name = data[84:88]
    if data[:4] != _MAGIC or name not in (b"DX10", *_OLD.values()) or len(data) < 136:
        raise ValueError("this is no DDS file in blocks")
    high, wide, _, _, count = struct.unpack("<5I", data[12:32])
    number = struct.unpack("<I", data[128:132])[0] if name == b"DX10" else 0
    found = next(
        (
            blocks
            for blocks, row in BLOCKS.items()
            if name == _OLD.get(blocks) or (number and number in (row.plain, row.srgb))
        ),
        None,
    )
    if found is None:
        raise ValueError(f"format {number} of this DDS file is not known")
    at, levels = 148 if name == b"DX10" else 128, []
    for _ in range(max(count, 1)):
        size = BLOCKS[found].bytes * ((wide + 3) // 4) * ((high + 3) // 4)
        if at + size > len(data):
            raise ValueError("this DDS file is cut off")
        levels.append(decompressed(data[at : at + size], wide, high, found))
        at, wide, high = at + size, max(wide // 2, 1), max(high // 2, 1)
    return Dds(found, number != 0 and number == BLOCKS[found].srgb, levels)
