"""Where compiled kernels are kept between runs: a folder for each state of the kernels' sources.

Numba looks only at a function's own file when it decides whether a compiled copy is still good, and
kernels call one another across files; so the folder's name holds a digest of them all.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
import time
from pathlib import Path

import numba
import platformdirs

_OLD_DAYS = 30


def settle() -> Path:
    """Point Numba's disk cache at the folder for these sources; return it. ``NUMBA_CACHE_DIR`` goes first."""
    if os.environ.get("NUMBA_CACHE_DIR"):
        return Path(os.environ["NUMBA_CACHE_DIR"])
    digest = hashlib.blake2s(numba.__version__.encode(), digest_size=6)
    for source in sorted(Path(__file__).parent.glob("*.py")):
        digest.update(source.read_bytes())
    roots = (Path(platformdirs.user_cache_dir("pale-ember")), Path(tempfile.gettempdir()) / f"pale-ember-{os.getuid()}")
    for root in roots:
        folder = root / f"kernels-{digest.hexdigest()}"
        try:
            folder.mkdir(parents=True, exist_ok=True)
            os.utime(folder)
        except OSError:
            continue
        _sweep(root)
        numba.config.CACHE_DIR = str(folder)  # type: ignore[attr-defined]
        return folder
    return Path()


def _sweep(root: Path) -> None:
    """Remove the folders of sources that no run has asked for in a month."""
    for folder in root.glob("kernels-*"):
        try:
            if time.time() - folder.stat().st_mtime > _OLD_DAYS * 86400:
                shutil.rmtree(folder, ignore_errors=True)
        except OSError:
            continue
