"""Threads in the real window: drawn from ports, moved, copied, cut, refused, mended, and what they say."""

import unittest

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from pale_ember.effect import Effect
from pale_ember.effect.editing.chains import follow_ups
from pale_ember.effect.effect import Layer
from pale_ember.effect.kinds import When
from pale_ember.effect.values.values import Spread
from pale_ember.simulation.time.population import BORN, HITS

from ..case import LEFT, WindowCase

CTRL = Qt.KeyboardModifier.ControlModifier


def effect_of(*names):
    effect = Effect(duration=4.0, layers=tuple(Layer(id=name, name=name.capitalize()) for name in names))
    fields = {"place.position": [0, 1, 0], "flight.gravity": 1, "launch.speed": 0, "launch.lifetime": 2}
    for path, value in fields.items():
        effect = effect.edit(f"layers[0].{path}", value)
    return effect


class LinkTest(WindowCase):
    def first_effect(self):
        return effect_of("rain", "mist", "dust")

    @property
    def rows(self):
        return self.window.timeline.rows

    def port(self, layer_id: str, when: When) -> QPointF:
        places = self.rows.places
        return places.port_box(places.row_of_layer(layer_id), when).center()

    def lane(self, layer_id: str) -> QPointF:
        row = self.rows.places.row_of_layer(layer_id)
        return QPointF(100, row.top + 8)

    def thread(self, layer_id: str) -> QPointF:
        places = self.rows.places
        return places.thread_box(places.row_of_layer(layer_id)).center() - QPointF(20, 0)

    def origin(self, layer_id: str):
        return self.session.effect.layer(layer_id).origin

    def ids(self):
        return [layer.id for layer in self.session.effect.layers]

    def test_what_is_dragged_to_empty_space_is_seen_at_an_event_whose_handles_can_be_dragged(self):
        self.session.edit("layers[0].emit.rate", 900, "Rate")
        self.session.seek(3.0)
        self.wait(
            lambda: (
                self.session.moment.time >= 3.0 and (self.session.moment.each_second("rain", BORN) or 0) > 700
            )
        )
        self.drag(self.rows, self.port("rain", When.HIT), QPointF(150, self.rows.height() - 6.0))
        splash = self.session.layer
        self.assertEqual(splash.name, "Rain splash")
        self.session.seek(3.5)
        self.wait(lambda: self.session.moment.counts.get(splash.id, {}).get("alive", 0) > 300)
        self.assertEqual(self.session.moment.counts[splash.id]["refused"], 0)
        self.assertIsNone(self.session.links.trouble_of(splash))
        # It has no place of its own: where it is born is told by the event.
        grip = self.window.stage.handle_drag
        self.assertEqual([one for one in grip.handles() if one.path.startswith("place.position")], [])
        self.assertFalse(self.row("place.position").isVisible())
        self.row("birthplace.kind").controls[0].textActivated.emit("ring")
        self.wait(lambda: any(one.label == "Radius" for one in grip.handles()))
        ball = self.session.event_ball
        radius = next(one for one in grip.handles() if one.label == "Radius")
        self.assertAlmostEqual(float(np.linalg.norm(radius.place - np.array(ball[0]))), 0.5, delta=0.01)
        self.assertAlmostEqual(ball[0][1], 0.0, delta=0.01)
        QTest.keyClick(self.window.stage, Qt.Key.Key_F)
        np.testing.assert_allclose(self.session.camera.target, ball[0], atol=1e-3)
        QTest.keyClick(self.window.stage, Qt.Key.Key_F)
        self.assertGreater(np.linalg.norm(np.array(self.session.camera.target) - ball[0]), 0.01)

    def test_a_port_dragged_to_a_lane_links_it_and_contact_comes_with_hits(self):
        self.drag(self.rows, self.port("rain", When.HIT), self.lane("dust"))
        self.assertEqual((self.origin("dust").parent, self.origin("dust").when), ("rain", When.HIT))
        self.assertTrue(self.session.effect.layer("rain").contact.enabled)
        # Its lane hangs under its parent's now.
        self.assertEqual(self.ids(), ["rain", "dust", "mist"])
        self.session.seek(3.0)
        self.wait(
            lambda: (
                self.session.moment.counts.get("dust", {}).get("born", 0) > 0
                and self.session.moment.time >= 3.0
            )
        )
        places = {tuple(row) for row in self.session.moment.layers[1].instances["place"][:, 1:2].tolist()}
        self.assertTrue(places)
        self.session.undo()
        self.assertEqual(self.session.effect, effect_of("rain", "mist", "dust"))

    def test_a_port_dragged_to_empty_space_adds_a_layer_that_is_seen_there(self):
        for when in (When.BIRTH, When.ALIVE, When.HIT, When.DEATH):
            with self.subTest(when=when):
                below = QPointF(120, self.rows.places.height + 12)
                self.drag(self.rows, self.port("rain", when), below)
                (child,) = follow_ups(self.session.effect, "rain")
                self.assertEqual(child.origin.when, when)
                self.assertEqual(self.session.selected, child.id)
                self.session.seek(3.6)
                self.wait(
                    lambda child=child: (
                        self.session.moment.time >= 3.5
                        and self.session.moment.counts.get(child.id, {}).get("alive", 0) > 0
                    )
                )
                self.session.undo()
                self.assertEqual(len(self.session.effect.layers), 3)

    def test_loops_are_refused_with_a_sentence_and_nothing_changes(self):
        self.drag(self.rows, self.port("rain", When.BIRTH), self.lane("mist"))
        self.drag(self.rows, self.port("mist", When.BIRTH), self.lane("dust"))
        before, said = self.session.effect, []
        self.session.said.connect(said.append)
        self.drag(self.rows, self.port("dust", When.DEATH), self.lane("rain"))
        self.assertEqual(self.session.effect, before)
        self.assertIn("loop", said[-1])

    def test_escape_gives_a_drag_up_and_a_click_opens_the_ports_menu(self):
        before = self.session.effect
        start = self.port("rain", When.HIT).toPoint()
        QTest.mousePress(self.rows, LEFT, Qt.KeyboardModifier.NoModifier, start)
        QTest.mouseMove(self.rows, self.lane("dust").toPoint())
        QApplication.processEvents()
        QTest.keyClick(self.rows, Qt.Key.Key_Escape)
        QTest.mouseRelease(self.rows, LEFT, Qt.KeyboardModifier.NoModifier, self.lane("dust").toPoint())
        self.assertEqual(self.session.effect, before)
        QTest.mouseClick(self.rows, LEFT, Qt.KeyboardModifier.NoModifier, start)
        menu = QApplication.activePopupWidget()
        self.assertIsInstance(menu, QMenu)
        menu.actions()[0].trigger()
        menu.close()
        self.assertEqual([child.origin.when for child in follow_ups(self.session.effect, "rain")], [When.HIT])

    def test_threads_are_moved_copied_and_cut(self):
        self.session.links.link("dust", "rain", When.BIRTH)
        QApplication.processEvents()
        self.drag(self.rows, self.thread("dust"), self.lane("mist"))
        self.assertEqual(self.origin("dust").parent, "mist")
        self.drag(self.rows, self.thread("dust"), self.lane("rain"), keys=CTRL)
        (copy,) = follow_ups(self.session.effect, "rain")
        self.assertEqual((copy.origin.when, self.origin("dust").parent), (When.BIRTH, "mist"))
        # On a port of another lane it starts at that port's event.
        self.drag(self.rows, self.thread(copy.id), self.port("mist", When.DEATH))
        self.assertEqual((self.origin(copy.id).parent, self.origin(copy.id).when), ("mist", When.DEATH))
        self.drag(self.rows, self.thread(copy.id), QPointF(150, self.rows.places.height + 10))
        self.assertEqual(self.origin(copy.id).parent, "")
        for _ in range(5):
            self.session.undo()
        self.assertEqual(self.session.effect, effect_of("rain", "mist", "dust"))

    def test_a_dead_link_says_why_on_its_thread_and_is_mended_in_one_click(self):
        self.session.links.link("dust", "rain", When.HIT)
        for path, value in (
            ("layers[0].contact.enabled", False),
            ("layers[0].enabled", False),
            ("layers[1].origin.count", 0),
            ("layers[1].origin.chance", 0),
            ("layers[1].origin.parent", "nobody"),
            ("layers[0].contact.floor", False),
        ):
            with self.subTest(path=path):
                before = self.session.effect
                self.session.edit(path, value, "Break it")
                QApplication.processEvents()
                self.assertIsNotNone(self.session.links.trouble_of(self.session.effect.layers[1]))
                places = self.rows.places
                at = places.mend_box(places.row_of_layer("dust")).center()
                QTest.mouseClick(self.rows, LEFT, Qt.KeyboardModifier.NoModifier, at.toPoint())
                self.assertIsNone(self.session.links.trouble_of(self.session.effect.layer("dust")))
                while self.session.effect is not before:
                    self.session.undo()

    def test_what_the_simulation_shows_is_told_too(self):
        self.session.links.link("dust", "rain", When.HIT)
        self.session.edit("layers[1].origin.min_speed", 500, "Too fast")
        self.session.play(False)
        self.session.seek(2.0)
        self.wait_for_moment()
        self.assertEqual(
            self.session.links.trouble_of(self.session.effect.layer("dust")).short, "all too slow"
        )
        self.session.links.mend_link("dust")
        self.assertEqual(self.origin("dust").min_speed, 0)
        self.session.edit_many(
            [
                ("layers[1].origin.min_speed", 0),
                ("layers[1].origin.count", 50),
                ("layers[1].origin.limit", 1),
            ],
            "Too few",
        )
        self.session.seek(2.05)
        self.wait_for_moment()
        self.session.seek(2.0)
        self.wait_for_moment()
        self.assertEqual(
            self.session.links.trouble_of(self.session.effect.layer("dust")).short, "limit reached"
        )

    def test_the_chapter_links_by_parent_and_by_button_and_shows_what_follows(self):
        self.session.select("dust")
        row = self.row("origin.parent")
        (box,) = row.controls
        self.assertEqual([box.itemText(i) for i in range(box.count())], ["none", "Rain", "Mist"])
        box.setCurrentIndex(1)
        box.activated.emit(1)
        self.assertEqual(self.origin("dust").parent, "rain")
        self.assertTrue(self.row("origin.when").isVisible())
        self.set_field("origin.count", "4")
        self.assertIn(
            "4 at each hit of “Rain”",
            self.window.recipe.summary.text().replace("</a>", "").replace("<a", "\n<a").split("\n", 1)[0]
            + _plain(self.window.recipe.summary.text()),
        )
        # The parent's hits need contact: said beside the field, and mended there.
        when = self.row("origin.when")
        self.assertIn("no contact", when.problem.text())
        when.problem.linkActivated.emit("mend")
        self.assertTrue(self.session.effect.layer("rain").contact.enabled)
        self.session.select("rain")
        self.window.recipe.show_chapter(6)
        followers = self.window.recipe.chapters["Follow-ups"].lists["followers"]
        self.assertEqual([head.text() for head in followers.heads], ["Dust, on its hits"])
        followers.heads[0].click()
        self.assertEqual(self.session.selected, "dust")
        self.session.select("rain")
        followers.buttons[When.DEATH].click()
        self.assertEqual(
            {child.origin.when for child in follow_ups(self.session.effect, "rain")}, {When.HIT, When.DEATH}
        )

    def test_copies_of_a_parent_and_its_follow_up_stay_linked(self):
        self.session.links.link("dust", "rain", When.BIRTH)
        self.session.select("rain")
        self.session.select("dust", "also")
        self.session.layers.duplicate()
        first, second = self.session.chosen
        self.assertEqual(self.origin(second).parent, first)
        self.window.setFocus()
        self.rows.setFocus()
        QTest.keyClick(self.window, Qt.Key.Key_C, CTRL)
        QTest.keyClick(self.window, Qt.Key.Key_V, CTRL)
        pasted = self.session.chosen
        self.assertEqual(len(pasted), 2)
        self.assertEqual(self.origin(pasted[1]).parent, pasted[0])

    def test_rates_stand_on_the_lanes(self):
        self.session.links.link("dust", "rain", When.HIT)
        self.session.edit("layers[1].origin.count", {"spread": [3, 3]}, "Three")
        self.assertEqual(self.origin("dust").count, Spread(3.0, 3.0))
        self.session.play(False)
        self.session.seek(3.0)
        self.wait(
            lambda: self.session.moment.time >= 3.0 and len(self.session.moment.levels.get("dust", ())) > 10
        )

        hits, born = (
            self.session.moment.each_second("rain", HITS),
            self.session.moment.each_second("dust", BORN),
        )
        self.assertGreater(hits, 5)
        self.assertAlmostEqual(born, 3 * hits, delta=0.2 * born)


