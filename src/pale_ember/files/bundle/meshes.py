"""A bundle's meshes as binary glTF: those that layers are drawn as, are born on, and that stand on the
stage.
"""

from __future__ import annotations

import re
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect
from ...effect.kinds import DrawnAs, EmitterShape, PropKind
from ...simulation.meshes.drawn import DrawnMesh, DrawnMeshPart, body_of
from ...simulation.meshes.faces import mesh_faces
from ..glb import Glb


def mesh_files(effect: Effect) -> tuple[dict[str, bytes], list[dict[str, Any]]]:
    """Return the files of all meshes of an effect, and a description of each.

    Raises
    ------
    EffectError
        If a mesh can't be read.
    """
    files: dict[str, bytes] = {}
    rows: dict[tuple[str, str], dict[str, Any]] = {}
    for layer in effect.layers:
        if layer.look.draw == DrawnAs.MESH:
            _add(
                files, rows, layer.look.mesh.mesh, "body", body_of(layer.look.mesh.mesh), f"layer:{layer.id}"
            )
        if layer.birthplace.kind == EmitterShape.MESH:
            _add(
                files,
                rows,
                layer.birthplace.mesh,
                "surface",
                _as_body(mesh_faces(layer.birthplace.mesh)),
                f"layer:{layer.id}",
            )
    for prop in effect.stage.props:
        if prop.kind == PropKind.MESH:
            _add(files, rows, prop.mesh, "surface", _as_body(mesh_faces(prop.mesh)), f"prop:{prop.name}")
    return files, list(rows.values())


def _add(
    files: dict[str, bytes],
    rows: dict[tuple[str, str], dict[str, Any]],
    mesh: str,
    use: str,
    body: DrawnMesh,
    who: str,
) -> None:
    """Add a mesh's file, or one more layer that uses it."""
    key = (mesh, use)
    if key not in rows:
        plain = (
            re.sub(r"[^\w-]+", "_", mesh.rpartition("/")[2].rpartition(".")[0] or mesh)
            .strip("_")
            .lower()[:60]
            or "mesh"
        )
        stem, number = f"{plain}_{use}", 2
        while f"meshes/{stem}.glb" in files:
            stem, number = f"{plain}_{use}_{number}", number + 1
        name = f"meshes/{stem}.glb"
        files[name] = glb_of(plain, body)
        rows[key] = {
            "mesh": mesh,
            "use": use,
            "file": name,
            "parts": len(body),
            "vertices": sum(len(part.vertices) for part in body),
            "triangles": sum(len(part.faces) for part in body),
            "worn_by": [],
        }
    rows[key]["worn_by"].append(who)


def glb_of(name: str, body: DrawnMesh) -> bytes:
    """Return a mesh as a binary glTF file: a node for each of its parts, in metres, +Y up."""
    glb = Glb()
    nodes = []
    for i, part in enumerate(body):
        called = name if len(body) == 1 else f"{name} {i + 1}"
        nodes.append(glb.add("nodes", {"name": called, "mesh": glb.mesh(called, part.vertices, part.faces)}))
    glb.parts["scenes"] = [{"nodes": nodes}]
    glb.parts["scene"] = 0
    return glb.bytes()


def _as_body(corners: NDArray[np.float64]) -> DrawnMesh:
    """Return triangles, (n, 3, 3), as a mesh with flat faces."""
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    long = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(long > 0, normals / np.maximum(long, 1e-300), (0.0, 1.0, 0.0))
    vertices = np.zeros((3 * len(corners), 8), np.float32)
    vertices[:, :3] = corners.reshape(-1, 3)
    vertices[:, 3:6] = np.repeat(normals, 3, axis=0)
    return (DrawnMeshPart(vertices, np.arange(3 * len(corners), dtype=np.int32).reshape(-1, 3)),)
