"""A bundle's files in memory, and how they are put into a folder or a .zip: whole or not at all, the same
bytes each time.
"""

from __future__ import annotations

import contextlib
import ctypes
import errno
import io
import os
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

from ...effect.errors import EffectError
from ...effect.storing.whole_files import PART, shown_path, sweep, temporary_prefix, write_whole

Tree = Mapping[str, bytes]
MANIFEST = "bundle.json"
# The date of files in a .zip: the earliest that the format can say.
_DATE = (1980, 1, 1, 0, 0, 0)
_AT_CWD, _EXCHANGE = -100, 2
# Files that are packed already are stored as they are.
_PACKED = (".png", ".glb")


def zip_bytes(tree: Tree) -> bytes:
    """Return a .zip of files, in the order of their names."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for name in sorted(tree):
            about = zipfile.ZipInfo(name, _DATE)
            about.external_attr = 0o644 << 16
            about.create_system = 3
            about.compress_type = zipfile.ZIP_STORED if name.endswith(_PACKED) else zipfile.ZIP_DEFLATED
            file.writestr(about, tree[name], compresslevel=6)
    return out.getvalue()


def write_zip(
    tree: Tree, path: str | os.PathLike[str], inputs: tuple[str | os.PathLike[str], ...] = ()
) -> None:
    """Write files as a .zip, whole or not at all."""
    write_whole(path, zip_bytes(tree), inputs)


def write_folder(
    tree: Tree, path: str | os.PathLike[str], inputs: tuple[str | os.PathLike[str], ...] = ()
) -> None:
    """Write files as a folder, whole or not at all; see :func:`whole_folder`."""
    with whole_folder(path, MANIFEST, inputs) as put:
        for name, data in tree.items():
            put(name, data)


@contextlib.contextmanager
def whole_folder(
    path: str | os.PathLike[str], marker: str, inputs: tuple[str | os.PathLike[str], ...] = ()
) -> Iterator[Callable[[str, bytes], None]]:
    """Give a function that puts files into a folder, which at the end takes its place at once: made beside
    it, synced, exchanged.

    Parameters
    ----------
    marker : str
        A file by which folders of this kind are known; no other folder that has things in it is written over.

    Raises
    ------
    EffectError
        If it can't be written, holds anything that is read, or is another folder; what was there before
        stays.
    """
    place, target = shown_path(path), Path(os.path.realpath(path))
    refuse_foreign(target, place, marker)
    for one in inputs:
        if Path(os.path.realpath(one)).is_relative_to(target):
            raise EffectError(
                place, "the effect that is read lies in this folder; choose another one to write to."
            )
    temporary = ""

    def put(name: str, data: bytes) -> None:
        at = Path(temporary, name)
        at.parent.mkdir(parents=True, exist_ok=True)
        with at.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())

    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        sweep(target.parent)
        temporary = tempfile.mkdtemp(prefix=temporary_prefix(), suffix=PART, dir=target.parent)
        umask = os.umask(0o022)
        os.umask(umask)
        os.chmod(temporary, 0o777 & ~umask)
        yield put
        _into_place(temporary, target)
        temporary = temporary if os.path.lexists(temporary) else ""
    except OSError as wrong:
        raise EffectError(
            place, f"the folder can't be written: {(wrong.strerror or str(wrong)).lower()}."
        ) from None
    finally:
        if temporary:
            shutil.rmtree(temporary, ignore_errors=True)


def refuse_foreign(target: Path, place: str, marker: str = MANIFEST) -> None:
    """Refuse to write over a folder of another kind, or over a file."""
    if not os.path.lexists(target):
        return
    if not target.is_dir():
        raise EffectError(place, "there is a file of this name; choose another name for the folder.")
    if any(target.iterdir()) and not (target / marker).is_file():
        what = "no bundle" if marker == MANIFEST else "nothing that was written here before"
        raise EffectError(place, f"this folder has things in it and is {what}; choose an empty or a new one.")


def _into_place(temporary: str, target: Path) -> None:
    """Let a folder take the place of another; the other one then has its name."""
    if target.exists():
        renameat2 = getattr(ctypes.CDLL(None, use_errno=True), "renameat2", None)
        if (
            renameat2 is not None
            and renameat2(_AT_CWD, os.fsencode(temporary), _AT_CWD, os.fsencode(target), _EXCHANGE) == 0
        ):
            return
        number = ctypes.get_errno()
        if number not in (0, errno.EINVAL, errno.ENOSYS):
            raise OSError(number, os.strerror(number))
        # A file system that can't exchange two: the old one steps aside for a moment.
        aside = tempfile.mkdtemp(prefix=temporary_prefix(), suffix=PART, dir=target.parent)
        os.rename(target, os.path.join(aside, "old"))
        try:
            os.rename(temporary, target)
        except OSError:
            os.rename(os.path.join(aside, "old"), target)
            raise
        shutil.rmtree(aside, ignore_errors=True)
        return
    os.rename(temporary, target)


def read_folder(path: str | os.PathLike[str]) -> dict[str, bytes]:
    """Return the files in a folder by their names from there; links are not followed."""
    found = {}
    root = Path(path)
    for at, folders, names in os.walk(root):
        folders.sort()
        for name in sorted(names):
            one = Path(at, name)
            if one.is_file() and not one.is_symlink():
                found[one.relative_to(root).as_posix()] = one.read_bytes()
    return found
