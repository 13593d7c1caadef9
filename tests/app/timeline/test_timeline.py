import time

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from pale_ember.app.timeline.rows import LANE
from pale_ember.app.timeline.time_view import HEAD

from ...building import effect_with
from ..case import LEFT, WindowCase


class TimelineTest(WindowCase):
    def first_effect(self):
        return effect_with({"a": {"window.begin": 1, "window.length": 2}, "b": {}, "c": {}})

    def test_windows_are_dragged(self):
        lanes = self.window.timeline.rows
        bar = lanes.places.bar_box(0)
        second = lanes.places.x_of(1) - lanes.places.x_of(0)
        self.drag(lanes, bar.center(), bar.center() + QPointF(second / 2, 0))
        self.assertAlmostEqual(self.session.effect.layers[0].window.begin, 1.5, delta=0.06)
        self.assertEqual(self.session.effect.layers[0].window.length, 2)
        bar = lanes.places.bar_box(0)
        self.drag(
            lanes, QPointF(bar.right(), bar.center().y()), QPointF(bar.right() - second, bar.center().y())
        )
        self.assertAlmostEqual(self.session.effect.layers[0].window.length, 1, delta=0.06)
        self.assertEqual(len(self.session.document.history), 3)

    def test_windows_of_several_layers_move_together_and_snap(self):
        lanes = self.window.timeline.rows
        self.session.edit("layers[1].window", {"begin": 2, "length": 1}, "b")
        self.session.edit("layers[2].window", {"begin": 0.5, "length": 1}, "c")
        QTest.mouseClick(lanes, LEFT, pos=lanes.places.name_box(0).center().toPoint())
        QTest.mouseClick(
            lanes, LEFT, Qt.KeyboardModifier.ControlModifier, lanes.places.name_box(1).center().toPoint()
        )
        self.assertEqual(self.session.chosen, ["a", "b"])
        bar, second = lanes.places.bar_box(0), lanes.places.x_of(1) - lanes.places.x_of(0)
        # 1 s goes near to 0.5 s, where c begins, and snaps to it; b keeps its way from a.
        self.drag(lanes, bar.center(), bar.center() - QPointF(second * 0.5 - 3, 0))
        begins = [layer.window.begin for layer in self.session.effect.layers]
        self.assertEqual(begins, [0.5, 1.5, 0.5])
        self.session.undo()
        self.assertEqual([layer.window.begin for layer in self.session.effect.layers], [1, 2, 0.5])

    def test_bursts_are_dragged_and_late_ones_marked(self):
        from pale_ember.app.timeline.rows import burst_moments

        lanes = self.window.timeline.rows
        self.session.play(False)
        bursts = [{"at": 0.5, "count": 5, "repeat": 3, "every": 0.4}]
        self.session.edit("layers[0].emit.bursts", bursts, "Bursts")
        second = lanes.places.x_of(1) - lanes.places.x_of(0)
        self.drag(lanes, lanes.places.pip_at(0, 0), lanes.places.pip_at(0, 0) + QPointF(second * 0.3, 0))
        self.assertAlmostEqual(self.session.effect.layers[0].emit.bursts[0].at, 0.8, delta=0.05)
        self.drag(
            lanes, lanes.places.pip_at(0, 0, 2), lanes.places.pip_at(0, 0, 2) - QPointF(second * 0.4, 0)
        )
        self.assertAlmostEqual(self.session.effect.layers[0].emit.bursts[0].every, 0.2, delta=0.05)
        self.session.edit("layers[0].emit.bursts[0].every", 0.7, "Later")
        fires = [fires for *_, fires in burst_moments(self.session.effect.layers[0], 4.0)]
        self.assertEqual(fires, [True, True, False])

    def test_time_is_zoomed_about_the_mouse(self):
        view, lanes = self.window.timeline.view, self.window.timeline.rows
        x = lanes.places.x_of(3.0)
        view.zoom_at(4.0, 3.0)
        self.assertAlmostEqual(lanes.places.x_of(3.0), x, places=3)
        self.assertAlmostEqual(view.span, 1.0)
        view.scroll(99)
        self.assertAlmostEqual(view.start, 3.0)
        bar = lanes.places.bar_box(1)
        self.assertAlmostEqual(bar.right(), lanes.width() - 12, delta=1)
        self.window.actions_by_name["zoom_all"].trigger()
        self.assertEqual(view.key, (0.0, 4.0))

    def test_groups_fold_and_are_named(self):
        lanes = self.window.timeline.rows
        self.session.select("a")
        QTest.mouseClick(
            lanes, LEFT, Qt.KeyboardModifier.ControlModifier, lanes.places.name_box(2).center().toPoint()
        )
        self.session.layers.group("Fire")
        self.assertEqual(
            [(layer.id, layer.group) for layer in self.session.effect.layers],
            [("a", "Fire"), ("c", "Fire"), ("b", "")],
        )
        head = lanes.places.rows[0]
        self.assertEqual(head.ids, ("a", "c"))
        QTest.mouseClick(lanes, LEFT, pos=QPointF(12, head.top + 12).toPoint())
        self.assertEqual([row.is_group for row in lanes.places.rows], [True, False])
        QTest.mouseClick(lanes, LEFT, pos=lanes.places.switch_of(head, "eye").center().toPoint())
        self.assertEqual({layer.id for layer in self.session.effect.layers if not layer.enabled}, {"a", "c"})
        QTest.mouseDClick(lanes, LEFT, pos=QPointF(60, head.top + 12).toPoint())
        editor = lanes.findChild(QLineEdit)
        QTest.keyClicks(editor, "Kiln")
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.assertEqual({layer.group for layer in self.session.effect.layers}, {"Kiln", ""})

    def test_scrubbing_pauses_and_shows_the_moment(self):
        ruler = self.window.timeline.ruler
        QTest.mouseClick(ruler, LEFT, pos=QPointF(ruler.x_of(2.0), 12).toPoint())
        self.assertFalse(self.session.playing)
        self.wait_for_moment()
        self.assertAlmostEqual(self.session.moment.time, 2.0, delta=0.05)
        QTest.keyClick(self.window, Qt.Key.Key_Period)
        self.wait_for_moment()
        after = self.session.moment.time
        QTest.keyClick(self.window, Qt.Key.Key_Comma)
        self.wait_for_moment()
        self.assertAlmostEqual(after - self.session.moment.time, 1 / 60, places=5)

    def test_a_switch_acts_where_it_was_pressed_and_by_the_left_button_alone(self):
        lanes, before = self.window.timeline.rows, self.session.effect
        first, second = (lanes.places.switch_box(row, "eye").center().toPoint() for row in (0, 1))
        QTest.mouseClick(lanes, Qt.MouseButton.RightButton, pos=first)
        QTest.mousePress(lanes, LEFT, pos=first)
        QTest.mouseRelease(lanes, LEFT, pos=second)
        self.assertIs(self.session.effect, before)
        # Two quick clicks are two.
        QTest.mouseClick(lanes, LEFT, pos=first)
        self.assertFalse(self.session.effect.layers[0].enabled)
        QTest.mouseDClick(lanes, LEFT, pos=first)
        self.assertFalse(self.session.effect.layers[0].enabled)

    def test_escape_gives_a_head_up_before_it_has_come_far(self):
        lanes, before = self.window.timeline.rows, self.session.effect
        head = lanes.places.name_box(0).center().toPoint()
        QTest.mousePress(lanes, LEFT, pos=head)
        QTest.mouseMove(lanes, head + QPoint(2, 3))
        QTest.keyClick(lanes, Qt.Key.Key_Escape)
        for y in (20, 60, 120):
            QTest.mouseMove(lanes, head + QPoint(0, y))
        QTest.mouseRelease(lanes, LEFT, pos=head + QPoint(0, 120))
        self.assertIs(self.session.effect, before)

    def test_heads_hide_show_alone_rename_and_reorder(self):
        lanes = self.window.timeline.rows
        QTest.mouseClick(lanes, LEFT, pos=lanes.places.switch_box(1, "eye").center().toPoint())
        self.assertEqual([layer.enabled for layer in self.session.effect.layers], [True, False, True])
        self.assertEqual(self.session.document.undo_name, "Disable b")
        QTest.mouseClick(lanes, LEFT, pos=lanes.places.switch_box(2, "alone").center().toPoint())
        self.wait_for_moment()
        self.assertEqual([layer.id for layer in self.window.stage.seen().layers], ["c"])
        QTest.mouseDClick(lanes, LEFT, pos=lanes.places.name_box(0).center().toPoint())
        editor = lanes.findChild(QLineEdit)
        editor.selectAll()
        QTest.keyClicks(editor, "Sparks")
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.assertEqual(self.session.effect.layers[0].name, "Sparks")
        self.drag(lanes, QPointF(60, LANE * 0.5), QPointF(60, LANE * 2.9))
        self.assertEqual([layer.id for layer in self.session.effect.layers], ["b", "c", "a"])
        self.assertLess(60, HEAD)

    def test_playing_goes_on_in_time_and_loops(self):
        self.session.edit("duration", 0.3, "Shorter")
        self.session.set_speed(2.0)
        self.session.seek(0.0)
        self.session.play(True)
        start = time.monotonic()
        self.wait(lambda: self.session.time > 0.9)
        self.assertGreater(time.monotonic() - start, 0.4)
        self.assertLess(self.session.phase, 0.3)
        QTest.keyClick(self.window, Qt.Key.Key_Space)
        self.assertFalse(self.session.playing)
