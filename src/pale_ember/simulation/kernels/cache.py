"""Where compiled kernels are kept between runs, and when one is still good.

Numba looks only at a function's own file. Here a kernel is good as long as its file, and those of the
simulation that it imports code from, are the same. So a change compiles what depends on it and nothing else.
A module is named by its room: ``motion.forces``. Of the rest of the program kernels hold two things: the
places of members in enumerations, so ``effect.kinds`` counts as well, and what a module derives from the
model, which it tells by :func:`note_constants`.
"""

from __future__ import annotations

import contextlib
import functools
import hashlib
import os
import re
import shutil
import tempfile
import time
from pathlib import Path
from typing import Any

import numba
import platformdirs
from numba.core.caching import CompileResultCacheImpl, FunctionCache, UserProvidedCacheLocator

_OLD_DAYS = 30
# The folder of the simulation, whose files a kernel may depend on.
_HERE = Path(__file__).parent.parent
# Sources are searched as text: to parse all of them took half of a command's start.
_IMPORT = re.compile(r"^[ \t]*from (\.+)([\w.]*) import (?:\(([^)]*)\)|(.*))$", re.MULTILINE)
_NAME = re.compile(r"(\w+)(?: as \w+)?")
_COMMENT = re.compile(r"#.*")
_DECLARED = re.compile(r"^@.*?\ndef \w+", re.MULTILINE | re.DOTALL)


@functools.cache
def folder() -> Path:
    """Return the folder of compiled kernels; ``NUMBA_CACHE_DIR`` names another place."""
    if os.environ.get("NUMBA_CACHE_DIR"):
        return Path(os.environ["NUMBA_CACHE_DIR"])
    roots = (
        Path(platformdirs.user_cache_dir("pale-ember")),
        Path(tempfile.gettempdir()) / f"pale-ember-{os.getuid()}",
    )
    for root in roots:
        found = root / f"kernels-{numba.__version__}"
        try:
            found.mkdir(parents=True, exist_ok=True)
            os.utime(found)
        except OSError:
            continue
        _sweep(root)
        return found
    return Path(tempfile.mkdtemp(prefix="pale-ember-kernels-"))


def _sweep(root: Path) -> None:
    """Remove what no run has asked for in a month; this is looked at once a day."""
    swept = root / "swept"
    with contextlib.suppress(OSError):
        if time.time() - swept.stat().st_mtime < 86400:
            return
    with contextlib.suppress(OSError):
        swept.touch()
    for old in (*root.glob("kernels-*"), *root.glob("kernels-*/*/*.nb?")):
        try:
            if time.time() - max(old.stat().st_mtime, old.stat().st_atime) > _OLD_DAYS * 86400:
                shutil.rmtree(old, ignore_errors=True) if old.is_dir() else old.unlink()
        except OSError:
            continue


def is_here(function: Any) -> bool:
    """Return whether a function stands in the simulation's folder, and so can be kept."""
    return _HERE in Path(function.__code__.co_filename).parents


# Whose order kernels hold as numbers.
_ENUMERATIONS = ("effect.kinds",)
_constants: dict[str, bytes] = {}


def note_constants(name: str, constants: object) -> None:
    """Note numbers that kernels take from a module and that its text doesn't hold.

    Parameters
    ----------
    name : str
        The module, such as ``layout.slots``.
    constants : object
        What they are; kernels are compiled again when its ``repr`` is another.
    """
    _constants[name] = repr(constants).encode()


def _module_of(file: Path) -> str:
    """Return the name of a file's module, such as ``motion.forces``."""
    return ".".join(file.relative_to(_HERE).with_suffix("").parts)


def _file_of(name: str) -> Path:
    if name in _ENUMERATIONS:
        return _HERE.parent.joinpath(*name.split(".")).with_suffix(".py")
    return _HERE.joinpath(*name.split(".")).with_suffix(".py")


@functools.cache
def _source(name: str) -> str:
    return _file_of(name).read_text(encoding="utf-8")


@functools.cache
def _imports(name: str) -> tuple[set[str], set[str]]:
    """Return the modules of the simulation that one takes code from, and those whose kernels it only
    calls.
    """
    inside: set[str] = set()
    called: set[str] = set()
    room = name.split(".")[:-1]
    for dots, module, bracketed, plain in _IMPORT.findall(_source(name)):
        if len(dots) > len(room) + 1:
            if module in _ENUMERATIONS:
                inside.add(module)
            continue
        base = room[: len(room) + 1 - len(dots)] + [part for part in module.split(".") if part]
        names = _NAME.findall(_COMMENT.sub("", bracketed or plain))
        only_calls = bool(module) and all(each.startswith("call_") for each in names)
        # An import brings a module's contents, or modules of a package.
        for found in (
            [".".join(base)]
            if base and _file_of(".".join(base)).exists()
            else [".".join([*base, each]) for each in names]
        ):
            if _file_of(found).exists():
                (called if only_calls else inside).add(found)
    return inside, called - inside


@functools.cache
def _declared(name: str) -> bytes:
    """Return how a module declares its kernels: their types matter to those that call them, their insides
    don't.
    """
    return "\n".join(_DECLARED.findall(_source(name))).encode()


@functools.cache
def stamp(name: str) -> str:
    """Return a digest of a module of the simulation, of all whose code it holds, and of how those are
    called that it calls.
    """
    seen: set[str] = set()
    called: set[str] = set()
    coming = [name]
    while coming:
        one = coming.pop()
        if one not in seen:
            seen.add(one)
            inside, outside = _imports(one)
            coming += inside
            called |= outside
    digest = hashlib.blake2s(digest_size=16)
    for one in sorted(seen):
        digest.update(one.encode() + b"\0" + _source(one).encode() + _constants.get(one, b""))
    for one in sorted(called - seen):
        digest.update(one.encode() + b"\0" + _declared(one))
    return digest.hexdigest()


class _Locator(UserProvidedCacheLocator):
    """Puts compiled kernels into this program's folder, stamped by what they depend on."""

    def __init__(self, py_func: Any, py_file: str) -> None:
        super().__init__(py_func, py_file)
        self._cache_path = str(folder() / self.get_suitable_cache_subpath(py_file))
        self._module = _module_of(Path(py_file))

    @classmethod
    def from_function(cls, py_func: Any, py_file: str) -> Any:
        found = cls(py_func, py_file)
        try:
            found.ensure_cache_path()
        except OSError:
            return None
        return found

    def get_source_stamp(self) -> str:
        return stamp(self._module)


class _Impl(CompileResultCacheImpl):
    _locator_classes = [_Locator]


class DependentCache(FunctionCache):
    """A disk cache for one function, to be set as a dispatcher's own."""

    _impl_class = _Impl

    def holds(self, signature: Any) -> bool:
        """Return whether a compiled function of a signature lies in it, without loading that."""
        try:
            overloads = self._cache_file._load_index()
            return any(key[0] in (signature, signature.args) for key in overloads)
        except (OSError, EOFError, ValueError, AttributeError):
            return False
