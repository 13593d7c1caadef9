"""A texture made ready to be drawn: frames as the graphics card takes them, and the polygons that they
are cut to.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..effect.textures import Texture
from ..effect.values.colors import BYTE_LIGHT, to_srgb
from .outline import CORNERS, joint, outline, strip_corners
from .pictures import Pictures

# Steps that light is told by while it is made into sRGB bytes: the darkest byte still has nineteen.
_STEPS = 65536


@dataclass(frozen=True, eq=False)
class Prepared:
    """A texture's frames; each is its own object, and equal to no other.

    Attributes
    ----------
    pixels : (frames, height, width, 4) uint8 or float16
        Of colours, light multiplied by cover: bytes are sRGB, halves are linear. Of data, numbers as they
        are.
    data : bool
    normals : (frames, height, width, 4) uint8 or None
        0…255 for −1…1.
    motion : (frames, height, width, 2) float16 or None
        In frames, right and up.
    corners, joint_corners : (frames, 8, 2) float32
        Polygons as strips of triangles: of each frame, and of each with the one behind it.
    smooth, wrap : bool
    note : str
        What is worth telling about its size; empty for nothing.
    """

    pixels: NDArray[np.uint8] | NDArray[np.float16]
    data: bool
    normals: NDArray[np.uint8] | None
    motion: NDArray[np.float16] | None
    corners: NDArray[np.float32]
    joint_corners: NDArray[np.float32]
    smooth: bool = True
    wrap: bool = False
    note: str = ""

    @property
    def frames(self) -> int:
        return self.pixels.shape[0]  # type: ignore[no-any-return]

    @property
    def size(self) -> tuple[int, int]:
        return self.pixels.shape[2], self.pixels.shape[1]

    @property
    def memory(self) -> int:
        """Return the bytes that it takes on the graphics card, smaller copies included."""
        # Bytes of colour become linear halves there.
        picture = self.pixels.nbytes * (2 if self.is_coded else 1)
        return (
            (picture + sum(part.nbytes for part in (self.normals, self.motion) if part is not None)) * 4 // 3
        )

    @property
    def is_coded(self) -> bool:
        """Return whether its light is sRGB bytes."""
        return not self.data and self.pixels.dtype == np.uint8

    @functools.cached_property
    def is_opaque(self) -> bool:
        """Return whether it covers whole, everywhere in all frames."""
        return bool(np.all(self.pixels[..., 3] >= (255 if self.pixels.dtype == np.uint8 else 0.999)))

    @functools.cached_property
    def mean(self) -> NDArray[np.float32]:
        """Return the mean of its colour where it covers, linear, (3,); bright parts count by their
        brightness.
        """
        found = self.pixels[:: max(self.frames // 8, 1), ::4, ::4].astype(np.float32).reshape(-1, 4)
        light = found[:, :3]
        if self.pixels.dtype == np.uint8:
            found = found / np.float32(255.0)
            light = (
                found[:, :3]
                if self.data
                else BYTE_LIGHT[self.pixels[:: max(self.frames // 8, 1), ::4, ::4, :3].reshape(-1, 3)]
            )
        light = light * found[:, 3:] if self.data else light
        weight = light.mean(axis=1, keepdims=True)
        return (light * weight).sum(axis=0) / max(float((found[:, 3:] * weight).sum()), 1e-6)  # type: ignore[no-any-return]

    @property
    def covered(self) -> float:
        """Return the share of its square that its polygons fill, in the mean over all frames."""
        strips = self.corners.astype(np.float64)
        a, b, c = strips[:, :-2], strips[:, 1:-1], strips[:, 2:]
        areas = np.abs((b - a)[..., 0] * (c - a)[..., 1] - (b - a)[..., 1] * (c - a)[..., 0]).sum(axis=1) / 2
        return float(areas.mean() / 4.0)


def prepared(
    texture: Texture, pictures: Pictures, normals: Pictures | None = None, motion: Pictures | None = None
) -> Prepared:
    """Return pictures made ready.

    Parameters
    ----------
    texture : Texture
        Says how they are meant.
    normals, motion : Pictures, optional
        Of the textures that it names as its normal and its motion map; those of its own build by default.
    """
    if texture.data:
        known = (
            np.clip(pictures.pixels, 0.0, 1.0)
            if float(pictures.pixels.max(initial=0.0)) <= 1.0
            else pictures.pixels
        )
        cover = _most(np.abs(known) if texture.build is None or texture.file else known)
    else:
        alpha = pictures.pixels[..., 3:]
        known = np.empty_like(pictures.pixels)
        np.multiply(
            pictures.pixels[..., :3], np.float32(1.0) if pictures.premultiplied else alpha, out=known[..., :3]
        )
        # Light may be made brighter by the layer: what is a quarter as faint is still seen.
        cover = np.maximum(alpha[..., 0], np.float32(4.0) * _most(known[..., :3]))
        np.maximum(known[..., :3], 0.0, out=known[..., :3])
        known[..., 3] = alpha[..., 0]
    deep = float(known.max(initial=0.0)) > 1.0 or float(known.min(initial=0.0)) < 0.0 or pictures.deep
    pixels = known.astype(np.float16) if deep else _in_bytes(known, texture.data)
    slopes = pictures.normals if normals is None else _as_vectors(normals, pictures.frames)
    moves = pictures.motion if motion is None else _as_motion(motion, pictures.frames, texture.motion_reach)
    polygons = [outline(one) for one in cover]
    count = len(polygons)
    together = (
        polygons if count == 1 else [joint(one, polygons[(i + 1) % count]) for i, one in enumerate(polygons)]
    )
    return Prepared(
        pixels,
        texture.data,
        None if slopes is None else _packed_normals(slopes),
        None if moves is None else np.clip(moves, -4.0, 4.0).astype(np.float16),
        np.stack([strip_corners(one) for one in polygons]).reshape(count, CORNERS, 2),
        np.stack([strip_corners(one) for one in together]).reshape(count, CORNERS, 2),
        texture.smooth,
        texture.wrap,
    )


def linear_halves(pixels: NDArray[Any]) -> NDArray[np.float16]:
    """Return bytes of a texture's colours, (..., 4), as linear halves."""
    light, cover = _half_tables()
    out = np.empty(pixels.shape, np.float16)
    np.take(light, pixels[..., :3], out=out[..., :3])
    np.take(cover, pixels[..., 3], out=out[..., 3])
    return out


