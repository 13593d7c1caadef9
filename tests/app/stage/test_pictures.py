"""The lines and handles over the stage as they are painted."""

import time
from unittest import mock

import numpy as np
from PyQt6.QtCore import QRect

from pale_ember.app.stage import hit_marks
from pale_ember.app.stage.particle_tracks import ParticleTracks
from pale_ember.drawing.camera import project
from pale_ember.drawing.moment import DrawnLayer
from pale_ember.drawing.passes.overdraw import Overdraw
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.kinds import EmitterShape
from pale_ember.simulation.layout.instances import instance_type
from pale_ember.simulation.simulation import Lives

from ...building import effect_with
from ..pictures import PictureCase, drawn


class OverlayPictures(PictureCase):
    def first_effect(self):
        edits = {
            "birthplace.radius": 0.5,
            "birthplace.height": 0.7,
            "birthplace.extents": [0.8, 0.5, 0.6],
            "birthplace.fan": 30,
            "place.position": [0.2, 0.7, 0],
            "place.rotation": [0, 30, 20],
        }
        return effect_with({"a": edits, "b": {"place.position": [-0.6, 0.5, 0]}})

    def lines(self):
        """Return the lines and handles in the middle of the stage."""
        stage = self.window.stage
        whole = drawn(stage.width(), stage.height(), stage.overlay._paint_wires)
        middle = stage.rect().center()
        return whole.copy(QRect(middle.x() - 200, middle.y() - 150, 400, 300))

    def test_every_birthplace_with_its_handles(self):
        for kind in EmitterShape:
            self.session.edit("layers[0].birthplace.kind", kind, "Kind")
            if kind != EmitterShape.MESH:
                self.assert_looks(f"birthplace-{kind}", self.lines())

    def test_paths_several_layers_the_layers_own_axes_and_a_handle_that_is_meant(self):
        keys = [{}, {"at": 0.5, "position": [0.5, 0.3, 0.3], "rotation": [0, 90, 0]}, {"at": 1}]
        self.session.edit("layers[0].path", keys, "Path")
        self.session.select("b", "also")
        self.session.handle_axes = "layer"
        self.session.choose_path_key(1)
        self.assert_looks("stage-path", self.lines())
        handles = self.window.stage.overlay.handles
        for look in ("move", "turn", "size"):
            handles.under = next((one for one in handles.handles() if one.look == look), None)
            if handles.under is not None:
                self.assert_looks(f"stage-{look}", self.lines())

    def over(self, paint):
        """Return what is painted over the whole stage."""
        stage = self.window.stage
        return drawn(stage.width(), stage.height(), paint)

    def test_what_it_says_of_overdraw_of_nothing_to_see_and_of_what_is_prepared(self):
        stage, session = self.window.stage, self.session
        stage.show_overdraw = True
        stage.overdraw = (Overdraw(1.25, 12), Overdraw(0.5, 3))
        stage.cost = (3, 2.5 * 2**20)
        self.assert_looks("overdraw", self.over(stage.overlay._paint_overdraw).copy(0, 0, 420, 90))
        session.layers.toggle_enabled("a", "b")
        self.wait(lambda: session.moment_number == session.asked_number and not session.is_late)
        self.assert_looks("words-disabled", self.over(stage.overlay._paint_words))
        session.preparing = (3, 12, "drag and wind")
        stage.overlay.since = time.monotonic() - 10
        self.assert_looks("words-preparing", self.over(stage.overlay._paint_words))

    def test_parents_children_and_ways_of_particles(self):
        camera, size = self.session.camera, (400, 300)
        line = np.stack([np.linspace(-1, 1, 60), np.linspace(0.2, 1.4, 60), np.zeros(60)], axis=1)
        ways = ParticleTracks(self.session)
        ways.lines = [line, line * [1, 1, 0] + [0, 0, 0.5], line[:1], line - [0, 0, 40 * camera.distance]]
        self.assert_looks("ways", drawn(*size, lambda painter: ways.paint(painter, size)))
        places = np.array([[0.2 * i - 0.4, 0.5, 0.1 * i] for i in range(5)], np.float32)
        rows = np.zeros(5, instance_type(()))
        rows["place"] = places
        serial = np.arange(5, dtype=np.uint32)
        one = DrawnLayer("b", rows, Look(), life=Lives(np.zeros((2, 5), np.float32), serial, 0, 60))
        moment = mock.Mock(layers=(one,))
        session = mock.Mock(moment=moment, camera=camera)
        found = hit_marks._pixels(session, "b", np.array([0, 3]), size)
        wanted, _ = project(camera, *size, places[[0, 3]])
        np.testing.assert_allclose([(at.x(), at.y()) for at in found], wanted)
        self.assertEqual(hit_marks._pixels(session, "b", np.zeros(0, int), size), [])

    def test_hits_fade_and_stand_along_their_surface(self):
        places = np.array([[0.3 * i - 1, 0.2 * i, 0, 0, 1, 0.5, 0.1 * i] for i in range(6)], np.float32)
        moment = mock.Mock(hits={"a": places})
        size = 400, 300

        def paint(painter):
            hit_marks.paint_hits(painter, self.session.camera, size, moment)

        self.assert_looks("hits", drawn(*size, paint))
