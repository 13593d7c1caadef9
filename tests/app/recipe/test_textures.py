"""Textures in the real window: by drop, browse, paste and choice; channels, layouts, changes from outside."""

import os
import time
from pathlib import Path
from unittest import mock

import numpy as np
from PIL import Image
from PyQt6.QtCore import QMimeData, Qt, QUrl
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from pale_ember.effect.effect import Effect
from pale_ember.effect.storing.storage import load_effect, save_effect

from ...building import single
from ..case import LEFT, WindowCase


def sheet(columns=4, rows=2, side=16, hue=(255, 160, 60)):
    """Return a sheet of round blobs that grow."""
    at = (np.arange(side) + 0.5) / side * 2 - 1
    x, y = np.meshgrid(at, at)
    pixels = np.zeros((rows * side, columns * side, 4), np.uint8)
    pixels[..., :3] = hue
    for i in range(columns * rows):
        row, column = divmod(i, columns)
        reach = 0.4 + 0.4 * i / (columns * rows)
        pixels[row * side : (row + 1) * side, column * side : (column + 1) * side, 3] = 255 * (
            np.hypot(x, y) < reach
        )
    return Image.fromarray(pixels)


class TextureCase(WindowCase):
    def first_effect(self):
        return single({"look.opacity": 1, "launch.size": 0.5})

    def setUp(self):
        super().setUp()
        self.picture = Path(self.folder.name) / "blobs.png"
        sheet().save(self.picture)
        self.session.play(False)
        self.session.seek(1.0)

    @property
    def box(self):
        return self.window.recipe.chapters["Look"].lists["textures"]

    def ready(self, name="blobs"):
        return self.session.textures.state.ready.get(name)

    def wears(self):
        drawn = [layer for layer in self.session.moment.layers if layer.id == "a"]
        return drawn[0].wears.get("picture") if drawn else None