@functools.cache
def _half_tables() -> tuple[NDArray[np.float16], NDArray[np.float16]]:
    """Return the light and the cover of each byte."""
    return BYTE_LIGHT.astype(np.float16), (np.arange(256) / 255.0).astype(np.float16)


@functools.cache
def _srgb_bytes() -> NDArray[np.uint8]:
    """Return the nearest sRGB byte of linear light in steps."""
    return np.rint(to_srgb(np.linspace(0.0, 1.0, _STEPS)) * 255.0).astype(np.uint8)


def _in_bytes(known: NDArray[np.float32], data: bool) -> NDArray[np.uint8]:
    """Return numbers from 0 to 1, (..., 4), as bytes: light as sRGB, data as it is."""
    if data:
        return np.rint(known * 255.0).astype(np.uint8)  # type: ignore[no-any-return]
    out = np.empty(known.shape, np.uint8)
    steps = (known[..., :3] * np.float32(_STEPS - 1) + np.float32(0.5)).astype(np.uint16)
    out[..., :3] = _srgb_bytes()[steps]
    out[..., 3] = np.rint(known[..., 3] * 255.0)
    return out


def _most(parts: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return the largest of a pixel's parts; a chain of comparisons is far quicker than a reduction over
    a short axis.
    """
    return functools.reduce(np.maximum, (parts[..., k] for k in range(parts.shape[-1])))


def _fitted(frames: NDArray[np.float32], count: int) -> NDArray[np.float32]:
    return frames[np.arange(count) % len(frames)]


def _as_vectors(pictures: Pictures, count: int) -> NDArray[np.float32]:
    found = _fitted(pictures.pixels[..., :3], count) * 2 - 1
    length = np.sqrt((found * found).sum(axis=3, keepdims=True))
    return np.where(length > 1e-3, found / np.maximum(length, 1e-3), np.array([0, 0, 1], np.float32)).astype(
        np.float32
    )


def _as_motion(pictures: Pictures, count: int, reach: float) -> NDArray[np.float32]:
    return ((_fitted(pictures.pixels[..., :2], count) * 2 - 1) * np.float32(reach)).astype(np.float32)


def _packed_normals(slopes: NDArray[np.float32]) -> NDArray[np.uint8]:
    found = np.full((*slopes.shape[:3], 4), 255, np.uint8)
    found[..., :3] = np.rint((slopes * 0.5 + 0.5) * 255.0)
    return found
