"""Block compression of pictures: what their channels hold, which format that asks for, smaller copies,
and what is lost.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import etcpak
import numpy as np
import texture2ddecoder
from numpy.typing import NDArray
from PIL import Image

from ..effect.values.colors import BYTE_LIGHT, to_srgb

Bytes = NDArray[np.uint8]
Floats = NDArray[np.float32]
# Decibels that a proposed format keeps at least; what loses more is left as it is.
ENOUGH = 40.0


class Blocks(StrEnum):
    """How a picture's pixels are stored: plain, or in blocks of 4 by 4 as graphics cards read them."""

    PLAIN = "plain"
    BC1 = "bc1"
    BC3 = "bc3"
    BC4 = "bc4"
    BC5 = "bc5"
    BC7 = "bc7"


class BlockRow(NamedTuple):
    """Channels that a format keeps, bytes of a block, and DXGI's numbers for it: plain values, and sRGB
    ones (0 where no number says so).
    """

    channels: int
    bytes: int
    plain: int
    srgb: int


BLOCKS: dict[Blocks, BlockRow] = {
    Blocks.BC1: BlockRow(3, 8, 71, 0),
    Blocks.BC3: BlockRow(4, 16, 77, 0),
    Blocks.BC4: BlockRow(1, 8, 80, 0),
    Blocks.BC5: BlockRow(2, 16, 83, 0),
    Blocks.BC7: BlockRow(4, 16, 98, 99),
}


class Meaning(StrEnum):
    """What a picture's numbers are."""

    COLOR = "color"
    DATA = "data"
    NORMALS = "normals"
    MOTION = "motion"


@dataclass(frozen=True)
class Proposal:
    """A format for a picture.

    Attributes
    ----------
    blocks : Blocks
    swizzle : tuple of str
        Where red, green, blue and alpha are found in what is stored: ``r``, ``g``, ``b``, ``a``, or a number
        0…1 that they have everywhere; ``z`` is what makes a vector's length 1.
    why : str
        One sentence.
    psnr : float
        Decibels over the channels that it keeps; infinite where nothing is lost.
    first : bytes
        The picture in it, without smaller copies; empty for plain.
    """

    blocks: Blocks
    swizzle: tuple[str, str, str, str]
    why: str
    psnr: float
    first: bytes = b""


PLAIN_SWIZZLE = ("r", "g", "b", "a")


def as_four(pixels: Bytes) -> Bytes:
    """Return a picture with red, green, blue and alpha."""
    if pixels.shape[2] == 4:
        return pixels
    return np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])


def swizzle_of(pixels: Bytes, meaning: Meaning) -> tuple[str, str, str, str]:
    """Return in how few channels a picture can be stored; see :class:`Proposal`."""
    if meaning == Meaning.NORMALS:
        return ("r", "g", "z", "1")
    if meaning == Meaning.MOTION:
        return ("r", "g", f"{128 / 255:.6g}", "1")
    flat = pixels.reshape(-1, 4)
    low, high = flat.min(axis=0), flat.max(axis=0)
    if meaning == Meaning.COLOR and low[3] == 0 and (seen := flat[flat[:, 3] > 0]).size:
        # What is clear may have any colour.
        low[:3], high[:3] = seen[:, :3].min(axis=0), seen[:, :3].max(axis=0)
    if meaning == Meaning.COLOR and (low[:3] != high[:3]).any():
        # Colours are sRGB; formats with one or two channels hold plain numbers.
        return ("r", "g", "b", "a" if low[3] != high[3] or low[3] != 255 else "1")
    found: list[str] = []
    kept: list[int] = []
    for channel in range(4):
        if low[channel] == high[channel]:
            # The same all over.
            found.append(f"{low[channel] / 255:.6g}")
            continue
        twin = next((one for one in kept if np.array_equal(flat[:, one], flat[:, channel])), -1)
        if twin < 0:
            kept.append(channel)
            twin = channel
        found.append("rgba"[kept.index(twin)])
    return found[0], found[1], found[2], found[3]


def stored(pixels: Bytes, swizzle: tuple[str, str, str, str]) -> Bytes:
    """Return a picture's channels as a swizzle stores them, (height, width, 4); channels that it leaves
    out are 0, alpha 255.
    """
    out = np.zeros_like(pixels)
    out[..., 3] = 255
    for channel, place in enumerate(swizzle):
        if place in PLAIN_SWIZZLE:
            out[..., "rgba".index(place)] = pixels[..., channel]
    return out


def unstored(found: Bytes, swizzle: tuple[str, str, str, str]) -> Bytes:
    """Return red, green, blue and alpha from what a swizzle stores."""
    out = np.empty_like(found)
    for channel, place in enumerate(swizzle):
        if place in PLAIN_SWIZZLE:
            out[..., channel] = found[..., "rgba".index(place)]
        elif place == "z":
            flat = found[..., :2].astype(np.float32) / 127.5 - 1.0
            out[..., channel] = np.rint((np.sqrt(np.maximum(1.0 - (flat**2).sum(axis=2), 0.0)) + 1.0) * 127.5)
        else:
            out[..., channel] = round(float(place) * 255)
    return out


