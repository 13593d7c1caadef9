"""Reading and writing files: regular ones only, whole or not at all."""

from __future__ import annotations

import contextlib
import hashlib
import os
import platform
import shutil
import stat
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from ..errors import EffectError

PathLike = str | os.PathLike[str]
# Temporary files begin so, whatever the file is called; names may fill all that a file system allows.
_NAMES = ".pale-ember-"
PART = ".part"

# Temporary files of other machines' killed saves are removed at this age, s.
_OLD = 3600.0


def _own_place() -> str:
    """Return what tells apart the places whose process numbers mean others: machines, their starts,
    containers.

    Names won't do: machines and containers on one folder may share theirs.
    """
    known = [platform.node()]
    for tell in (
        lambda: Path("/proc/sys/kernel/random/boot_id").read_text(),
        lambda: os.readlink("/proc/self/ns/pid"),
    ):
        try:
            known.append(tell())  # type: ignore[no-untyped-call]
        except OSError:
            known.append(f"{time.time_ns()}")  # nobody's number but this process's own
    return hashlib.blake2s("/".join(known).encode(), digest_size=6).hexdigest()


# Behind it stand the place and the process: others may write to the same folder.
_PLACE = _own_place()


def read_regular(path: PathLike, largest: int) -> bytes:
    """Return a file's bytes.

    Raises
    ------
    EffectError
        If it is no regular file (a pipe would be waited for, a device has no end), is larger than
        ``largest``, or can't be read; the place is the path.
    """
    with _opened(path) as file:
        if os.fstat(file.fileno()).st_size > largest:
            raise EffectError(
                shown_path(path), f"the file is larger than {_size(largest)}; that is too large for its kind."
            )
        return file.read(largest + 1)


def hash_regular(path: PathLike) -> str:
    """Return the SHA-256 of a file's bytes, as hexadecimal digits, without holding them all.

    Raises
    ------
    EffectError
        As for :func:`read_regular`.
    """
    with _opened(path) as file:
        return hashlib.file_digest(file, "sha256").hexdigest()  # type: ignore[arg-type]


@contextlib.contextmanager
def _opened(path: PathLike) -> Iterator[BinaryIO]:
    """Open a regular file for reading."""
    place = shown_path(path)
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        mode = os.fstat(handle).st_mode
        if not stat.S_ISREG(mode):
            os.close(handle)
            what = (
                "a folder; name a file in it"
                if stat.S_ISDIR(mode)
                else "no regular file (a pipe, a device); name a file"
            )
            raise EffectError(place, f"this is {what}.")
        with os.fdopen(handle, "rb") as file:
            yield file
    except EffectError:
        raise
    except OSError as wrong:
        raise EffectError(
            place, f"the file can't be read: {(wrong.strerror or str(wrong)).lower()}."
        ) from None
    except (ValueError, TypeError):
        raise EffectError(place, "this is not a path that can be read.") from None


def write_whole(path: PathLike, data: bytes, inputs: tuple[PathLike, ...] = ()) -> None:
    """Put bytes into a file by way of a temporary one beside it: written, synced, renamed.

    Parameters
    ----------
    inputs : tuple of paths
        What is read for it; it is never written over.

    Raises
    ------
    EffectError
        If it can't be written, is one of the inputs, or is anything but a regular file; what was there stays.
    """
    with whole_file(path, inputs) as temporary, open(temporary, "wb") as file:
        file.write(data)


@contextlib.contextmanager
def whole_file(path: PathLike, inputs: tuple[PathLike, ...] = ()) -> Iterator[str]:
    """Give a temporary file beside one that is to be written; at the end it is synced and takes that one's
    place.

    For those who can write to files alone; see :func:`write_whole`. Whatever is raised meanwhile, what was
    there stays.
    """
    place = shown_path(path)
    temporary = ""
    try:
        # Keep what a link points at, and the file's own permissions.
        target = Path(os.path.realpath(path))
        mode = _mode_of(target, place)
        if any(os.path.realpath(one) == str(target) or _same(one, target) for one in inputs):
            raise EffectError(
                place, "this is the file that is read; choose another name for what is written."
            )
        sweep(target.parent)
        handle, temporary = tempfile.mkstemp(prefix=temporary_prefix(), suffix=PART, dir=target.parent)
        os.close(handle)
        yield temporary
        written = os.open(temporary, os.O_RDWR)
        try:
            os.fsync(written)
            os.fchmod(written, mode)
        finally:
            os.close(written)
        os.replace(temporary, target)
        temporary = ""
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except (OSError, ValueError) as wrong:
        if isinstance(wrong, EffectError):
            raise
        said = (getattr(wrong, "strerror", None) or str(wrong)).lower()
        raise EffectError(place, f"the file can't be written: {said}.") from None
    finally:
        if temporary:
            Path(temporary).unlink(missing_ok=True)


def _mode_of(target: Path, place: str) -> int:
    """Return the permissions that a file is written with; refuse what is no regular file."""
    try:
        about = target.stat()
    except FileNotFoundError:
        return 0o666 & ~_umask()
    if stat.S_ISDIR(about.st_mode):
        raise EffectError(place, "this is a folder; name a file in it.")
    if not stat.S_ISREG(about.st_mode):
        raise EffectError(
            place, "this is no regular file (a pipe, a device), and nothing else is written over."
        )
    return about.st_mode & 0o777


def _same(one: PathLike, target: Path) -> bool:
    try:
        return os.path.samefile(one, target)
    except OSError:
        return False


def temporary_prefix() -> str:
    """Return what the names of this process's temporary files and folders begin with."""
    return f"{_NAMES}{_PLACE}-{os.getpid()}-"


def sweep(folder: Path) -> None:
    """Remove what saves that were killed left in a folder; those of other machines and containers only
    when they are old.
    """
    for left in folder.glob(f"{_NAMES}*{PART}"):
        place, _, rest = left.name[len(_NAMES) :].partition("-")
        try:
            dead = place == _PLACE and not Path(f"/proc/{int(rest.partition('-')[0])}").exists()
            if dead or time.time() - left.stat().st_mtime > _OLD:
                if left.is_dir() and not left.is_symlink():
                    shutil.rmtree(left, ignore_errors=True)
                else:
                    left.unlink()
        except (OSError, ValueError):
            continue


def shown_path(path: PathLike) -> str:
    """Return a path as it may be shown."""
    return "".join(c if c.isprintable() else "?" for c in os.fsdecode(path) if not 0xD800 <= ord(c) < 0xE000)[
        :300
    ]


def _size(count: int) -> str:
    return f"{count >> 20} MB" if count >= 1 << 20 else f"{count >> 10} kB"


def _umask() -> int:
    now = os.umask(0o022)
    os.umask(now)
    return now
