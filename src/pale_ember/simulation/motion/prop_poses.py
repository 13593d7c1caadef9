"""Where props stand, at rest or along their paths."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.stage import Prop
from ...effect.effect import Effect
from ...effect.values.rotations import angles_of
from ..kernels.compiling import kernel
from ..layout.program import POSE, ROTATION, STRETCH, Track
from ..layout.signatures import D1, D2, INT, NOTHING, TRACK
from .path import call_pose, pose, track_through

Floats = NDArray[np.float64]


@functools.lru_cache(maxsize=256)
def prop_track(prop: Prop) -> Track:
    """Return a prop's track; its path's keys are in the axes of its place, along the effect's duration."""
    return track_through(prop.position, prop.rotation, 1.0, prop.path)


def prop_clock(effect: Effect, time: float) -> float:
    """Return the share of the effect's duration that has passed at a time, 0…1."""
    if effect.loop:
        # The very end of a loop is the beginning of the next.
        return float(time / effect.duration - np.floor(time / effect.duration + 1e-9))
    return min(max(time / effect.duration, 0.0), 1.0)


def prop_pose(prop: Prop, clock: float) -> Floats:
    """Return where a prop stands, (4, 4) from its own axes, in m, to the world; its size is not in it."""
    out = np.empty(POSE)
    pose(prop_track(prop), clock, out)
    found = np.eye(4)
    found[:3, :3] = out[ROTATION:STRETCH].reshape(3, 3) * out[STRETCH]
    found[:3, 3] = out[:3]
    return found


def standing(prop: Prop, clock: float) -> Prop:
    """Return a prop at rest where it stands at a clock."""
    if not prop.path:
        return prop
    out = np.empty(POSE)
    pose(prop_track(prop), clock, out)
    place = {
        "position": tuple(float(x) for x in out[:3]),
        "rotation": angles_of(out[ROTATION:STRETCH].reshape(3, 3)),
        "size": tuple(float(x) * float(out[STRETCH]) for x in prop.size),
        "path": (),
    }
    return prop.model_copy(update=place)


@kernel(NOTHING, INT, TRACK, D1, D2, entry=True)
def poses_along(posing, track, clocks, out):
    """Write the poses at some clocks, (n, pose); ``posing`` is the address of :func:`~.path.pose`."""
    for i in range(clocks.shape[0]):
        call_pose(posing, track, clocks[i], out[i])


def step_poses(effect: Effect, prop: Prop, first: int, steps: int) -> Floats:
    """Return the poses of a prop at the beginning and the end of some steps, (steps, 2, pose).

    A loop's last step ends at the end of the path; the next begins at its beginning, at once.
    """
    k = np.arange(first, first + steps, dtype=np.float64)
    whole = effect.duration * effect.step_rate
    if effect.loop:
        begin = k - np.floor(k / whole + 1e-9) * whole
        begin, end = np.maximum(begin, 0.0) / whole, np.minimum((begin + 1.0) / whole, 1.0)
    else:
        begin, end = np.clip(k / whole, 0.0, 1.0), np.clip((k + 1.0) / whole, 0.0, 1.0)
    out = np.empty((2 * steps, POSE))
    poses_along(pose.address, prop_track(prop), np.stack([begin, end], axis=1).reshape(-1), out)
    return out.reshape(steps, 2, POSE)
