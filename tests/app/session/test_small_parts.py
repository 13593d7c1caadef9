"""Parts of the session and the recipe without a window of their own."""

import unittest
from types import SimpleNamespace
from unittest import mock

import numpy as np

from pale_ember.app.recipe.quiet_line import QuietLine
from pale_ember.app.recipe.texture_pictures import channel_image
from pale_ember.app.session.document import Document
from pale_ember.app.session.form_memory import FormMemory
from pale_ember.app.session.session import Session
from pale_ember.app.texture_bench.pack_dialog import _after_steps
from pale_ember.app.widgets.name_label import NameLabel
from pale_ember.app.window import keeping
from pale_ember.drawing import Moment
from pale_ember.effect.editing.build_moves import named
from pale_ember.effect.kinds import Channel
from pale_ember.effect.textures import Texture
from pale_ember.effect.values.colors import to_srgb
from pale_ember.effect.values.curves import Key
from pale_ember.effect.values.values import Curve, Fixed, Spread
from pale_ember.textures.pictures import Pictures
from pale_ember.textures.prepared import prepared

from ...building import effect_with
from ..case import application


class FormMemoryTest(unittest.TestCase):
    def test_what_a_form_had_comes_back_unless_the_field_was_edited_since(self):
        memory, place = FormMemory(), ("a", "look.grow")
        curve = Curve((Key(0.0, 1.0), Key(1.0, 3.0)), "life")
        fixed = memory.turned(place, curve, "fixed", lambda: Fixed(1.0))
        self.assertEqual(fixed, Fixed(1.0))
        self.assertEqual(memory.turned(place, fixed, "curve", lambda: None), curve)
        memory.turned(place, curve, "fixed", lambda: Fixed(1.0))
        # Edited to 2: the curve from before means nothing any more.
        self.assertEqual(memory.turned(place, Fixed(2.0), "curve", lambda: "new"), "new")
        self.assertEqual(memory.turned(("b", "look.grow"), Spread(0.0, 1.0), "curve", lambda: "own"), "own")


class WordsTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        application()

    def test_a_name_that_fits_is_shown_whole_and_one_that_does_not_ends_in_dots(self):
        label = NameLabel()
        for style in ("", "padding-left: 20px;"):
            label.setStyleSheet(style)
            # Little room is taken but for the text and the padding.
            needed = label.fontMetrics().horizontalAdvance("Sparks of the kiln")
            label.resize(needed + (44 if style else 12), 20)
            label.show_name("Sparks of the kiln")
            self.assertEqual((label.text(), label.toolTip()), ("Sparks of the kiln", ""))
            label.resize(60, 20)
            label.show_name("Sparks of the kiln")
            self.assertTrue(label.text().endswith("…"))
            self.assertLessEqual(label.fontMetrics().horizontalAdvance(label.text()), 60)
            self.assertEqual(label.toolTip(), "Sparks of the kiln")

    def test_the_chosen_word_is_one_of_those_that_are_left(self):
        line = QuietLine("travel")
        words = [(f"flight.{name}", name, "") for name in ("drag", "wind", "pull")]
        line.show_words(words, False)
        line._chosen = 2
        line.show_words(words[:1], False)
        self.assertEqual(line._chosen, 0)

    def test_how_many_were_kept_of_a_bundle_is_said_in_good_english(self):
        for count, words in (
            ((1, 2), "1 layer and 2 textures of b.zip"),
            ((3, 1), "3 layers and 1 texture of b.zip"),
        ):
            said = []
            place = SimpleNamespace(session=SimpleNamespace(said=SimpleNamespace(emit=said.append)))
            with mock.patch.object(keeping, "keep_bundle", return_value=count):
                keeping.take_bundle(place, "folder/b.zip")
            self.assertTrue(said[0].startswith(words), said)


class PicturesTest(unittest.TestCase):
    def test_a_texture_is_seen_on_ash_as_far_as_it_does_not_cover(self):
        frame = np.ones((1, 8, 8, 4), np.float32)
        frame[..., :3] = 0.5
        for cover in (0.0, 0.25, 1.0):
            frame[..., 3] = cover
            ready = prepared(Texture(name="t", file="t.png", data=True), Pictures(frame))
            wanted = to_srgb(np.array([0.5 * cover + 0.018 * (1.0 - cover)])) * 255.0
            found = channel_image(ready, Channel.ALL, 4)
            self.assertLessEqual(abs(float(found[0, 0, 0]) - float(wanted[0])), 1.5, cover)
            self.assertEqual(int(found[0, 0, 3]), 255)

    def test_a_mask_may_be_what_there_was_after_each_step(self):
        steps = [{"step": "dot"}, {"step": "ring", "on": False}, {"step": "blur"}, {"step": "levels"}]
        effect = effect_with({"a": {}}).edit("textures", [{"name": "t", "build": {"steps": steps}}])
        texture = effect.textures[0]
        found = _after_steps(SimpleNamespace(texture=texture, build=texture.build))
        self.assertEqual([len(one.build.steps) for one in found], [1, 3])
        last = named(texture.build.steps[2]).lower()
        self.assertEqual(found[1].name, f"t, after 3 {last}")


class SessionTest(unittest.TestCase):
    def setUp(self):
        application()
        self.session = Session(effect_with({"a": {}, "b": {}}))
        self.addCleanup(self.session.end)

    def test_an_opened_effect_has_its_first_layer_selected(self):
        self.session.select("b")
        self.session.open(Document(effect_with({"c": {}, "d": {}})))
        self.assertEqual(self.session.selected, "c")

    def test_ready_follow_ups_follow_the_layer_and_it_meets_things_if_they_need_its_hits(self):
        ready = effect_with(
            {
                "root": {},
                "glow": {"origin.parent": "splash", "origin.when": "birth"},
                "splash": {"origin.parent": "root", "origin.when": "hit"},
            }
        )
        self.session.select("a")
        self.assertFalse(self.session.layer.contact.enabled)
        self.session.links.add_to_follow(ready, "Splashes")
        a, glow, splash, b = self.session.effect.layers
        self.assertEqual((a.id, b.id, glow.name, splash.name), ("a", "b", "glow", "splash"))
        self.assertEqual((splash.origin.parent, glow.origin.parent), ("a", splash.id))
        self.assertTrue(a.contact.enabled)
        self.assertEqual(self.session.document.undo_name, "Add Splashes to a")

    def test_what_never_dies_is_over_after_four_durations(self):
        self.session.open(Document(effect_with({"a": {}}, loop=False, duration=2.0)))
        alive = Moment(0.0, (), counts={})
        with mock.patch.object(Moment, "alive", 7):
            self.session.moment = alive
            for time, over in ((1.9, False), (5.0, False), (7.9, False), (8.1, True)):
                self.session.time = time
                self.assertEqual(self.session.is_over, over, time)
        self.session.time = 2.1
        self.assertTrue(self.session.is_over)


if __name__ == "__main__":
    unittest.main()
