"""Points and squares draw the same dots: what is drawn as which may change from one frame to the next."""

import unittest
from unittest import mock

import numpy as np

from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.drawing.passes import sprites
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.effect.values.colors import to_linear
from pale_ember.simulation.layout.instances import INSTANCE

CAMERA = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=0)
SIZE = (240, 160)


def dots(count, wide, seed=1):
    """Rows of turned, oval dots all over the picture."""
    dice = np.random.default_rng(seed)
    rows = np.zeros(count, INSTANCE)
    rows["place"] = dice.uniform(-1, 1, (count, 3)) * (1.8, 1.2, 0.5)
    rows["size"] = wide * dice.uniform(0.3, 1.0, (count, 2))
    rows["angle"] = dice.uniform(-3, 3, count)
    rows["color"] = dice.uniform(0.1, 1.0, (count, 3))
    rows["opacity"], rows["intensity"] = 0.6, 1.5
    return rows


class SpeckTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.studio = OffscreenRenderer()

    @classmethod
    def tearDownClass(cls):
        cls.studio.release()

    def picture(self, rows, blend, widest):
        moment = Moment(0.0, (DrawnLayer("a", rows, Look(blend=blend)),))
        with mock.patch.object(sprites, "WIDEST_POINT", widest):
            return np.asarray(self.studio.picture(moment, SIZE, CAMERA, "black", grid=False)).astype(int)

    def test_points_are_squares_but_for_rounding(self):
        for wide in (0.4, 0.8):
            for blend in ("add", "alpha"):
                rows = dots(40, wide)
                points, squares = (self.picture(rows, blend, widest) for widest in (60.0, 0.0))
                self.assertGreater(squares.max(), 120)
                off = np.abs(points - squares)
                self.assertLess(off.mean(), 0.6, (wide, blend))
                self.assertLessEqual(np.percentile(off, 99.5), 6, (wide, blend))

    def test_what_is_smaller_than_a_pixel_gives_as_much_light_on_average(self):
        # Drawn in their own size, squares of a third of a pixel would mostly miss their pixel's middle.
        rows = dots(60_000, 0.02)
        rows["size"] = 0.33 * 4 * 2 * np.tan(np.radians(CAMERA.view) / 2) / SIZE[1]
        rows["opacity"] = rows["intensity"] = 0.25
        points, squares = (to_linear(self.picture(rows, "add", w)[40:120, 60:180] / 255) for w in (60.0, 0.0))
        self.assertAlmostEqual(points.mean() / squares.mean(), 1.0, delta=0.2)
        self.assertLess(squares.std(), 1.1 * points.std())

    def test_a_streak_thinner_than_a_pixel_gives_as_much_light_wherever_it_falls(self):
        pixel = 4 * 2 * np.tan(np.radians(CAMERA.view) / 2) / SIZE[1]
        look = Look(blend="add", facing="streak", streak=1.0)
        kind = np.dtype([*((name, INSTANCE[name]) for name in INSTANCE.names)])
        light = {}
        for share in (0.3, 2.0):
            light[share] = []
            for off in np.linspace(0, 1, 9):
                rows = dots(1, 0.1).astype(kind)
                rows["place"], rows["size"], rows["angle"], rows["way"] = (
                    (off * pixel, 0.5, 0),
                    share * pixel,
                    0,
                    (0, 1, 0),
                )
                rows["opacity"] = rows["intensity"] = 0.7
                moment = Moment(0.0, (DrawnLayer("a", rows, look),))
                light[share].append(
                    to_linear(
                        np.asarray(self.studio.picture(moment, SIZE, CAMERA, "black", grid=False)) / 255
                    ).sum()
                )
        self.assertLess(np.ptp(light[0.3]) / np.mean(light[0.3]), 0.5)
        self.assertAlmostEqual(np.mean(light[0.3]) / np.mean(light[2.0]), 0.3 / 2.0, delta=0.05)

    def test_those_at_the_edge_are_not_lost(self):
        rows = dots(1, 0.5)
        rows["place"][0], rows["size"][0] = (2.24, 0, 0), 0.9
        # Its middle is outside of the picture, a part of it is not.
        self.assertGreater(self.picture(rows, "add", 60.0)[:, -8:].max(), 30)

    def test_which_are_small(self):
        from pale_ember.drawing.camera import projection_matrix, view_matrix

        rows = dots(3, 0.1)
        rows["place"] = [(0, 0, 0), (9, 0, 0), (0, 0, 0)]
        rows["size"][2, 0] = 3.0
        found = sprites.are_small(rows, view_matrix(CAMERA), projection_matrix(CAMERA, *SIZE), SIZE[1])
        self.assertEqual(found.tolist(), [True, False, False])


if __name__ == "__main__":
    unittest.main()
