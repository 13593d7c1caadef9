"""Finding how the frames of a texture sheet are laid out."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .cutting import Grid

MOST, MOST_FOUND = 16, 64
# Lines between frames may have so much of what there is on average.
_EMPTY = 0.12
Floats = NDArray[np.float64]


class Layout(NamedTuple):
    """Columns, rows, how many frames count, and the pixels around the sheet and between its frames."""

    columns: int
    rows: int
    frames: int
    margin: int = 0
    gap: int = 0


class _Axis(NamedTuple):
    """What is known along one axis: parts, margin, gap."""

    parts: int
    margin: int = 0
    gap: int = 0


def find_layout(pixels: NDArray[np.uint8] | NDArray[np.float32]) -> Layout:
    """Return the likeliest layout of a picture as a sheet; 1 × 1 if it seems to be one picture.

    Where clear lines lie between frames that are full to their borders, those lines are the gaps. Where frames have
    nothing along their borders, lines through that are looked for; else the distance at which the picture resembles
    itself.

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
    across, down = _along(seen), _along(seen.T)
    if across.parts == 1 and down.parts == 1:
        grey = light[:, :, :3].mean(axis=2) * (alpha if uneven else 1.0)
        across, down = _Axis(_by_likeness(grey)), _Axis(_by_likeness(grey.T))
    # Both axes have the same margin and gap; the one with more parts says which.
    main = across if across.parts >= down.parts else down
    grid = Grid(across.parts, down.parts, main.margin, main.gap)
    if min(grid.frame_size(seen.shape[1], seen.shape[0])) < 1:
        grid = Grid(across.parts, down.parts)
    return Layout(grid.columns, grid.rows, _frames(seen, grid), grid.margin, grid.gap)


def _along(seen: Floats) -> _Axis:
    """Return what is known of a sheet from left to right."""
    profile = seen.mean(axis=0)
    exact = _by_clear_lines(profile, seen)
    if exact is not None:
        return exact
    parts = _one_each(profile, seen) or _by_gaps(profile, seen)
    return _Axis(parts) if parts > 1 else _by_even_spacing(profile, seen) or _Axis(1)


def _runs(profile: Floats) -> list[tuple[int, int]]:
    """Return where there is something, as beginnings and ends."""
    some = np.concatenate([[False], profile > 1e-9, [False]])
    turns = np.flatnonzero(some[1:] != some[:-1])
    return list(zip(turns[::2].tolist(), turns[1::2].tolist(), strict=True))


def _by_clear_lines(profile: Floats, seen: Floats) -> _Axis | None:
    """Return the layout of frames that are full to their borders, with clear lines of one width between them."""
    runs = _runs(profile)
    if not 2 <= len(runs) <= MOST_FOUND:
        return None
    wide = {b - a for a, b in runs}
    gaps = {c - b for (_, b), (c, _) in itertools.pairwise(runs)}
    margin, rest = runs[0][0], len(profile) - runs[-1][1]
    if len(wide) != 1 or len(gaps) != 1 or margin != rest or min(wide) < 4:
        return None
    edges = profile[[at for a, b in runs for at in (a, b - 1)]]
    # What fades towards its borders may have reached farther than it is seen.
    if float(edges.min()) < 0.3 * float(profile[profile > 1e-9].mean()):
        return None
    axis = _Axis(len(runs), margin, gaps.pop())
    return axis if _parts_alike(seen, axis) else None


def _one_each(profile: Floats, seen: Floats) -> int:
    """Return the number of things that clear lines part, if each lies in a part of its own; 0 if not."""
    runs, long = _runs(profile), len(profile)
    count = len(runs)
    if not 2 <= count <= MOST or long % count or long // count < 4:
        return 0
    each = long // count
    if any(a < i * each or b > (i + 1) * each for i, (a, b) in enumerate(runs)):
        return 0
    return count if _alike(seen, count) else 0


def _by_even_spacing(profile: Floats, seen: Floats) -> _Axis | None:
    """Return the layout of soft frames that stand at one distance, though it doesn't divide the picture."""
    runs = _runs(profile)
    if not 2 <= len(runs) <= MOST_FOUND:
        return None
    middles = np.array([(a + b) / 2 for a, b in runs])
    count, long = len(runs), len(profile)
    for pitch in sorted(range(4, long // count + count + 1), key=lambda one: abs(one - float(np.diff(middles).mean()))):
        rest = long - count * pitch
        if abs(rest) > pitch // 2:
            continue
        margin, gap = (rest // 2, 0) if rest > 0 else (0, -rest)
        if rest > 0 and rest % 2:
            continue
        cells = np.array([margin + i * pitch for i in range(count)])
        inside = all(a >= c and b <= c + pitch - gap for (a, b), c in zip(runs, cells, strict=True))
        if inside and _parts_alike(seen, _Axis(count, margin, gap)):
            return _Axis(count, margin, gap)
    return None


def _parts_alike(seen: Floats, axis: _Axis) -> bool:
    """Return whether the parts of a layout hold about as much, in about the same place."""
    wide, _ = Grid(axis.parts, 1, axis.margin, axis.gap).frame_size(seen.shape[1], 2 * axis.margin + 1)
    if wide < 4:
        return False
    cut = [seen[:, axis.margin + i * (wide + axis.gap) :][:, :wide] for i in range(axis.parts)]
    return _alike(np.concatenate(cut, axis=1), axis.parts)


def _border_color(light: Floats) -> Floats:
    edge = np.concatenate([light[0, :, :3], light[-1, :, :3], light[:, 0, :3], light[:, -1, :3]])
    return np.median(edge, axis=0)  # type: ignore[no-any-return]


def _by_gaps(profile: Floats, seen: Floats) -> int:
    """Return into how many parts empty lines cut a picture from left to right."""
    long = len(profile)
    limit = _EMPTY * float(profile.mean())
    found = []
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
            found.append(parts)
    # The finest whose parts are alike: a single picture may have gaps of its own on lines (a ring, two drops).
    return next((parts for parts in reversed(found) if _alike(seen, parts)), 1)


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


def _frames(seen: Floats, grid: Grid) -> int:
    cells = np.array([grid.cut(seen, i).sum() for i in range(grid.columns * grid.rows)])
    held = np.flatnonzero(cells > 1e-6 * float(cells.max(initial=1e-9)))
    return int(held[-1]) + 1 if len(held) else 1
