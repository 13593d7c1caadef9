"""Caches as scenes: animated meshes of glTF, and USD's point instancer."""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.kinds import DrawnAs
from ...effect.storing.whole_files import whole_file, write_whole
from ...simulation.meshes.drawn import DrawnMeshPart, body_of_look
from ..glb import Glb
from .gathering import ATTRIBUTES, Sample, shown_layers

PathLike = str | os.PathLike[str]
Floats = NDArray[np.float32]
# Nodes that a glTF file has at most; each has three animations.
MOST_NODES = 2000


def write_glb(
    effect: Effect, moments: Iterable[Sample], path: PathLike, inputs: tuple[PathLike, ...] = ()
) -> None:
    """Write a cache as binary glTF: a node for each particle that is alive at once, which the next takes over
    when it dies.

    Places, turns and sizes are animated; what is not alive has size 0. Pictures are upright squares, meshes
    their meshes, each with its layer's colour in the mean.

    Raises
    ------
    EffectError
        If there are too many particles for that.
    """
    kept = list(moments)
    times = np.array([sample.time for sample in kept], np.float32)
    times -= times[0]
    glb = Glb()
    channels: list[dict[str, Any]] = []
    samplers: list[dict[str, Any]] = []
    at_time = glb.numbers(times, ends=True)
    tops, total = [], 0
    for layer in shown_layers(effect):
        slots, places, turns, sizes = _slots(layer, kept)
        total += slots
        if total > MOST_NODES:
            said = (
                f"more than {MOST_NODES:,} particles are alive at once; glTF has a node for each. Take USD "
                "or NPZ, or lower the caps."
            )
            raise EffectError(layer.name, said)
        meshes = _meshes(glb, layer, kept)
        nodes = []
        for slot in range(slots):
            number = glb.add(
                "nodes",
                {"name": f"{layer.name} {slot}", "mesh": meshes[slot % len(meshes)], "scale": [0, 0, 0]},
            )
            nodes.append(number)
            for name, values in (
                ("translation", places[slot]),
                ("rotation", turns[slot]),
                ("scale", sizes[slot]),
            ):
                samplers.append(
                    {
                        "input": at_time,
                        "output": glb.numbers(values),
                        "interpolation": "STEP" if name == "scale" else "LINEAR",
                    }
                )
                channels.append({"sampler": len(samplers) - 1, "target": {"node": number, "path": name}})
        top: dict[str, Any] = {"name": layer.name}
        if nodes:
            top["children"] = nodes
        tops.append(glb.add("nodes", top))
    glb.parts |= {"scenes": [{"nodes": tops}], "scene": 0} if tops else {"scenes": [{}], "scene": 0}
    if channels:
        glb.parts["animations"] = [{"name": effect.name, "channels": channels, "samplers": samplers}]
    write_whole(path, glb.bytes(), inputs)


def _slots(layer: Layer, kept: list[Sample]) -> tuple[int, Floats, Floats, Floats]:
    """Return how many nodes a layer needs, and what each does, (nodes, moments, parts)."""
    taken: dict[int, int] = {}
    free: list[int] = []
    # A node rests for a moment with size 0, so that it is not seen on the way to its next particle.
    resting: list[int] = []
    count, rows = 0, []
    for sample in kept:
        free, resting = free + resting, []
        found = sample.layers[layer.id]
        alive = {int(serial) for serial in found["serial"]}
        for serial in [one for one in taken if one not in alive]:
            resting.append(taken.pop(serial))
        slots = []
        for serial in found["serial"]:
            if int(serial) not in taken:
                if free:
                    taken[int(serial)] = free.pop(0)
                else:
                    taken[int(serial)], count = count, count + 1
            slots.append(taken[int(serial)])
        rows.append((np.array(slots, int), found))
    places, turns = np.zeros((count, len(kept), 3), np.float32), np.zeros((count, len(kept), 4), np.float32)
    sizes = np.zeros((count, len(kept), 3), np.float32)
    turns[..., 3] = 1.0
    for i, (taken_by, found) in enumerate(rows):
        places[:, i] = places[:, max(i - 1, 0)]
        if len(taken_by):
            places[taken_by, i] = found["position"]
            turns[taken_by, i] = _turn(layer, found)
            sizes[taken_by, i] = _scale(layer, found)
    return count, places, turns, sizes


