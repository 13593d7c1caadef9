"""Caches by their forms."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable

from ...effect.effect import Effect
from ...effect.kinds import CacheForm
from ..product_options import CacheOptions
from ..stopping import Progress
from .gathering import Sample, samples
from .plain import write_csv, write_npz
from .scenes import write_glb, write_usd

PathLike = str | os.PathLike[str]
Writer = Callable[[Effect, Iterable[Sample], PathLike, tuple[PathLike, ...]], None]
WRITERS: dict[CacheForm, Writer] = {
    CacheForm.NPZ: write_npz,
    CacheForm.CSV: write_csv,
    CacheForm.GLB: write_glb,
    CacheForm.USD: write_usd,
}
ENDINGS: dict[CacheForm, str] = {
    CacheForm.NPZ: ".npz",
    CacheForm.CSV: ".csv",
    CacheForm.GLB: ".glb",
    CacheForm.USD: ".usdc",
}


def write_cache(
    effect: Effect,
    options: CacheOptions,
    path: PathLike,
    progress: Progress = lambda share: False,
    inputs: tuple[PathLike, ...] = (),
) -> None:
    """Write an effect's particles as a wish says, whole or not at all.

    Raises
    ------
    EffectError
        If it can't be written so; what was there before stays.
    Stopped
    """
    WRITERS[options.form](effect, samples(effect, options, progress), path, inputs)
