"""Which of an EXR file's channels are its picture: one of its layers, laid into the window that is shown."""

from __future__ import annotations

import os
import struct
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..effect.errors import EffectError
from .pictures import as_half_floats_hold

Floats = NDArray[np.float32]
# What each layer's channels may be called.
_COLORS, _LIGHT, _ALPHA = ("R", "G", "B"), "Y", "A"


def header_sizes(data: bytes, place: str) -> list[tuple[int, int]]:
    """Return the sizes of the windows that an EXR file's header tells, width and height, before anything is
    decoded.

    Raises
    ------
    EffectError
        If it tells none.
    """
    sizes = []
    for name in (b"dataWindow\0box2i\0", b"displayWindow\0box2i\0"):
        at = data.find(name, 0, 1 << 20)
        if at < 0 or at + len(name) + 20 > len(data):
            raise EffectError(place, "this EXR says nothing of its size; save it anew.")
        left, top, right, bottom = struct.unpack_from("<4i", data, at + len(name) + 4)
        sizes.append((right - left + 1, bottom - top + 1))
    return sizes


def read_exr(
    path: str | os.PathLike[str], place: str, layer: str, allowed: Callable[[int, int, str], None]
) -> tuple[Floats, bool]:
    """Return a layer of an EXR file as it is shown, (height, width, 4), and whether it has alpha.

    Parameters
    ----------
    layer : str
        Its name; empty for the channels without one, or, if those are no picture, the first that is one.
    allowed : callable
        Told a width, a height and ``place``; refuses what is too large.

    Raises
    ------
    EffectError
        If there is no such layer, or its channels can't be put together.
    """
    # Some tens of milliseconds that few files need.
    import OpenEXR

    with OpenEXR.File(os.fspath(path), separate_channels=True) as file:
        layers, header = _layers(file)
        channels = _chosen(layers, layer, place)
        window, shown = (_box(header[name]) for name in ("dataWindow", "displayWindow"))
        allowed(shown[2] - shown[0], shown[3] - shown[1], place)
        return _laid(_together(channels, place), window, shown), _ALPHA in channels


def _layers(file: Any) -> tuple[dict[str, dict[str, Any]], dict[str, Any]]:
    """Return a file's channels by layer, and its first part's header. Each of several parts is a layer of
    its own, or more.
    """
    found: dict[str, dict[str, Any]] = {}
    for number, part in enumerate(file.parts):
        said = str(part.header.get("name", "") or "")
        for name, channel in part.channels.items():
            layer, _, short = name.rpartition(".")
            if number:
                layer = ".".join(filter(None, (said or str(number), layer)))
            found.setdefault(layer, {})[short.upper()] = channel.pixels
    return found, file.parts[0].header


def _chosen(layers: dict[str, dict[str, Any]], wanted: str, place: str) -> dict[str, Any]:
    """Return the layer of an EXR that is wanted, or the only or main one."""
    if not layers:
        raise EffectError(place, "this EXR has no channels; save it anew.")
    if wanted:
        if wanted not in layers:
            names = ", ".join(f"“{name}”" for name in layers if name)
            raise EffectError(
                place,
                f"this EXR has no layer “{wanted}”; "
                + (f"it has {names}." if names else "all its channels are in one."),
            )
        return layers[wanted]
    own = layers.get("", {})
    if any(name in own for name in (*_COLORS, _LIGHT)):
        return own
    pictures = [some for some in layers.values() if any(name in some for name in _COLORS)]
    pictures += [some for some in layers.values() if _LIGHT in some]
    return (pictures or [own or next(iter(layers.values()))])[0]


def _together(channels: dict[str, Any], place: str) -> Floats:
    """Return a layer's channels as one picture; a single one is grey."""
    usual = [channels[name] for name in _COLORS if name in channels]
    if not usual:
        rest = [pixels for name, pixels in channels.items() if name != _ALPHA]
        usual = [channels[_LIGHT]] if _LIGHT in channels else (rest or [channels[_ALPHA]])[:1]
    shape = usual[0].shape
    if len(shape) != 2 or any(part.shape != shape for part in usual):
        raise EffectError(place, "this EXR's channels are of different sizes; save them with one.")
    out = np.ones((*shape, 4), np.float32)
    for i in range(3):
        out[:, :, i] = usual[min(i, len(usual) - 1)]
    if _ALPHA in channels and channels[_ALPHA].shape == shape:
        out[:, :, 3] = np.clip(np.nan_to_num(channels[_ALPHA], nan=0.0), 0.0, 1.0)
    return as_half_floats_hold(out)


def _box(window: Any) -> tuple[int, int, int, int]:
    (left, top), (right, bottom) = window
    return int(left), int(top), int(right) + 1, int(bottom) + 1


def _laid(pixels: Floats, window: tuple[int, int, int, int], shown: tuple[int, int, int, int]) -> Floats:
    """Return what is shown of pixels that fill a window of their own; where there are none it is clear."""
    if window == shown:
        return pixels
    out = np.zeros((shown[3] - shown[1], shown[2] - shown[0], 4), np.float32)
    left, top = max(window[0], shown[0]), max(window[1], shown[1])
    right, bottom = min(window[2], shown[2]), min(window[3], shown[3])
    if right > left and bottom > top:
        part = pixels[top - window[1] : bottom - window[1], left - window[0] : right - window[0]]
        out[top - shown[1] : bottom - shown[1], left - shown[0] : right - shown[0]] = part
    return out
