"""Finding how the frames of a texture sheet are laid out."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

MOST = 16
# Lines between frames may have so much of what there is on average.
_EMPTY = 0.12
Floats = NDArray[np.float64]


class Layout(NamedTuple):
    """Columns, rows, and how many frames count."""

    columns: int
    rows: int
    frames: int


def find_layout(pixels: NDArray[np.uint8] | NDArray[np.float32]) -> Layout:
    """Return the likeliest layout of a picture as a sheet; 1 × 1 if it seems to be one picture.

    Where frames have nothing along their borders, lines through that are looked for; else the distance at which the
    picture resembles itself.

    Parameters
    ----------
    pixels : (height, width, 4) array
    """
    light = pixels.astype(np.float64) / (255.0 if pixels.dtype == np.uint8 else 1.0)
    alpha = light[:, :, 3]
    uneven = float(alpha.max() - alpha.min()) > 0.05
    seen = alpha if uneven else np.abs(light[:, :, :3] - _border_color(light)).max(axis=2)
    # Faint grain is nothing.
    seen = np.where(seen > 0.03, seen, 0.0)
    if float(seen.mean()) < 1e-4:
        return Layout(1, 1, 1)
    columns, rows = _by_gaps(seen.mean(axis=0), seen), _by_gaps(seen.mean(axis=1), seen.T)
    if columns == 1 and rows == 1:
        grey = light[:, :, :3].mean(axis=2) * (alpha if uneven else 1.0)
        columns, rows = _by_likeness(grey), _by_likeness(grey.T)
    return Layout(columns, rows, _frames(seen, columns, rows))


def _border_color(light: Floats) -> Floats:
    edge = np.concatenate([light[0, :, :3], light[-1, :, :3], light[:, 0, :3], light[:, -1, :3]])
    return np.median(edge, axis=0)  # type: ignore[no-any-return]


def _by_gaps(profile: Floats, seen: Floats) -> int:
    """Return into how many parts empty lines cut a picture from left to right."""
    long = len(profile)
    limit = _EMPTY * float(profile.mean())
    best = 1
    for parts in range(2, MOST + 1):
        if long % parts:
            continue
        each = long // parts
        if each < 4:
            break
        lines = np.concatenate([[k * each - 1, k * each] for k in range(1, parts)])
        cells = profile.reshape(parts, each).sum(axis=1)
        # All but the last few cells of a row hold something.
        if float(profile[lines].mean()) <= limit and float(profile[lines].max()) <= 4 * limit and np.count_nonzero(cells > 1e-9) >= max(parts - 1, 2):
            best = parts
    # A single picture whose own gaps lie on lines (a ring, two drops) is asked whether its parts are alike.
    return best if best == 1 or _alike(seen, best) else 1


def _alike(seen: Floats, parts: int) -> bool:
    """Return whether parts side by side hold about as much, in about the same place."""
    high, long = seen.shape
    cells = seen.reshape(high, parts, long // parts)
    mass = cells.sum(axis=(0, 2))
    some = mass > 0.02 * mass.max()
    if np.count_nonzero(some) < 2:
        return False
    at = (cells.sum(axis=0) * np.arange(long // parts)).sum(axis=1)[some] / mass[some] / (long // parts)
    return float(np.abs(at - 0.5).max()) < 0.32 and float(np.ptp(at)) < 0.35


def _by_likeness(grey: Floats) -> int:
    """Return the number of parts at whose distance a picture resembles itself; 1 if at none."""
    high, long = grey.shape
    scores: dict[int, float] = {}
    spread = float(grey.std())
    if spread < 1e-3:
        return 1
    for parts in range(2, MOST + 1):
        each = long // parts
        if long % parts or each < 8:
            continue
        cells = grey.reshape(high, parts, each)
        apart = float(np.abs(np.diff(cells, axis=1)).mean())
        # Against what neighbours have in common by chance: the same shifted by half a part.
        other = np.roll(grey, each // 2, axis=1).reshape(high, parts, each)
        chance = float(np.abs(cells - other).mean())
        scores[parts] = apart / max(chance, 1e-9)
    if not scores:
        return 1
    best = min(scores.values())
    if best > 0.6:
        return 1
    # Twice the distance resembles as well: the finest division that is about as good.
    return max(parts for parts, score in scores.items() if score <= best * 1.15 + 0.02)


def _frames(seen: Floats, columns: int, rows: int) -> int:
    high, wide = seen.shape[0] // rows, seen.shape[1] // columns
    cells = seen[: rows * high, : columns * wide].reshape(rows, high, columns, wide).sum(axis=(1, 3)).reshape(-1)
    held = np.flatnonzero(cells > 1e-6 * float(cells.max(initial=1e-9)))
    return int(held[-1]) + 1 if len(held) else 1
