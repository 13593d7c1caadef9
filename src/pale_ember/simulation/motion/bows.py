"""Bows: curves from one end to another, both of which may stand on things that move."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.source import Birthplace
from ...effect.editing.companions import anchor_of
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.kinds import EmitterShape
from ..layout.program import CENTRE, POSE, ROTATION, STRETCH
from .path import Pose, pose, pose_at, track_of
from .prop_poses import poses_along, prop_track, step_poses

Floats = NDArray[np.float64]
# Places along a bow that are looked up; lengths are measured in as many pieces.
EVEN = 256


class Bow(NamedTuple):
    """A bow at some moments: ``points`` (moments, 4, 3) of its cubic in the layer's axes, m; ``even``
    (moments, n), how far along the cubic its evenly spaced places are, 0…1; whether it ``moves``.
    """

    points: Floats
    even: Floats
    moves: bool


def bow_at_rest(birthplace: Birthplace, stretch: float) -> Bow:
    """Return a bow whose ends stand on nothing; its lengths are multiplied by ``stretch``."""
    points = np.repeat(_points(birthplace)[None] * stretch, 2, axis=0)
    return Bow(points, evenly(points), False)


def _points(place: Birthplace) -> Floats:
    start, end = np.array(place.start, np.float64), np.array(place.end, np.float64)
    return np.stack([start, start + place.start_pull, end + place.end_pull, end])


def on_cubic(points: Floats, t: Floats) -> Floats:
    """Return places of cubics, (n, m, 3), of points (n, 4, 3) at shares t, (n, m) or (m,) (P. Bézier,
    1962).
    """
    t = np.broadcast_to(t, (len(points), t.shape[-1]))[..., None]
    s = 1.0 - t
    a, b, c, d = (points[:, None, k] for k in range(4))
    return s**3 * a + 3 * s**2 * t * b + 3 * s * t**2 * c + t**3 * d


def evenly(points: Floats) -> Floats:
    """Return how far along cubics, (n, 4, 3), places are that stand evenly by length, (n, 257)."""
    t = np.linspace(0.0, 1.0, 2 * EVEN + 1)
    walked = np.zeros((len(points), len(t)))
    # Simpson's rule over the speed along the curve.
    half = np.stack([t[:-1], (t[:-1] + t[1:]) / 2, t[1:]])
    speed = np.stack([np.linalg.norm(_slope(points, row), axis=2) for row in half])
    walked[:, 1:] = np.cumsum((speed[0] + 4.0 * speed[1] + speed[2]) / 6.0 * (t[1] - t[0]), axis=1)
    found = np.empty((len(points), EVEN + 1))
    for i, row in enumerate(walked):
        found[i] = (
            np.interp(np.linspace(0.0, row[-1], EVEN + 1), row, t)
            if row[-1] > 0.0
            else np.linspace(0.0, 1.0, EVEN + 1)
        )
    return found


def _slope(points: Floats, t: Floats) -> Floats:
    s = 1.0 - t
    a, b, c = (points[:, k + 1] - points[:, k] for k in range(3))
    weights = np.stack([3 * s**2, 6 * s * t, 3 * t**2], axis=1)
    return np.einsum("mk,nkc->nmc", weights, np.stack([a, b, c], axis=1))


def anchors(place: Birthplace) -> tuple[str, str]:
    """Return what a bow's ends stand on; empty for nothing."""
    return place.start_on, place.end_on


def stands_on_things(effect: Effect, layer: Layer) -> bool:
    """Return whether an end of a layer's bow stands on something that is there."""
    if layer.birthplace.kind != EmitterShape.BOW or layer.origin.parent:
        # What follows is born around its events.
        return False
    return any(anchor_of(effect, on) is not None for on in anchors(layer.birthplace) if on)


def missing_anchor(effect: Effect, layer: Layer) -> EffectError | None:
    """Return what an end of a layer's bow stands on that isn't there."""
    place = layer.birthplace
    if place.kind != EmitterShape.BOW or layer.origin.parent:
        return None
    for name, on in zip(("start_on", "end_on"), anchors(place), strict=True):
        if on and anchor_of(effect, on) is None:
            what = on.partition(":")[2] or on
            return EffectError(
                f"birthplace.{name}",
                f"what this end stands on, “{what[:80]}”, isn't there; choose another, or nothing.",
            )
    return None


def _moves(thing: object) -> bool:
    return bool(getattr(thing, "path", ()))


