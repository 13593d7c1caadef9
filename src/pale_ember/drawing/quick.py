"""A moment drawn by the processor alone, for while something is dragged where OpenGL is the processor's work too.

It draws what :mod:`.renderer` draws, to a few levels of 255: the same projection, the same dots and blends over the
same backdrop (which comes from the renderer), the same glow but for its outermost reach. A dot costs only its own
pixels, where a software OpenGL spends most of its time on setting each one up.
"""

from __future__ import annotations

import itertools
import math
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..effect.colors import to_srgb
from ..effect.effect import Camera
from .camera import axes_of, projection_matrix, view_matrix
from .filmstrip import frame_camera, in_a_row
from .moment import Moment, gathered, in_order
from .renderer import GLOW_LEVELS, GLOW_SHARE, Renderer

Floats = NDArray[np.float32]
_options: dict[str, Any] = {"cache": True, "nogil": True, "fastmath": True, "error_model": "numpy"}
# Light is looked up in a table over its square root, up to this much.
BRIGHTEST, STEPS = 16.0, 4096
# More pixels than this, all dots together, are quicker drawn by OpenGL.
MOST_PIXELS = 6_000_000
BANDS = 2


def _tones() -> NDArray[np.uint8]:
    """Return what a screen shows for light, 0…255, over the square root of the light: the shader's shoulder and sRGB."""
    light = (np.arange(STEPS) / (STEPS - 1)) ** 2 * BRIGHTEST
    bend = 0.7
    over = np.maximum(light - bend, 0.0)
    shoulder = np.minimum(light, bend) + (1 - bend) * (1 - np.exp(-over / (1 - bend) * 0.55))
    return np.rint(to_srgb(np.clip(shoulder, 0, 1)) * 255).astype(np.uint8)


_TONES = _tones()


def projected(rows: Floats, size: tuple[int, int], view: Any, projection: Any) -> tuple[Floats, int]:
    """Return dots as they fall on a picture, and how many pixels they have in all.

    Returns
    -------
    (ndarray (n, 10), int)
        Middle x and y in pixels from the lower left, half width and half height, cosine and sine of the turn,
        light, and how much of it there is; those behind the eye or outside are left out.
    """
    whole = (projection @ view).astype(np.float32)
    found = np.empty((len(rows), 10), np.float32)
    count, pixels = _project(rows, whole, np.float32(projection[1, 1]), size[0], size[1], found)
    return found[:count], int(pixels)


@njit(**_options)
def _project(rows, whole, lens, width, height, out):
    """Fill ``out`` with the dots that are seen; return how many, and how many pixels they have. As speck.vert has it."""
    count, pixels = 0, 0.0
    half_width, half_height = np.float32(width / 2), np.float32(height / 2)
    one, half = np.float32(1.0), np.float32(0.5)
    for i in range(rows.shape[0]):
        px, py, pz = rows[i, 0], rows[i, 1], rows[i, 2]
        w = whole[3, 0] * px + whole[3, 1] * py + whole[3, 2] * pz + whole[3, 3]
        if not w > np.float32(1e-6):
            continue
        x = ((whole[0, 0] * px + whole[0, 1] * py + whole[0, 2] * pz + whole[0, 3]) / w + one) * half_width
        y = ((whole[1, 0] * px + whole[1, 1] * py + whole[1, 2] * pz + whole[1, 3]) / w + one) * half_height
        reach = max(rows[i, 3], rows[i, 4])
        scale = lens * half_height / w
        radius = reach * scale * half
        if x < -radius or x > width + radius or y < -radius or y > height + radius:
            continue
        near = min(max(w / max(np.float32(0.25) * reach, np.float32(1e-4)), np.float32(0.0)), one)
        near = near * near * (np.float32(3.0) - np.float32(2.0) * near)
        small = min(radius * np.float32(2.0), one)
        # What is smaller than a pixel is drawn a pixel wide, with as much less light.
        grown = max(half / max(radius, np.float32(1e-9)), one) * scale * half
        out[count, 0], out[count, 1] = x, y
        out[count, 2] = max(rows[i, 3] * grown, np.float32(1e-4))
        out[count, 3] = max(rows[i, 4] * grown, np.float32(1e-4))
        out[count, 4], out[count, 5] = np.cos(rows[i, 5]), np.sin(rows[i, 5])
        for k in range(3):
            out[count, 6 + k] = rows[i, 6 + k] * rows[i, 10]
        out[count, 9] = rows[i, 9] * near * small * small
        box = min(radius * np.float32(2.0) + one, np.float32(max(width, height)))
        pixels += box * box
        count += 1
    return count, pixels


