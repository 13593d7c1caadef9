"""The very first start: a second process begins to compile kernels at once, before this one has even loaded
Qt.

Nothing heavy is imported here: most starts only look whether a file is there.
"""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
from pathlib import Path

import platformdirs

_CODE = "from pale_ember.simulation.warm_up import help_along; help_along()"


def _root() -> Path:
    return Path(os.environ.get("NUMBA_CACHE_DIR") or platformdirs.user_cache_dir("pale-ember"))


def _mark() -> Path:
    """Return the file that says that all kernels are compiled, as the sources are now."""
    digest = hashlib.blake2s(sys.version.encode(), digest_size=8)
    # Kernels stand in the rooms of the simulation, and hold the numbers of enumerations.
    here = Path(__file__).parent
    for source in [*sorted((here / "simulation").rglob("*.py")), here / "effect" / "kinds.py"]:
        digest.update(source.read_bytes())
    return _root() / f"all-compiled-{digest.hexdigest()}"


def note_all_compiled() -> None:
    """Remember that no start needs a second process any more."""
    try:
        mark = _mark()
        mark.parent.mkdir(parents=True, exist_ok=True)
        for old in mark.parent.glob("all-compiled-*"):
            old.unlink(missing_ok=True)
        mark.touch()
    except OSError:
        return


def is_helped() -> bool:
    """Return whether a second process is at work."""
    try:
        pid = int((_root() / "compiling").read_text())
        return b"help_along" in Path(f"/proc/{pid}/cmdline").read_bytes()
    except (OSError, ValueError):
        return False


def begin() -> bool:
    """Start the second process where kernels are missing and there is a processor for it; return whether
    one is at work.
    """
    if (os.cpu_count() or 1) < 2 or _mark().exists():
        return False
    if is_helped():
        return True
    try:
        _root().mkdir(parents=True, exist_ok=True)
        quiet = subprocess.DEVNULL
        helper = subprocess.Popen(
            [sys.executable, "-c", _CODE], stdin=quiet, stdout=quiet, stderr=quiet, start_new_session=True
        )
        (_root() / "compiling").write_text(str(helper.pid))
    except OSError:
        return False
    return True
