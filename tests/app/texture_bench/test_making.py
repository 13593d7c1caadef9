"""Textures made from nothing on the bench, with mouse and keys, and all of it undone."""

import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PIL import Image
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QPointingDevice, QTabletEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from pale_ember.effect import load_effect
from pale_ember.effect.kinds import Channel
from pale_ember.effect.storing.storage import effect_text
from pale_ember.effect.values.values import Curve

from ..case import LEFT
from .bench_case import CTRL, BenchCase


class PuffTest(BenchCase):
    def test_a_puff_sheet_from_nothing_lit_and_eroded_and_undone(self):
        before = effect_text(self.session.effect)
        box = self.row("look.texture").controls[0]
        self.pick(box, "make a new one")
        self.assertTrue(self.bench.is_open)
        self.assertEqual(self.session.layer.look.texture, self.bench.name)
        self.add("Make", "Dot")
        self.add("Make", "Cloud")
        self.choose("blend", "multiply")
        # Its shapes change along the frames.
        form = next(part for part in self.field("evolve").controls if part.accessibleName() == "Evolve form")
        form.menu().actions()[2].trigger()
        lane = self.window.frame_strip.lanes["evolve"]
        self.assertTrue(lane.hasFocus())
        self.assertIsInstance(self.bench.step.evolve, Curve)
        QTest.keyClick(lane, Qt.Key.Key_End)
        self.type_into(self.window.frame_strip.exact.level, "0.5")
        self.assertAlmostEqual(self.bench.step.evolve.keys[-1].y, 0.5)
        for group, name in (
            ("Change", "Warp"),
            ("Change", "Levels"),
            ("Change", "Fade"),
            ("Finish", "Normals"),
        ):
            self.add(group, name)
        self.give("frames", "8")
        self.give("build.size", "64")
        self.made()
        ready = self.bench.ready
        self.assertEqual((ready.frames, ready.size), (8, (64, 64)))
        self.assertIsNotNone(ready.normals)
        self.assertGreater(np.abs(ready.pixels[0].astype(int) - ready.pixels[-1]).max(), 8, "it moves")
        self.assertEqual(self.kinds, ["dot", "cloud", "warp", "levels", "fade", "normals"])
        # The rows show what there is after each step.
        self.wait(lambda: len(self.rows._images) == 6)
        self.assertEqual(self.rows._images[0].size(), self.rows._images[5].size())
        # Back on the stage it is worn, lit and eaten away along life.
        QTest.keyClick(self.view, Qt.Key.Key_N)
        self.assertFalse(self.bench.is_open)
        self.set_field("look.lit", "1")
        row = self.row("look.erode.amount")
        next(part for part in row.controls if part.accessibleName() == "Erode form").menu().actions()[
            2
        ].trigger()
        self.wait_for_moment()
        self.wait(lambda: self.session.moment.layers and "picture" in self.session.moment.layers[0].wears)
        self.assertIs(self.session.moment.layers[0].wears["picture"], ready)
        path = Path(self.folder.name) / "puff.ember"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.window.actions_by_name["save_as"].trigger()
        self.assertEqual(load_effect(path), self.session.effect)
        self.undo_all()
        self.assertEqual(effect_text(self.session.effect), before)

    def test_the_picture_in_the_middle_is_what_particles_wear(self):
        self.begin()
        self.add("Make", "Ring")
        self.made()
        QTest.qWait(60)
        self.session.edit("stage.backdrop", "black", "black")
        self.wait(lambda: self.session.textures.can_show)
        QTest.qWait(60)
        shown = self.view.grab().toImage()
        inside, line = (self.on_picture(*place).toPoint() for place in ((0.0, 0.0), (0.6, 0.0)))
        self.assertGreater(shown.pixelColor(line).red(), 200)
        self.assertLess(shown.pixelColor(inside).red(), 40)
        # Tiled, the next ring begins beside it.
        QTest.keyClick(self.view, Qt.Key.Key_Y)
        QTest.qWait(60)
        beside = self.on_picture(-2 + 0.6, 0.0).toPoint()
        self.assertGreater(self.view.grab().toImage().pixelColor(beside).red(), 200)