class TextureTest(TextureCase):
    def test_a_picture_dropped_on_a_layer_is_worn_and_undone(self):
        before = self.session.effect
        self.drop(self.picture, self.window.stage)
        self.assertEqual(self.session.layer.look.texture, "blobs")
        self.wait(lambda: self.wears() is not None)
        self.assertEqual(self.wears().size, (64, 32))
        self.assertEqual(self.window.recipe.chapter, "Look")
        self.assertTrue(self.box.isVisible())
        self.session.undo()
        self.assertEqual(self.session.effect, before)
        self.assertFalse(self.box.isVisible())
        self.wait(lambda: self.wears() is None)

    def test_film_and_thumbnail_wear_it_too_while_time_stands_still(self):
        film, thumbnails = self.window.strip.film, self.window.timeline.rows.paint_of.thumbnails
        self.wait(lambda: film.images and "a" in thumbnails.pictures)
        self.wait_for_moment()
        QTest.qWait(400)
        bare, small = film.images[0].copy(), thumbnails.pictures["a"].toImage()
        self.session.edit("textures", [{"name": "red", "file": str(self.picture)}], "A texture")
        QTest.qWait(300)
        self.session.choose_picture(str(self.picture))
        self.session.edit(self.session.layer_path("look.texture"), "red", "Wear")
        self.wait(lambda: self.ready("red") is not None)
        self.wait(lambda: film.images and film.images[0] != bare)
        self.wait(lambda: thumbnails.pictures["a"].toImage() != small)
        # A file that changes shows there as well.
        worn, tiny = film.images[0].copy(), thumbnails.pictures["a"].toImage()
        sheet(hue=(10, 40, 255)).save(self.picture)
        self.wait(lambda: film.images[0] != worn)
        self.wait(lambda: thumbnails.pictures["a"].toImage() != tiny)

    def test_a_channel_is_chosen_by_its_picture(self):
        self.drop(self.picture, self.window.stage)
        self.wait(lambda: self.wears() is not None)
        button = self.box.channels["red"]
        QTest.mouseClick(button, LEFT)
        self.assertEqual(str(self.session.layer.look.channel), "red")
        self.assertTrue(button.isChecked())
        self.assertFalse(self.box.channels["all"].isChecked())

    def test_the_layout_is_found_and_the_sheet_played_in_the_usual_ways(self):
        self.drop(self.picture, self.window.stage)
        self.wait(lambda: self.ready() is not None)
        self.assertFalse(self.box.play.isVisible())
        QTest.mouseClick(self.box.finder, LEFT)
        texture = self.session.effect.texture("blobs")
        self.assertEqual((texture.columns, texture.rows, texture.frames), (4, 2, 0))
        self.wait(lambda: "8 frames of 16 × 16" in self.box.note.text())
        actions = {action.text(): action for action in self.box.play.menu().actions()}
        self.assertEqual(len(actions), 5)
        actions["The whole sheet through its life"].trigger()
        look = self.session.layer.look
        self.assertEqual([key.y for key in look.frame.keys], [0, 8])
        self.assertEqual(str(look.frame_end), "hold")
        actions["A random one"].trigger()
        self.assertEqual((self.session.layer.look.frame.low, self.session.layer.look.frame.high), (0, 8))
        self.wait(lambda: "frame" in (self.session.moment.layers[0].instances.dtype.names or ()))
        for _ in range(4):
            self.session.undo()
        self.assertEqual(self.session.layer.look.texture, "")

    def test_a_change_from_outside_is_seen_within_a_second(self):
        self.drop(self.picture, self.window.stage)
        self.wait(lambda: self.wears() is not None)
        old = self.wears()
        time.sleep(0.02)
        sheet(hue=(20, 40, 255)).save(self.picture)
        begun = time.monotonic()
        self.wait(lambda: self.wears() is not None and self.wears() is not old)
        self.assertLess(time.monotonic() - begun, 1.5)
        self.assertGreater(self.wears().mean[2], self.wears().mean[0])

    def test_a_half_written_file_is_waited_for(self):
        self.drop(self.picture, self.window.stage)
        self.wait(lambda: self.wears() is not None)
        old, whole = self.wears(), self.picture.read_bytes()
        self.picture.write_bytes(whole[: len(whole) // 2])
        QTest.qWait(500)
        self.assertIs(self.wears(), old, "the last whole one stays")
        self.assertEqual(self.session.textures.state.problems, ())
        self.picture.write_bytes(whole)
        QTest.qWait(900)
        self.assertEqual(self.session.textures.state.problems, ())
        self.assertIsNotNone(self.wears())

    def test_a_missing_file_says_so_and_browsing_mends_it_where_it_stands(self):
        self.drop(self.picture, self.window.stage)
        self.wait(lambda: self.wears() is not None)
        at = self.session.effect.textures[0]
        self.session.edit("textures[0].columns", 4, "Columns")
        self.picture.rename(self.picture.with_name("moved.png"))
        self.wait(lambda: self.session.textures.state.problems)
        self.assertIn("is not there", self.session.textures.state.problems[0].reason)
        self.wait(lambda: self.wears() is None)
        row = self.window.recipe.chapters["Look"].rows["look.texture"]
        self.wait(lambda: row.problem is not None and row.problem.isVisible())
        self.assertIn("is not there", row.problem.text())
        with mock.patch.object(
            QFileDialog, "getOpenFileName", return_value=(str(self.picture.with_name("moved.png")), "")
        ):
            row.problem.linkActivated.emit("mend")
        self.wait(lambda: self.wears() is not None)
        texture = self.session.effect.textures[0]
        self.assertEqual((texture.name, texture.columns, Path(texture.file).name), (at.name, 4, "moved.png"))
        self.assertEqual(self.session.textures.state.problems, ())

    def test_a_shipped_texture_is_chosen_and_comes_into_the_effect(self):
        row = self.row("look.texture")
        choice = row.controls[0]
        at = choice.findText("glint (shipped)")
        self.assertGreater(at, 0)
        choice.setFocus()
        choice.setCurrentIndex(at)
        choice.textActivated.emit(choice.itemText(at))
        self.assertEqual(self.session.layer.look.texture, "glint")
        self.assertIsNotNone(self.session.effect.texture("glint").build)
        self.wait(lambda: self.wears() is not None)
        self.assertEqual(choice.currentText(), "glint")

    def test_a_picture_on_the_clipboard_is_pasted(self):
        image = QImage(str(self.picture))
        QApplication.clipboard().setImage(image)
        self.window.stage.setFocus()
        self.window.actions_by_name["paste"].trigger()
        self.assertEqual(self.session.layer.look.texture, "pasted")
        self.wait(lambda: self.wears() is not None)
        self.assertEqual(self.wears().size, (64, 32))
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(self.picture))])
        QApplication.clipboard().setMimeData(mime)
        self.window.actions_by_name["paste"].trigger()
        self.assertEqual(self.session.layer.look.texture, "blobs")

    def test_what_lies_outside_the_effects_folder_is_read_only_when_it_was_chosen(self):
        home = Path(self.folder.name) / "home"
        home.mkdir()
        file = home / "e.ember"
        effect = single({"look.texture": "t"}).edit("textures", [{"name": "t", "file": str(self.picture)}])
        save_effect(effect, file)
        self.window.files.load(file)
        self.wait(lambda: self.session.textures.state.problems)
        self.assertIn("outside", self.session.textures.state.problems[0].reason)
        self.assertIsNone(self.ready("t"))
        row = self.row("look.texture")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(self.picture), "")):
            row.parts.browse()
        self.wait(lambda: self.ready("t") is not None)
        self.assertEqual(self.session.textures.state.problems, ())

    def test_saved_and_opened_again_it_is_the_same_and_files_go_along(self):
        self.drop(self.picture, self.window.stage)
        file = Path(self.folder.name) / "e.ember"
        save_effect(self.session.effect, file)
        self.assertIn('"file": "blobs.png"', file.read_text())
        self.assertEqual(load_effect(file), self.session.effect)

    def test_a_new_name_goes_to_all_that_wear_it_and_a_taken_one_is_refused(self):
        self.drop(self.picture, self.window.stage)
        self.wait(lambda: self.ready() is not None)
        line = self.box.rows["name"].controls[0]
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, "spots")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.assertEqual(
            ([one.name for one in self.session.effect.textures], self.session.layer.look.texture),
            (["spots"], "spots"),
        )
        self.wait(lambda: self.wears() is not None)
        self.session.apply(
            self.session.effect.edit(
                "textures", [*self.session.effect.textures, {"name": "other", "file": "o.png"}]
            ),
            "Another",
        )
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, "other")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.assertEqual(self.session.layer.look.texture, "spots")
        self.assertIn("too", self.box.rows["name"].problem.text())
        self.window.actions_by_name["unused"].trigger()
        self.assertEqual([one.name for one in self.session.effect.textures], ["spots"])

    def test_layers_take_their_textures_along_to_another_effect(self):
        self.drop(self.picture, self.window.stage)
        self.window.timeline.rows.setFocus()
        self.window.actions_by_name["copy"].trigger()
        other = Effect().edit("textures", [{"name": "blobs", "file": "/elsewhere/blobs.png"}])
        self.session.apply(other, "Another effect")
        self.window.actions_by_name["paste"].trigger()
        self.assertEqual(self.session.layer.look.texture, "blobs 2")
        self.assertEqual(self.session.effect.texture("blobs 2").file, str(self.picture))


