"""All shipped textures, small, beside pictures of them that were looked at.

``PALE_EMBER_PICTURES=write`` keeps what they are now.
"""

import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from pale_ember.textures.library import shipped_textures
from pale_ember.textures.making.build import make

from ..looked_at import is_writing

FILE = Path(__file__).parent / "looked_at.png"
SIDE, FRAMES = 48, 5


def small(texture):
    """Return a few frames of a small version of a texture, side by side, (SIDE, FRAMES * SIDE, 4) of 0…1."""
    build = texture.build.model_copy(update={"size": SIDE})
    frames = min(texture.frames, FRAMES)
    made = make(texture.model_copy(update={"build": build, "frames": frames}))
    row = np.zeros((SIDE, FRAMES * SIDE, 4))
    for i, frame in enumerate(np.asarray(made.pixels, np.float64)[:FRAMES]):
        row[: frame.shape[0], i * SIDE : i * SIDE + frame.shape[1]] = np.clip(frame, 0, 1)
    return row


def shown(row):
    """Return pictures as bytes: colours as shares of their cover."""
    return np.rint(row * 255).astype(np.uint8)


class LookedAtTest(unittest.TestCase):
    def test_every_shipped_texture_is_as_it_was_looked_at(self):
        if is_writing():
            Image.fromarray(np.concatenate([shown(small(one)) for one in shipped_textures()])).save(FILE)
        with Image.open(FILE) as image:
            kept = np.asarray(image).astype(np.int16)
        for i, texture in enumerate(shipped_textures()):
            with self.subTest(texture.name):
                now = shown(small(texture)).astype(np.int16)
                other = np.abs(now - kept[i * SIDE : (i + 1) * SIDE])
                # Rounding of other processors' vector units may add up in what flows.
                self.assertLess(other.mean(), 0.4)
                self.assertLess(np.sort(other.max(axis=2), axis=None)[-24], 24)
        self.assertEqual(len(kept), SIDE * len(shipped_textures()))
