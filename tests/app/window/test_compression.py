"""The view of a texture before and after: where both stand, and what is shown of them."""

from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, QPointF
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtTest import QTest

from pale_ember.app.hand_over.compression import CompressionView, Pair, _on_grey

from ...building import single
from ..case import turn_wheel
from ..gestures import LEFT, PLAIN, pull
from ..pictures import PictureCase, pixels
from ..told import ToldCase, places


def quarters(wide, high):
    """Return a picture of four plain colours."""
    image = QImage(wide, high, QImage.Format.Format_RGB888)
    for y in range(high):
        for x in range(wide):
            image.setPixelColor(x, y, QColor(200 if x < wide / 2 else 40, 200 if y < high / 2 else 40, 90))
    return image


class PairTest(PictureCase):
    def setUp(self):
        super().setUp()
        self.pair = Pair()
        self.addCleanup(self.pair.deleteLater)
        self.pair.resize(600, 334)
        self.pair.show()
        self.pair.show_pair(quarters(80, 40), quarters(80, 40), ("Before", "After"), True)

    def color_at(self, x, y):
        return tuple(pixels(self.pair.grab().toImage())[round(y), round(x), ::-1])

    def shown(self, side, x, y):
        """Return what is to be seen of a picture's own place, x and y in its pixels."""
        half, pair = self.pair._half(side), self.pair
        at = half.center() + (QPointF(x, y) - pair._middle) * pair._scale
        return at if half.contains(at) else None

    def test_both_are_seen_whole_and_alike(self):
        self.assertAlmostEqual(self.pair._scale, min(288 / 80, 300 / 40))
        for side in (0, 1):
            for x, y, color in ((20, 10, (200, 200, 90)), (60, 10, (40, 200, 90)), (20, 30, (200, 40, 90))):
                at = self.shown(side, x, y)
                self.assertEqual(self.color_at(at.x(), at.y()), color)
        middle = self.pair._half(0).center()
        self.assertEqual(self.pair._middle, QPointF(40, 20))
        self.assertAlmostEqual(middle.x() + 300 + 1, self.pair._half(1).center().x(), delta=1.0)
        self.assert_looks("pair", self.pair)

    def test_the_wheel_keeps_what_is_under_the_mouse_and_a_drag_moves_both(self):
        pair = self.pair
        for side in (0, 1):
            pair.see_all()
            under = self.shown(side, 20, 10)
            for notches in (1, 3, -2):
                turn_wheel(pair, under, QPoint(0, 120 * notches), PLAIN)
                again = self.shown(side, 20, 10)
                self.assertAlmostEqual(again.x(), under.x(), delta=0.01)
                self.assertAlmostEqual(again.y(), under.y(), delta=0.01)
            self.assertAlmostEqual(pair._scale, 3.6 * 1.0015**240, places=4)
        for _ in range(60):
            turn_wheel(pair, QPointF(100, 100), QPoint(0, 120), PLAIN)
        self.assertEqual(pair._scale, 32.0)
        for _ in range(99):
            turn_wheel(pair, QPointF(100, 100), QPoint(0, -120), PLAIN)
        self.assertEqual(pair._scale, 0.05)
        QTest.mouseDClick(pair, LEFT, PLAIN, QPoint(50, 50))
        self.assertAlmostEqual(pair._scale, 3.6)
        pull(pair, QPointF(100, 100), QPointF(36, -18))
        self.assertAlmostEqual(pair._middle.x(), 30.0)
        self.assertAlmostEqual(pair._middle.y(), 25.0)
        QTest.mouseMove(pair, QPoint(300, 200))
        self.assertAlmostEqual(pair._middle.x(), 30.0, msg="nothing is held any more")

    def test_without_pictures_there_are_words_and_nothing_moves(self):
        pair = self.pair
        pair.clear("Reading textures …")
        before = pair._scale
        turn_wheel(pair, QPointF(100, 100), QPoint(0, 120), PLAIN)
        self.assertEqual(pair._scale, before)
        inside = pixels(pair.grab().toImage())
        self.assertGreater(int((inside.max(axis=2) > 150).sum()), 50)

    def test_colours_lie_over_grey_and_data_as_it_is(self):
        found = np.array([[[200, 100, 0, 255], [200, 100, 0, 0], [255, 255, 255, 128]]], np.uint8)
        sheet = mock.Mock(kind="picture", premultiplied=False, texture=mock.Mock(data=False))
        self.assertEqual(_on_grey(found, sheet)[0].tolist(), [[200, 100, 0], [70, 70, 70], [163, 163, 163]])
        sheet.premultiplied = True
        self.assertEqual(_on_grey(found, sheet)[0].tolist(), [[200, 100, 0], [255, 170, 70], [255, 255, 255]])
        for other in ({"kind": "normals"}, {"texture": mock.Mock(data=True)}):
            plain = mock.Mock(**({"kind": "picture", "texture": mock.Mock(data=False)} | other))
            self.assertEqual(_on_grey(found, plain)[0].tolist(), found[0, :, :3].tolist())


class CompressionPlaces(PictureCase, ToldCase):
    def first_effect(self):
        textures = [
            {"name": "soot", "build": {"size": 32, "steps": [{"step": "dot"}, {"step": "color"}]}},
            {"name": "mask", "data": True, "build": {"size": 16, "steps": [{"step": "cloud"}]}},
        ]
        return single().edit("textures", textures)

    def test_what_is_said_of_each_texture_and_each_form(self):
        self.window.desk.reset_profile()
        self.addCleanup(self.window.files.settings.remove, "hand over")
        view = self.window.open_compression()
        self.assertIsInstance(view, CompressionView)
        self.wait(lambda: view._now is not None)
        self.assert_says("places-compression", self.settled(lambda: places(view)))
        lines = []
        for row in range(view.list.count()):
            view.list.setCurrentRow(row)
            for index in range(view.form.count()):
                view.form.setCurrentIndex(index)
                view._choose(view.form.itemText(index))
                self.wait(lambda: not view.words.text().startswith("Compressing"))
                for shown in range(view.view.count()):
                    view.view.setCurrentIndex(shown)
                    image = view.pair._images[1]
                    whole = pixels(image)
                    said = (
                        f"{view.pair._words[1]}, {image.width()} x {image.height()}, mean {whole.mean():.0f}"
                    )
                    lines.append(
                        f"{view.list.item(row).text()}, {view.form.itemText(index)}, {shown}: {said}"
                    )
                lines.append(f"  {view.words.text()}")
        self.assert_says("compression", lines)
        view.close()
