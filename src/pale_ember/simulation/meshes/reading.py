"""Mesh files in OBJ, glTF, GLB, STL and PLY, read by trimesh; whatever is wrong with them is one sentence."""

from __future__ import annotations

import contextlib
import functools
import io
import json
import os
import struct
from collections.abc import Callable
from typing import Any, TypeVar
from urllib.parse import unquote

from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.errors import EffectError, nearest
from ...effect.storing.whole_files import read_regular

ENDINGS = (".obj", ".gltf", ".glb", ".stl", ".ply")
LARGEST = 256 << 20
MOST_PARTS = 2000
Found = TypeVar("Found")


def stamp_of(mesh: str, place: str = "birthplace.mesh") -> tuple[str, int, int]:
    """Return a mesh file's whole path, when it was changed, and its size; or say what is wrong with its
    name.
    """
    if not mesh.lower().endswith(ENDINGS):
        known = nearest(mesh, SHIPPED_MESHES)
        raise EffectError(
            place, f"“{shown_name(mesh)[:80]}” is neither a shipped mesh nor a mesh file; {known}"
        )
    try:
        about = os.stat(mesh)
    except (OSError, ValueError) as wrong:
        said = (getattr(wrong, "strerror", None) or "it is no path").lower()
        raise EffectError(
            place, f"“{shown_name(mesh)}” can't be read: {said}; choose the file anew."
        ) from None
    changed, size = about.st_mtime_ns, about.st_size
    for file in _known_beside(os.path.abspath(mesh), changed, size):
        # One that is not there is as good as one of no size: it may come.
        with contextlib.suppress(OSError):
            about = os.stat(file)
            changed, size = max(changed, about.st_mtime_ns), size + about.st_size
    return os.path.abspath(mesh), changed, size


@functools.lru_cache(maxsize=64)
def _known_beside(path: str, changed: int, size: int) -> tuple[str, ...]:
    if not path.lower().endswith(".gltf"):
        return ()
    try:
        return tuple(
            os.path.join(os.path.dirname(path), name) for name in beside(path, read_regular(path, LARGEST))
        )
    except EffectError:
        return ()


def beside(path: str, data: bytes) -> list[str]:
    """Return the files that a mesh file takes its shape from besides itself: paths from its folder, none
    that lead out of it.
    """
    if not path.lower().endswith(".gltf"):
        return []
    try:
        parts = json.loads(data)
        named = [row.get("uri", "") for kind in ("buffers", "images") for row in parts.get(kind, [])]
    except (ValueError, AttributeError, TypeError, RecursionError):
        return []
    found: dict[str, None] = {}
    for uri in named:
        if isinstance(uri, str) and uri and not uri.startswith("data:") and (name := _inside(unquote(uri))):
            found[name] = None
    return list(found)


def _inside(name: str) -> str:
    """Return a name as a path from a folder; nothing if it leads out of that."""
    name = os.path.normpath(name.replace("\\", "/"))
    return "" if os.path.isabs(name) or name.split("/")[0] == ".." or "\0" in name else name


class _Beside:
    """What trimesh asks for the files that a mesh file names: regular ones of its folder, no larger than
    it may be itself.
    """

    def __init__(self, folder: str) -> None:
        self.folder = folder

    def get(self, name: str) -> bytes:
        inside = _inside(unquote(name))
        if not inside:
            raise EffectError(name, "this file lies outside the folder of the mesh.")
        return read_regular(os.path.join(self.folder, inside), LARGEST)

    def __getitem__(self, name: str) -> bytes:
        return self.get(name)

    def namespaced(self, namespace: str) -> _Beside:
        return _Beside(os.path.join(self.folder, _inside(namespace)))

    def keys(self) -> list[str]:
        return []


def read_scene(path: str, place: str, taken: Callable[[Any], Found]) -> Found:
    """Return what ``taken`` makes of the scene in a mesh file.

    Raises
    ------
    EffectError
        With a place and one sentence, whatever is wrong.
    """
    import trimesh

    name = shown_name(path)
    try:
        data = read_regular(path, LARGEST)
    except EffectError as wrong:
        raise EffectError(place, f"“{name}”: {wrong.reason}") from None
    ending = os.path.splitext(path)[1].lower()
    parts = _parts_of(data, ending)
    if parts > MOST_PARTS:
        raise EffectError(place, f"“{name}” has {parts} parts; join them to at most {MOST_PARTS}.")
    try:
        near: Any = _Beside(os.path.dirname(path))
        return taken(
            trimesh.load_scene(
                io.BytesIO(_in_utf8(data, ending)), file_type=ending[1:], resolver=near, process=False
            )
        )
    except MemoryError:
        raise EffectError(place, f"“{name}” takes more memory than there is; use a simpler mesh.") from None
    except Exception:  # any of the readers may stumble in its own way, and says it in its own words
        kind = ending[1:].upper()
        raise EffectError(
            place, f"“{name}” can't be read as {kind}: it is cut short or not of this kind; export it anew."
        ) from None


def shown_name(mesh: str) -> str:
    """Return a file's name as it may stand in a sentence."""
    return "".join(c if c.isprintable() else "?" for c in mesh)[-200:]


def _in_utf8(data: bytes, ending: str) -> bytes:
    """Return a text file in UTF-8, whatever its comments are written in; others as they are."""
    if ending == ".obj" or (ending == ".stl" and data[:5].lower() == b"solid" and b"facet" in data[:4096]):
        try:
            data.decode("utf-8")
        except UnicodeDecodeError:
            return data.decode("latin-1").encode("utf-8")
    return data


def _parts_of(data: bytes, ending: str) -> int:
    """Return how many nodes of a glTF file draw a mesh; 0 for others and for what can't be told."""
    try:
        if ending == ".glb":
            (length,) = struct.unpack_from("<I", data, 12)
            data = data[20 : 20 + length]
        elif ending != ".gltf":
            return 0
        return sum("mesh" in node for node in json.loads(data).get("nodes", ()))
    except (ValueError, struct.error, AttributeError, TypeError, RecursionError):
        return 0
