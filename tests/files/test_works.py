"""Each product as a batch and the window make it: the files that are named beforehand, and no others."""

import io
import json
import zipfile

import numpy as np
from PIL import Image

from pale_ember.files.bundle.tree import zip_bytes
from pale_ember.files.hand_over.works import FRAMES_MARKER, Product, Work, files_of, perform
from tests.building import single

from .bundle_case import BundleCase, profile

SMALL = {
    "bundle__player": False,
    "bundle__runtime": False,
    "sheet__columns": 2,
    "sheet__rows": 2,
    "sheet__frame": 32,
    "sheet__motion": True,
    "frames__rate": 5,
    "frames__width": 48,
    "frames__height": 32,
    "film__rate": 5,
    "film__width": 48,
    "film__height": 32,
    "film__form": "gif",
}


class WorksTest(BundleCase):
    def setUp(self):
        super().setUp()
        self.effect = single({"emit.rate": 40, "launch.lifetime": 0.5}, duration=1.0, name="Smoke")

    def perform(self, product, at):
        perform(Work(product, self.effect, at, profile(**SMALL), lambda path: True))

    def test_each_product_writes_what_it_says_and_again_over_its_own(self):
        for product in Product:
            at = self.folder / product / "smoke"
            for _ in range(2):
                self.perform(product, at)
                wanted = sorted(path.name for path in files_of(product, profile(**SMALL), at))
                self.assertEqual(sorted(one.name for one in at.parent.iterdir()), wanted, product)

    def test_zips_have_the_same_bytes_everywhere_and_all_may_read_what_is_in_them(self):
        tree = {"b.json": b"{}" * 300, "a.png": b"x" * 300}
        data = zip_bytes(tree)
        self.assertEqual(data, zip_bytes(dict(reversed(tree.items()))))
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            self.assertEqual({name: file.read(name) for name in file.namelist()}, tree)
            for one in file.infolist():
                # Made on Unix, whatever made it: only then do the permissions count.
                self.assertEqual((one.create_system, one.external_attr >> 16), (3, 0o644))

    def test_a_folder_of_frames_tells_what_is_in_it(self):
        at = self.folder / "smoke"
        self.perform(Product.FRAMES, at)
        about = json.loads((at / FRAMES_MARKER).read_text())
        names = [f"000{i}.png" for i in range(5)]
        self.assertEqual(sorted(one.name for one in at.iterdir()), [*names, FRAMES_MARKER])
        told = {"effect": "Smoke", "rate": 5, "size": [48, 32], "frames": 5}
        self.assertEqual(about, told | {"first": names[0], "last": names[-1]})
        self.assertEqual(np.asarray(Image.open(at / names[-1])).shape[:2], (32, 48))
