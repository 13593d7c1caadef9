import itertools
import threading
import time
from unittest import mock

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.stage.path_stroke import keys_of_stroke
from pale_ember.drawing.camera import project
from pale_ember.effect import effect_text
from pale_ember.effect.chapters.path import evaluate_path
from pale_ember.effect.rules.edit import get
from pale_ember.simulation.meshes import reading as mesh_files

from ...building import effect_with
from ..case import LEFT, WindowCase


class TimedMouse(QMouseEvent):
    """What a mouse does at a moment, ms."""

    moment = 0

    def timestamp(self):
        return self.moment


class PathTest(WindowCase):
    """A moving layer, built and dragged."""

    def first_effect(self):
        return effect_with({"a": {"birthplace.kind": "cone", "place.position": [0, 0.5, 0]}})

    def drawn(self, points, seconds=0.4, last=True):
        """Draw a stroke through pixels of the stage, at an even pace; end it if it is the ``last`` of it."""
        stage = self.window.stage
        self.window.actions_by_name["draw_path"].trigger()
        self.assertTrue(stage.stroke.waits)
        # The line that says what to do moves the stage.
        QApplication.processEvents()
        each = round(1000 * seconds / len(points))

        def mouse(kind, point, moment, held=LEFT):
            # The cursor's own moves would be put together where the machine has other work: this hand's are
            # all there.
            button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else LEFT
            event = TimedMouse(
                kind,
                QPointF(point),
                QPointF(stage.mapToGlobal(point)),
                button,
                held,
                Qt.KeyboardModifier.NoModifier,
            )
            event.moment = 1000 + moment * each
            QApplication.sendEvent(stage, event)

        mouse(QEvent.Type.MouseButtonPress, points[0], 0)
        for i, point in enumerate(points[1:], 1):
            QTest.qWait(each)
            mouse(QEvent.Type.MouseMove, point, i)
            # What comes by without the button leaves no trace.
            mouse(QEvent.Type.MouseMove, QPoint(5, 5), i + 900, Qt.MouseButton.NoButton)
        if last:
            mouse(QEvent.Type.MouseButtonRelease, points[-1], len(points), Qt.MouseButton.NoButton)

    def test_a_path_is_drawn_by_one_stroke_as_one_step(self):
        self.session.play(False)
        stage, session = self.window.stage, self.session
        before, steps = effect_text(session.effect), session.document.index
        camera = session.camera
        middle = stage.rect().center()
        for pitch in (10.0, 60.0):
            session.look_from(camera.model_copy(update={"pitch": pitch}))
            QApplication.processEvents()
            circle = [
                middle + QPoint(round(90 * np.sin(t)), round(50 * np.cos(t))) for t in np.linspace(0, 5, 40)
            ]
            self.drawn(circle)
            path = session.layer.path
            self.assertTrue(3 < len(path) <= 24, len(path))
            self.assertEqual((path[0].at, path[-1].at), (0.0, 1.0))
            # At an even pace half of it is half of the stroke.
            half = evaluate_path(path, np.array([0.5]))[:, :3] + session.layer.place.position
            at, _ = project(session.camera, stage.width(), stage.height(), half)
            self.assertLess(np.hypot(*(at[0] - (circle[20].x(), circle[20].y()))), 12.0)
            self.assertEqual(session.camera.pitch, pitch, "the stroke turned no camera")
            self.assertEqual(session.document.index, steps + 1)
            # As it is seen the path goes through the stroke.
            ways = evaluate_path(path, np.linspace(0, 1, 200))[:, :3] + session.layer.place.position
            seen, _ = project(session.camera, stage.width(), stage.height(), ways)
            off = [np.hypot(*(seen - (point.x(), point.y())).T).min() for point in circle]
            self.assertLess(max(off), 8.0)
            if pitch > 40:
                self.assertLess(np.ptp(ways[:, 1]), 1e-6)
            session.undo()
            self.assertEqual(effect_text(session.effect), before)

    def test_the_line_above_comes_and_goes_only_between_drags(self):
        notice, middle = self.window.notice, self.window.stage.rect().center()
        notice.hide()
        self.drawn([middle + QPoint(8 * i, 3 * i) for i in range(6)], last=False)
        self.assertTrue(notice.isVisible() and self.session.is_dragging)
        place = self.window.stage.geometry()
        notice.timer.start(0)
        QTest.qWait(60)
        self.assertTrue(notice.isVisible(), "its time is over, but something is dragged")
        self.assertEqual(self.window.stage.geometry(), place)
        QTest.keyClick(self.window.stage, Qt.Key.Key_Escape)
        self.assertFalse(self.session.is_dragging)
        self.wait(lambda: not notice.isVisible())
        self.session.begin_drag(lambda: None)
        self.session.said.emit("Something went wrong meanwhile.")
        QTest.qWait(60)
        self.assertFalse(notice.isVisible())
        self.session.end_drag()
        self.wait(notice.isVisible)
        self.assertIn("meanwhile", notice.words.text())

    def test_several_layers_get_the_stroke_and_a_second_one_takes_the_place_of_the_first(self):
        self.session.play(False)
        self.window.actions_by_name["duplicate"].trigger()
        self.window.actions_by_name["all"].trigger()
        before, steps = effect_text(self.session.effect), self.session.document.index
        middle = self.window.stage.rect().center()
        for turn in (1, 2):
            self.drawn([middle + QPoint(8 * i * turn, 3 * i) for i in range(14)])
            paths = [layer.path for layer in self.session.effect.layers]
            self.assertEqual(len(paths), 2)
            self.assertTrue(paths[0] and paths[0] == paths[1])
            self.assertEqual(self.session.document.index, steps + turn)
        # A drag behind it turns the camera again.
        camera = self.session.camera
        self.drag(self.window.stage, QPointF(20, 20), QPointF(70, 30))
        self.assertNotEqual(self.session.camera.yaw, camera.yaw)
        self.session.undo()
        self.session.undo()
        self.assertEqual(effect_text(self.session.effect), before)

    def test_a_stroke_is_given_up_before_and_while_it_is_drawn(self):
        self.session.play(False)
        stage, session = self.window.stage, self.session
        before, steps = effect_text(session.effect), session.document.index
        middle = stage.rect().center()
        self.activate(self.window)
        self.window.actions_by_name["draw_path"].trigger()
        self.assertTrue(stage.stroke.waits)
        QTest.keyClick(self.window, Qt.Key.Key_Escape)
        self.assertFalse(stage.stroke.waits)
        self.drawn([middle + QPoint(9 * i, 2 * i) for i in range(12)], last=False)
        self.assertNotEqual(effect_text(session.effect), before)
        QTest.keyClick(stage, Qt.Key.Key_Escape)
        self.assertEqual((effect_text(session.effect), session.document.index), (before, steps))
        QTest.mouseMove(stage, middle)
        QTest.mouseRelease(stage, LEFT, pos=middle)
        self.assertEqual((effect_text(session.effect), session.document.index), (before, steps))
        self.assertFalse(stage.stroke.draws)
        # A click alone draws nothing.
        self.drawn([middle])
        self.assertEqual((effect_text(session.effect), session.document.index), (before, steps))

    def test_the_keys_of_a_stroke_keep_its_shape_and_its_pace(self):
        clock = np.linspace(0, 3, 300)
        rows = np.stack(
            [clock, np.where(clock < 2, clock / 2, 1 + (clock - 2) * 3), np.sin(2 * clock), 0 * clock], axis=1
        )
        keys = keys_of_stroke(rows)
        found = evaluate_path(keys, clock / 3)[:, :3]
        reach = np.linalg.norm(np.ptp(rows[:, 1:], axis=0))
        self.assertLess(np.linalg.norm(found - rows[:, 1:], axis=1).max(), 0.06 * reach)
        self.assertLess(len(keys), 16)
        # A hand that waits and then jumps swings nowhere beyond where it was.
        wait = np.array(
            [
                (0, 0, 0, 0),
                (0.1, 1, 0, 0),
                (2.0, 1.01, 0, 0),
                (2.05, 3, 2, 0),
                (2.1, 5, 0, 0),
                (3.0, 5, 0.02, 0),
            ]
        )
        found = evaluate_path(keys_of_stroke(wait), np.linspace(0, 1, 500))[:, :3]
        self.assertLess(found.max(axis=0)[0], 5.2)
        self.assertGreater(found.min(axis=0)[0], -0.2)
        noisy = rows + np.random.default_rng(1).normal(0, 0.3, rows.shape) * (0, 1, 1, 1)
        self.assertLessEqual(len(keys_of_stroke(noisy)), 24)

    def test_a_hand_that_stops_again_and_again_keeps_the_shape_of_its_stroke(self):
        turn = np.linspace(0, 5, 40)
        reach = 2 * np.sqrt(2)
        for seed in range(20):
            dice = np.random.default_rng(seed)
            pauses = np.where(dice.uniform(size=39) < 0.5, 0.001, dice.choice([0.3, 2, 60], 39))
            clock = np.concatenate([[0], np.cumsum(pauses)])
            rows = np.stack([clock, np.cos(turn), np.sin(turn), 0 * turn], axis=1)
            keys = keys_of_stroke(rows)
            self.assertLessEqual(len(keys), 24)
            self.assertTrue(all(a.at < b.at for a, b in itertools.pairwise(keys)))
            self.assertEqual((keys[0].at, keys[-1].at), (0.0, 1.0))
            seen = evaluate_path(keys, np.linspace(0, 1, 60_000))[:, :2]
            off = [np.linalg.norm(seen - rows[i, 1:3], axis=1).min() for i in range(40)]
            self.assertLess(max(off), 0.02 * reach, seed)

    def test_a_ready_motion_is_taken_and_its_keys_dragged(self):
        self.session.play(False)
        self.window.recipe.show_chapter(1)
        keys = self.window.recipe.chapters["Birthplace"].lists["path"]
        keys.take_motion("circle")
        stage, grip = self.window.stage, self.window.stage.handle_drag
        count = len(self.session.layer.path)
        self.assertGreater(count, 4)

        def pixel(label):
            handles = grip.handles()
            at = next(i for i, handle in enumerate(handles) if handle.label == label)
            return grip._pixels(handles)[at]

        before, steps = self.session.layer.path[2], len(self.session.document.history)
        self.drag(stage, pixel("Key 3"), pixel("Key 3") + QPointF(40, -25))
        after = self.session.layer.path[2]
        self.assertNotEqual(before.position, after.position)
        self.assertEqual(self.session.path_key, 2)
        self.assertEqual(len(self.session.document.history), steps + 1)
        self.assertEqual(keys.open, 2)
        # An arm keeps to its axis.
        x, y, z = after.position
        self.drag(stage, pixel("Key 3 y"), pixel("Key 3 y") - QPointF(0, 30))
        moved = self.session.layer.path[2].position
        self.assertEqual((moved[0], moved[2]), (x, z))
        self.assertGreater(moved[1], y + 0.1)
        QTest.keyClick(stage, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.layer.path), count - 1)

    def test_a_ready_circle_stays_closed_whichever_end_is_moved(self):
        self.session.play(False)
        self.window.recipe.show_chapter(1)
        self.window.recipe.chapters["Birthplace"].lists["path"].take_motion("circle")
        stage, grip = self.window.stage, self.window.stage.handle_drag
        path, steps = self.session.layer.path, len(self.session.document.history)
        handles = grip.handles()
        at = grip._pixels(handles)[next(i for i, handle in enumerate(handles) if handle.label == "Key 1")]
        self.drag(stage, at, at + QPointF(30, -20))
        moved = self.session.layer.path
        self.assertNotEqual(moved[0].position, path[0].position)
        self.assertEqual(moved[0].position, moved[-1].position)
        self.assertEqual(moved[1:-1], path[1:-1])
        self.assertEqual(len(self.session.document.history), steps + 1)
        last = len(path) - 1
        self.session.edit(f"layers[0].path[{last}].rotation", [0, 45, 0], "Turn")
        self.assertEqual(self.session.layer.path[0].rotation, (0.0, 45.0, 0.0))
        # One that ends elsewhere is opened by what the artist does to it.
        self.session.edit(f"layers[0].path[{last}].at", 0.9, "Earlier")
        self.session.edit("layers[0].path[0].position", [9, 0, 0], "Move")
        self.assertNotEqual(self.session.layer.path[-1].position, (9.0, 0.0, 0.0))

    def test_every_size_has_a_handle_that_follows_the_mouse(self):
        self.session.play(False)
        stage, grip = self.window.stage, self.window.stage.handle_drag
        for kind, labels in {
            "cone": ("Radius", "Height", "Angle", "Arc"),
            "ring": ("Radius", "Tube", "Arc"),
            "ball": ("Radius", "Arc"),
            "box": ("Extent x", "Extent y", "Extent z"),
            "cylinder": ("Radius", "Height"),
            "mesh": ("Mesh scale",),
        }.items():
            self.session.edit("layers[0].birthplace.kind", kind, "Kind")
            for label in labels:
                handles = grip.handles()
                at = next(i for i, handle in enumerate(handles) if handle.label == label)
                start, path = grip._pixels(handles)[at], f"layers[0].{handles[at].path}"
                before = get(self.session.effect, path)
                tip = handles[at].place + handles[at].along * 0.3
                if label == "Arc":
                    tip = handles[at].place + np.array([-0.3, 0, -0.3])
                goal, _ = project(self.session.camera, stage.width(), stage.height(), tip)
                self.assertEqual(grip.at(start).label, label)
                self.drag(stage, start, QPointF(*goal[0]))
                self.assertNotEqual(before, get(self.session.effect, path), label)
                handles = grip.handles()
                now = grip._pixels(handles)[at]
                self.assertLess(
                    (now - QPointF(*goal[0])).manhattanLength(), 14 if label != "Arc" else 60, label
                )
                self.session.undo()

    def test_a_mesh_is_read_off_the_windows_thread(self):
        path = f"{self.folder.name}/tent.obj"
        with open(path, "w", encoding="ascii") as file:
            file.write("v 0 0 0\nv 3 0 0\nv 0 1 0\nf 1 2 3\n")
        readers, old = [], mesh_files.read_regular

        def slow(*args):
            readers.append(threading.current_thread().name)
            time.sleep(0.4)
            return old(*args)

        with mock.patch.object(mesh_files, "read_regular", slow):
            self.drop(path)
            for _ in range(5):
                QTest.qWait(10)
            self.assertFalse(self.window.strip.film.images, "nobody else reads it meanwhile")
            self.wait_for_moment()
            self.wait(lambda: bool(self.window.strip.film.images))
        self.assertEqual(set(readers), {"player"})
        handle = next(h for h in self.window.stage.handle_drag.handles() if h.label == "Mesh scale")
        self.assertAlmostEqual(handle.place[0] - self.session.layer.place.position[0], 3.0, places=4)

    def test_a_dropped_mesh_is_the_birthplace_and_a_lost_one_is_said(self):
        self.drop("/nowhere/anvil.obj")
        self.wait_for_moment()
        row = self.row("birthplace.mesh")
        self.wait(lambda: row.problem is not None and row.problem.isVisible())
        self.assertIn("no such file", row.problem.text())
        row.problem.linkActivated.emit("mend")
        self.wait_for_moment()
        self.wait(lambda: not row.problem.isVisible())
        self.assertEqual(self.session.layer.birthplace.mesh, "ball")