@njit(**_options)
def _splat(out, dots, cover, first, last):
    """Put dots onto the rows ``first`` to ``last`` of a picture of light, one over the other."""
    width = out.shape[1]
    for i in range(dots.shape[0]):
        x, y = dots[i, 0], dots[i, 1]
        a, b, c, s = dots[i, 2], dots[i, 3], dots[i, 4], dots[i, 5]
        r = max(a, b)
        top = min(math.ceil(y + r - np.float32(0.5)), last)
        low = max(math.floor(y - r + np.float32(0.5)), first)
        left, right = max(math.floor(x - r + np.float32(0.5)), 0), min(math.ceil(x + r - np.float32(0.5)), width)
        red, green, blue, light = dots[i, 6], dots[i, 7], dots[i, 8], dots[i, 9]
        ia, ib = np.float32(1.0) / a, np.float32(1.0) / b
        for row in range(low, top):
            dy = np.float32(row) + np.float32(0.5) - y
            for column in range(left, right):
                dx = np.float32(column) + np.float32(0.5) - x
                u, v = (c * dx + s * dy) * ia, (c * dy - s * dx) * ib
                far = u * u + v * v
                if far < np.float32(1.0):
                    soft = (np.float32(1.0) - far) * (np.float32(1.0) - far) * light
                    stays = np.float32(1.0) - soft * cover
                    out[row, column, 0] = out[row, column, 0] * stays + red * soft
                    out[row, column, 1] = out[row, column, 1] * stays + green * soft
                    out[row, column, 2] = out[row, column, 2] * stays + blue * soft


