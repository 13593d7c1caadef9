"""The life strip in the real window: keys over several lanes, axes, filmstrip, the particle that is
followed.
"""

from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.stage.picking import marked
from pale_ember.drawing.filmstrip import MARGIN
from pale_ember.effect.errors import EffectError
from pale_ember.simulation.time.biography import Single

from ..case import LEFT
from .strip_case import StripCase

SHIFT, CONTROL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


class FilmTest(StripCase):
    def test_frames_show_one_particle_and_follow_edits(self):
        self.wait(lambda: bool(self.strip.film.images))
        film = self.strip.film
        self.assertTrue(12 <= film.count <= 24)
        first = film.images[0].copy()
        self.assertEqual(film.life.serial, Single(self.session.effect, self.session.layer).birth(0).serial)
        QTest.keyClick(self.window, Qt.Key.Key_D)
        self.wait(lambda: film.images and film.images[0] != first)
        self.assertNotEqual(film.life.serial, 0)
        second = film.images[0].copy()
        self.session.edit(self.session.layer_path("look.opacity"), 0.05, "Faint")
        self.wait(lambda: film.images and film.images[0] != second)
        QTest.keyClick(self.window, Qt.Key.Key_D, SHIFT)
        self.wait(lambda: len(film.images) == 3)
        self.assertNotEqual(film.images[0], film.images[2])
        self.session.edit(self.session.layer_path("emit.rate"), 0, "Nothing")
        self.wait(lambda: not film.images)
        self.assertIn("Raise its rate", film.words)

    def test_hasty_frames_are_those_of_the_rest_but_for_a_few_levels(self):
        self.wait(lambda: bool(self.strip.film.images))
        film, stage = self.strip.film, self.window.stage
        life = film.single.instances(film.life, (np.arange(12) + 0.5) / 12)
        fine, quick = (
            stage.studio.film_pixels(
                life,
                self.session.camera,
                film.scale,
                (40, 48),
                self.session.layer.look,
                "black",
                margin,
                f"{margin}",
            )
            for margin in (MARGIN, 0)
        )
        off = np.abs(fine.astype(int) - quick.astype(int))[:, :, :3]
        self.assertLess(off.mean(), 5)
        self.assertLess(np.percentile(off, 99), 30)
        self.assertGreater(fine.max(), 100)

    def test_a_picked_particle_is_followed_while_it_plays(self):
        self.session.seek(1.0)
        self.wait_for_moment()
        QTest.qWait(50)
        stage, drawn = self.window.stage, self.session.moment.layers[0]
        from pale_ember.drawing.camera import project

        places, _ = project(self.session.camera, stage.width(), stage.height(), drawn.instances["place"])
        # A young one that stands clear of the handles, and is still alive a while later.
        chosen = next(i for i in np.argsort(drawn.life.age) if abs(places[i, 1] - places[-1, 1]) > 20)
        serial, age = int(drawn.life.serial[chosen]), float(drawn.life.age[chosen])
        QTest.mouseClick(stage, LEFT, pos=QPointF(*places[chosen]).toPoint())
        picked = self.session.picked
        self.assertIsNotNone(picked)
        at = int(np.flatnonzero(drawn.life.serial == picked.birth.serial)[0])
        self.assertLess(np.hypot(*(places[at] - places[chosen])), 3)
        serial, age = picked.birth.serial, float(drawn.life.age[at])
        self.assertAlmostEqual(self.session.cursor, age, places=4)
        self.assertEqual(len(marked(self.session, (stage.width(), stage.height()))[1]), 1)
        self.wait(lambda: self.strip.film.life is not None and self.strip.film.life.serial == serial)
        self.assertAlmostEqual(self.strip.film.life.born, picked.born, places=4)
        self.session.step(6)
        self.wait_for_moment()
        self.assertAlmostEqual(self.session.cursor, age + 0.1 / picked.lifetime, places=3)
        self.session.seek(1.0)
        self.wait_for_moment()
        self.assertAlmostEqual(self.session.cursor, age, places=4)
        changed = []
        self.session.cursor_changed.connect(lambda: changed.append(self.session.picked))
        self.session.pin_cursor(self.session.cursor)
        # Let go by a click on the very place where the cursor is, and whoever shows it hears of it.
        self.assertIsNone(self.session.picked)
        self.assertIn(None, changed)
        self.session.pick(picked)
        QTest.mouseClick(stage, LEFT, pos=QPoint(5, 5))
        self.assertIsNone(self.session.picked)

    def test_the_cursor_is_one_for_all_and_marks_particles_of_its_age(self):
        self.session.seek(2.0)
        self.wait_for_moment()
        opacity = self.lane("look.opacity")
        QTest.mouseMove(opacity, QPointF(opacity.x_of(0.5), 20).toPoint())
        QApplication.processEvents()
        self.assertAlmostEqual(self.session.cursor, 0.5, delta=0.01)
        self.assertEqual(
            opacity.reading(),
            f"{float(self.look.opacity.bounds_at([self.session.cursor])[0][0]):.2f}".rstrip("0"),
        )
        near, own = marked(self.session, (self.window.stage.width(), self.window.stage.height()))
        ages = self.session.moment.layers[0].life.age
        self.assertEqual(len(near), int((np.abs(ages - self.session.cursor) < 0.02).sum()))
        self.assertEqual(len(own), 0)
        self.drag(
            self.strip.axis, QPointF(self.strip.axis.x_of(0.1), 8), QPointF(self.strip.axis.x_of(0.3), 8)
        )
        self.assertAlmostEqual(self.session.cursor, 0.3, delta=0.01)
        self.session.point_at(None)
        self.assertAlmostEqual(self.session.cursor, 0.3, delta=0.01)

    def test_measured_speed_stands_in_its_lane_where_a_limit_is_drawn(self):
        self.strip.add_lane("flight.top_speed")
        top = self.lane("flight.top_speed")
        for moment in (0.5, 1.0, 1.5, 2.0):
            self.session.seek(moment)
            self.wait_for_moment()
        self.wait(lambda: not self.strip.measured.pending)
        measured = self.strip.measured.of(top.path)
        # Set out at 1 m/s, thrust growing from 1 to 3 m/s².
        self.assertAlmostEqual(measured.mean[0], 1.0, delta=0.15)
        self.assertGreater(measured.mean[-1], 2.0)
        self.strip.toggle_alone(top)
        QApplication.processEvents()
        QTest.mouseClick(top, LEFT, pos=QPointF(top.x_of(0.5), top.y_of(1.5)).toPoint())
        keys = self.session.layer.flight.top_speed.keys
        self.assertAlmostEqual(keys[1].y, 1.5, delta=0.1)
        self.wait_for_moment()
        self.assertLess(float(self.session.moment.layers[0].life.speed.max()), 1.65)

    def test_without_opengl_the_window_says_so_and_goes_on(self):
        with mock.patch(
            "pale_ember.app.stage.stage.OffscreenRenderer",
            side_effect=EffectError("", "pictures can't be drawn here."),
        ):
            other = self.open_window(self.first_effect())
            QTest.qWait(300)
            self.assertEqual(other.stage.wrong, "Pictures can't be drawn here.")
            other.session.edit("layers[0].launch.size", 2, "Size")
            QTest.qWait(200)
            self.assertFalse(other.strip.film.images)
            other.shut()
            other.hide()

    def test_the_strip_takes_all_the_width_and_floats(self):
        narrow = self.strip.width()
        QTest.keyClick(self.window, Qt.Key.Key_E)
        QApplication.processEvents()
        self.assertGreater(self.strip.width(), narrow + 200)
        self.assertEqual(self.strip.film.sizes[1], 72)
        self.assertAlmostEqual(self.strip.film.wide, self.lane("look.grow").plot.width(), delta=1.0)
        QTest.keyClick(self.window, Qt.Key.Key_E)
        QApplication.processEvents()
        self.assertTrue(self.window.panels.docks["timeline"].isVisible())
        self.window.panels.docks["strip"].setFloating(True)
        self.window.panels.docks["strip"].resize(1200, 700)
        QTest.qWait(100)
        self.assertEqual(self.strip.film.count, min(int(self.strip.film.wide) // 54, 24))
