"""How long an edit of a texture takes: of each step in a stack, and of a flow until a coarse one can be
looked at.
"""

from __future__ import annotations

import statistics
import time
from typing import Any

import numpy as np

from pale_ember.effect.kinds import StepBlend
from pale_ember.effect.steps import STEPS, Step
from pale_ember.effect.steps.changers import Fade, Levels, Warp
from pale_ember.effect.steps.drawn import Stroke, Strokes
from pale_ember.effect.steps.flow import Flow
from pale_ember.effect.steps.makers import Cloud, Dot
from pale_ember.effect.steps.pictures import Picture
from pale_ember.effect.textures import Build, Texture
from pale_ember.effect.values.values import Fixed
from pale_ember.textures.coarse import coarser
from pale_ember.textures.making.build import Making, make
from pale_ember.textures.making.memory import BuildMemory
from pale_ember.textures.prepared import prepared

SIZE, TURNS = 256, 9


def _stack(step: Step, roughness: float) -> Texture:
    below = (Dot(), Cloud(roughness=Fixed(roughness), blend=StepBlend.MULTIPLY), Warp(), Levels(), Fade())
    return Texture(name="bench", build=Build(size=SIZE, steps=(*below, step)))


def _bare(picture: np.ndarray) -> float:
    """Return how long a picture of that size takes forth and back through NumPy's FFT, s."""
    start = time.perf_counter()
    np.fft.irfft2(np.fft.rfft2(picture), s=picture.shape)
    return time.perf_counter() - start


def measure_textures() -> dict[str, dict[str, float]]:
    """Return, for each kind of step, ms for an edit of the second of six steps at 256 x 256 until the texture
    is ready to be drawn, and its ratio to a picture going forth and back through NumPy's FFT.
    """
    picture = np.random.default_rng(1).random((SIZE, SIZE))
    found: dict[str, dict[str, float]] = {}
    for name, kind in STEPS.items():
        if kind in (Flow, Picture):
            continue
        step = (
            Strokes(strokes=(Stroke(points=((0.0, 0.0, 1.0), (0.5, 0.4, 1.0))),))
            if kind is Strokes
            else kind()
        )
        memory, rows = BuildMemory(), []
        for turn in range(TURNS + 1):
            texture = _stack(step, 0.3 + 0.02 * turn)
            bare = min(_bare(picture) for _ in range(5))
            start = time.perf_counter()
            made = make(texture, how=Making(memory=memory))
            assert made is not None
            prepared(texture, made)
            rows.append((time.perf_counter() - start, bare))
        found[name] = {
            "ms": statistics.median(ours for ours, _ in rows[1:]) * 1e3,
            "ratio": statistics.median(ours / bare for ours, bare in rows[1:]),
        }
    return found


def measure_flow() -> dict[str, Any]:
    """Return the seconds that a sheet of 64 frames of 256 x 256 of the flow takes, and its coarse version."""
    whole = Texture(name="flow", frames=64, build=Build(size=SIZE, steps=(Flow(),)))
    coarse = coarser(whole)
    assert coarse is not None and coarse.build is not None
    make(coarse)
    start = time.perf_counter()
    make(coarse)
    middle = time.perf_counter()
    make(whole)
    return {
        "coarse_s": middle - start,
        "coarse_size": coarse.build.size,
        "whole_s": time.perf_counter() - middle,
    }
