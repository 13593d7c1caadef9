"""Textures that builds made, kept on disk so that each is made once."""

from __future__ import annotations

import functools
import hashlib
import io
import json
import os
from collections.abc import Callable
from importlib import resources
from pathlib import Path

import numpy as np
import platformdirs
from numpy.typing import NDArray

from ..effect.errors import EffectError
from ..effect.storage import part_data
from ..effect.textures import Texture
from ..effect.whole_files import write_whole
from ..textures.making.build import make
from ..textures.pictures import Pictures

# Bytes of all that is kept; the oldest goes first. What is made in a wink isn't kept.
MOST, SMALL = 512 << 20, 1 << 17


def cache_folder() -> Path:
    """Return where builds are kept; ``PALE_EMBER_CACHE`` names another place."""
    return Path(os.environ.get("PALE_EMBER_CACHE") or platformdirs.user_cache_dir("pale-ember")) / "textures"


@functools.cache
def _maker() -> str:
    """Return a digest of all that makes textures: what other code made is made anew."""
    digest = hashlib.sha256()
    for package in ("pale_ember.textures.making", "pale_ember.textures", "pale_ember.effect"):
        for file in sorted(resources.files(package).iterdir(), key=lambda one: one.name):
            if file.name.endswith(".py") and (package.endswith("making") or file.name in ("pictures.py", "build_steps.py")):
                digest.update(file.read_bytes())
    return digest.hexdigest()


def build_key(texture: Texture) -> str:
    """Return what a build's pictures depend on, as a name."""
    assert texture.build is not None
    what = json.dumps([part_data(texture.build), texture.count, texture.data], sort_keys=True)
    return hashlib.sha256((_maker() + what).encode()).hexdigest()[:40]


def built(texture: Texture, told: Callable[[float], bool] = lambda share: False) -> Pictures | None:
    """Return a build's pictures, from disk if they were made before; None if the making was given up."""
    assert texture.build is not None
    path = cache_folder() / f"{build_key(texture)}.npz"
    kept = _read(path)
    if kept is not None:
        return kept
    made = make(texture, told)
    if made is None:
        return None
    # What is kept is in half floats; so is what is not, that both are the same.
    parts = {"pixels": made.pixels, "normals": made.normals, "motion": made.motion}
    halves = {name: part.astype(np.float16) for name, part in parts.items() if part is not None}
    if made.pixels.nbytes > SMALL:
        _keep(path, halves)
    whole = {name: part.astype(np.float32) for name, part in halves.items()}
    return Pictures(whole["pixels"], whole.get("normals"), whole.get("motion"))


def _read(path: Path) -> Pictures | None:
    try:
        with np.load(path, allow_pickle=False) as kept:
            parts = {name: kept[name].astype(np.float32) for name in kept.files}
        os.utime(path)
        return Pictures(parts["pixels"], parts.get("normals"), parts.get("motion"))
    except (OSError, ValueError, KeyError, EOFError):
        return None  # it isn't there, or another program was at it
    except Exception:
        return None  # a broken archive


def _keep(path: Path, halves: dict[str, NDArray[np.float16]]) -> None:
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
