"""The look of particles that are not drawn as pictures: ribbons and meshes."""

from __future__ import annotations

from ..kinds import Across, DrawnAs, Faces, Join, Lay, LayFrom, Stand
from ..read_at import ReadAt
from ..rules import fields
from ..rules.part import Part
from ..values.values import Fixed, Value, Vec3Value

_ALONG = "life clock speed"
_RIBBON = (DrawnAs.RIBBON,)
_MESH = (DrawnAs.MESH,)


class Ribbon(Part):
    """A band through particles: each is a point of it, as wide and as coloured as it is at its age."""

    join: Join = fields.choice(
        Join.LAYER,
        "Join",
        "All particles of the layer in the order of their births; or those of each parent's particle, "
        "up to where that is now.",
        draws=_RIBBON,
        group="band",
        also="connect trail per parent",
    )
    across: Across = fields.choice(
        Across.CAMERA,
        "Across",
        "Which way its width goes: as the camera sees it; flat over the floor; along the layer's own axis; "
        "or from end to end of the layer's line, as it is where each point is born.",
        draws=_RIBBON,
        also="facing orientation width blade sweep",
    )
    lay: Lay = fields.choice(
        Lay.STRETCH,
        "Lay",
        "The picture lies once over the whole ribbon, or again each so many metres.",
        draws=_RIBBON,
        group="band",
        also="texture uv tile repeat stretch",
    )
    every: float = fields.number(
        1.0,
        "Every",
        "How long the picture is.",
        unit="m",
        hard=(0.0001, 1e5),
        soft=(0.05, 5),
        draws=_RIBBON,
        only=("lay", (Lay.REPEAT,)),
        group="band",
        also="texture length tile repeat metre",
    )
    lay_from: LayFrom = fields.choice(
        LayFrom.HEAD,
        "From",
        "The picture goes along with the head; or it stays where the ribbon was laid, counted from "
        "where its tail began.",
        draws=_RIBBON,
        only=("lay", (Lay.REPEAT,)),
        group="band",
        also="texture anchor head tail world",
    )
    smooth: int = fields.integer(
        6,
        "Smooth",
        "So many points at most are put between two, along a rounded way.",
        hard=(0, 32),
        soft=(0, 8),
        draws=_RIBBON,
        group="band",
        also="subdivide spline curve round",
    )
    gap: float = fields.number(
        0.0,
        "Gap",
        "Points farther apart than this are not joined; at 0 all are.",
        unit="m",
        hard=(0, 1e5),
        soft=(0, 5),
        draws=_RIBBON,
        group="band",
        also="break distance split",
    )


class MeshLook(Part):
    """A mesh in the place of each particle."""

    mesh: str = fields.mesh(
        "ball",
        "Mesh",
        "A shipped mesh, or a file: OBJ, glTF, GLB, STL or PLY, its longest side 1 m times the size; "
        "of several parts each "
        "particle takes one at random.",
        draws=_MESH,
        also="model object obj gltf body",
    )
    stand: Stand = fields.choice(
        Stand.LAYER,
        "Stand",
        "Turned as the layer is; its axis along its travel; or tumbling about an axis of its own. "
        "Angle and spin turn it.",
        draws=_MESH,
        also="orientation rotate tumble align travel",
    )
    stretch: Vec3Value = fields.vec3_value(
        "Stretch",
        "Multiplies its size along its own X, Y and Z.",
        along=_ALONG,
        unit="×",
        hard=(0, 1e5),
        soft=(0, 4),
        draws=_MESH,
        start=Vec3Value(Fixed(1.0), Fixed(1.0), Fixed(1.0)),
        also="scale flatten grow column axis",
        read_at=ReadAt.LOOK,
        column=fields.Column("stretch", neutral=1.0),
    )
    faces: Faces = fields.choice(
        Faces.BOTH,
        "Faces",
        "Both sides of its faces are seen, or only the outer or the inner one.",
        draws=_MESH,
        group="body",
        also="cull two sided double backface",
    )
    rim: Value = fields.value(
        0.0,
        "Rim light",
        "How bright it glows where it is seen from the side, in its own colour.",
        along=_ALONG,
        unit="×",
        hard=(0, 1e5),
        soft=(0, 4),
        draws=_MESH,
        group="body",
        also="fresnel edge glow outline shell",
        read_at=ReadAt.LOOK,
        column=fields.Column("rim_light", feature="SHELL"),
    )
    rim_power: float = fields.number(
        2.0,
        "Rim power",
        "How narrow the rim is.",
        hard=(0.05, 50),
        soft=(0.5, 8),
        draws=_MESH,
        group="body",
        needs="rim",
        also="fresnel exponent falloff",
    )
    core: float = fields.number(
        1.0,
        "Core",
        "How opaque it is where it is seen from the front; below 1 it is a shell.",
        hard=(0, 1),
        soft=(0, 1),
        draws=_MESH,
        group="body",
        also="fresnel shell hollow transparent inside",
    )
