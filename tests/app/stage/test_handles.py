import threading
import time
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.drawing.camera import project
from pale_ember.effect.edit import get
from pale_ember.simulation import mesh_files

from ...building import effect_with
from ..case import WindowCase


class PathTest(WindowCase):
    """A moving layer, built and dragged."""

    def first_effect(self):
        return effect_with({"a": {"birthplace.kind": "cone", "place.position": [0, 0.5, 0]}})

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
            "cone": ("Radius", "Height", "Angle", "Arc"), "ring": ("Radius", "Tube", "Arc"), "ball": ("Radius", "Arc"),
            "box": ("Extent x", "Extent y", "Extent z"), "cylinder": ("Radius", "Height"), "mesh": ("Mesh scale",),
        }.items():  # fmt: skip
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
                self.assertLess((now - QPointF(*goal[0])).manhattanLength(), 14 if label != "Arc" else 60, label)
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
