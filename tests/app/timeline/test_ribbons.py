"""Ribbons, bows and meshes by mouse and keys in the real window."""

import unittest

import numpy as np
import trimesh
from PyQt6.QtCore import QPointF, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from pale_ember.app.recipe.chapter_table import CHAPTERS
from pale_ember.app.recipe.sentence import sentence
from pale_ember.app.strip.lane_list import lanes_of
from pale_ember.app.widgets.controls import Combo
from pale_ember.drawing.camera import project
from pale_ember.effect import Effect, load_effect, save_effect
from pale_ember.effect.effect import Layer
from pale_ember.effect.kinds import When
from pale_ember.effect.values.values import Fixed

from ..case import LEFT, WindowCase

BURST = {
    "emit.rate": 0,
    "emit.bursts": [{"at": 0, "count": 12}],
    "launch.speed": 3,
    "birthplace.fan": 70,
    "flight.gravity": 1,
    "launch.lifetime": 1.5,
}


def effect_of(edits):
    effect = Effect(layers=(Layer(id="a", name="Shards"),), name="Test")
    for path, value in edits.items():
        effect = effect.edit(path if path.startswith("stage") else f"layers[0].{path}", value)
    return effect


class ShapeWindowCase(WindowCase):
    def choose(self, at, word):
        """Choose a word of a field's list, as by click."""
        box = next(part for part in self.row(at).controls if isinstance(part, Combo))
        index = next(i for i in range(box.count()) if box.itemText(i) == word)
        box.setCurrentIndex(index)
        box.activated.emit(index)
        box.textActivated.emit(word)
        QApplication.processEvents()

    def layer(self, index=-1):
        return self.session.effect.layers[index]

    def pixel(self, place):
        stage = self.window.stage
        (at,), _ = project(self.session.camera, stage.width(), stage.height(), np.array([place], float))
        return QPointF(*at.tolist())


