"""Caches as NumPy arrays and as text."""

from __future__ import annotations

import io
import json
import os
from collections.abc import Iterable, Iterator
from typing import IO, Any

import numpy as np

from ...effect.effect import Effect
from ...effect.storing.whole_files import whole_file
from .gathering import ATTRIBUTES, SERIAL, Sample, shown_layers

PathLike = str | os.PathLike[str]


def write_npz(
    effect: Effect, moments: Iterable[Sample], path: PathLike, inputs: tuple[PathLike, ...] = ()
) -> None:
    """Write a cache as NumPy's .npz.

    It holds ``times``, (moments,) s; ``about``, JSON that names the layers and attributes; and for each
    layer, under its id, ``ID/first``, (moments + 1,), and ``ID/position`` and all else, one particle after
    the other: those of moment i are rows ``first[i]`` to ``first[i + 1]``.
    """
    times, parts = [], {layer.id: [] for layer in shown_layers(effect)}  # type: ignore[var-annotated]
    for sample in moments:
        times.append(sample.time)
        for layer_id, found in sample.layers.items():
            parts[layer_id].append(found)
    arrays: dict[str, Any] = {"times": np.array(times), "about": np.array(json.dumps(_about(effect)))}
    for layer_id, rows in parts.items():
        arrays[f"{layer_id}/first"] = np.concatenate(
            [[0], np.cumsum([len(one["serial"]) for one in rows])]
        ).astype(np.int64)
        for name in ("serial", *(one.name for one in ATTRIBUTES)):
            arrays[f"{layer_id}/{name}"] = np.concatenate([one[name] for one in rows])
    with whole_file(path, inputs) as temporary, open(temporary, "wb") as file:
        np.savez_compressed(file, **arrays)


def _about(effect: Effect) -> dict[str, Any]:
    return {
        "format": "pale-ember/cache",
        "version": 1,
        "effect": effect.name,
        "layers": {layer.id: layer.name for layer in shown_layers(effect)},
        "attributes": {
            one.name: {"parts": one.wide, "unit": one.unit, "meaning": one.words}
            for one in (SERIAL, *ATTRIBUTES)
        },
    }


def write_csv(
    effect: Effect, moments: Iterable[Sample], path: PathLike, inputs: tuple[PathLike, ...] = ()
) -> None:
    """Write a cache as text: a line for each particle at each moment, a head that names the columns."""
    with whole_file(path, inputs) as temporary, open(temporary, "w", encoding="utf-8", newline="") as file:
        _write_lines(effect, moments, file)


def _write_lines(effect: Effect, moments: Iterable[Sample], file: IO[str]) -> None:
    """Write a line for each particle at each moment."""
    names = [_column(one.name, i, one.wide) for one in ATTRIBUTES for i in range(one.wide)]
    file.write(",".join(["time", "layer", "serial", *names]) + "\n")
    for sample in moments:
        for layer in shown_layers(effect):
            found = sample.layers[layer.id]
            serials = found["serial"]
            if not len(serials):
                continue
            numbers = np.concatenate(
                [found[one.name].reshape(len(serials), -1) for one in ATTRIBUTES], axis=1
            )
            head = f"{sample.time:.6g},{layer.id},"
            file.writelines(
                f"{head}{serial},{line}" for serial, line in zip(serials, _lines(numbers), strict=True)
            )


def _lines(numbers: Any) -> Iterator[str]:
    out = io.StringIO()
    np.savetxt(out, numbers, fmt="%.7g", delimiter=",")
    yield from io.StringIO(out.getvalue())


def _column(name: str, part: int, wide: int) -> str:
    if wide == 1:
        return name
    parts = {"size": ("width", "height"), "color": ("red", "green", "blue")}.get(name)
    return parts[part] if parts else f"{name}_{'xyzw'[part]}"
