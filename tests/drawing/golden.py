"""Makes the pictures that test_golden compares with: python -m tests.drawing.golden"""

from pathlib import Path

import numpy as np
from PIL import Image

from pale_ember.drawing.headless import Studio
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.setting import Setting
from pale_ember.effect.kinds import Blend, Facing
from pale_ember.effect.look import Look
from pale_ember.effect.stage import Camera, Light
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
        small = texture.model_copy(update={"frames": 6, "build": texture.build.model_copy(update={"size": 48})})
        WORN["puff"] = prepared(small, make(small))
    return WORN["puff"]


def cases():
    """Return, by name, rows, look and setting of each picture."""
    found = {}
    three = [particle((x, 0.5, -0.3 * x), size=(0.5, 0.7), way=(0.3, 0.5 * x + 0.2, 0.1), angle=0.4, frame=2 + x, color=(1, 0.7, 0.4),
                      opacity=0.8, mix=0.5 + 0.4 * x) for x in (-0.5, 0, 0.5)]  # fmt: skip
    rows = np.concatenate(three)
    for facing in Facing:
        for blend in Blend:
            look = {"texture": "p", "facing": facing, "blend": blend, "cutoff": 0.35, "sort": "none"}
            found[f"{facing}_{blend}"] = rows, look, Setting("overcast", solid=True)
    for frame in (0.0, 1.5, 4.5):
        found[f"sheet_{frame:g}"] = particle((0, 0.5, 0), frame=frame), {"texture": "p", "frame_blend": True}, Setting("dusk")
    for much in (0.2, 0.5, 0.8):
        look = {"texture": "p", "erode": {"amount": 0.5, "rim_intensity": 3}}
        found[f"eroded_{much:g}"] = particle((0, 0.5, 0), frame=3, erode=much, dice=(0.3, 0)), look, Setting("night")
    ball = [particle((0.25 * np.cos(i), 0.5 + 0.25 * np.sin(2 * i), 0.25 * np.sin(i)), size=0.6, frame=i % 6, angle=i, opacity=0.6) for i in range(12)]
    found["lit_ball"] = np.concatenate(ball), {"texture": "p", "lit": 1}, Setting("noon", light=Light(yaw=-60, pitch=30))
    found["bent"] = particle((0, 0.5, 0), frame=2, bend=0.1, dice=(0.7, 0)), {"texture": "p", "bend": {"amount": 0.1}}, Setting("grey")
    return found


def picture(studio, name):
    """Return one picture, (SIDE, SIDE, 3) uint8."""
    rows, look, setting = cases()[name]
    wears = {"picture": puff(), "erode": plain_cloud(), "bend": plain_cloud()}
    moment = Moment(0.0, (DrawnLayer("a", rows, Look.model_validate(look), wears=wears),))
    return np.asarray(studio.picture(moment, (SIDE, SIDE), CAMERA, setting))


if __name__ == "__main__":
    names = list(cases())
    with Studio() as studio:
        sheet = np.concatenate([picture(studio, name) for name in names], axis=1)
    FOLDER.mkdir(exist_ok=True)
    across = 8
    rows = [sheet[:, i * SIDE : (i + across) * SIDE] for i in range(0, len(names), across)]
    rows[-1] = np.pad(rows[-1], ((0, 0), (0, across * SIDE - rows[-1].shape[1]), (0, 0)))
    Image.fromarray(np.concatenate(rows)).save(FOLDER / "looks.png")
