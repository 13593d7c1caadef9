"""Gradients from and to palettes and pictures: GIMP palettes, strips of colour, the colours of an image."""

from __future__ import annotations

import io
import os
import re
import warnings
from pathlib import Path

import numpy as np
from PIL import Image

from ..effect.errors import EffectError
from ..effect.storing.whole_files import read_regular, write_whole
from ..effect.values.colors import Stop, Stops, evaluate_stops, evenly, hex_to_linear, srgb_to_hex, to_srgb
from ..effect.values.oklch import to_oklch

MOST = 64
# A palette of many thousand colours is far below the first; pictures are read up to so many bytes and pixels.
LARGEST_PALETTE, LARGEST_PICTURE, MOST_PIXELS = 1 << 20, 64 << 20, 40_000_000
STRIP = (512, 32)
_ROW = re.compile(r"\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s+(.*))?$")
PathLike = str | os.PathLike[str]


def load_palette(path: PathLike) -> Stops:
    """Return the colours of a GIMP palette as evenly placed stops.

    Raises
    ------
    EffectError
        If the file can't be read, is no palette, or has no colours.
    """
    name = Path(path).name
    lines = read_regular(path, LARGEST_PALETTE).decode("utf-8-sig", errors="replace").splitlines()
    if not lines or lines[0].strip() != "GIMP Palette":
        raise EffectError(name, "this is no GIMP palette: its first line must be “GIMP Palette”.")
    colors = []
    for number, line in enumerate(lines[1:], 2):
        if not line.strip() or line.lstrip().startswith("#") or re.match(r"\s*[A-Za-z]+\s*:", line):
            continue
        found = _ROW.match(line)
        if found is None or any(int(part) > 255 for part in found.groups()[:3]):
            raise EffectError(
                name, f"line {number} is no colour; write red, green and blue from 0 to 255 and a name."
            )
        colors.append("#" + "".join(f"{int(part):02x}" for part in found.groups()[:3]))
        if len(colors) == MOST:
            break
    if not colors:
        raise EffectError(name, "this palette has no colours.")
    return evenly(colors)


def save_palette(stops: Stops, name: str, path: PathLike) -> None:
    """Write a gradient's stops as a GIMP palette; each colour is named by its place."""
    plain = " ".join(name.split()) or "Gradient"
    rows = ["GIMP Palette", f"Name: {plain}", f"Columns: {min(len(stops), 16)}", "#"]
    for stop in stops:
        red, green, blue = (int(stop.color[i : i + 2], 16) for i in (1, 3, 5))
        rows.append(f"{red:3d} {green:3d} {blue:3d}\t{stop.x:g}")
    write_whole(path, ("\n".join(rows) + "\n").encode())


def save_strip(stops: Stops, path: PathLike, size: tuple[int, int] = STRIP) -> None:
    """Write a gradient as a PNG strip, from left to right, mixed in linear light."""
    width, height = size
    shades = to_srgb(evaluate_stops(stops, (np.arange(width) + 0.5) / width))
    row = np.rint(np.clip(shades, 0, 1) * 255).astype(np.uint8)
    data = io.BytesIO()
    Image.fromarray(np.repeat(row[None], height, axis=0), "RGB").save(data, "PNG")
    write_whole(path, data.getvalue())


def load_strip(path: PathLike, tolerance: float = 0.012) -> Stops:
    """Return the gradient along an image's middle row, with as few stops as keep its colours.

    Parameters
    ----------
    tolerance : float
        How far a mixed colour may be off, 0…1 of sRGB.

    Raises
    ------
    EffectError
        If the file is no image.
    """
    image = _image(path)
    row = np.asarray(image)[image.height // 2].astype(np.float64) / 255.0
    x = np.linspace(0.0, 1.0, len(row))
    kept = {0, len(row) - 1}
    # Douglas and Peucker's way of thinning a line, on colours as they are mixed.
    while len(kept) < MOST:
        order = sorted(kept)
        stops = tuple(Stop(float(x[i]), srgb_to_hex(row[i])) for i in order)
        off = np.abs(np.clip(to_srgb(evaluate_stops(stops, x)), 0, 1) - row).max(axis=1)
        worst = int(np.argmax(off))
        if off[worst] <= tolerance or worst in kept:
            break
        kept.add(worst)
    order = sorted(kept)
    return tuple(Stop(round(float(x[i]), 4), srgb_to_hex(row[i])) for i in order)


def image_colors(path: PathLike, count: int = 6) -> list[str]:
    """Return an image's main colours, from light to dark.

    They are the means of boxes that hold equally many pixels (P. Heckbert's median cut, 1982).

    Raises
    ------
    EffectError
        If the file is no image.
    """
    image = _image(path)
    image.thumbnail((256, 256))
    few = image.quantize(count, Image.Quantize.MEDIANCUT)
    palette = (few.getpalette() or [])[: 3 * count]
    rows = np.array(palette, dtype=np.float64).reshape(-1, 3)[np.unique(np.asarray(few))] / 255.0
    colors = {srgb_to_hex(row) for row in rows}
    return sorted(colors, key=lambda color: -to_oklch(hex_to_linear(color))[0])


def _image(path: PathLike) -> Image.Image:
    """Return a picture file's image, refusing what is none."""
    name, data = Path(path).name, read_regular(path, LARGEST_PICTURE)
    try:
        with warnings.catch_warnings():
            # How many pixels are too many is said here.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data))
        if image.width * image.height > MOST_PIXELS:
            raise EffectError(
                name, f"{image.width} x {image.height} pixels are too many; make the picture smaller."
            )
        return image.convert("RGB")
    except EffectError:
        raise
    except (OSError, ValueError, SyntaxError, MemoryError, Image.DecompressionBombError):
        raise EffectError(name, "this is no image that can be read; take a PNG, JPEG or WebP.") from None
