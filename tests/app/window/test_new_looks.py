"""From a blank effect to fire, dark smoke and a cartoon burst, with the fields of the look."""

from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from pale_ember.effect import load_effect

from ..case import WindowCase

CTRL = Qt.KeyboardModifier.ControlModifier


class NewLookTest(WindowCase):
    def add(self, name):
        self.window.activateWindow()
        QTest.keyClick(self.window, Qt.Key.Key_L, CTRL)
        self.set_text("name", name)

    def set_text(self, at, text):
        line = self.row(at).controls[0]
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, text)
        QTest.keyClick(line, Qt.Key.Key_Return)

    def pick(self, box, word):
        """Open a choice and take the entry that begins with a word."""
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Return)
        view = box.view()
        self.assertTrue(view.isVisible())
        at = next(i for i in range(box.count()) if box.itemText(i).startswith(word))
        view.setCurrentIndex(box.model().index(at, 0))
        QTest.keyClick(view, Qt.Key.Key_Return)

    def wear(self, name):
        self.pick(self.row("look.texture").controls[0], name)
        self.assertEqual(self.session.layer.look.texture, name)

    def choose(self, at, word):
        box = self.row(at).controls[0]
        self.pick(box, word)
        self.assertEqual(str(box.currentText()), word)

    def drawn(self):
        return {self.session.effect.layer(one.id).name: one for one in self.session.moment.layers}

    def test_a_campfire_with_a_flame_sheet_streaking_sparks_and_lit_smoke(self):
        self.add("Fire")
        self.wear("flame")
        look = self.session.layer.look
        # A sheet that comes round plays at once, each particle elsewhere, one frame fading into the next.
        self.assertEqual(
            (look.frame.low, look.frame.high, look.frame_rate.number, look.frame_blend), (0, 32, 12, True)
        )
        self.set_field("launch.size", "0.7", "1")
        self.choose("look.blend", "mix")
        self.set_field("look.intensity", "4")
        self.add("Sparks")
        self.choose("look.facing", "streak")
        self.set_field("look.streak", "40 ms")
        self.set_field("launch.size", "0.01", "0.02")
        self.choose("look.blend", "add")
        self.add("Smoke")
        self.wear("puff")
        self.assertEqual([key.y for key in self.session.layer.look.frame.keys], [0, 16])
        self.set_field("look.lit", "1")
        self.set_field("look.soften", "0.2")
        self.wait(
            lambda: (
                {"Fire", "Smoke"} <= {name for name, one in self.drawn().items() if "picture" in one.wears}
            )
        )
        self.wait(lambda: len(self.drawn()["Sparks"].instances) > 3)
        self.assertIn("way", self.drawn()["Sparks"].instances.dtype.names)
        self.assertIsNotNone(self.drawn()["Smoke"].wears["picture"].normals)
        path = Path(self.folder.name) / "fire.ember"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            QTest.keyClick(self.window, Qt.Key.Key_S, CTRL)
        saved = load_effect(path)
        self.assertEqual(saved, self.session.effect)
        self.assertEqual([texture.name for texture in saved.textures], ["flame", "puff"])
        while self.session.document.undo_name:
            self.session.undo()
        self.assertEqual((self.session.effect.layers, self.session.effect.textures), ((), ()))
        self.window.files.load(path)
        self.wait(lambda: len(self.session.textures.state.ready) == 2)

    def test_dark_smoke_by_multiply_and_a_cartoon_burst_in_two_colours(self):
        self.add("Ink")
        self.wear("ink")
        self.choose("look.blend", "multiply")
        self.session.edit("stage.backdrop", "noon", "Backdrop")
        self.wait(lambda: "picture" in self.drawn()["Ink"].wears and self.session.moment.alive > 10)
        self.session.play(False)
        self.wait_for_moment()
        stage = self.window.stage
        dark = stage.picture()
        self.session.layers.toggle_enabled(self.session.selected)
        self.wait_for_moment()
        light = stage.picture()
        where = [(x, y) for x in range(0, dark.width(), 8) for y in range(0, dark.height(), 8)]
        change = [light.pixelColor(x, y).lightness() - dark.pixelColor(x, y).lightness() for x, y in where]
        self.assertGreater(max(change), 40)
        self.assertGreater(min(change), -6, "ink only darkens")
        self.add("Burst")
        self.wear("ring")
        self.choose("look.blend", "cutout")
        row = self.row("look.tint")
        row.turn_each(lambda now: {"spread": ["#ff8a2c", "#fff0c0"]}, "spread", "")
        self.assertIn("cut out hard", self.window.recipe.summary.text())
        self.wait(lambda: "picture" in self.drawn()["Burst"].wears)
        self.assertEqual(str(self.session.layer.look.blend), "cutout")
