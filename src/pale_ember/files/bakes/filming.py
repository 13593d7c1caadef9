"""Which moments a bake shows, from where, and before what; one moment after the other."""

from __future__ import annotations

import functools
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...drawing.between import between
from ...drawing.camera import axes_of
from ...drawing.environment import Environment, environment_of
from ...drawing.moment import Moment, moment_of
from ...drawing.offscreen import OffscreenRenderer
from ...effect.chapters.stage import Camera
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import Backdrop, Behind, DrawnAs, Shot
from ...simulation import Simulation
from ...simulation.motion.prop_poses import prop_clock
from ...textures.prepared import Prepared
from ..looping import settled
from ..product_options import Seen
from ..profile import can_close, length_of
from ..stopping import Progress, go_on
from ..textures import BACKDROP

# Moments this near to a step, in steps, are at it.
_AT_STEP = 0.02
# Particles fainter than this aren't looked for when a camera is fitted; room that is left at the borders, as
# a share.
_FAINT, _ROOM = 0.004, 0.03
# Pixels of a picture, and pictures of a film or a sequence, at most.
MOST_PIXELS, MOST_PICTURES = 8192 * 4320, 100_000
# Particles of a moment that a camera is fitted to at most.
_MOST = 4000
# How it is looked at once more: pictures of so many pixels at so many moments; levels above this are seen.
_SMALL, _LOOKS, _SEEN = 160, 16, 5


@dataclass(frozen=True)
class Filming:
    """What a bake shows.

    Attributes
    ----------
    effect : Effect
        As it is simulated: where its loop is closed, with all loops the same.
    times : tuple of float
        Of its pictures, s.
    closes : bool
        Whether the picture behind the last one would be the first.
    """

    effect: Effect
    textures: Mapping[str, Prepared]
    times: tuple[float, ...]
    size: tuple[int, int]
    camera: Camera
    behind: Behind
    exposure: float = 0.0
    glow: bool = True
    closes: bool = False

    @property
    def clear(self) -> bool:
        """Return whether nothing stands behind it."""
        return self.behind == Behind.NOTHING

    def environment(self, time: float) -> Environment:
        """Return what surrounds the effect at a time."""
        stage = self.effect.stage
        if self.behind not in (Behind.OWN, Behind.NOTHING):
            stage = stage.model_copy(update={"backdrop": Backdrop(str(self.behind))})
        stage = stage.model_copy(
            update={"exposure": stage.exposure + self.exposure, "glow": stage.glow if self.glow else 0.0}
        )
        return environment_of(
            stage,
            False,
            picture=self.textures.get(BACKDROP),
            clear=self.clear,
            clock=prop_clock(self.effect, time),
        )

    def moments(self, progress: Progress, again: bool = False) -> Iterator[Moment]:
        """Yield the moments, and, ``again``, the one behind the last.

        Raises
        ------
        Stopped
        """
        sim = Simulation(self.effect)
        ends = self.times
        if again:
            step = self.times[1] - self.times[0] if len(self.times) > 1 else 1.0 / self.effect.step_rate
            ends = (*ends, self.times[-1] + step)
        kept: dict[int, Moment] = {}
        for number, time in enumerate(ends):
            at = time * self.effect.step_rate
            first = math.floor(at + _AT_STEP)
            share = at - first
            wanted = (first,) if share <= _AT_STEP else (first, first + 1)
            kept = {step: moment for step, moment in kept.items() if step in wanted}
            for step in wanted:
                if step not in kept:
                    sim.seek(
                        (step + 0.5) / self.effect.step_rate, functools.partial(progress, number / len(ends))
                    )
                    kept[step] = moment_of(sim, textures=self.textures)
            go_on(progress, number / len(ends))
            yield kept[first] if len(wanted) == 1 else between(kept[first], kept[first + 1], share)
            go_on(progress, (number + 1) / len(ends))

    def pictures(self, studio: OffscreenRenderer, progress: Progress) -> Iterator[NDArray[np.uint8]]:
        """Yield pictures, (height, width, 4) from the upper left; clear ones premultiplied. Each is
        overwritten by the next.
        """
        for moment in self.moments(progress):
            yield studio.pixels(
                moment, self.size, self.camera, self.environment(moment.time), use="bake", fine=True
            )


def filmed(
    effect: Effect,
    textures: Mapping[str, Prepared],
    options: Seen,
    size: tuple[int, int],
    behind: Behind,
    count: int = 0,
    rate: float = 0.0,
    loops: int = 1,
) -> Filming:
    """Return how an effect is filmed.

    Parameters
    ----------
    count, rate : int, float
        How many pictures; or how many each second.
    loops : int
        How often it is shown, one time after the other.
    """
    length, closes = length_of(options, effect), can_close(options, effect)
    start = options.begin
    if closes:
        effect, start = settled(effect)
    many = count or max(1, round(length * rate))
    _refuse_absurd(size, many * loops)
    times = (
        [start + length * i / many for i in range(many)] if count else [start + i / rate for i in range(many)]
    )
    if closes:
        # Whatever the rate, the last picture is as far from the first as any two.
        times = [start + length * i / many for i in range(many)]
    camera = effect.stage.camera
    pitch = min(max(camera.pitch + options.tilt, -89.0), 89.0)
    camera = camera.model_copy(update={"yaw": camera.yaw + options.turn, "pitch": pitch})
    if options.shot == Shot.FITTED:
        camera = fitted(effect, textures, start, length, camera, size)
    camera = camera.model_copy(update={"distance": camera.distance * options.away})
    return Filming(
        effect, textures, tuple(times) * loops, size, camera, behind, options.exposure, options.glow, closes
    )


