"""Makes the pictures that test_golden compares with: python -m tests.drawing.golden"""

from pathlib import Path

import numpy as np
from PIL import Image

from pale_ember.drawing.environment import Environment
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera, Light
from pale_ember.effect.kinds import Across, Blend, Facing
from pale_ember.simulation.meshes.drawn import body_of_look
from pale_ember.simulation.ribbons.joining import Joined
from pale_ember.textures.library import shipped_textures
from pale_ember.textures.making.build import make
from pale_ember.textures.prepared import prepared
from pale_ember.textures.shipped import plain_cloud

from .light_case import particle

FOLDER = Path(__file__).parent / "golden"
SIDE = 96
CAMERA = Camera(target=(0, 0.5, 0), distance=3, yaw=30, pitch=20, view=40)
WORN: dict[str, object] = {}


def puff():
    """Return a small puff of a few frames, made once."""
    if "puff" not in WORN:
        texture = next(one for one in shipped_textures() if one.name == "puff")
        small = texture.model_copy(
            update={"frames": 6, "build": texture.build.model_copy(update={"size": 48})}
        )
        WORN["puff"] = prepared(small, make(small))
    return WORN["puff"]


def facings_and_blends():
    """Return pictures of every facing and blend."""
    found = {}
    three = [
        particle(
            (x, 0.5, -0.3 * x),
            size=(0.5, 0.7),
            way=(0.3, 0.5 * x + 0.2, 0.1),
            angle=0.4,
            frame=2 + x,
            color=(1, 0.7, 0.4),
            opacity=0.8,
            mix=0.5 + 0.4 * x,
        )
        for x in (-0.5, 0, 0.5)
    ]
    rows = np.concatenate(three)
    for facing in Facing:
        for blend in Blend:
            look = {"texture": "p", "facing": facing, "blend": blend, "cutoff": 0.35, "sort": "none"}
            found[f"{facing}_{blend}"] = rows, look, Environment("overcast", solid=True)
    return found


def sheets_and_light():
    """Return pictures of frames, noise and light."""
    found = {}
    for frame in (0.0, 1.5, 4.5):
        found[f"sheet_{frame:g}"] = (
            particle((0, 0.5, 0), frame=frame),
            {"texture": "p", "frame_blend": True},
            Environment("dusk"),
        )
    for much in (0.2, 0.5, 0.8):
        look = {"texture": "p", "erode": {"amount": 0.5, "rim_intensity": 3}}
        found[f"eroded_{much:g}"] = (
            particle((0, 0.5, 0), frame=3, erode=much, dice=(0.3, 0)),
            look,
            Environment("night"),
        )
    ball = [
        particle(
            (0.25 * np.cos(i), 0.5 + 0.25 * np.sin(2 * i), 0.25 * np.sin(i)),
            size=0.6,
            frame=i % 6,
            angle=i,
            opacity=0.6,
        )
        for i in range(12)
    ]
    found["lit_ball"] = (
        np.concatenate(ball),
        {"texture": "p", "lit": 1},
        Environment("noon", light=Light(yaw=-60, pitch=30)),
    )
    found["bent"] = (
        particle((0, 0.5, 0), frame=2, bend=0.1, dice=(0.7, 0)),
        {"texture": "p", "bend": {"amount": 0.1}},
        Environment("grey"),
    )
    return found


def ribbons():
    """Return pictures of ribbons, laid and turned each way."""
    found = {}
    turn = np.linspace(0.0, 5.0, 14)
    band = np.concatenate(
        [
            particle(
                (0.45 * np.cos(t), 0.15 + 0.14 * t, 0.45 * np.sin(t)),
                size=0.12 + 0.05 * t,
                color=(1, 0.8 - 0.1 * t, 0.3),
                opacity=0.9 - 0.1 * t,
                laid=0.5 * t,
                across=(0, 1, 0),
                erode=0.5,
            )
            for t in turn
        ]
    )
    for across in Across:
        look = {"draw": "ribbon", "ribbon": {"across": across}, "blend": "add", "intensity": 2}
        found[f"ribbon_{across}"] = band, look, Environment("night", solid=True)
    for lay in ("stretch", "repeat"):
        look = {
            "draw": "ribbon",
            "texture": "p",
            "ribbon": {"lay": lay, "every": 0.4, "lay_from": "tail"},
            "lit": 1,
        }
        found[f"ribbon_{lay}"] = band, look, Environment("noon", light=Light(yaw=-60, pitch=30))
    found["ribbon_eroded"] = (
        band,
        {"draw": "ribbon", "erode": {"amount": 0.5, "rim_intensity": 2}, "blend": "alpha"},
        Environment("overcast"),
    )
    return found