class HailstoneTest(BenchCase):
    def test_a_hailstone_is_drawn_and_taken_back_stroke_by_stroke(self):
        self.begin()
        self.add("Make", "Strokes")
        self.give("symmetry", "6")
        self.assertTrue(self.window.tools.brush_row.isVisible())
        self.type_into(self.window.tools.numbers["size"], "0.2")
        self.draw((0, 0), (0.1, 0.2), (0, 0.45))
        self.draw((0.1, 0.3), (0.3, 0.6))
        strokes = self.bench.step.strokes
        self.assertEqual(len(strokes), 2)
        self.assertEqual(strokes[0].size, 0.2)
        self.assertGreaterEqual(len(strokes[0].points), 3)
        np.testing.assert_allclose(strokes[0].points[0], (0, 0, 1), atol=0.02)
        np.testing.assert_allclose(strokes[0].points[-1], (0, 0.45, 1), atol=0.06)
        self.made()
        cover = self.bench.ready.pixels[0, ..., 3].astype(int)
        size = len(cover)
        # Six times round: what is above is below too.
        self.assertGreater(cover[int(size * 0.36), size // 2], 150)
        self.assertGreater(cover[int(size * 0.64), size // 2], 150)
        QTest.mouseClick(self.window.tools.erase, LEFT)
        self.assertTrue(self.window.brush.erase)
        self.draw((-0.1, 0), (0.1, 0))
        self.assertTrue(self.bench.step.strokes[2].erase)
        self.made()
        self.assertLess(self.bench.ready.pixels[0, size // 2, size // 2, 3], 120)
        # Relief and a bulge make ice of it.
        self.add("Change", "Relief")
        self.add("Finish", "Normals")
        self.made()
        self.assertIsNotNone(self.bench.ready.normals)
        names = [entry.name for entry in self.session.document.history]
        self.assertEqual(names.count("Draw a stroke"), 2)
        self.assertEqual(names.count("Erase"), 1)
        for _ in range(3):
            QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.click_step(0)
        self.assertEqual(len(self.bench.step.strokes), 2)
        self.undo_all()
        self.assertEqual(self.session.effect.textures, ())
        self.assertFalse(self.bench.is_open, "what is gone is not on the bench")

    def test_a_pen_draws_by_its_pressure(self):
        self.begin()
        self.add("Make", "Strokes")

        def pen(kind, x, y, pressure):
            at = self.on_picture(x, y)
            no = Qt.MouseButton.NoButton
            event = QTabletEvent(
                kind,
                QPointingDevice.primaryPointingDevice(),
                at,
                QPointF(self.view.mapToGlobal(at.toPoint())),
                pressure,
                0.0,
                0.0,
                0.0,
                0.0,
                0.0,
                Qt.KeyboardModifier.NoModifier,
                no,
                no,
            )
            QApplication.sendEvent(self.view, event)

        pen(QEvent.Type.TabletPress, -0.5, 0.0, 0.3)
        pen(QEvent.Type.TabletMove, 0.0, 0.0, 0.6)
        pen(QEvent.Type.TabletMove, 0.5, 0.0, 1.0)
        pen(QEvent.Type.TabletRelease, 0.5, 0.0, 0.0)
        (stroke,) = self.bench.step.strokes
        self.assertEqual([point[2] for point in stroke.points], [0.3, 0.6, 1.0])
        self.made()
        cover = self.bench.ready.pixels[0, ..., 3].astype(int)
        size = len(cover)
        # It widens to the right.
        wide = [int((cover[:, int(size * share)] > 60).sum()) for share in (0.3, 0.5, 0.7)]
        self.assertEqual(wide, sorted(wide))
        self.assertGreater(wide[2], 1.4 * wide[0])

    def test_escape_gives_a_stroke_up_and_the_wheel_changes_the_brush(self):
        self.begin()
        self.add("Make", "Strokes")
        start = self.on_picture(0, 0).toPoint()
        QTest.mousePress(self.view, LEFT, pos=start)
        QTest.mouseMove(self.view, start + QPoint(40, 0))
        QApplication.processEvents()
        self.assertEqual(len(self.bench.step.strokes), 1)
        QTest.keyClick(self.view, Qt.Key.Key_Escape)
        QTest.mouseMove(self.view, start + QPoint(80, 0))
        QTest.mouseRelease(self.view, LEFT, pos=start + QPoint(80, 0))
        self.assertEqual(self.bench.step.strokes, ())
        self.assertTrue(self.bench.is_open)
        self.draw((0, 0), (0.3, 0.3))
        self.assertEqual(len(self.bench.step.strokes), 1)
        self.window.step_panel.show_chapter(0)
        QTest.mouseClick(self.window.step_panel.strokes.all, LEFT)
        self.assertEqual(self.bench.step.strokes, ())


class PackTest(BenchCase):
    def test_a_mask_is_taken_from_one_of_the_steps(self):
        self.begin()
        self.add("Make", "Dot")
        self.add("Make", "Ring")
        self.made()
        dialog = self.window.open_pack()
        self.pick(dialog.choices[Channel.RED], f"{self.bench.name}, after 1 dot")
        self.pick(dialog.choices[Channel.GREEN], self.bench.name)
        QTest.mouseClick(dialog.pack_button, LEFT)
        self.assertEqual(self.kinds, ["dot", "pack", "dot", "ring", "pack"])

    def test_three_masks_are_packed_looked_at_and_undone(self):
        self.begin()
        self.add("Make", "Dot")
        self.made()
        before = effect_text(self.session.effect)
        picture = Path(self.folder.name) / "grey.png"
        Image.fromarray(np.full((64, 64), 128, np.uint8)).save(picture)
        QTest.keyClick(self.view, Qt.Key.Key_B, CTRL | Qt.KeyboardModifier.ShiftModifier)
        dialog = QApplication.activeModalWidget()
        self.assertFalse(dialog.pack_button.isEnabled())
        self.pick(dialog.choices[Channel.RED], self.bench.name)
        self.pick(dialog.choices[Channel.GREEN], "cloud noise")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(picture), "")):
            browse = next(
                one
                for one in dialog.findChildren(object)
                if getattr(one, "accessibleName", str)() == "Open a picture for blue"
            )
            QTest.mouseClick(browse, LEFT)
        QTest.mouseClick(dialog.pack_button, LEFT)
        self.assertEqual(self.bench.name, "masks")
        self.made()
        self.assertTrue(self.bench.texture.data)
        pixels = self.bench.ready.pixels[0].astype(int)
        self.assertEqual(set(np.unique(pixels[..., 2])), {128})
        self.assertGreater(np.ptp(pixels[..., 1]), 100)
        # The dot: full in the middle, nothing in the corner.
        self.assertGreater(pixels[128, 128, 0], 250)
        self.assertEqual(pixels[0, 0, 0], 0)
        # Each channel is looked at by its key or its button.
        QTest.keyClick(self.view, Qt.Key.Key_4)
        self.assertEqual(self.bench.channel, Channel.BLUE)
        QTest.mouseClick(self.window.tools.channels[Channel.RED], LEFT)
        QTest.qWait(60)
        shown = self.view.grab().toImage()
        self.assertGreater(shown.pixelColor(self.on_picture(0, 0).toPoint()).red(), 245)
        self.assertLess(shown.pixelColor(self.on_picture(0.97, 0.97).toPoint()).red(), 8)
        # Unpacked, each is a texture of its own.
        self.window.actions_by_name["unpack"].trigger()
        names = [texture.name for texture in self.session.effect.textures]
        self.assertEqual(names[-3:], ["masks red", "masks green", "masks blue"])
        for _ in range(2):
            QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.assertEqual(effect_text(self.session.effect), before)


class BringInTest(BenchCase):
    def pictures(self, count):
        files = []
        for i in range(count):
            files.append(Path(self.folder.name) / f"frame {i + 8}.png")
            Image.fromarray(np.full((16, 16, 4), 20 * i + 10, np.uint8)).save(files[-1])
        return files

    def test_a_dropped_picture_is_a_step_and_a_missing_one_is_said_beside_it(self):
        self.begin()
        (file,) = self.pictures(1)
        self.drop(file, self.view)
        self.assertIn("Bring", self.hinted)
        self.assertEqual(self.kinds, ["picture"])
        self.made()
        file.unlink()
        self.wait(
            lambda: any("is not there" in wrong.reason for wrong in self.session.textures.state.problems), 20
        )
        row = self.field("files")
        row.refresh()
        self.assertIn("is not there", row.problem.text())

    def test_a_sequence_is_in_its_order_and_each_has_its_frame(self):
        self.begin()
        self.add("Make", "Picture")
        files = self.pictures(4)
        with mock.patch.object(
            QFileDialog, "getOpenFileNames", return_value=([str(file) for file in reversed(files)], "")
        ):
            QTest.mouseClick(self.field("files").controls[1], LEFT)
        self.assertEqual(
            [Path(file).name for file in self.bench.step.files], [file.name for file in files], "8, 9, 10, 11"
        )
        self.assertEqual(self.bench.texture.frames, 4)
        self.made()
        self.assertEqual(self.bench.ready.pixels[:, 8, 8, 3].tolist(), [10, 30, 50, 70])

    def test_a_sheet_file_is_cut_apart(self):
        sheet = np.zeros((32, 64, 4), np.uint8)
        for i in range(2):
            sheet[8:24, 32 * i + 8 : 32 * i + 24] = 120 + 100 * i
        file = Path(self.folder.name) / "two.png"
        Image.fromarray(sheet).save(file)
        self.drop(file, self.window.stage)
        self.wait(lambda: self.session.textures.state.ready.get("two") is not None)
        QTest.keyClick(self.window.stage, Qt.Key.Key_N)
        self.assertIsNone(self.bench.build)
        self.window.actions_by_name["to_build"].trigger()
        self.assertEqual(self.kinds, ["picture"])
        panel = self.window.step_panel
        panel.show_chapter(0)
        QTest.mouseClick(panel.layout_button, LEFT)
        self.assertEqual(
            (self.bench.step.columns, self.bench.step.rows, self.bench.texture.frames), (2, 1, 2)
        )
        self.made()
        alphas = self.bench.ready.pixels[..., 3].max(axis=(1, 2))
        self.assertEqual(alphas.tolist(), [120, 220])


class BesideTest(BenchCase):
    def test_made_pictures_are_written_beside_the_file_when_that_is_wished(self):
        self.begin()
        self.add("Make", "Ring")
        path = Path(self.folder.name) / "kiln.ember"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.window.actions_by_name["save"].trigger()
        folder = path.with_name("kiln textures")
        self.assertFalse(folder.exists())
        QTest.mouseClick(self.field("beside").controls[0], LEFT, pos=QPoint(8, 10))
        self.assertTrue(self.bench.texture.beside)
        self.window.actions_by_name["save"].trigger()
        self.window.beside.end()
        (written,) = folder.glob("*.png")
        pixels = np.asarray(Image.open(written))
        self.made()
        np.testing.assert_allclose(pixels[..., 3], self.bench.ready.pixels[0, ..., 3], atol=1)


if __name__ == "__main__":
    unittest.main()
