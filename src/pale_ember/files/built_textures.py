"""Textures that builds made, kept on disk so that each is made once."""

from __future__ import annotations

import dataclasses
import functools
import hashlib
import io
import json
import os
import time
from collections.abc import Hashable
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np
import platformdirs
from numpy.typing import NDArray

from ..effect.errors import EffectError
from ..effect.storing.storage import part_data
from ..effect.storing.whole_files import write_whole
from ..effect.textures import Texture
from ..textures.making.build import Making, make
from ..textures.pictures import Pictures

# Bytes of all that is kept; the oldest goes first. What is made in a wink isn't kept.
MOST, SMALL, QUICK = 512 << 20, 1 << 17, 0.4
# Modules that textures depend on besides those of the steps.
MAKING = ("pictures.py", "cutting.py", "reading.py", "dds_reading.py", "deep_reading.py", "exr_reading.py")


def cache_folder() -> Path:
    """Return where builds are kept; ``PALE_EMBER_CACHE`` names another place."""
    return Path(os.environ.get("PALE_EMBER_CACHE") or platformdirs.user_cache_dir("pale-ember")) / "textures"


@functools.cache
def _maker() -> str:
    """Return a digest of all that makes textures: what other code made is made anew."""
    digest = hashlib.sha256()
    for package in ("pale_ember.textures.making", "pale_ember.textures", "pale_ember.effect.steps"):
        for file in sorted(resources.files(package).iterdir(), key=lambda one: one.name):
            if file.name.endswith(".py") and (package != "pale_ember.textures" or file.name in MAKING):
                digest.update(file.read_bytes())
    return digest.hexdigest()


def build_key(texture: Texture, states: Hashable = ()) -> str:
    """Return what a build's pictures depend on, as a name; ``states`` are those of the files that it
    brings in.
    """
    assert texture.build is not None
    data = part_data(texture.build) | {"padding": 0}
    what = json.dumps([data, texture.made, texture.data, repr(states)], sort_keys=True)
    return hashlib.sha256((_maker() + what).encode()).hexdigest()[:40]


def kept_on_disk(texture: Texture, states: Hashable = ()) -> bool:
    """Return whether a build's pictures were made before."""
    return (cache_folder() / f"{build_key(texture, states)}.npz").is_file()


def built(texture: Texture, how: Making | None = None) -> Pictures | None:
    """Return a build's pictures, from disk if they were made before; None if the making was given up."""
    how = how or Making()
    path = cache_folder() / f"{build_key(texture, how.states)}.npz"
    kept = _read(path)
    if kept is not None:
        return kept
    start = time.perf_counter()
    made = make(texture, how=how)
    if made is None:
        return None
    # Kept frames are half floats. Those that are not kept become half floats too, so that both look the same.
    parts = {"pixels": made.pixels, "normals": made.normals, "motion": made.motion}
    halves: dict[str, NDArray[Any]] = {
        name: part.astype(np.float16) for name, part in parts.items() if part is not None
    }
    if made.pixels.nbytes > SMALL and time.perf_counter() - start > QUICK:
        _keep(path, halves | {"flags": np.array([made.deep, made.premultiplied])})
    whole: dict[str, Any] = {name: part.astype(np.float32) for name, part in halves.items()}
    return dataclasses.replace(made, **whole)


def _read(path: Path) -> Pictures | None:
    try:
        with np.load(path, allow_pickle=False) as kept:
            deep, premultiplied = (bool(one) for one in kept["flags"])
            parts = {name: kept[name].astype(np.float32) for name in kept.files if name != "flags"}
        os.utime(path)
        return Pictures(parts["pixels"], parts.get("normals"), parts.get("motion"), deep, premultiplied)
    except (OSError, ValueError, KeyError, EOFError):
        return None  # it isn't there, or another program was at it
    except Exception:
        return None  # a broken archive


def _keep(path: Path, halves: dict[str, NDArray[Any]]) -> None:
    """Keep a made texture on disk, and delete the oldest where they take too much."""
    whole = io.BytesIO()
    np.savez(whole, **halves)  # type: ignore[arg-type]
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, whole.getvalue())
        kept = sorted(path.parent.glob("*.npz"), key=lambda one: one.stat().st_mtime)
        room = MOST - sum(one.stat().st_size for one in kept)
        while room < 0 and len(kept) > 1:
            gone = kept.pop(0)
            room += gone.stat().st_size
            gone.unlink(missing_ok=True)
    except (OSError, EffectError):
        return  # a full or a foreign disk only costs time