class RibbonWindowTest(ShapeWindowCase):
    def first_effect(self):
        return effect_of(BURST)

    def test_from_the_flight_port_a_ribbon_behind_each_particle(self):
        self.session.play(False)
        self.session.seek(0.6)
        self.wait_for_moment()
        rows = self.window.timeline.rows
        port = rows.places.port_box(rows.places.row_of_layer("a"), When.ALIVE).center()
        before = self.session.effect
        menus = []

        def pick():
            menu = QApplication.activePopupWidget()
            if not isinstance(menu, QMenu):
                return
            menus.append([action.text() for action in menu.actions()])
            action = next(one for one in menu.actions() if "ribbon" in one.text())
            QTest.mouseClick(menu, LEFT, pos=menu.actionGeometry(action).center())

        QTimer.singleShot(300, pick)
        QTest.mouseClick(rows, LEFT, pos=port.toPoint())
        self.wait(lambda: len(self.session.effect.layers) == 2)
        self.assertTrue(menus)
        child = self.layer()
        self.assertEqual(
            (child.origin.parent, child.origin.when, child.look.draw, child.look.ribbon.join),
            ("a", "alive", "ribbon", "parent"),
        )
        self.assertEqual(child.emit.rate, Fixed(0.0))
        self.wait_for_moment()
        drawn = next(one for one in self.session.moment.layers if one.id == child.id)
        self.assertEqual(len(drawn.joined.whose), 12)
        self.assertIn("joined in a ribbon for each parent", sentence(child, parent="Shards"))
        # It is seen: the stage is another picture without it.
        shown = self.window.stage.picture().copy()
        self.session.edit("layers[1].enabled", False, "Disable")
        self.wait(lambda: all(one.id != child.id for one in self.session.moment.layers))
        self.assertNotEqual(shown, self.window.stage.picture())
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.session.effect, before)

    def test_by_key_and_by_button_and_kept_in_a_file(self):
        self.window.actions_by_name["ribbon"].trigger()
        self.assertEqual(self.layer().look.draw, "ribbon")
        self.session.select("a")
        self.window.recipe.show_chapter(list(CHAPTERS).index("Follow-ups"))
        followers = self.window.recipe.chapters["Follow-ups"].lists["followers"]
        QTest.mouseClick(followers.ribbon, LEFT)
        self.assertEqual(len(self.session.effect.layers), 3)
        file = f"{self.folder.name}/r.ember"
        save_effect(self.session.effect, file)
        self.assertEqual(load_effect(file).layers, self.session.effect.layers)

    def test_a_follow_up_that_becomes_a_ribbon_is_joined_by_parents_and_shows_its_fields(self):
        self.session.links.add_follow_up(When.ALIVE, "a")
        self.choose("look.draw", "ribbon")
        self.assertEqual(self.layer().look.ribbon.join, "parent")
        page = self.window.recipe.chapters["Look"]
        self.assertFalse(page.rows["look.ribbon.across"].isHidden())
        self.assertTrue(page.rows["look.mesh.mesh"].isHidden())
        self.assertTrue(page.rows["look.facing"].isHidden())
        self.choose("look.ribbon.across", "line")
        self.assertEqual(self.layer().birthplace.kind, "line")
        self.session.undo()
        self.session.undo()
        self.assertEqual((self.layer().look.draw, self.layer().look.ribbon.join), ("sprite", "layer"))

    def test_the_film_strip_shows_pieces_of_it(self):
        self.session.play(False)
        self.session.links.add_ribbon("a")
        self.session.seek(0.5)
        self.wait_for_moment()
        film = self.window.strip.film
        film.draw()
        first = film.images[0]
        self.assertGreater(len({first.pixel(x, first.height() // 2) for x in range(first.width())}), 3)


class BowWindowTest(ShapeWindowCase):
    def first_effect(self):
        posts = [
            {"name": f"Post {i}", "kind": "cylinder", "position": [x, 0, 0], "size": [0.1, 1, 0.1]}
            for i, x in ((1, -0.8), (2, 0.8))
        ]
        return effect_of(
            {
                "emit.rate": 0,
                "emit.bursts": [{"at": 0, "count": 20}],
                "launch.speed": 0,
                "launch.lifetime": 4,
                "stage.props": posts,
            }
        )

    def test_ends_are_put_on_props_and_pulled_by_their_handles(self):
        before = self.session.effect
        self.choose("birthplace.kind", "bow")
        self.assertTrue(self.layer().birthplace.in_row)
        self.choose("birthplace.start_on", "Post 1")
        self.choose("birthplace.end_on", "Post 2")
        place = self.layer().birthplace
        self.assertEqual(
            (place.start_on, place.start, place.end_on, place.end),
            ("prop:Post 1", (0.0, 1.0, 0.0), "prop:Post 2", (0.0, 1.0, 0.0)),
        )
        self.session.play(False)
        self.session.seek(0.5)
        self.wait_for_moment()
        rows = self.session.moment.layers[0].instances
        np.testing.assert_allclose(rows["place"][[0, -1]], [(-0.8, 1, 0), (0.8, 1, 0)], atol=1e-3)
        handles = {one.label: one for one in self.window.stage.handle_drag.handles()}
        self.assertLessEqual({"Start", "End", "Start pull", "End pull"}, set(handles))
        at = self.pixel(handles["Start pull"].place)
        self.drag(self.window.stage, at, at + QPointF(0, -60))
        pulled = self.layer().birthplace.start_pull
        self.assertGreater(pulled[1], place.start_pull[1] + 0.1)
        self.wait_for_moment()
        self.assertGreater(
            self.session.moment.layers[0].instances["place"][:, 1].max(), rows["place"][:, 1].max() + 0.03
        )
        # A post that is moved takes its end along.
        self.session.edit("stage.props[1].position", [0.8, 0.5, 0.2], "Move")
        self.wait_for_moment()
        np.testing.assert_allclose(
            self.session.moment.layers[0].instances["place"][-1], (0.8, 1.5, 0.2), atol=1e-3
        )
        for _ in range(20):
            self.session.undo()
        self.assertEqual(self.session.effect, before)

    def test_an_end_that_lost_what_it_stood_on_says_so(self):
        self.choose("birthplace.kind", "bow")
        self.choose("birthplace.end_on", "Post 2")
        self.session.edit("stage.props", self.session.effect.stage.props[:1], "Delete")
        self.wait_for_moment()
        self.wait(lambda: any("Post 2" in one.reason for one in self.session.moment.problems))


class MeshWindowTest(ShapeWindowCase):
    def first_effect(self):
        return effect_of(BURST)

    def test_drawn_as_meshes_lit_and_from_a_file_that_is_chosen(self):
        self.choose("look.draw", "mesh")
        self.assertEqual(self.layer().look.lit, 1.0)
        self.choose("look.mesh.mesh", "rocks")
        self.choose("look.mesh.stand", "tumble")
        self.session.play(False)
        self.session.seek(0.4)
        self.wait_for_moment()
        drawn = self.session.moment.layers[0]
        self.assertEqual(len(drawn.body), 6)
        self.assertIn("turn", drawn.instances.dtype.names)
        file = f"{self.folder.name}/own.glb"
        trimesh.creation.icosphere(2).export(file)
        # Dropped on the stage, where the layer is drawn as meshes already, it is the mesh.
        self.drop(file)
        self.assertEqual(self.hinted, "Draw Shards as own.glb")
        self.assertEqual(self.layer().look.mesh.mesh, file)
        self.wait(lambda: len(self.session.moment.layers[0].body[0].faces) == 320)
        self.session.edit("layers[0].look.mesh.mesh", f"{self.folder.name}/gone.glb", "Mesh")
        self.wait(lambda: any(one.place.endswith("look.mesh.mesh") for one in self.session.moment.problems))

    def test_stretch_is_shaped_on_the_life_strip(self):
        self.choose("look.draw", "mesh")
        self.session.edit("layers[0].look.mesh.stretch", [1, {"curve": [[0, 0], [1, 2]]}, 1], "Stretch")
        self.assertIn(
            "look.mesh.stretch", [choice.path for choice in lanes_of(self.layer(), "life", set(), [])]
        )
        self.assertNotIn(
            "look.mesh.stretch",
            [
                choice.path
                for choice in lanes_of(
                    self.session.effect.edit("layers[0].look.draw", "sprite").layers[0], "life", set(), []
                )
            ],
        )


if __name__ == "__main__":
    unittest.main()
