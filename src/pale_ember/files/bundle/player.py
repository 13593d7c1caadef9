"""The page that plays an effect in any browser, from baked particles, by the same shaders."""

from __future__ import annotations

import base64
import html
import json
import math
import re
from importlib import resources
from typing import Any

import numpy as np

from ...drawing.backdrops import BACKDROPS
from ...drawing.blends import BLENDS
from ...drawing.environment import environment_of, lights_of
from ...drawing.moment import DrawnLayer
from ...drawing.passes.backdrop import AROUND, SQUARE
from ...drawing.passes.solids import body_of, person, pose_of
from ...drawing.programs import shader_source
from ...drawing.shader_columns import MESH_ATTRIBUTES
from ...drawing.styles import style_of
from ...effect.chapters.stage import Prop
from ...effect.effect import Effect
from ...effect.kinds import Across, Backdrop, DrawnAs, PropKind
from ...effect.values.colors import hex_to_linear
from ...simulation.layout.instances import PLAIN
from ...simulation.motion.prop_poses import standing
from ...textures.prepared import Prepared
from ..looping import settled
from ..stopping import Progress
from ..textures import BACKDROP
from .blob import Blob, along_rows
from .figures import watch
from .recordings import Recording, eye_place

_SHADERS = (
    "particle.vert",
    "particle.frag",
    "ribbon.vert",
    "mesh.vert",
    "solid.vert",
    "solid.frag",
    "screen.vert",
    "backdrop.frag",
    "develop.frag",
    "shine.frag",
    "shrink.frag",
    "widen.frag",
)
_SCRIPTS = ("data.js", "drawing.js", "renderer.js", "main.js")
# Moments that a page has at most; of very long effects fewer each second are kept.
_MOST_MOMENTS = 3600


def first_take(effect: Effect, rate: float) -> Recording:
    """Return the stretch from time 0 to the effect's duration, which is to be watched."""
    return Recording(effect, _steps(effect, 0.0, rate, True))


def player_page(
    effect: Effect, textures: dict[str, Prepared], first: Recording, rate: float, progress: Progress
) -> bytes:
    """Return the page: one HTML file that needs nothing besides itself.

    Parameters
    ----------
    textures : dict
        From :func:`~..textures.textures_of`.
    first : Recording
        From :func:`first_take`, after it was watched.
    rate : float
        Moments each second that it was asked for; fewer are kept where they would be too many bytes.

    Raises
    ------
    Stopped
    """
    takes = [first]
    if effect.loop:
        same, start = settled(effect)
        steps = _steps(same, start, rate / first.every, True)
        takes.append(Recording(same, steps))
        watch(same, takes[1:], textures, steps[0], steps[-1], progress)
    blob = Blob()
    placed = [take.packed(blob) for take in takes]
    page = _template("player.html")
    scene = _scene(effect, first, textures, blob) | {
        "takes": placed,
        "rate": rate / max(take.every for take in takes),
        "plain": PLAIN,
        "mesh_attributes": MESH_ATTRIBUTES,
    }
    parts = {
        "%TITLE%": html.escape(effect.name),
        "%SHADERS%": _in_script({name: shader_source(name) for name in _SHADERS}),
        "%SCENE%": _in_script(scene),
        "%DATA%": base64.b64encode(blob.packed()).decode(),
        "%SCRIPT%": "\n".join(_template(name) for name in _SCRIPTS),
    }
    return re.sub("|".join(parts), lambda mark: parts[mark[0]], page).encode()


def _template(name: str) -> str:
    return (resources.files(__package__) / "web" / name).read_text(encoding="utf-8")


def _in_script(data: Any) -> str:
    """Return JSON that can stand inside a page."""
    return json.dumps(data, ensure_ascii=False, separators=(",", ":"), default=_plain).replace("<", "\\u003c")


def _plain(one: Any) -> Any:
    if isinstance(one, np.ndarray):
        return one.tolist()
    if isinstance(one, np.generic):
        return one.item()
    raise TypeError(type(one).__name__)


def _steps(effect: Effect, start: float, rate: float, last: bool) -> list[int]:
    """Return the simulation's steps nearest to so many moments each second of one duration, with its end
    if asked.
    """
    count = max(1, min(round(effect.duration * rate), _MOST_MOMENTS))
    moments = [start + effect.duration * i / count for i in range(count + last)]
    return sorted({math.floor(at * effect.step_rate + 0.5) for at in moments})


def _scene(effect: Effect, take: Recording, textures: dict[str, Prepared], blob: Blob) -> dict[str, Any]:
    """Return all that the page draws but the layers' recordings."""
    stage = effect.stage
    environment = environment_of(stage)
    solid = environment.solid or bool(stage.props) or stage.figure
    known: dict[int, int] = {}
    pictures: list[dict[str, Any]] = []

    def picture_of(ready: Prepared) -> int:
        if id(ready) not in known:
            known[id(ready)] = len(pictures)
            pictures.append(_picture(ready, blob))
        return known[id(ready)]

    behind = textures.get(BACKDROP)
    return {
        "name": effect.name,
        "duration": effect.duration,
        "loop": effect.loop,
        "camera": {
            "yaw": stage.camera.yaw,
            "pitch": stage.camera.pitch,
            "distance": stage.camera.distance,
            "target": list(stage.camera.target),
            "view": stage.camera.view,
        },
        "eye": eye_place(effect),
        "exposure": stage.exposure,
        "glow": stage.glow,
        "glow_reach": stage.glow_reach,
        "floor": stage.floor,
        "solid": solid,
        "backdrop": str(stage.backdrop),
        "backdrops": {
            str(one): _backdrop(one, stage)
            for one in Backdrop
            if one != Backdrop.PICTURE or stage.backdrop == one
        },
        "behind": picture_of(behind) if behind is not None else -1,
        "around": list(AROUND),
        "props": _props(effect, take, blob),
        "layers": [_layer(effect, layer, solid, picture_of, blob) for layer in take.first.values()],
        "pictures": pictures,
    }