def meshes():
    """Return pictures of particles drawn as meshes."""
    found = {}
    for i, mesh in enumerate(("cylinder", "cone", "dome", "ring", "box", "torus")):
        q = np.array([0.2 + 0.1 * i, 0.3, 0.1, 0.9])
        row = particle(
            (0, 0.5, 0),
            size=(0.8, 0.8),
            turn=q / np.linalg.norm(q),
            color=(1, 0.7, 0.5),
            opacity=0.7,
            rim_light=1.0,
        )
        look = {
            "draw": "mesh",
            "lit": 1,
            "mesh": {"mesh": mesh, "rim": 1, "core": 0.5},
            "blend": ("alpha", "add")[i % 2],
        }
        found[f"mesh_{mesh}"] = row, look, Environment("dusk", solid=True, light=Light(yaw=-60, pitch=30))
    for mesh in ("rocks", "shards"):
        rows = np.concatenate(
            [
                particle(
                    (0.5 * np.cos(2.1 * i), 0.5 + 0.3 * np.sin(i), 0.5 * np.sin(2.1 * i)),
                    size=0.4,
                    turn=np.array([np.sin(i), np.cos(i), 0.3, 0.5]) / np.sqrt(1.34),
                    lot=(i + 0.5) / 6,
                )
                for i in range(6)
            ]
        )
        found[f"mesh_{mesh}"] = (
            rows,
            {"draw": "mesh", "lit": 1, "mesh": {"mesh": mesh}, "blend": "cutout"},
            Environment("noon", light=Light(yaw=-60, pitch=30)),
        )
    return found


def cases():
    """Return, by name, rows, look and environment of each picture."""
    return facings_and_blends() | sheets_and_light() | ribbons() | meshes()


def drawn(rows, look, wears):
    """Return a layer, joined in one ribbon or with its mesh where it is drawn so."""
    look = Look.model_validate(look)
    body, _ = body_of_look(look)
    one = np.arange(len(rows), dtype=np.int32)
    whole = (
        Joined(rows, np.array([0, len(rows)], np.int32), one, np.zeros(1, np.uint32), np.zeros(1, np.float32))
        if look.draw == "ribbon"
        else None
    )
    return DrawnLayer(
        "a",
        rows,
        look,
        wears=wears
        if look.texture or look.draw == "sprite"
        else {k: v for k, v in wears.items() if k != "picture"},
        joined=whole,
        body=body,
    )


def picture(studio, name):
    """Return one picture, (SIDE, SIDE, 3) uint8."""
    rows, look, environment = cases()[name]
    wears = {"picture": puff(), "erode": plain_cloud(), "bend": plain_cloud()}
    moment = Moment(0.0, (drawn(rows, look, wears),))
    return np.asarray(studio.picture(moment, (SIDE, SIDE), CAMERA, environment))


if __name__ == "__main__":
    names = list(cases())
    with OffscreenRenderer() as studio:
        sheet = np.concatenate([picture(studio, name) for name in names], axis=1)
    FOLDER.mkdir(exist_ok=True)
    across = 8
    rows = [sheet[:, i * SIDE : (i + across) * SIDE] for i in range(0, len(names), across)]
    rows[-1] = np.pad(rows[-1], ((0, 0), (0, across * SIDE - rows[-1].shape[1]), (0, 0)))
    Image.fromarray(np.concatenate(rows)).save(FOLDER / "looks.png")