def _turn(layer: Layer, found: dict[str, Any]) -> Floats:
    """Return quaternions; pictures are turned about Z by their angle."""
    if layer.look.draw == DrawnAs.MESH:
        turn = found["turn"]
        return turn / np.maximum(np.linalg.norm(turn, axis=1, keepdims=True), 1e-12)  # type: ignore[no-any-return]
    half = found["angle"] / 2
    return np.stack([0 * half, 0 * half, np.sin(half), np.cos(half)], axis=1)


def _scale(layer: Layer, found: dict[str, Any]) -> Floats:
    size = found["size"]
    if layer.look.draw == DrawnAs.MESH:
        return size[:, [0, 1, 0]] * found["stretch"]  # type: ignore[no-any-return]
    return np.stack([size[:, 0], size[:, 1], np.minimum(size[:, 0], size[:, 1])], axis=1)


def _square() -> DrawnMeshPart:
    corners = np.array([[-0.5, -0.5, 0], [0.5, -0.5, 0], [0.5, 0.5, 0], [-0.5, 0.5, 0]], np.float32)
    normals = np.tile(np.array([0, 0, 1], np.float32), (4, 1))
    return DrawnMeshPart(
        np.concatenate([corners, normals, corners[:, :2] + 0.5], axis=1).astype(np.float32),
        np.array([[0, 1, 2], [0, 2, 3]], np.int32),
    )


def _parts(layer: Layer) -> tuple[DrawnMeshPart, ...]:
    return body_of_look(layer.look)[0] if layer.look.draw == DrawnAs.MESH else (_square(),)


def _meshes(glb: Glb, layer: Layer, kept: list[Sample]) -> list[int]:
    """Add the mesh that a layer's particles are to a GLB; return the numbers of its parts."""
    colors = np.concatenate([sample.layers[layer.id]["color"] for sample in kept])
    cover = np.concatenate([sample.layers[layer.id]["opacity"] for sample in kept])
    mean = np.clip(colors.mean(axis=0), 0, 1) if len(colors) else np.ones(3)
    shade = {
        "baseColorFactor": [
            *(round(float(x), 5) for x in mean),
            round(float(np.clip(cover.mean() if len(cover) else 1.0, 0, 1)), 5),
        ],
        "metallicFactor": 0,
    }
    clear = {} if layer.look.draw == DrawnAs.MESH and layer.look.blend == "cutout" else {"alphaMode": "BLEND"}
    material = glb.add(
        "materials", {"name": layer.name, "pbrMetallicRoughness": shade, "doubleSided": True, **clear}
    )
    return [glb.mesh(layer.name, part.vertices, part.faces, material) for part in _parts(layer)]