def width_of(swizzle: tuple[str, str, str, str]) -> int:
    """Return how many channels a swizzle stores."""
    return len({place for place in swizzle if place in PLAIN_SWIZZLE})


def proposed(pixels: Bytes, meaning: Meaning) -> Proposal:
    """Return the smallest format that keeps a picture well, from what each of its channels holds.

    Parameters
    ----------
    pixels : (height, width, 3 or 4) uint8
    """
    pixels = as_four(pixels)
    swizzle = swizzle_of(pixels, meaning)
    wide = width_of(swizzle)
    if wide == 0:
        return Proposal(
            Blocks.PLAIN, PLAIN_SWIZZLE, "It is the same all over: nothing is won by blocks.", np.inf
        )
    tries: tuple[Blocks, ...]
    if meaning == Meaning.NORMALS:
        tries, why = (Blocks.BC5,), "A normal map: two channels are enough, the third follows from them."
    elif meaning == Meaning.MOTION:
        tries, why = (Blocks.BC5,), "A motion map: red and green alone hold anything."
    elif wide == 1:
        tries, why = (Blocks.BC4,), f"Only {_names(swizzle)} holds anything: one channel is enough."
    elif wide == 2:
        tries, why = (Blocks.BC5,), f"Only {_names(swizzle)} hold anything: two channels are enough."
    elif swizzle[3] == "1" and swizzle[:3] == ("r", "g", "b"):
        tries, why = (Blocks.BC1, Blocks.BC7), "Nothing is seen through it: three channels are enough."
    else:
        tries, why = (Blocks.BC7,), "All its channels hold something of their own."
    lost = 0.0
    for blocks in tries:
        own = PLAIN_SWIZZLE if BLOCKS[blocks].channels >= 3 else swizzle
        lost, data = _tried(pixels, blocks, own)
        if lost >= ENOUGH:
            return Proposal(blocks, own, why, lost, data)
    reason = (
        f"{tries[-1].upper()} would keep {lost:.1f} dB of it, less than the {ENOUGH:g} dB that don't show: "
        "it stays as it is."
    )
    return Proposal(Blocks.PLAIN, PLAIN_SWIZZLE, reason, np.inf)


def _names(swizzle: tuple[str, str, str, str]) -> str:
    words = ("red", "green", "blue", "alpha")
    groups = {
        place: [word for word, one in zip(words, swizzle, strict=True) if one == place]
        for place in PLAIN_SWIZZLE
    }
    said = [" = ".join(group) for group in groups.values() if group]
    return " and ".join(said)


def as_chosen(pixels: Bytes, blocks: Blocks, meaning: Meaning) -> Proposal:
    """Return a format that somebody asks for, with what it loses; the channels that it can't keep are
    named.
    """
    pixels = as_four(pixels)
    if blocks == Blocks.PLAIN:
        return Proposal(blocks, PLAIN_SWIZZLE, "Every pixel as it is.", np.inf)
    swizzle, room = swizzle_of(pixels, meaning), BLOCKS[blocks].channels
    if room >= 3:
        swizzle = PLAIN_SWIZZLE if room == 4 else ("r", "g", "b", "1")
        lost = room == 3 and bool((pixels[..., 3] != 255).any())
    else:
        lost = width_of(swizzle) > room
        if lost:
            swizzle = ("r", "r", "r", "1") if room == 1 else ("r", "g", "0", "1")
    why = (
        f"{blocks.upper()} has {room} "
        f"channel{'' if room == 1 else 's'}{': what else the picture holds is lost' if lost else ''}."
    )
    kept, data = _tried(pixels, blocks, swizzle)
    if lost:
        # Of what the picture holds, not only of the channels that are kept.
        kept = psnr(pixels, unstored(decompressed(data, pixels.shape[1], pixels.shape[0], blocks), swizzle))
    return Proposal(blocks, swizzle, why, kept, data)


def compressed(pixels: Bytes, blocks: Blocks) -> bytes:
    """Return the blocks of a picture, row by row from the upper left; its borders are repeated up to whole
    blocks.

    Parameters
    ----------
    pixels : (height, width, 4) uint8
    """
    high, wide = pixels.shape[:2]
    whole = np.ascontiguousarray(np.pad(pixels, ((0, -high % 4), (0, -wide % 4), (0, 0)), mode="edge"))
    high, wide = whole.shape[:2]
    raw = whole.tobytes()
    if blocks == Blocks.BC7:
        return bytes(etcpak.compress_bc7(raw, wide, high, etcpak.BC7CompressBlockParams()))
    packers = {
        Blocks.BC1: etcpak.compress_bc1,
        Blocks.BC3: etcpak.compress_bc3,
        Blocks.BC4: etcpak.compress_bc4,
        Blocks.BC5: etcpak.compress_bc5,
    }
    return bytes(packers[blocks](raw, wide, high))