def _backdrop(one: Backdrop, stage: Any) -> dict[str, Any]:
    colors = BACKDROPS[one]
    lights = lights_of(environment_of(stage.model_copy(update={"backdrop": one})))
    return {
        **{name: hex_to_linear(getattr(colors, name)) for name in ("zenith", "horizon", "ground", "line")},
        "checker": SQUARE if colors.checker else 0.0,
        "key_from": lights.key_from,
        "key": lights.key,
        "sky": lights.sky,
        "bounce": lights.ground,
    }


def _picture(ready: Prepared, blob: Blob) -> dict[str, Any]:
    """Return a texture as the page takes it."""
    wide, high = ready.size
    return {
        "width": wide,
        "height": high,
        "frames": ready.frames,
        "smooth": ready.smooth,
        "picture": _frames(ready.pixels, blob),
        "coded": ready.is_coded,
        "normals": _frames(ready.normals, blob),
        "motion": _frames(ready.motion, blob),
        "corners": blob.put(ready.corners.astype(np.float32)),
        "joint_corners": blob.put(ready.joint_corners.astype(np.float32)),
    }


def _frames(pixels: Any, blob: Blob) -> Any:
    """Return where frames are found: of bytes what changes along their rows; of halves 256 levels and
    what those are.
    """
    if pixels is None:
        return None
    if pixels.dtype == np.uint8:
        return {"bytes": blob.put(along_rows(pixels))}
    if pixels.shape[3] == 4:
        return {"halves": blob.put(pixels.astype(np.float16))}
    reach = max(float(np.abs(pixels).max()), 1e-6)
    levels = np.rint((pixels.astype(np.float32) / reach + 1.0) * 127.0).astype(np.uint8)
    return {
        "bytes": blob.put(along_rows(levels)),
        "levels": blob.put(((np.arange(256) / 127.0 - 1.0) * reach).astype(np.float16)),
    }


def _layer(effect: Effect, layer: DrawnLayer, solid: bool, picture_of: Any, blob: Blob) -> dict[str, Any]:
    """Return how the page draws a layer."""
    style, look = style_of(layer, solid), layer.look
    row = BLENDS[look.blend]
    found: dict[str, Any] = {
        "id": layer.id,
        "name": effect.layer(layer.id).name,
        "draw": str(look.draw),
        "blend": str(look.blend),
        "any_order": row.any_order,
        "solid": row.solid,
        "features": sorted(style.features - {"ANCHORED"}),
        "uniforms": style.uniforms,
        "corners": style.corners,
        "units": [
            [unit.name, picture_of(unit.texture), unit.part, unit.wrap, unit.anisotropic]
            for unit in style.units
        ],
        "sort": str(look.sort),
        "order": look.order,
        "around": layer.around,
        "fixed": layer.fixed,
    }
    if look.draw == DrawnAs.RIBBON:
        found["turns"] = look.ribbon.across == Across.CAMERA
    if look.draw == DrawnAs.MESH:
        found["faces"] = str(look.mesh.faces)
        found["body"] = [
            [blob.put(part.vertices[:, [0, 1, 2, 6, 3, 4, 5, 7]]), blob.put(part.faces.astype(np.uint32))]
            for part in layer.body
        ]
    return found


def _props(effect: Effect, take: Recording, blob: Blob) -> dict[str, Any]:
    """Return bodies, and each thing that stands: its body, paint, and poses, one or one for each moment."""
    bodies: dict[str, Any] = {}
    things = []

    def body(prop: Prop) -> str:
        key = f"{prop.kind}/{prop.mesh if prop.kind == PropKind.MESH else ''}"
        if key not in bodies:
            found = body_of(prop)
            bodies[key] = blob.put(found if found is not None else np.zeros((0, 6), np.float32))
        return key

    seen = [prop for prop in effect.stage.props if prop.seen]
    for prop in (*seen, *(person() if effect.stage.figure else [])):
        moves = bool(prop.path)
        poses = [
            pose_of(standing(prop, clock)) if moves else pose_of(prop)
            for clock in (take.clocks if moves else [0.0])
        ]
        turns = [np.linalg.inv(pose[:3, :3]).T for pose in poses]
        things.append(
            {
                "body": body(prop),
                "paint": hex_to_linear(prop.color),
                "moves": moves,
                "poses": blob.put(np.stack([pose.T for pose in poses]).astype(np.float32)),
                "turns": blob.put(np.stack([turn.T for turn in turns]).astype(np.float32)),
            }
        )
    return {"bodies": bodies, "things": things}
