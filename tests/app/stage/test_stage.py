
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.app.recipe.sentence import sentence
from pale_ember.demo import kiln_mouth

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
