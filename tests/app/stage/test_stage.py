from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from pale_ember.app.recipe.sentence import sentence
from pale_ember.demo import kiln_mouth
from pale_ember.drawing.moment import Moment
from pale_ember.drawing.pace import Pace
from tests.building import single

from ..case import WindowCase

SHIFT = Qt.KeyboardModifier.ShiftModifier


class StageTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def test_orbit_pan_zoom_and_frame(self):
        stage, session = self.window.stage, self.session
        middle = QPointF(stage.rect().center())
        first = session.camera
        self.drag(stage, middle, middle + QPointF(50, -20))
        self.assertNotEqual(session.camera.yaw, first.yaw)
        self.assertEqual(session.camera.target, first.target)
        turned = session.camera
        self.drag(stage, middle, middle + QPointF(40, 0), keys=SHIFT)
        self.assertEqual(session.camera.yaw, turned.yaw)
        self.assertNotEqual(session.camera.target, turned.target)
        stage.moves.zoom(0.5)
        self.assertAlmostEqual(session.camera.distance, turned.distance / 2)
        self.wait(lambda: session.moment.alive > 50)
        QTest.keyClick(self.window, Qt.Key.Key_F)
        self.assertNotAlmostEqual(session.camera.distance, turned.distance / 2)
        self.assertEqual(session.document.index, 0, "looking around is no edit")
        QTest.keyClick(self.window, Qt.Key.Key_F, SHIFT)
        self.assertEqual(session.camera, first)

    def test_each_layer_has_a_sentence(self):
        for layer in kiln_mouth().layers:
            words = sentence(layer)
            self.assertTrue(words.endswith("."))
            self.assertNotIn("  ", words)


class StillTest(WindowCase):
    def first_effect(self):
        posts = [
            {"kind": "cylinder", "position": [x, 0, -1], "size": [0.1, 1.5, 0.1], "color": "#d0c0a0"}
            for x in (-2.0, -1.4, 1.4, 2.0)
        ]
        return (
            single({"emit.rate": 60, "launch.lifetime": 0.6, "launch.size": 0.3}, loop=True)
            .edit("stage.props", posts)
            .edit("stage.glow", 0)
        )

    def shown(self):
        """Return what the stage paints, lines on top left out."""
        stage = self.window.stage
        stage.overlay.hide()
        return grey_of(stage.grab().toImage())

    def test_what_stands_still_is_sharp_while_the_effect_plays_smaller(self):
        stage, session = self.window.stage, self.session
        session.play(False)
        self.wait(lambda: stage.studio.complete(""))
        with mock.patch.object(Pace, "share", property(lambda pace: 0.35)):
            session.play(True)
            self.wait(lambda: stage._lies)
            QTest.qWait(100)
            moving = self.shown()
            session.play(False)
        self.wait(lambda: not stage._lies)
        full = self.shown()
        apart = np.abs(moving - full)
        wide = full.shape[1]
        # Posts and floor away from the fire are those of the full picture, to the level.
        for left, right in ((0, wide // 3), (2 * wide // 3, wide)):
            self.assertGreater(np.abs(np.diff(full[:, left:right], axis=1)).max(), 8)
            self.assertLessEqual(np.percentile(apart[:, left:right], 99.9), 3)
        # The effect itself is there: the middle is not the empty stage.
        with mock.patch.object(stage, "seen", lambda: Moment(0.0, ())):
            empty = grey_of(stage.picture())
        middle = slice(wide // 3, 2 * wide // 3)
        self.assertGreater(np.abs(moving - empty)[:, middle].max(), 40)
        # And it is as large as in full: what lies over it leaves nothing of its faint rim out.
        seen = [(np.abs(one - empty)[:, middle] > 8).mean() for one in (moving, full)]
        self.assertAlmostEqual(seen[0] / seen[1], 1.0, delta=0.35)

    def test_a_moving_camera_is_drawn_whole_and_nothing_stale_stays(self):
        stage, session = self.window.stage, self.session
        with mock.patch.object(Pace, "share", property(lambda pace: 0.35)):
            session.play(True)
            self.wait(lambda: stage._lies)
            first = stage._still_of
            stage.moves.turn(20.0, 0.0)
            self.wait(lambda: stage._still_of not in (first, ()))
            QTest.qWait(60)
            moving = self.shown()
            session.play(False)
        self.wait(lambda: not stage._lies)
        wide = moving.shape[1]
        apart = np.abs(moving - self.shown())
        self.assertLessEqual(
            np.percentile(np.concatenate([apart[:, : wide // 5], apart[:, -wide // 5 :]], axis=1), 99.5), 4
        )


def grey_of(image):
    """Return an image as levels of grey, (height, width)."""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    return (
        np.frombuffer(bytes(bits), np.uint8).reshape(image.height(), image.width(), 4)[..., :3].mean(axis=2)
    )
