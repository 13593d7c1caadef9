"""Where particles go, and a simulation that takes long."""

import time

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from pale_ember.app.session.session import LONG
from pale_ember.app.stage.handles import handles_of
from pale_ember.effect.values.rotations import matrix_of

from ...building import effect_with
from ..case import WindowCase


class TracksTest(WindowCase):
    def first_effect(self):
        straight = {
            "launch.speed": 2,
            "launch.lifetime": {"spread": [0.5, 1.0]},
            "emit.rate": 100,
            "flight.gravity": 0,
        }
        return effect_with(
            {"a": straight, "b": {**straight, "birthplace.aim": "random", "launch.lifetime": 0.5}}
        )

    def tracks(self):
        tracks = self.window.stage.tracks
        self.wait_for_moment()
        self.wait(lambda: bool(tracks.lines) and not tracks.at_work)
        return tracks

    def test_tracks_go_as_far_as_particles_do_and_follow_edits(self):
        self.session.play(False)
        QTest.keyClick(self.window, Qt.Key.Key_R)
        tracks = self.tracks()
        self.assertEqual(len(tracks.lines), 48)
        reach = [line[-1][1] for line in tracks.lines]
        self.assertTrue(all(0.9 < y <= 2.01 for y in reach), reach)
        self.assertGreater(np.ptp(reach), 0.5)
        number = tracks.number
        self.session.edit("layers[0].launch.speed", 4, "Faster")
        self.wait(lambda: tracks.number > number and not tracks.at_work)
        self.assertGreater(max(line[-1][1] for line in tracks.lines), 3.0)
        # What is only looks changes no track.
        number = tracks.number
        self.session.edit("layers[0].look.opacity", 0.5, "Fainter")
        self.wait_for_moment()
        self.assertEqual(tracks.number, number)
        self.session.select("b")
        tracks = self.tracks()
        ends = np.array([line[-1] for line in tracks.lines])
        np.testing.assert_allclose(np.linalg.norm(ends, axis=1), 1.0, atol=0.04)
        self.assertTrue((ends[:, 1] < -0.2).any() and (ends[:, 1] > 0.2).any())
        QTest.keyClick(self.window, Qt.Key.Key_R)
        self.assertEqual(tracks.lines, [])

    def test_tracks_are_drawn_over_the_stage(self):
        self.session.play(False)
        self.session.seek(0.0)
        self.wait_for_moment()
        overlay = self.window.stage.overlay
        before = overlay.grab().toImage()
        self.window.actions_by_name["tracks"].trigger()
        self.tracks()
        self.assertNotEqual(overlay.grab().toImage(), before)

    def test_what_plays_in_time_is_never_said_to_be_late(self):
        self.session.play(True)
        overlay, moments, checked = self.window.stage.overlay, [0.0], 0
        self.session.moment_changed.connect(lambda: moments.append(time.monotonic()))
        self.wait(lambda: self.session.moment_number > 3)
        for _ in range(60):
            QTest.qWait(15)
            # As it is right after a wish, which is when pictures are mostly painted.
            self.session.ask()
            # A machine that has other work to do may really be late.
            if time.monotonic() - moments[-1] < LONG / 2:
                self.assertIsNone(overlay._late_by())
                checked += 1
        self.assertGreater(checked, 5)

    def test_a_long_simulation_says_how_far_it_is_and_can_be_stopped(self):
        heavy = {"rate": 60_000, "cap": 200_000}
        self.session.play(False)
        self.session.edit("duration", 600, "Long")
        self.session.edit("layers[0].launch.lifetime", 3, "Long")
        self.session.edit("layers[0].flight.turbulence", 2, "Stirred")
        self.session.edit("layers[0].emit", heavy, "Heavy")
        self.session.edit("layers[0].flight.drag", {"curve": [[0, 0], [1, 1]], "along": "clock"}, "Clock")
        self.wait_for_moment()
        self.session.seek(40.0)
        self.assertTrue(self.session.is_late)
        overlay = self.window.stage.overlay
        self.wait(lambda: overlay.repaint() or overlay._late_by() is not None, 20)
        first = self.session.way()
        self.wait(lambda: self.session.way() > first, 20)
        QTest.keyClick(self.window, Qt.Key.Key_Escape)
        self.wait(lambda: not self.session.is_late, 30)
        self.assertLess(self.session.moment.time, 40.0)
        self.assertAlmostEqual(self.session.moment.time, self.session.time, delta=0.02)