def _refuse_absurd(size: tuple[int, int], pictures: int) -> None:
    """Refuse pictures that are too large or too many."""
    if size[0] * size[1] > MOST_PIXELS:
        raise EffectError(
            "width",
            f"pictures of {size[0]} × {size[1]} pixels are too large; at most {MOST_PIXELS:,} pixels "
            "are drawn.",
        )
    if pictures > MOST_PICTURES:
        raise EffectError(
            "length",
            f"these would be {pictures:,} pictures; at most {MOST_PICTURES:,} are drawn. Take a "
            "shorter length, a lower rate or fewer loops.",
        )


def fitted(
    effect: Effect,
    textures: Mapping[str, Prepared],
    start: float,
    length: float,
    camera: Camera,
    size: tuple[int, int],
) -> Camera:
    """Return a camera that looks the same way and holds all that an effect shows in some time, as near as
    it can.
    """
    sim, boxes = Simulation(effect), []
    steps = max(1, round(length * effect.step_rate))
    sim.seek(start)
    for _ in range(0, steps, 2):
        boxes += [
            box
            for layer in moment_of(sim).layers
            if len(box := _seen(layer.instances, layer.fixed, layer.look.draw == DrawnAs.SPRITE))
        ]
        sim.step(2)
    if not boxes:
        return camera
    whole = np.concatenate(boxes)
    axes = np.stack(axes_of(camera))
    at, reach = whole[:, :3] @ axes.T, whole[:, 3:]
    low, high = (at - reach).min(axis=0), (at + reach).max(axis=0)
    middle = (low + high) / 2
    tall = math.tan(math.radians(camera.view) / 2) * (1.0 - 2 * _ROOM)
    wide = tall * size[0] / size[1]
    for _ in range(3):
        off, depth = np.abs(at - middle) + reach, at[:, 2] - middle[2] + reach[:, 0]
        distance = float(np.max(np.maximum(off[:, 0] / wide, off[:, 1] / tall) + depth))
        # Nearer particles take more room: move the middle until both sides have the same.
        share = 1.0 / np.maximum(distance - (at[:, 2] - middle[2]), 1e-6)
        for axis in (0, 1):
            left, right = (
                ((at[:, axis] - middle[axis] - reach[:, 0]) * share).min(),
                ((at[:, axis] - middle[axis] + reach[:, 0]) * share).max(),
            )
            middle[axis] += (left + right) / 2 * distance
    target = tuple(float(x) for x in axes.T @ middle)
    camera = camera.model_copy(update={"target": target, "distance": min(max(distance, 0.01), 100_000.0)})
    return _tightened(effect, textures, start, length, camera, size)


def _tightened(
    effect: Effect,
    textures: Mapping[str, Prepared],
    start: float,
    length: float,
    camera: Camera,
    size: tuple[int, int],
) -> Camera:
    """Return a camera that comes nearer as far as what is really seen allows: pictures are clear at their
    borders.
    """
    share = _SMALL / max(size)
    small = (max(round(size[0] * share), 8), max(round(size[1] * share), 8))
    times = tuple(start + length * (i + 0.5) / _LOOKS for i in range(_LOOKS))
    for _ in range(2):
        plan, seen = (
            Filming(effect, textures, times, small, camera, Behind.NOTHING, glow=False),
            np.zeros(small[::-1], bool),
        )
        with OffscreenRenderer() as studio:
            for picture in plan.pictures(studio, lambda share: False):
                seen |= picture.max(axis=2) > _SEEN
        if not seen.any():
            return camera
        columns, rows = np.flatnonzero(seen.any(axis=0)), np.flatnonzero(seen.any(axis=1))
        # A pixel more on each side: what is between two of the small picture's moments or pixels.
        left, right, top, bottom = columns[0] - 1, columns[-1] + 2, rows[0] - 1, rows[-1] + 2
        part = max((right - left) / small[0], (bottom - top) / small[1]) / (1.0 - 2 * _ROOM)
        metre = 2.0 * camera.distance * math.tan(math.radians(camera.view) / 2) / small[1]
        across, up, _ = axes_of(camera)
        move = across * (((left + right) / 2 - small[0] / 2) * metre) + up * (
            (small[1] / 2 - (top + bottom) / 2) * metre
        )
        target = tuple(float(a + b) for a, b in zip(camera.target, move, strict=True))
        camera = camera.model_copy(
            update={"target": target, "distance": max(camera.distance * float(part), 0.01)}
        )
    return camera


def _seen(rows: NDArray[np.void], fixed: dict[str, tuple[float, ...]], flat: bool) -> NDArray[np.float64]:
    """Return places and how far around them particles reach that can be seen, (n, 4)."""
    names = rows.dtype.names or ()
    opacity = rows["opacity"] if "opacity" in names else np.full(len(rows), fixed.get("opacity", (1.0,))[0])
    rows = rows[(opacity > _FAINT) & (rows["size"][:, 1] > 0)]
    rows = rows[:: max(len(rows) // _MOST, 1)]
    size = rows["size"].astype(np.float64)
    reach = size.max(axis=1) / 2 if flat else np.linalg.norm(size, axis=1) / 2
    if "way" in names:
        reach = reach + np.linalg.norm(rows["way"], axis=1)
    if "stretch" in names:
        reach = reach * np.maximum(rows["stretch"].max(axis=1), 1.0)
    return np.concatenate([rows["place"].astype(np.float64), reach[:, None]], axis=1)
