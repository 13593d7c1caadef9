"""Several layers at once in the timeline and the recipe: moved, dragged, clicked, typed into, reset."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.app.timeline.rows import LANE
from pale_ember.effect import effect_text
from pale_ember.effect.values.values import Fixed

from ..case import LEFT
from .layers_case import ALT, CTRL, SHIFT, LayersCase


class SeveralTest(LayersCase):
    def test_several_are_moved_together_by_key_and_by_mouse(self):
        self.choose("a", "b")
        QTest.keyClick(self.window, Qt.Key.Key_Down, ALT)
        self.assertEqual(self.ids(), ["c", "a", "b", "d"])
        QTest.keyClick(self.window, Qt.Key.Key_Up, ALT)
        self.assertEqual(self.ids(), ["a", "b", "c", "d"])
        self.drag(self.rows, QPointF(60, LANE * 0.5), QPointF(60, LANE * 3.9))
        self.assertEqual(self.ids(), ["c", "d", "a", "b"])
        self.assertEqual(self.session.document.undo_name, "Move 2 layers")

    def test_a_click_on_any_part_of_a_lane_of_several_selects_it_alone_and_a_drag_keeps_all(self):
        self.session.play(False)
        places = self.places
        bar = places.bar_box(1)
        for name, at in (
            ("head", QPointF(60, LANE * 1.5)),
            ("bar", bar.center() + QPointF(bar.width() / 4, 0)),
            ("begin", bar.topLeft() + QPointF(1, bar.height() / 2)),
            ("pip", places.pip_at(1, 0)),
            ("body", QPointF(bar.right() + 40, bar.center().y())),
        ):
            with self.subTest(part=name):
                self.assertEqual(places.spot_at(at).part, name)
                self.choose("a", "b")
                before = effect_text(self.session.effect)
                QTest.mouseClick(self.rows, LEFT, pos=at.toPoint())
                self.assertEqual(self.session.chosen, ["b"])
                self.assertEqual(effect_text(self.session.effect), before)
        for keys in (SHIFT, CTRL):
            self.choose("a", "b")
            QTest.mouseClick(self.rows, LEFT, keys, pos=places.bar_box(2).center().toPoint())
            self.assertEqual(len(self.session.chosen), 3)
        self.choose("a", "b")
        self.drag(self.rows, bar.center(), bar.center() + QPointF(30, 0))
        self.assertEqual(len(self.session.chosen), 2)

    def test_both_ends_of_all_windows_are_dragged(self):
        self.choose("a", "b")
        bar, second = self.places.bar_box(0), self.places.per_second
        self.drag(
            self.rows,
            QPointF(bar.right(), bar.center().y()),
            QPointF(bar.right() + second * 0.5, bar.center().y()),
        )
        self.assertEqual([self.layer(i).window.length for i in (0, 1)], [2.5, 2.5])
        bar = self.places.bar_box(1)
        self.drag(
            self.rows,
            QPointF(bar.left(), bar.center().y()),
            QPointF(bar.left() - second * 0.5, bar.center().y()),
        )
        self.assertEqual([self.layer(i).window.begin for i in (0, 1)], [0.5, 0.5])
        self.assertEqual(self.layer(2).window.begin, 0)

    def test_ends_snap_to_the_moment_only_while_it_stands_still(self):
        self.choose("a")
        second = self.places.per_second
        moment = 0.5 + 4.0 / second
        for playing, begin in ((True, 0.5), (False, round(moment, 4))):
            self.session.play(playing)
            bar = self.places.bar_box(0)
            self.session.seek(moment)
            self.drag(
                self.rows,
                QPointF(bar.left(), bar.center().y()),
                QPointF(bar.left() - second * 0.5, bar.center().y()),
            )
            self.assertEqual(self.layer(0).window.begin, begin)
            self.session.undo()

    def test_a_sign_means_by_so_much_for_several_and_equals_sets_and_both_are_foretold(self):
        self.session.play(False)
        for ids, typed, became, told in (
            (("a", "b"), "+5", [15, 45], "10, 40 → 15, 45"),
            (("a", "b"), "-5", [5, 35], "10, 40 → 5, 35"),
            (("a", "b"), "*2", [20, 80], "10, 40 → 20, 80"),
            (("a", "b"), "=12", [12, 12], "All 2 → 12"),
            (("a", "b"), "=+3*2", [6, 6], "All 2 → 6"),
            (("b", "a"), "+10%", [11, 44], "40, 10 → 44, 11"),
            (("a",), "+5", [5, 40], ""),
            (("a",), "=6", [6, 40], ""),
        ):
            with self.subTest(typed=typed, ids=ids):
                self.session.edit_many(
                    [("layers[0].emit.rate", 10), ("layers[1].emit.rate", 40)], "As before"
                )
                self.choose(*ids)
                row = self.row("emit.rate")
                box = row.controls[0]
                QTest.mouseClick(box, LEFT)
                box.selectAll()
                QTest.keyClicks(box, typed)
                shown = row.problem.text() if row.problem is not None and row.problem.isVisible() else ""
                self.assertIn(told, shown)
                self.assertEqual(bool(told), bool(shown))
                self.assertEqual(self.layer(0).emit.rate, Fixed(10), "only looked at so far")
                QTest.keyClick(box, Qt.Key.Key_Return)
                self.assertEqual(
                    [self.layer(i).emit.rate for i in (0, 1)], [Fixed(number) for number in became]
                )
                self.assertFalse(row.problem is not None and row.problem.isVisible())

    def test_bursts_are_moved_added_and_deleted_in_all(self):
        self.session.play(False)
        self.choose("a", "b")
        pip = self.places.pip_at(0, 0)
        self.drag(self.rows, pip, pip + QPointF(self.places.per_second * 0.25, 0))
        self.assertEqual([self.layer(i).emit.bursts[0].at for i in (0, 1)], [0.75, 1.25])
        self.act("burst")
        self.assertEqual([len(self.layer(i).emit.bursts) for i in range(4)], [2, 2, 0, 0])
        self.window.recipe.chapters["Emit"].lists["emit.bursts"].delete(0)
        self.assertEqual([len(self.layer(i).emit.bursts) for i in range(4)], [1, 1, 0, 0])

    def test_fields_and_chapters_are_reset_and_lanes_edited_in_all(self):
        self.choose("a", "b")
        QTest.mouseClick(self.row("emit.rate").mark, LEFT)
        self.assertEqual([self.layer(i).emit.rate for i in range(3)], [Fixed(20), Fixed(20), Fixed(7)])
        lane = self.window.strip.lanes["look.opacity"]
        self.session.edit("layers[1].look.opacity", 0.25, "Fainter")
        self.assertTrue(lane.is_mixed)
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.5), lane.y_of(1.0)).toPoint())
        self.assertFalse(lane.is_mixed)
        self.drag(lane, QPointF(lane.x_of(0.5), lane.y_of(1.0)), QPointF(lane.x_of(0.5), lane.y_of(0.4)))
        opacity = [self.layer(i).look.opacity for i in range(3)]
        self.assertEqual(opacity[0], opacity[1])
        self.assertEqual(len(opacity[0].keys), 3)
        self.assertEqual(opacity[2], Fixed(1))
        self.act("chapter_1")
        self.act("reset_chapter")
        self.assertEqual([len(self.layer(i).emit.bursts) for i in (0, 1)], [0, 0])
        self.assertEqual([self.layer(i).window.begin for i in (0, 1)], [0, 0])