def decompressed(data: bytes, wide: int, high: int, blocks: Blocks) -> Bytes:
    """Return the picture in blocks, (height, width, 4); channels that a format doesn't keep are 0, alpha
    255.
    """
    readers = {
        Blocks.BC1: texture2ddecoder.decode_bc1,
        Blocks.BC3: texture2ddecoder.decode_bc3,
        Blocks.BC4: texture2ddecoder.decode_bc4,
        Blocks.BC5: texture2ddecoder.decode_bc5,
        Blocks.BC7: texture2ddecoder.decode_bc7,
    }
    room, columns = BLOCKS[blocks].channels, wide + -wide % 4
    found = (
        np.frombuffer(readers[blocks](data, columns, high + -high % 4), np.uint8)
        .reshape(-1, columns, 4)[:high, :wide, [2, 1, 0, 3]]
        .copy()
    )
    if room < 3:
        found[..., room:3] = 0
    if room < 4:
        found[..., 3] = 255
    return found


def _tried(pixels: Bytes, blocks: Blocks, swizzle: tuple[str, str, str, str]) -> tuple[float, bytes]:
    """Return the peak signal-to-noise ratio of a picture in blocks, dB, over the channels that the format
    keeps, and the blocks.
    """
    wanted = stored(pixels, swizzle)
    data = compressed(wanted, blocks)
    found = decompressed(data, pixels.shape[1], pixels.shape[0], blocks)
    return psnr(wanted, found, range(BLOCKS[blocks].channels)), data


def psnr(one: Bytes, other: Bytes, channels: range = range(4)) -> float:
    """Return the peak signal-to-noise ratio of two pictures, dB."""
    some = list(channels)
    error = float(((one[..., some].astype(np.float64) - other[..., some]) ** 2).mean())
    return float("inf") if error == 0 else 10.0 * float(np.log10(255.0**2 / error))


def smaller_copies(pixels: Bytes, meaning: Meaning, levels: int, premultiplied: bool = False) -> list[Bytes]:
    """Return a picture and its smaller copies, each half as wide and high.

    Colours are averaged in linear light and weighted by what they cover, vectors stay of length 1.

    Parameters
    ----------
    levels : int
        How many in all.
    premultiplied : bool
        Whether colours are multiplied by alpha already.
    """
    found = [pixels]
    light = _as_light(pixels, meaning, premultiplied)
    while len(found) < levels and max(found[-1].shape[:2]) > 1:
        high, wide = (max(side // 2, 1) for side in light.shape[:2])
        planes = [
            Image.fromarray(np.ascontiguousarray(light[..., i])).resize((wide, high), Image.Resampling.BOX)
            for i in range(4)
        ]
        light = np.stack([np.asarray(plane) for plane in planes], axis=2)
        found.append(_as_pixels(light, meaning, premultiplied))
    return found


def _as_light(pixels: Bytes, meaning: Meaning, premultiplied: bool) -> Floats:
    if meaning != Meaning.COLOR:
        return pixels.astype(np.float32) / np.float32(255.0)
    cover = pixels[..., 3:].astype(np.float32) / np.float32(255.0)
    return np.concatenate(
        [BYTE_LIGHT[pixels[..., :3]] * (np.float32(1.0) if premultiplied else cover), cover], axis=2
    )


def _as_pixels(light: Floats, meaning: Meaning, premultiplied: bool) -> Bytes:
    if meaning == Meaning.NORMALS:
        way = light[..., :3] * 2.0 - 1.0
        way = way / np.maximum(np.linalg.norm(way, axis=2, keepdims=True), 1e-6)
        light = np.concatenate([way * 0.5 + 0.5, light[..., 3:]], axis=2)
    elif meaning == Meaning.COLOR:
        cover = np.ones_like(light[..., 3:]) if premultiplied else np.maximum(light[..., 3:], 1e-6)
        light = np.concatenate([to_srgb(light[..., :3] / cover), light[..., 3:]], axis=2)
    return np.rint(np.clip(light, 0.0, 1.0) * 255.0).astype(np.uint8)  # type: ignore[no-any-return]


def levels_of(wide: int, high: int, cells: bool = False) -> int:
    """Return how many sizes a picture has down to one pixel; of ``cells`` side by side, until one would
    mix two of them.
    """
    least = int(min(wide, high)).bit_length()
    if not cells:
        return least
    # As often as both sides can be halved.
    return min(least, ((wide | high) & -(wide | high)).bit_length())