def _plain(rich: str) -> str:
    import re

    return re.sub(r"<[^>]+>", "", rich)


class PropTest(WindowCase):
    def first_effect(self):
        effect = (
            effect_of("sparks")
            .edit("layers[0].contact.enabled", True)
            .edit("layers[0].contact.on_hit", "stick")
        )
        return (
            effect.edit("layers[0].emit.bursts", [{"at": 0.0, "count": 5}])
            .edit("layers[0].emit.rate", 0)
            .edit("layers[0].launch.lifetime", 50)
        )

    def test_a_prop_is_placed_by_its_handle_keyed_twice_and_carries_what_sticks_to_it(self):
        window, session = self.window, self.session
        session.play(False)
        window.recipe.show_chapter(7)
        props = window.recipe.chapters["Effect"].lists["stage.props"]
        props.add_part()
        session.edit("stage.props[0].size", [2, 0.3, 2], "Size")
        session.edit("stage.props[0].position", [0, 0.2, 0], "Place")
        QApplication.processEvents()
        grip = window.stage.handle_drag
        centre = next(h for h in grip.handles() if h.look == "move" and h.path == "position")
        (pixel,) = grip._pixels([centre])
        before = session.effect.stage.props[0].position
        QTest.mousePress(window.stage, LEFT, Qt.KeyboardModifier.NoModifier, pixel.toPoint())
        QTest.mouseMove(window.stage, pixel.toPoint() + QPoint(0, -12))
        QTest.mouseMove(window.stage, pixel.toPoint() + QPoint(0, -24))
        QTest.mouseRelease(
            window.stage, LEFT, Qt.KeyboardModifier.NoModifier, pixel.toPoint() + QPoint(0, -24)
        )
        self.assertGreater(session.effect.stage.props[0].position[1], before[1])
        session.undo()
        # A first key where it stands, and a second one elsewhere: it moves.
        props.motion.add.click()
        props.motion.add.click()
        self.assertEqual(len(session.effect.stage.props[0].path), 2)
        session.edit("stage.props[0].path", [{"at": 0}, {"at": 1, "position": [2, 0, 0]}], "Move it")
        session.seek(1.0)
        self.wait(lambda: session.moment.time >= 1.0 and session.moment_number == session.asked_number)
        first = session.moment.layers[0].instances["place"][:, 0].copy()
        session.seek(3.0)
        self.wait(lambda: session.moment.time >= 3.0 and session.moment_number == session.asked_number)
        second = session.moment.layers[0].instances["place"]
        self.assertAlmostEqual(float(second[0, 1]), 0.5, delta=1e-3)
        self.assertGreater(float(second[0, 0] - first[0]), 0.8)
        # It is drawn where it is by then.
        self.assertGreater(session.environment().props[0].position[0], 1.0)

    def test_hits_are_shown_on_demand(self):
        window, session = self.window, self.session
        session.play(False)
        window.setFocus()
        QTest.keyClick(window, Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
        self.assertTrue(session.watches_hits)
        session.seek(0.6)
        self.wait(lambda: session.moment.time >= 0.6 and session.moment_number == session.asked_number)
        hits = session.moment.hits["sparks"]
        self.assertEqual(len(hits), 5)
        self.assertTrue((abs(hits[:, 1]) < 1e-4).all() and (hits[:, 4] == 1.0).all())


if __name__ == "__main__":
    unittest.main()
