"""What the mouse and keys do on the stage: handles of birthplaces, of paths and of props, the camera."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.effect.kinds import EmitterShape

from ...building import effect_with
from ..gestures import ALT, CTRL, LEFT, MIDDLE, PLAIN, RIGHT, SHIFT, GestureCase, pull


class StageGestures(GestureCase):
    def first_effect(self):
        place = {"place.position": [0.5, 0.5, 0], "place.rotation": [10, 20, 30]}
        path = [
            {"at": 0, "position": [0, 0, 0]},
            {"at": 0.5, "position": [1, 1, 0]},
            {"at": 1, "position": [2, 0, 0]},
        ]
        # A mesh has no sizes of its own.
        shapes = {kind.value: place | {"birthplace.kind": kind} for kind in EmitterShape if kind != "mesh"}
        return effect_with(
            {
                **shapes,
                "moves": {"birthplace.kind": "point", "path": path},
                "child": {"origin.parent": "ball", "origin.when": "death", "birthplace.kind": "ball"},
            }
        ).edit("stage.props", [{"kind": "box", "position": [-1, 0, 0], "size": [0.5, 0.5, 0.5]}])

    def setUp(self):
        super().setUp()
        self.stage = self.window.stage
        self.stage.setUpdatesEnabled(False)
        self.camera = self.session.camera
        self.chosen, self.axes, self.prop, self.key = ("ball",), "world", -1, 0

    def state(self):
        session, camera = self.session, self.session.camera
        return super().state() | {
            "target": [round(number, 3) for number in camera.target],
            "camera": [round(number, 3) for number in (camera.yaw, camera.pitch, camera.distance)],
            "picked": session.picked is not None,
            "key": session.path_key,
        }

    def prepare(self):
        session = self.session
        session.look_from(self.camera)
        session.pick(None)
        session.handle_axes = self.axes
        session.seek(0.5)
        session.select(self.chosen[0])
        for one in self.chosen[1:]:
            session.select(one, "also")
        session.prop = self.prop
        session.choose_path_key(self.key)

    def handles(self):
        self.prepare()
        grip = self.stage.handle_drag
        found = grip.handles()
        return {
            handle.label: at for handle, at in zip(found, grip._pixels(found), strict=True) if at is not None
        }

    def drag_all(self, words, ways=((35, -22),), held=(PLAIN,), only="", but=()):
        for label, at in self.handles().items():
            if only in label and not label.startswith(but):
                for way in ways:
                    self.drags(f"{label} of {words}", self.stage, at, QPointF(*way), held)

    def test_every_size_of_every_birthplace(self):
        for kind in EmitterShape:
            if kind != "mesh":
                self.chosen = (kind.value,)
                ways = ((35, -22), (-60, 41)) if kind in ("cone", "ring") else ((35, -22),)
                self.drag_all(kind.value, ways, but=("Turn", "Place"))
        self.assert_says("gestures-stage-sizes", self.lines)

    def test_places_turns_paths_props_and_several_layers(self):
        self.drag_all("ball, unrounded", held=(ALT,))
        self.axes = "layer"
        self.drag_all("ball along its own axes")
        self.axes, self.chosen = "world", ("moves",)
        for key in (0, 1, 2):
            self.key = key
            self.drag_all(f"the path with key {key} chosen", only="Key")
        at = self.handles()["Key 2"]
        self.does("click and Delete on key 2", lambda: self.click_and_delete(at))
        self.chosen = ("box", "cone")
        self.drag_all("two layers", only="lace")
        self.drag_all("two layers", only="urn")
        self.chosen, self.prop = ("ball",), 0
        self.drag_all("a prop")
        self.assert_says("gestures-stage-places", self.lines)

    def click_and_delete(self, at):
        pull(self.stage, at, QPointF())
        QTest.keyClick(self.stage, Qt.Key.Key_Delete)

    def test_the_camera(self):
        stage = self.stage
        empty = QPointF(40, stage.height() - 60)
        for words, button in (("left", LEFT), ("middle", MIDDLE), ("right", RIGHT)):
            for keys in (PLAIN, SHIFT):
                held = "Shift " if keys == SHIFT else ""
                self.does(
                    f"{held}drag with the {words} button by 50, 30",
                    lambda keys=keys, button=button: pull(stage, empty, QPointF(50, 30), keys, button),
                )
        for way in (2, 3, 4):
            self.drags("an empty place", stage, empty, QPointF(way, 0))
        self.drags("an empty place", stage, empty, QPointF(0, 900))
        self.turns("the stage", stage, empty)
        self.keys("on the stage", stage, ("Left", "Right", "Up", "Down"), (PLAIN, SHIFT))
        self.keys("on the stage", stage, ("PageUp", "PageDown"))
        self.keys("on the stage", stage, ("Left",), (CTRL,))
        self.assert_says("gestures-stage-camera", self.lines)
