"""Fifty layers: what can't be seen costs nothing, and what moves is spread over frames. Work is counted,
not timed.
"""

from unittest import mock

from PyQt6.QtTest import QTest

from pale_ember.app.stage.stage import Stage
from pale_ember.app.stage.thumbnails import Thumbnails
from pale_ember.app.timeline.row_paint import RowPaint
from pale_ember.demo import kiln_mouth
from pale_ember.effect.editing.layers import add_layer

from ..case import WindowCase


class ManyLayersTest(WindowCase):
    def first_effect(self):
        effect = kiln_mouth()
        base = effect.layers
        while len(effect.layers) < 50:
            effect = add_layer(effect, base[len(effect.layers) % 5])
        return effect

    def counted(self, kind, name, seconds=0.6):
        calls, old = [], getattr(kind, name)

        def counting(self, *args, **more):
            calls.append(args)
            return old(self, *args, **more)

        with mock.patch.object(kind, name, counting):
            QTest.qWait(round(seconds * 1000))
        return calls

    def test_rows_and_pictures_that_can_not_be_seen_are_not_drawn(self):
        self.wait(lambda: self.session.moment_number > 3, 30)
        rows = self.window.timeline.rows
        area = rows.parentWidget()
        fit = area.height() // 32 + 2
        seen = set()
        # A machine with other work to do may paint nothing for a while.
        self.wait(
            lambda: bool(seen.update(row.first for _, row in self.counted(RowPaint, "row")) or len(seen) > 3)
        )
        self.assertLessEqual(len(seen), fit)
        QTest.qWait(1200)
        wanted = set(self.window.timeline.rows.paint_of.thumbnails.pictures)
        first = {layer.id for layer in self.session.effect.layers[: fit + 1]}
        self.assertLessEqual(wanted, first)

    def test_one_thumbnail_at_a_time_and_none_while_the_timeline_is_away(self):
        self.wait(lambda: self.session.moment_number > 3, 30)
        drawn = self.counted(Stage, "small_picture_of", 1.4)
        self.assertLessEqual(len(drawn), 11, "no more than one every 140 ms")
        self.window.actions_by_name["wide"].trigger()
        QTest.qWait(300)
        self.assertEqual(self.counted(RowPaint, "row"), [])
        # What was asked for before it went is still drawn, one at a time.
        self.wait(lambda: not self.window.findChild(Thumbnails)._wanted, 60)
        self.assertEqual(self.counted(Stage, "small_picture_of"), [])

    def test_layers_that_are_drawn_alike_are_drawn_at_once(self):
        from pale_ember.drawing.passes.sprites import Sprites

        self.session.play(False)
        self.session.seek(1.0)
        self.wait_for_moment()
        self.window.stage.repaint()
        draws = []
        old = Sprites.draw
        with mock.patch.object(
            Sprites,
            "draw",
            lambda s, scene, style, rows: (draws.append(len(rows)), old(s, scene, style, rows))[1],
        ):
            self.window.stage.picture()
        alive = sum(len(layer.instances) for layer in self.session.moment.layers)
        self.assertEqual(sum(draws), alive)
        self.assertLess(len(draws), 25)
