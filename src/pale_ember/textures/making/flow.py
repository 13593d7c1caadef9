"""A small fluid simulation: hot gas that rises, rolls and thins, from which sheets of flame and smoke are
made.

Semi-Lagrangian advection after J. Stam, "Stable Fluids", SIGGRAPH 1999, sharpened forth and back (MacCormack)
after A. Selle et al., "An Unconditionally Stable MacCormack Method", 2008; pressure by FFT, on the whole
domain at once; vorticity confinement after R. Fedkiw et al., "Visual Simulation of Smoke", SIGGRAPH 2001.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from ...effect.kinds import Burning
from ...effect.steps.flow import Flow, Obstacle
from .canvas import pi_share
from .gas import Floats, Gas
from .noise import cloud

# Frames that a looping flow runs on, as a share of the sheet: its end fades into its beginning.
_OVERLAP = 0.4
# Cells a second that a step may move things by, steps a frame at most.
_FAR, _MOST_STEPS = 3.0, 24


@dataclass(frozen=True)
class Frame:
    """One frame of a flow: smoke and heat of 0…1, and its velocity in widths of the picture a second, row
    0 on top.
    """

    smoke: Floats
    heat: Floats
    u: Floats
    v: Floats


class FlowRun:
    """A flow step in time.

    Parameters
    ----------
    step : Flow
    size : int
        Pixels of a frame each way; it is simulated on half as many cells again, so that borders are far.
    seed : int
        Of the whole build.
    """

    def __init__(self, step: Flow, size: int, seed: int) -> None:
        self.step, self.size = step, size
        self.cells = max(int(size * 1.25) // 2 * 2, 16)
        self.gas = Gas(self.cells)
        self._unit = size / 2.0
        at = (np.arange(self.cells, dtype=np.float32) + 0.5 - self.cells / 2) / np.float32(self._unit)
        self.x, self.y = np.meshgrid(at, -at)
        dice = seed * 7919 + step.seed * 104729
        self._noise = [cloud(self.cells, 5, 3, 0.6, 0.0, 0.0, dice + i) * 2 - 1 for i in range(3)]
        self._dice = dice
        self.time = 0.0
        far = np.maximum(np.abs(self.x), np.abs(self.y)) * np.float32(self._unit * 2 / self.cells)
        # Near its borders the domain takes everything up.
        self._calm = np.clip((1.0 - far) / 0.12, 0.0, 1.0).astype(np.float32)
        self.gas.draft = np.float32(-step.draft * self._unit)
        # Where gas can be: 1 in the open, 0 inside an obstacle.
        self._open = self._free_of(step.obstacles) if step.obstacles else None
        self._start()

    def _free_of(self, obstacles: tuple[Obstacle, ...]) -> Floats:
        free = np.ones((self.cells, self.cells), np.float32)
        for one in obstacles:
            c, s = pi_share(one.turn)
            dx, dy = self.x - one.at[0], self.y - one.at[1]
            along, across = np.abs(dx * c + dy * s) / one.extents[0], np.abs(dy * c - dx * s) / one.extents[1]
            far = np.sqrt(along * along + across * across) if one.round else np.maximum(along, across)
            soft = np.float32(2.0 / self._unit / min(one.extents))
            free = np.minimum(free, np.clip((far - 1.0) / soft + 0.5, 0.0, 1.0))
        return free.astype(np.float32)

    def _source(self) -> Floats:
        step, r = self.step, max(self.step.source, 0.02)
        dx, dy = self.x - step.side, self.y - step.height
        if step.kind == Burning.RING:
            far = np.sqrt(dx * dx + dy * dy) - r
            shape = np.exp(-((far / (0.3 * r)) ** 2))
        elif step.kind == Burning.FLAME:
            shape = np.exp(-((dx / (0.6 * r)) ** 2) - (dy / (0.3 * r)) ** 2)
        else:
            shape = np.exp(-(((dx * dx + dy * dy) / (r * r)) ** 2))
        return self._rough(shape)

    def _rough(self, shape: Floats) -> Floats:
        rough = 1.0 - np.float32(min(self.step.stir, 2.0)) * 0.4 * (self._noise[0] + 1)
        return np.clip(shape * rough, 0.0, 1.0).astype(np.float32)

    def _more(self) -> tuple[Floats, Floats]:
        """Return the heat and the smoke that its further sources give."""
        heat = smoke = np.zeros((self.cells, self.cells), np.float32)
        for one in self.step.sources:
            square = ((self.x - one.at[0]) ** 2 + (self.y - one.at[1]) ** 2) / one.radius**2
            shape = self._rough(np.exp(-(square**2)))
            heat, smoke = (
                np.maximum(heat, shape * np.float32(one.heat)),
                np.maximum(smoke, shape * np.float32(one.smoke)),
            )
        return heat, smoke

    def _start(self) -> None:
        """Put in what is there at first, and kick it."""
        step, gas = self.step, self.gas
        if step.kind == Burning.FLAME:
            return
        gas.smoke[:] = self._source()
        gas.heat[:] = gas.smoke
        if step.sources:
            heat, smoke = self._more()
            np.maximum(gas.heat, heat, out=gas.heat)
            np.maximum(gas.smoke, smoke, out=gas.smoke)
        self._block()
        kick = np.float32(step.stir * 0.9 * self._unit)
        gas.u[:] = kick * self._noise[1] * gas.smoke
        gas.v[:] = kick * self._noise[2] * gas.smoke

    def _feed(self, dt: float) -> None:
        """Feed a flame at its foot."""
        step, gas = self.step, self.gas
        if step.kind != Burning.FLAME:
            return
        source = self._source()
        # The fire breathes: where it is fed wanders along its foot, comes and goes.
        turn = 2.0 * math.pi * self.time
        wave = 0.5 + 0.5 * np.sin(turn * 1.7 + self.x * 7.0 + 3.0 * self._noise[1]) * np.cos(
            turn * 1.1 + 2.0 * self._noise[2]
        )
        fed = source * (1.0 - np.float32(min(step.stir, 1.5)) * 0.45 * wave.astype(np.float32))
        share = np.float32(1.0 - math.exp(-30.0 * dt))
        hot = dense = fed
        if step.sources:
            heat, smoke = self._more()
            hot, dense = np.maximum(fed, heat), np.maximum(fed, smoke)
        gas.heat += np.maximum(hot - gas.heat, 0.0) * share
        gas.smoke += np.maximum(dense - gas.smoke, 0.0) * share
        # Eddies that come up with it pull it to this side and that, and tear it.
        rows = round(self.time * self._unit * (0.9 + 0.6 * step.draft))
        side = np.roll(self._noise[1], -rows % self.cells, 0)
        up = np.roll(self._noise[2], -round(rows * 1.37) % self.cells, 0)
        push = np.float32(step.stir * 9.0 * self._unit * dt)
        gas.u += push * side * gas.heat
        gas.v += push * 0.6 * up * gas.heat

    def _block(self) -> None:
        """Let nothing be inside obstacles, nor blow through them."""
        if self._open is not None:
            for field in (self.gas.u, self.gas.v, self.gas.smoke, self.gas.heat):
                field *= self._open

    def _round_obstacles(self) -> None:
        """Let the velocity go round obstacles: stopped inside, and what gathers before them driven aside,
        by turns.
        """
        if self._open is not None:
            for _ in range(4):
                # Inside, the draft itself must be stopped too.
                self.gas.u *= self._open
                self.gas.v = self.gas.v * self._open - self.gas.draft * (1.0 - self._open)
                self.gas.project()

    def advance(self, dt: float, stopped: Callable[[], bool] = lambda: False) -> None:
        """Go on by a time, s, in as many steps as its speed asks for, unless it is stopped between them."""
        fast = float(max(np.abs(self.gas.u).max(), np.abs(self.gas.v + self.gas.draft).max(), 1.0))
        steps = min(max(math.ceil(dt * fast / _FAR), 1), _MOST_STEPS)
        for _ in range(steps):
            if stopped():
                return
            self._one(dt / steps)

    def _one(self, dt: float) -> None:
        """Take the gas over one step: forces, pressure, carrying, cooling."""
        step, gas, unit = self.step, self.gas, self._unit
        self._feed(dt)
        # Row 0 is on top, so what rises goes towards lower rows.
        gas.v -= np.float32(dt * unit) * (
            np.float32(step.rise * 1.6) * gas.heat - np.float32(step.weight) * gas.smoke
        )
        gas.curl_up(step.curl * 9.0, dt)
        apart = None
        if step.spread != 0.0:
            gain = (
                step.spread * math.exp(-3.0 * self.time) if step.kind != Burning.FLAME else step.spread * 0.2
            )
            apart = (np.float32(gain * 2.4) * gas.heat).astype(np.float32)
            apart -= apart.mean()
        gas.u *= self._calm
        gas.v *= self._calm
        gas.project(apart)
        self._round_obstacles()
        _hold(gas, unit * 12.0)
        gas.carry(dt)
        if self._open is not None:
            before = float(gas.smoke.sum())
            gas.smoke *= self._open
            gas.heat *= self._open
            # What touched an obstacle goes on beside it.
            gas.smoke *= np.float32(before / max(float(gas.smoke.sum()), 1e-6))
        gas.heat *= np.float32(math.exp(-step.cooling * dt))
        if step.kind == Burning.FLAME:
            gas.smoke *= np.float32(math.exp(-(step.thinning + 0.6 * step.cooling) * dt))
        elif step.thinning:
            gas.smoke *= np.float32(math.exp(-step.thinning * dt))
        if step.kind == Burning.FLAME or step.loop:
            away = self._calm ** np.float32(dt * 12.0)
            gas.heat *= away
            gas.smoke *= away
        self.time += dt

    def frame(self) -> Frame:
        """Return what is in the picture now."""
        first = (self.cells - self.size) // 2
        cut = slice(first, first + self.size)
        gas = self.gas
        width = np.float32(1.0 / self.size)
        return Frame(
            np.clip(gas.smoke[cut, cut], 0.0, 1.0),
            np.clip(gas.heat[cut, cut], 0.0, 1.0),
            gas.u[cut, cut] * width,
            (gas.v[cut, cut] + gas.draft) * width,
        )


def _hold(gas: Gas, fastest: float) -> None:
    """Let nothing be faster than some cells a second, and nothing be no number."""
    for field in (gas.u, gas.v):
        np.clip(field, -fastest, fastest, out=field)
    if not (np.isfinite(gas.u).all() and np.isfinite(gas.v).all()):
        gas.u[:], gas.v[:] = np.nan_to_num(gas.u), np.nan_to_num(gas.v)


def flow_frames(
    step: Flow,
    size: int,
    frames: int,
    seed: int,
    stopped: Callable[[int], bool] = lambda done: False,
    hurried: Callable[[], bool] = lambda: False,
) -> list[Frame]:
    """Return the frames of a flow.

    Parameters
    ----------
    stopped : callable
        Told the number of frames that are done; once it returns true, what is there so far is all.
    hurried : callable
        Asked between the steps of a frame; once it returns true, the making is given up.
    """
    run = FlowRun(step, size, seed)
    each = step.seconds / max(frames, 1)
    if step.ahead:
        for _ in range(max(1, math.ceil(step.ahead / max(each, 1 / 30)))):
            run.advance(step.ahead / max(1, math.ceil(step.ahead / max(each, 1 / 30))), hurried)
    more = math.ceil(frames * _OVERLAP) if step.loop and frames > 1 else 0
    found: list[Frame] = []
    for i in range(frames + more):
        if i:
            run.advance(each, hurried)
        found.append(run.frame())
        if stopped(min(i + 1, frames)):
            break
    return list(_looped(found, frames)) if more and len(found) == frames + more else found[:frames]


def _looped(found: list[Frame], frames: int) -> Iterator[Frame]:
    """Fade the frames behind the last into the first ones, so that the last leads to the first."""
    more = len(found) - frames
    for i in range(frames):
        if i >= more:
            yield found[i]
            continue
        x = i / more
        share = np.float32(x * x * (3.0 - 2.0 * x))
        late, early = found[frames + i], found[i]
        # Of two pictures that have nothing to do with each other the mean is flatter than either; this is
        # not.
        keep = np.float32(1.0 / math.sqrt(float(share) ** 2 + (1.0 - float(share)) ** 2)) ** np.float32(0.5)

        def mixed(a: Floats, b: Floats, share: np.float32 = share, keep: np.float32 = keep) -> Floats:
            return np.clip((a + (b - a) * share) * keep, 0.0, 1.0)

        yield Frame(
            mixed(late.smoke, early.smoke),
            mixed(late.heat, early.heat),
            late.u + (early.u - late.u) * share,
            late.v + (early.v - late.v) * share,
        )
