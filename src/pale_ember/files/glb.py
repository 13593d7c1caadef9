"""Binary glTF 2.0: a JSON chunk and a chunk of bytes that it points into."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
_KINDS = {"f": 5126, "I": 5125, "H": 5123, "B": 5121}
POINTS, INDICES = 34962, 34963


class Glb:
    """Collects parts of a glTF file, and the numbers that they point at.

    Attributes
    ----------
    parts : dict
        The file's JSON as it grows: ``nodes``, ``meshes``, ``materials`` and what else is put in.
    """

    def __init__(self) -> None:
        self.parts: dict[str, Any] = {"asset": {"version": "2.0", "generator": "Pale Ember"}}
        self._data = bytearray()

    def add(self, kind: str, part: dict[str, Any]) -> int:
        """Put a part into a list of the file; return its place there."""
        row: list[dict[str, Any]] = self.parts.setdefault(kind, [])
        row.append(part)
        return len(row) - 1

    def numbers(
        self, values: NDArray[Any], target: int = 0, ends: bool = False, normalized: bool = False
    ) -> int:
        """Put numbers, (n,) or (n, parts), into the file; return their accessor.

        Parameters
        ----------
        target : int
            ``POINTS`` or ``INDICES`` for what meshes are made of.
        ends : bool
            Whether their least and greatest are told, as readers want of places and times.
        """
        values = np.ascontiguousarray(values)
        flat = values.reshape(len(values), -1)
        self._data += bytes(-len(self._data) % 4)
        view: dict[str, Any] = {"buffer": 0, "byteOffset": len(self._data), "byteLength": values.nbytes}
        if target:
            view["target"] = target
        self._data += values.tobytes()
        found: dict[str, Any] = {
            "bufferView": self.add("bufferViews", view),
            "componentType": _KINDS[values.dtype.char],
            "count": len(values),
            "type": _TYPES[flat.shape[1]],
        }
        if normalized:
            found["normalized"] = True
        if ends:
            found |= {"min": flat.min(axis=0).tolist(), "max": flat.max(axis=0).tolist()}
        return self.add("accessors", found)

    def bytes(self) -> bytes:
        """Return the file."""
        self._data += bytes(-len(self._data) % 4)
        if self._data:
            self.parts["buffers"] = [{"byteLength": len(self._data)}]
        text = json.dumps(self.parts, ensure_ascii=False, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        chunks = struct.pack("<II", len(text), 0x4E4F534A) + text
        if self._data:
            chunks += struct.pack("<II", len(self._data), 0x004E4942) + bytes(self._data)
        return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks

    def mesh(
        self, name: str, vertices: NDArray[np.float32], faces: NDArray[np.int32], material: int | None = None
    ) -> int:
        """Put a mesh in: vertices (n, 8), place, normal and texture coordinates with v up; faces (m, 3);
        return its place.
        """
        normals = vertices[:, 3:6] / np.maximum(
            np.linalg.norm(vertices[:, 3:6], axis=1, keepdims=True), 1e-12
        )
        # glTF's texture coordinates begin at the upper left.
        uv = np.stack([vertices[:, 6], 1.0 - vertices[:, 7]], axis=1)
        primitive: dict[str, Any] = {
            "attributes": {
                "POSITION": self.numbers(vertices[:, :3].astype(np.float32), POINTS, ends=True),
                "NORMAL": self.numbers(normals.astype(np.float32), POINTS),
                "TEXCOORD_0": self.numbers(uv.astype(np.float32), POINTS),
            },
            "indices": self.numbers(faces.reshape(-1).astype(np.uint32), INDICES),
        }
        if material is not None:
            primitive["material"] = material
        return self.add("meshes", {"name": name, "primitives": [primitive]})


def read_glb(data: bytes) -> tuple[dict[str, Any], bytes]:
    """Return the JSON and the bytes of a binary glTF file.

    Raises
    ------
    ValueError
        If it is none.
    """
    if len(data) < 20 or data[:4] != b"glTF":
        raise ValueError("this is no binary glTF file")
    long = struct.unpack("<I", data[12:16])[0]
    parts = json.loads(data[20 : 20 + long])
    at = 20 + long
    return parts, data[at + 8 : at + 8 + struct.unpack("<I", data[at : at + 4])[0]] if len(
        data
    ) >= at + 8 else b""
