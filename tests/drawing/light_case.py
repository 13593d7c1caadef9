"""Pictures read back as linear light, before glow and development."""

import unittest

import numpy as np

from pale_ember.drawing.environment import Environment
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.effect.textures import Texture
from pale_ember.simulation.layout.instances import INSTANCE, PLAIN
from pale_ember.textures.pictures import Pictures
from pale_ember.textures.prepared import prepared

FLAT = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=0, view=40)
# Pixels for a metre at the target, in a picture so high.
SIZE = (160, 160)
METRE = SIZE[1] / (2 * 4 * np.tan(np.radians(20)))


def particle(place=(0, 0, 0), size=1.0, **more):
    """Return one instance; what isn't told is plain."""
    row = np.zeros(1, INSTANCE)
    for name, value in PLAIN.items():
        row[name] = value if len(value) > 1 else value[0]
    row["place"], row["size"] = place, size
    for name, value in more.items():
        row[name] = value
    return row


def texture(frames, data=False, normals=None, motion=None, **entry):
    """Return frames of (h, w, 4) as a texture that is ready; each may be given as (h, w) of alpha, white."""
    whole = []
    for frame in frames:
        frame = np.asarray(frame, np.float32)
        if frame.ndim == 2:
            frame = np.concatenate([np.ones((*frame.shape, 3), np.float32), frame[..., None]], axis=2)
        whole.append(frame)
    return prepared(
        Texture(name="t", file="t.png", data=data, **entry), Pictures(np.stack(whole), normals, motion)
    )


def plate(color, side=16, alpha=1.0):
    """Return a frame of one colour."""
    return np.broadcast_to(np.array([*color, alpha], np.float32), (side, side, 4)).copy()


class LightCase(unittest.TestCase):
    """Draws by a studio of its own and reads the scene."""

    @classmethod
    def setUpClass(cls):
        cls.studio = OffscreenRenderer()

    @classmethod
    def tearDownClass(cls):
        cls.studio.__exit__()

    def light(self, layers, environment=None, camera=FLAT, size=SIZE, draft=False):
        """Return what is in the scene, (height, width, 4), from the top; of (rows, look, wears) layers."""
        drawn = []
        for i, (rows, look, *wears) in enumerate(layers):
            rows = rows if isinstance(rows, np.ndarray) else np.concatenate(rows)
            drawn.append(DrawnLayer(str(i), rows, Look.model_validate(look), wears=wears[0] if wears else {}))
        self.studio.pixels(Moment(0.0, tuple(drawn)), size, camera, environment, draft=draft)
        with self.studio.ctx:
            data = self.studio._renderers[""]._scene.read(components=4, dtype="f2")
        return np.frombuffer(data, np.float16).reshape(size[1], size[0], 4)[::-1].astype(np.float64)

    def middle(self, layers, **how):
        return self.light(layers, **how)[SIZE[1] // 2, SIZE[0] // 2]


NOTHING = Environment(None)


WHITE = {"picture": texture([plate((1, 1, 1))])}