@njit(**_options)
def _shrunk(source, by):
    """Return a picture with each pixel the mean of ``by`` times ``by``; what is left over at the ends is left out."""
    height, width = max(source.shape[0] // by, 1), max(source.shape[1] // by, 1)
    tall, wide = min(by, source.shape[0]), min(by, source.shape[1])
    out = np.zeros((height, width, 3), np.float32)
    share = np.float32(1.0 / (tall * wide))
    for y in range(height):
        for j in range(tall):
            for x in range(width):
                for i in range(wide):
                    for k in range(3):
                        out[y, x, k] += source[y * by + j, x * by + i, k]
        for x in range(width):
            for k in range(3):
                out[y, x, k] = min(out[y, x, k] * share, np.float32(60.0))
    return out


@njit(**_options)
def _softened(coarse):
    """Return a picture softened over three by three pixels."""
    high, wide = coarse.shape[0], coarse.shape[1]
    soft = np.empty_like(coarse)
    for y in range(high):
        up, down = max(y - 1, 0), min(y + 1, high - 1)
        for x in range(wide):
            left, right = max(x - 1, 0), min(x + 1, wide - 1)
            for k in range(3):
                sides = coarse[y, left, k] + coarse[y, right, k] + coarse[up, x, k] + coarse[down, x, k]
                corners = coarse[up, left, k] + coarse[up, right, k] + coarse[down, left, k] + coarse[down, right, k]
                soft[y, x, k] = (coarse[y, x, k] * 4 + sides * 2 + corners) * np.float32(1.0 / 16.0)
    return soft


@njit(**_options)
def _places(count, coarse):
    """Return for each of ``count`` pixels the coarse one before it, and how far it is on the way to the next."""
    first, share = np.empty(count, np.int32), np.empty(count, np.float32)
    for i in range(count):
        at = min(max((i + 0.5) * coarse / count - 0.5, 0.0), coarse - 1.0)
        first[i] = min(int(at), max(coarse - 2, 0))
        share[i] = at - first[i]
    return first, share


@njit(**_options)
def _row(glow, y0, fy, line):
    """Fill ``line`` with a row of a coarse picture between two of its rows."""
    y1 = min(y0 + 1, glow.shape[0] - 1)
    for x in range(glow.shape[1]):
        for k in range(3):
            line[x, k] = glow[y0, x, k] + (glow[y1, x, k] - glow[y0, x, k]) * fy


@njit(**_options)
def _widened(coarse, fine):
    """Add a coarse picture, softened and read softly, to one twice as large."""
    soft = _softened(coarse)
    ys, fys = _places(fine.shape[0], coarse.shape[0])
    xs, fxs = _places(fine.shape[1], coarse.shape[1])
    line = np.empty((coarse.shape[1], 3), np.float32)
    for y in range(fine.shape[0]):
        _row(soft, ys[y], fys[y], line)
        for x in range(fine.shape[1]):
            x0, x1 = xs[x], min(xs[x] + 1, coarse.shape[1] - 1)
            for k in range(3):
                fine[y, x, k] += line[x0, k] + (line[x1, k] - line[x0, k]) * fxs[x]


@njit(**_options)
def _developed(scene, glow, tones, share, scale, out, first, last):
    """Write rows of a picture of light as a window takes them: blue, green, red."""
    most, top = np.float32(tones.shape[0] - 1), tones.shape[0] - 1
    squeeze = most * most * np.float32(1.0 / BRIGHTEST)
    ys, fys = _places(scene.shape[0], glow.shape[0])
    xs, fxs = _places(scene.shape[1], glow.shape[1])
    line = np.empty((glow.shape[1], 3), np.float32)
    stays, comes = np.float32(1.0) - share, share * scale
    for y in range(first, last):
        _row(glow, ys[y], fys[y], line)
        for x in range(scene.shape[1]):
            x0, x1, fx = xs[x], min(xs[x] + 1, glow.shape[1] - 1), fxs[x]
            for k in range(3):
                shine = line[x0, k] + (line[x1, k] - line[x0, k]) * fx
                light = max(scene[y, x, k] * stays + shine * comes, np.float32(0.0))
                out[y, x, 2 - k] = tones[min(np.int32(np.sqrt(light * squeeze)), top)]
            out[y, x, 3] = 255


def developed(scene: Floats, pool: ThreadPoolExecutor) -> NDArray[np.uint8]:
    """Return a picture of light as pixels, with its glow; shape (height, width, 4)."""
    levels = [_shrunk(scene, 4)]
    for _ in range(GLOW_LEVELS - 1):
        levels.append(_shrunk(levels[-1], 2))
    for fine, coarse in zip(levels[-2::-1], levels[:0:-1], strict=True):
        _widened(coarse, fine)
    out = np.empty((*scene.shape[:2], 4), np.uint8)

    def work(first: int, last: int) -> None:
        _developed(scene, levels[0], _TONES, np.float32(GLOW_SHARE), np.float32(1 / GLOW_LEVELS), out, first, last)

    _in_bands(work, scene.shape[0], pool)
    return out


def _in_bands(work: Any, height: int, pool: ThreadPoolExecutor) -> None:
    edges = [round(height * i / BANDS) for i in range(BANDS + 1)]
    for done in [pool.submit(work, a, b) for a, b in itertools.pairwise(edges)]:
        done.result()


class Quick:
    """Draws moments without OpenGL but for what is behind them.

    Parameters
    ----------
    renderer : Renderer
        Draws the backdrop whenever it is another.
    """

    def __init__(self, renderer: Renderer) -> None:
        self._renderer = renderer
        self._pool = ThreadPoolExecutor(BANDS, "quick")
        self._behind: Floats = np.zeros((1, 1, 3), np.float32)
        self._behind_of: tuple[Any, ...] = ()
        self._film_behind: Floats = self._behind
        self._film_of: tuple[Any, ...] = ()

    def pixels(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool
    ) -> NDArray[np.uint8] | None:
        """Return a moment as pixels from the lower left, blue first; None if that would take long."""
        view, projection = view_matrix(camera), projection_matrix(camera, *size)
        key = (size, camera, backdrop, grid)
        if key != self._behind_of:
            self._behind, self._behind_of = self._light_behind(size, camera, backdrop, grid), key
        _, _, back = axes_of(camera)
        dots, count = [], 0
        for layer in sorted(moment.layers, key=lambda drawn: drawn.order):
            rows = in_order(gathered(layer, camera.target), back)
            if len(rows):
                found, pixels = projected(rows, size, view, projection)
                dots.append((found, 0.0 if layer.blend == "add" else 1.0))
                count += pixels
        if count > MOST_PIXELS:
            return None
        scene = self._behind.copy()

        def work(first: int, last: int) -> None:
            for found, cover in dots:
                _splat(scene, found, np.float32(cover), first, last)

        _in_bands(work, size[1], self._pool)
        return developed(scene, self._pool)

    def _light_behind(self, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool) -> Floats:
        # Making a context current takes longer than a small picture: it is done only when there is need.
        with self._renderer.ctx:
            return self._renderer.behind(size, camera, backdrop, grid)

    def film_pixels(
        self, rows: Floats, camera: Camera, scale: float, size: tuple[int, int], look: tuple[str, str]
    ) -> NDArray[np.uint8]:
        """Return instances side by side, as :func:`~.filmstrip.draw_filmstrip` draws them, neighbours' glow included."""
        seen = frame_camera(camera, scale, size[1])
        key = (size, len(rows), seen, look[1])
        if key != self._film_of:
            one = self._light_behind(size, seen, look[1], False)
            self._film_behind, self._film_of = np.tile(one, (1, len(rows), 1)), key
        whole = (size[0] * len(rows), size[1])
        placed = in_a_row(rows, seen, size[0] / scale)
        found, _ = projected(placed, whole, view_matrix(seen), projection_matrix(seen, *whole))
        scene = self._film_behind.copy()
        _splat(scene, found, np.float32(0.0 if look[0] == "add" else 1.0), 0, size[1])
        return developed(scene, self._pool)

    def release(self) -> None:
        self._pool.shutdown(wait=False)


def prepare() -> None:
    """Compile, or load from the disk cache, what a quick picture needs."""
    scene = np.zeros((64, 64, 3), np.float32)
    projected(np.ones((1, 11), np.float32), (64, 64), np.eye(4), np.eye(4))
    _splat(scene, np.ones((1, 10), np.float32), np.float32(0.0), 0, 64)
    with ThreadPoolExecutor(BANDS) as pool:
        developed(scene, pool)