class StageTest(TextureCase):
    def test_a_prop_is_added_and_dragged_by_its_handles(self):
        self.window.actions_by_name["prop"].trigger()
        self.assertEqual(len(self.session.effect.stage.props), 1)
        handles = self.window.stage.handle_drag.handles()
        self.assertTrue(handles and all(handle.prop == 0 for handle in handles))
        move = next(handle for handle in handles if handle.label == "Place x")
        at = self.window.stage.handle_drag._pixels([move])[0]
        before = self.session.effect.stage.props[0].position
        self.drag(self.window.stage, at, at + type(at)(60, 0))
        after = self.session.effect.stage.props[0].position
        self.assertNotEqual(before[0], after[0])
        self.assertEqual(before[1:], after[1:])
        self.session.undo()
        self.assertEqual(self.session.effect.stage.props[0].position, before)
        self.window.recipe.show_chapter(0)
        self.assertTrue(all(handle.prop < 0 for handle in self.window.stage.handle_drag.handles()))

    def test_overdraw_is_told_for_all_and_for_the_layer(self):
        self.session.edit(self.session.layer_path("emit.rate"), 60, "Rate")
        self.wait(lambda: self.session.moment.alive > 20)
        self.window.stage.setFocus()
        QTest.keyClick(self.window.stage, Qt.Key.Key_O)
        self.wait(lambda: self.window.stage.overdraw[0].peak > 1)
        whole, one = self.window.stage.overdraw
        self.assertEqual(whole, one)
        QTest.keyClick(self.window.stage, Qt.Key.Key_O)
        self.assertFalse(self.window.stage.show_overdraw)

    def test_light_and_exposure_change_the_picture(self):
        self.session.edit_many(
            [("stage.backdrop", "noon"), (self.session.layer_path("look.lit"), 1.0)], "Light"
        )
        self.wait_for_moment()
        self.assertGreater(self.session.moment.alive, 5)
        first = self.window.stage.picture()
        self.session.edit("stage.light.strength", 0.0, "Light")
        second = self.window.stage.picture()
        self.assertNotEqual(first, second)
        self.session.edit("stage.exposure", 1.0, "Exposure")
        self.assertGreater(
            self.window.stage.picture().pixelColor(5, 5).lightness(), second.pixelColor(5, 5).lightness()
        )

    def test_what_is_found_of_the_new_fields(self):
        for typed, at in (
            ("dissolve", "look.erode.amount"),
            ("fps", "look.frame_rate"),
            ("billboard", "look.facing"),
            ("bloom", "stage.glow"),
        ):
            self.window.recipe.search.setFocus()
            self.window.recipe.search.selectAll()
            QTest.keyClicks(self.window.recipe.search, typed)
            QApplication.processEvents()
            self.assertIn(at, [entry.at for entry in self.window.recipe.found.shown][:3], typed)
        self.assertTrue(os.environ)