def write_usd(
    effect: Effect, moments: Iterable[Sample], path: PathLike, inputs: tuple[PathLike, ...] = ()
) -> None:
    """Write a cache as a USD scene (.usdc) with a point instancer for each layer.

    Raises
    ------
    EffectError
        If USD is not installed here.
    """
    try:
        from pxr import Sdf, Usd, UsdGeom
    except ImportError:
        raise EffectError(
            "cache.form", "USD is not installed here; install the package usd-core, or take NPZ, CSV or glTF."
        ) from None
    stage = Usd.Stage.CreateInMemory()
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, 1.0)
    root = UsdGeom.Xform.Define(stage, "/effect")
    root.GetPrim().SetDisplayName(effect.name)
    stage.SetDefaultPrim(root.GetPrim())
    kept = list(moments)
    # Time codes are seconds times what keeps them whole.
    rate = float(effect.step_rate)
    stage.SetTimeCodesPerSecond(rate)
    stage.SetStartTimeCode(kept[0].time * rate)
    stage.SetEndTimeCode(kept[-1].time * rate)
    for number, layer in enumerate(shown_layers(effect)):
        here = f"/effect/layer_{number}"
        instancer = UsdGeom.PointInstancer.Define(stage, here)
        instancer.GetPrim().SetDisplayName(layer.name)
        parts = _parts(layer)
        _write_shapes(stage, instancer, here, parts)
        known = {
            one.name: _primvar(UsdGeom.PrimvarsAPI(instancer), Sdf, one.name, one.wide)
            for one in ATTRIBUTES
            if one.name not in ("position", "velocity", "turn")
        }
        for sample in kept:
            found = sample.layers[layer.id]
            code = Usd.TimeCode(sample.time * rate)
            _write_particles(instancer, layer, found, len(parts), code, known)
    with whole_file(path, inputs) as temporary:
        # USD tells what to write by the ending.
        beside = f"{temporary}.usdc"
        try:
            stage.GetRootLayer().Export(beside)
            os.replace(beside, temporary)
        finally:
            if os.path.exists(beside):
                os.unlink(beside)


def _write_shapes(stage: Any, instancer: Any, here: str, parts: Any) -> None:
    """Write what is drawn for each particle as meshes that an instancer names."""
    from pxr import UsdGeom, Vt

    for i, part in enumerate(parts):
        mesh = UsdGeom.Mesh.Define(stage, f"{here}/shapes/shape_{i}")
        mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(part.vertices[:, :3])))
        mesh.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(len(part.faces), 3, np.int32)))
        mesh.CreateFaceVertexIndicesAttr(
            Vt.IntArray.FromNumpy(np.ascontiguousarray(part.faces.reshape(-1), np.int32))
        )
        mesh.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
        instancer.GetPrototypesRel().AddTarget(mesh.GetPath())


def _write_particles(
    instancer: Any, layer: Layer, found: dict[str, Any], parts: int, code: Any, known: dict[str, Any]
) -> None:
    """Write a layer's particles of one moment."""
    from pxr import Gf, Vt

    which = np.minimum((found["lot"] * parts).astype(np.int32), parts - 1)
    instancer.GetProtoIndicesAttr().Set(Vt.IntArray.FromNumpy(np.ascontiguousarray(which)), code)
    instancer.GetIdsAttr().Set(Vt.Int64Array.FromNumpy(found["serial"].astype(np.int64)), code)
    instancer.GetPositionsAttr().Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(found["position"])), code)
    instancer.GetVelocitiesAttr().Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(found["velocity"])), code)
    instancer.GetScalesAttr().Set(
        Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(_scale(layer, found), np.float32)), code
    )
    turns = [Gf.Quath(float(w), float(x), float(y), float(z)) for x, y, z, w in _turn(layer, found)]
    instancer.GetOrientationsAttr().Set(Vt.QuathArray(turns), code)
    for name, (primvar, kind) in known.items():
        primvar.Set(getattr(Vt, kind).FromNumpy(np.ascontiguousarray(found[name], np.float32)), code)


def _primvar(api: Any, sdf: Any, name: str, wide: int) -> tuple[Any, str]:
    kinds = {
        1: ("FloatArray", "FloatArray"),
        2: ("Float2Array", "Vec2fArray"),
        3: ("Color3fArray" if name == "color" else "Float3Array", "Vec3fArray"),
        4: ("Float4Array", "Vec4fArray"),
    }
    kind, array = kinds[wide]
    called = "displayColor" if name == "color" else "displayOpacity" if name == "opacity" else name
    return api.CreatePrimvar(called, getattr(sdf.ValueTypeNames, kind), "varying"), array
