"""A test with a folder of its own."""

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from pale_ember.effect import EffectError


class FolderCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        names = ("PALE_EMBER_STATE", "PALE_EMBER_LAYERS", "PALE_EMBER_SHAPES")
        patch = mock.patch.dict(os.environ, {name: str(self.folder / name.lower()) for name in names})
        patch.start()
        self.addCleanup(patch.stop)

    def refused(self, words, work, *args):
        with self.assertRaises(EffectError) as caught:
            work(*args)
        self.assertIn(words, str(caught.exception))
        return caught.exception