def anchor_poses(effect: Effect, on: str, first: int, steps: int) -> Floats | None:
    """Return the poses of what an end stands on, (steps + 1, pose), at the start of each step and of the one
    behind.

    None for what isn't there.
    """
    thing = anchor_of(effect, on)
    if thing is None:
        return None
    found = np.empty((steps + 1, POSE))
    if isinstance(thing, Layer):
        track = track_of(thing)
        poses_along(pose.address, track, _clocks(effect, thing, first, steps), found)
        found[:, STRETCH] *= track.scale
        return found
    if not _moves(thing):
        poses_along(pose.address, prop_track(thing), np.zeros(steps + 1), found)
        return found
    return step_poses(effect, thing, first, steps + 1)[:, 0]


def _clocks(effect: Effect, layer: Layer, first: int, steps: int) -> Floats:
    """Return a layer's clock at the start of some steps and of the one behind them, (steps + 1,)."""
    begin, length = layer.window.span(effect.duration)
    time = np.arange(first, first + steps + 1) / effect.step_rate
    if effect.loop:
        time -= np.floor(time / effect.duration + 1e-9) * effect.duration
    return np.clip((time - begin) / length, 0.0, 1.0) if length > 0.0 else np.zeros(steps + 1)


def bow_at_steps(effect: Effect, layer: Layer, first: int, steps: int) -> Bow:
    """Return a layer's bow at the start of some steps and of the one behind them, in the layer's axes."""
    place, stretch = layer.birthplace, layer.place.scale
    own = np.repeat((_points(place) * stretch)[None], steps + 1, axis=0)
    from_layer = _layer_poses(effect, layer, first, steps)
    for end, near, on, away, pull in (
        (0, 1, place.start_on, place.start, place.start_pull),
        (3, 2, place.end_on, place.end, place.end_pull),
    ):
        poses = anchor_poses(effect, on, first, steps) if on else None
        if poses is None:
            continue
        turn = poses[:, ROTATION:STRETCH].reshape(-1, 3, 3)
        world = (
            poses[:, CENTRE : CENTRE + 3]
            + np.einsum("nij,j->ni", turn, np.array(away, np.float64)) * poses[:, STRETCH, None]
        )
        back = from_layer[:, ROTATION:STRETCH].reshape(-1, 3, 3)
        # The place's scale is in the bow's own lengths already; that of its path is what the pose stretches
        # them by.
        own[:, end] = (
            np.einsum("nji,nj->ni", back, world - from_layer[:, CENTRE : CENTRE + 3])
            / from_layer[:, STRETCH, None]
        )
        own[:, near] = own[:, end] + np.array(pull, np.float64) * stretch
    still = bool((own == own[0]).all())
    even = np.repeat(evenly(own[:1]), len(own), axis=0) if still else evenly(own)
    return Bow(own, even, True)


def _layer_poses(effect: Effect, layer: Layer, first: int, steps: int) -> Floats:
    found = np.empty((steps + 1, POSE))
    poses_along(pose.address, track_of(layer), _clocks(effect, layer, first, steps), found)
    return found


def end_frames(effect: Effect, layer: Layer, time: float, event: Pose | None = None) -> tuple[Pose, Pose]:
    """Return where the frames stand, at a time, s, that the two ends of a layer's bow are told in.

    Those are the layer's own, or that of an ``event``, but for ends that stand on things.
    """
    step = round(time * effect.step_rate)
    clock = float(_clocks(effect, layer, step, 0)[0])
    found = []
    for on in anchors(layer.birthplace):
        poses = anchor_poses(effect, on, step, 0) if on and not layer.origin.parent else None
        if poses is None:
            found.append(event or pose_at(layer, clock))
        else:
            one = poses[0]
            found.append(
                Pose(
                    one[: CENTRE + 3].copy(), one[ROTATION:STRETCH].reshape(3, 3).copy(), float(one[STRETCH])
                )
            )
    return found[0], found[1]


def bow_points(effect: Effect, layer: Layer, time: float, event: Pose | None = None) -> Floats:
    """Return the four points of a layer's bow at a time, s, in the world, m, (4, 3)."""
    place, clock = layer.birthplace, float(_clocks(effect, layer, round(time * effect.step_rate), 0)[0])
    own = event or pose_at(layer, clock)
    start, end = (
        frame.centre + frame.scale * frame.rotation @ np.array(away)
        for frame, away in zip(end_frames(effect, layer, time, event), (place.start, place.end), strict=True)
    )
    pulls = [own.scale * own.rotation @ np.array(pull) for pull in (place.start_pull, place.end_pull)]
    return np.stack([start, start + pulls[0], end + pulls[1], end])
