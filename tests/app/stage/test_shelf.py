"""The blank shelf: each tile gives what it shows."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.effect import effect_text
from pale_ember.effect.editing.texture_moves import worn_by

from ..case import LEFT, WindowCase

CTRL = Qt.KeyboardModifier.ControlModifier


class ShelfTest(WindowCase):
    def setUp(self):
        super().setUp()
        self.session.play(False)
        self.window.stage.setUpdatesEnabled(False)

    def test_each_start_is_whole_with_what_follows_it_and_one_undo_takes_it_back(self):
        blank, shelf = effect_text(self.session.effect), self.window.shelf
        followed = 0
        for number, start in enumerate(list(shelf.found)):
            with self.subTest(start=start.name):
                QTest.mouseClick(shelf.tiles[number], LEFT)
                self.session.play(False)
                shown, here = start.effect.layers, self.session.effect
                if start.name != "Plain layer" and shown[0].id != "plain":
                    self.assertEqual([layer.name for layer in here.layers], [layer.name for layer in shown])
                    # Links and textures lead to each other as they do in the start.
                    for layer, own in zip(shown, here.layers, strict=True):
                        parent = (
                            here.layers[[one.id for one in shown].index(layer.origin.parent)].id
                            if layer.origin.parent
                            else ""
                        )
                        self.assertEqual(own.origin.parent, parent)
                        followed += bool(parent)
                    self.assertEqual(len(here.textures), len(worn_by(start.effect, shown)))
                QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
                QApplication.processEvents()
                self.assertEqual(effect_text(self.session.effect), blank)
        self.assertGreaterEqual(followed, 6)
