"""What follow-ups start as: something that can be seen, for as many events as there are."""

import unittest

from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.source import Emit
from pale_ember.effect.editing.follow_starts import MOST, follow_start
from pale_ember.effect.effect import Layer
from pale_ember.effect.kinds import Blend, When
from pale_ember.effect.values.values import Fixed


def alive(layer: Layer, each_second: float) -> float:
    """Return how many are alive at most on the mean."""
    high = float(layer.origin.count.bounds_at([0.0])[1][0]) * float(
        layer.launch.lifetime.bounds_at([0.0])[1][0]
    )
    return each_second * layer.origin.chance * high


class FollowStartTest(unittest.TestCase):
    def test_the_cap_holds_what_comes_and_of_very_many_some_are_answered(self):
        parent = Layer(id="a", name="Rain")
        for when in When:
            for each_second in (0.0, 30.0, 900.0, 3000.0, 90_000.0):
                start = follow_start(when, parent, each_second)
                with self.subTest(when=when, each_second=each_second):
                    self.assertGreaterEqual(start.emit.cap, alive(start, each_second))
                    self.assertLess(start.emit.cap, 1.3 * MOST + 500)
                    self.assertGreater(start.origin.chance, 0.0)
                    self.assertEqual(
                        (start.origin.parent, start.origin.when, start.emit.rate), ("a", when, Fixed(0.0))
                    )
        self.assertEqual(follow_start(When.HIT, parent, 100.0).origin.chance, 1.0)
        self.assertEqual(follow_start(When.HIT, parent).emit.cap, Emit().cap)

    def test_names_stay_short_along_a_chain(self):
        name, layer = "Rain", Layer(id="a", name="Rain")
        for when, name in (
            (When.HIT, "Rain splash"),
            (When.DEATH, "Splash puff"),
            (When.ALIVE, "Puff trail"),
        ):
            layer = follow_start(when, layer).model_copy(update={"id": f"after {layer.id}"})
            self.assertEqual(layer.name, name)
        again = layer.model_copy(update={"name": "Puff trail 2"})
        self.assertEqual(follow_start(When.BIRTH, again).name, "Trail flash")

    def test_light_glints_where_it_hits_and_all_else_splashes(self):
        light, drop = Layer(id="a", name="Spark", look=Look(blend=Blend.ADD)), Layer(id="a", name="Rain")
        self.assertEqual(follow_start(When.HIT, light).name, "Spark glint")
        self.assertEqual(follow_start(When.HIT, light).origin.count, Fixed(1.0))
        self.assertEqual(follow_start(When.HIT, drop).name, "Rain splash")
        # However small the parent, they can be seen.
        tiny = Layer(id="a", launch=drop.launch.model_copy(update={"size": Fixed(0.001)}))
        self.assertGreaterEqual(float(follow_start(When.HIT, tiny).launch.size.bounds_at([0.0])[0][0]), 0.007)


if __name__ == "__main__":
    unittest.main()
