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
# How much more a picture changes from one frame to another than beside that border.
_JUMP = 2.0
# How little frames may resemble each other at most: where likeness alone tells, where proportions do too, of
# two halves.
_UNLIKE, _NEARLY, _HALVES = 0.6, 0.9, 0.5
# How much less unlike the frames at a row's end must be than others; how many times as long as wide no frame
# is.
_NEXT, _SLIM = 0.3, 2.5
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

    Where clear lines lie between frames that are full to their borders, those lines are the gaps. Where
    frames have nothing along their borders, lines through that are looked for; else the distance at which the
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
    shown = light * alpha[..., None] if uneven else light
    across, down = _along(seen), _along(seen.T)
    if across.margin == across.gap == down.margin == down.gap == 0:
        across, down = _with_borders(across, down, shown, seen)
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
    """Return the layout of frames that are full to their borders, with clear lines of one width between
    them.
    """
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
    for pitch in sorted(
        range(4, long // count + count + 1), key=lambda one: abs(one - float(np.diff(middles).mean()))
    ):
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
        if (
            float(profile[lines].mean()) <= limit
            and float(profile[lines].max()) <= 4 * limit
            and np.count_nonzero(cells > 1e-9) >= max(parts - 1, 2)
        ):
            found.append(parts)
    # The finest whose parts are alike: a single picture may have gaps of its own on lines (a ring, two
    # drops).
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


def _with_borders(across: _Axis, down: _Axis, shown: Floats, seen: Floats) -> tuple[_Axis, _Axis]:
    """Return what two axes have, where borders between frames that touch them, likeness, or proportions,
    tell more.
    """
    turned = np.swapaxes(shown, 0, 1)
    unlike = _Unlike(shown), _Unlike(turned)
    found, borders = [], []
    for axis, one, some, alike in zip((across, down), (shown, turned), (seen, seen.T), unlike, strict=True):
        long, parts = one.shape[1], axis.parts
        more, like = _by_borders(one, some, alike), _by_likeness(long, alike)
        # What empty lines tell may be divided further, but not otherwise, unless parts are far more alike
        # then.
        if more % parts == 0:
            parts = more
        if like > 1 and (parts == 1 or alike.at(long // like) < 0.5 * alike.at(long // parts)):
            parts = like
        found.append(parts)
        borders.append(parts > 1 and parts in (axis.parts, more))
    for i in range(2):
        long, other = shown.shape[1 - i], shown.shape[i]
        # One thing may have two halves, such as a ring or a pair of drops.
        if (
            found[i] == 2
            and found[1 - i] == 1
            and long < 1.5 * other
            and unlike[i].at(long // 2) > (_HALVES if borders[i] else _HALVES / 2)
        ):
            found[i] = 1
    if max(found) == 1:
        return _Axis(1), _Axis(1)
    if found[1] == 1:
        found[1] = _by_reading(shown, found[0])
    wide, high = shown.shape[1] / found[0], shown.shape[0] / found[1]
    return _Axis(_squarer(shown.shape[1], found[0], high, unlike[0])), _Axis(
        _squarer(shown.shape[0], found[1], wide, unlike[1])
    )


def _by_reading(shown: Floats, columns: int) -> int:
    """Return in how many rows the last frame of each is like the first of the next; 1 if in none."""
    high, long = shown.shape[:2]
    wide = long // columns
    if columns < 3:
        return 1
    best, found = _NEXT, 1
    for rows in range(2, MOST + 1):
        each = high // rows
        if high % rows or each < 8 or not 1 / _SLIM <= wide / each <= _SLIM:
            continue
        frames = shown[..., :3].mean(axis=2).reshape(rows, each, columns, wide)
        frames = frames - frames.mean(axis=(1, 3), keepdims=True)
        lasts, others = frames[:-1, :, -1], frames[1:]
        apart = ((others - lasts[:, :, None]) ** 2).mean(axis=(0, 1, 3))
        score = float(apart[0] / max(apart[columns // 2 :].mean(), 1e-9))
        if score < best:
            best, found = score, rows
    return found


def _squarer(long: int, parts: int, beside: float, unlike: _Unlike) -> int:
    """Return how many parts there are along an axis whose parts are far longer than the other axis' parts."""
    best, found = _SLIM, parts
    if long / parts < best * beside or unlike.plain:
        return parts
    for more in range(parts * 2, 4 * MOST + 1, parts):
        each = long // more
        shape = max(each / beside, beside / each) if each >= 8 else best
        if long % more == 0 and shape < best and unlike.at(each) < _NEARLY:
            best, found = shape, more
    return found


def _by_borders(shown: Floats, seen: Floats, unlike: _Unlike) -> int:
    """Return the finest division whose lines are all borders: the picture jumps there, or is empty; 1 if
    there is none.

    Parameters
    ----------
    shown : (height, width, 4) array
        Colours times cover, and cover.
    """
    long = shown.shape[1]
    steps = np.abs(np.diff(shown, axis=1)).mean(axis=(0, 2))
    profile = seen.mean(axis=0)
    empty = _EMPTY * float(profile.mean())
    # A small step where nothing is is no border.
    least = max(0.5 * float(steps.mean()), 1e-6)
    found: list[int] = []
    for parts in range(2, MOST + 1):
        each = long // parts
        if long % parts or each < 8:
            continue
        near = each // 4
        sure, jumps = 0.0, 0
        for line in range(each, long, each):
            around = np.concatenate([steps[line - 1 - near : line - 2], steps[line + 1 : line + near]])
            jump = float(steps[line - 1]) / max(float(np.median(around)), least)
            clear = max(profile[line - 1], profile[line]) <= empty
            jumps += jump > _JUMP
            sure += 1.0 if clear or jump > _JUMP else max(0.0, jump - 1.0) / _JUMP
        # Where only emptiness tells, those who look for gaps have looked already. Halves of frames are not
        # alike.
        coarser = min((unlike.at(long // one) for one in found if parts % one == 0), default=1.0)
        if 2 * jumps >= parts - 1 and sure >= 0.85 * (parts - 1) and unlike.at(each) < 1.4 * coarser + 0.05:
            found.append(parts)
    return found[-1] if found else 1


class _Unlike:
    """How little a picture resembles itself, moved by some pixels to the right: 0 if wholly, about 1 if
    not at all.
    """

    def __init__(self, shown: Floats) -> None:
        grey = shown.mean(axis=2)
        # What goes over the whole picture makes everything near alike: a plane and its bend are taken away.
        y, x = np.mgrid[-1 : 1 : grey.shape[0] * 1j, -1 : 1 : grey.shape[1] * 1j]
        bases = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1).reshape(-1, 6)
        some = slice(None, None, max(len(bases) // 20_000, 1))
        fit = np.linalg.lstsq(bases[some], grey.reshape(-1)[some], rcond=None)[0]
        self.grey = grey - (bases @ fit).reshape(grey.shape)
        self.plain = float(self.grey.std()) < max(0.02, 0.15 * float(grey.std()))
        self._known: dict[int, float] = {}

    def at(self, shift: int) -> float:
        if shift not in self._known:
            a, b = self.grey[:, shift:], self.grey[:, :-shift]
            self._known[shift] = float(((a - b) ** 2).mean()) / max(
                float((a**2).mean() + (b**2).mean()), 1e-12
            )
        return self._known[shift]


def _by_likeness(long: int, unlike: _Unlike) -> int:
    """Return the number of parts at whose distance a picture resembles itself more than at others near
    it; 1 if at none.
    """
    if unlike.plain:
        return 1
    best, found = _UNLIKE, 1
    for parts in range(2, MOST + 1):
        each = long // parts
        if long % parts or each < 8:
            continue
        score = unlike.at(each)
        beside = min(
            unlike.at(round(each * share)) for share in (0.7, 0.8, 1.2, 1.3) if round(each * share) < long
        )
        if score < 0.8 * beside and score < best * 1.2 + 0.02:
            best, found = min(best, score), parts
    return found


def _frames(seen: Floats, grid: Grid) -> int:
    cells = np.array([grid.cut(seen, i).sum() for i in range(grid.columns * grid.rows)])
    held = np.flatnonzero(cells > 1e-6 * float(cells.max(initial=1e-9)))
    return int(held[-1]) + 1 if len(held) else 1
