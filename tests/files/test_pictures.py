"""Pictures and strips that commands write wear the textures that they are given."""

import numpy as np
from PIL import Image

from pale_ember.files.pictures import filmstrip_file, render_file
from pale_ember.files.textures import textures_of
from tests.building import single

from .bundle_case import BundleCase


class PictureTest(BundleCase):
    def test_a_layer_wears_its_texture_in_pictures_and_in_strips(self):
        shard = [{"name": "t", "build": {"size": 64, "steps": [{"step": "shard"}]}}]
        effect = single({"look.texture": "t", "look.blend": "alpha", "emit.rate": 30}).edit("textures", shard)
        ready, _ = textures_of(effect, lambda path: True)
        at, found = self.folder / "x.png", {}
        for textures in (ready, None):
            filmstrip_file(effect, "a", at, frames=4, size=(48, 48), textures=textures)
            strip = np.asarray(Image.open(at).convert("RGB"))
            render_file(effect, 0.8, (96, 64), at, textures=textures)
            found[textures is None] = strip, np.asarray(Image.open(at).convert("RGB"))
        for worn, plain in zip(found[False], found[True], strict=True):
            self.assertGreater(int(np.abs(worn.astype(int) - plain).max()), 40)