class TurnTest(WindowCase):
    def first_effect(self):
        return effect_with({"a": {"place.rotation": [0, 30, 0], "place.position": [0.5, 0.2, 0]}})

    def test_a_layer_is_turned_about_each_axis_in_the_stage(self):
        stage = self.window.stage
        self.session.play(False)
        self.wait_for_moment()
        for axis in range(3):
            handle = next(h for h in stage.handle_drag.handles() if h.label == f"Turn {'xyz'[axis]}")
            centre = np.array(self.session.layer.place.position)
            arm = handle.place - centre
            angle = np.radians(40.0)
            goal = centre + np.cos(angle) * arm + np.sin(angle) * np.cross(handle.along, arm)
            places = [
                stage.handle_drag._pixels([handle._replace(place=at)])[0] for at in (handle.place, goal)
            ]
            before = matrix_of(self.session.layer.place.rotation)
            self.drag(stage, places[0], places[1])
            turned = matrix_of(self.session.layer.place.rotation) @ before.T
            about = np.array(
                [turned[2, 1] - turned[1, 2], turned[0, 2] - turned[2, 0], turned[1, 0] - turned[0, 1]]
            )
            degrees = np.degrees(np.arccos(np.clip((np.trace(turned) - 1) / 2, -1, 1)))
            self.assertAlmostEqual(degrees, 40.0, delta=4.0)
            np.testing.assert_allclose(about / np.linalg.norm(about), np.eye(3)[axis], atol=0.02)
            self.session.undo()

    def test_several_selected_layers_are_moved_and_turned_alike_and_get_one_birthplace(self):
        more = effect_with({"b": {"place.position": [-1, 0, 1], "birthplace.kind": "ball"}}).layers
        self.session.apply(self.session.effect.edit("layers", (*self.session.effect.layers, *more)), "More")
        self.session.edit("layers[0].birthplace.kind", "ball", "Ball")
        self.session.play(False)
        self.session.select("a")
        self.session.select("b", "also")
        stage, drag = self.window.stage, self.window.stage.handle_drag
        before = [layer.place for layer in self.session.effect.layers]
        for label, goal in (("Place x", 0.4), ("Radius", 0.7), ("Turn y", None)):
            handle = next(h for h in drag.handles() if h.label == label)
            centre = np.array(self.session.layer.place.position)
            to = handle.place + handle.along * (goal or 0.0)
            if goal is None:
                to = centre + np.cross(handle.along, handle.place - centre)
            places = [drag._pixels([handle._replace(place=at)])[0] for at in (handle.place, to)]
            self.drag(stage, places[0], places[1])
        a, b = self.session.effect.layers
        moved = [
            np.array(one.place.position) - np.array(old.position)
            for one, old in zip((a, b), before, strict=True)
        ]
        np.testing.assert_allclose(moved[0], moved[1], atol=1e-5)
        self.assertAlmostEqual(moved[0][0], 0.4, delta=0.05)
        self.assertEqual(a.birthplace.radius, b.birthplace.radius)
        turns = [
            matrix_of(one.place.rotation) @ matrix_of(old.rotation).T
            for one, old in zip((a, b), before, strict=True)
        ]
        np.testing.assert_allclose(turns[0], turns[1], atol=1e-4)
        self.assertGreater(np.degrees(np.arccos((np.trace(turns[0]) - 1) / 2)), 60)

    def test_handles_go_along_the_layers_own_axes_on_demand(self):
        ways = [h.along for h in self.window.stage.handle_drag.handles() if h.look == "arm"]
        np.testing.assert_allclose(ways, np.eye(3), atol=1e-9)
        QTest.keyClick(self.window, Qt.Key.Key_X)
        ways = [h.along for h in self.window.stage.handle_drag.handles() if h.look == "arm"]
        np.testing.assert_allclose(np.array(ways).T, matrix_of((0, 30, 0)), atol=1e-9)
        layer = self.session.layer
        self.assertEqual(
            len(handles_of(layer, 0.0, self.session.camera, 0, "layer")),
            len(self.window.stage.handle_drag.handles()),
        )
