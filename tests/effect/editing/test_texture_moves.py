"""Textures that go with their layers from effect to effect, and names that stay right on the way."""

import unittest

from pale_ember.effect import Effect, EffectError
from pale_ember.effect.editing.texture_moves import (
    free_texture_name,
    renamed_texture,
    with_textures,
    without_unused_textures,
    worn_by,
)
from pale_ember.effect.effect import Layer
from pale_ember.effect.textures import Texture


def effect_of(*textures, worn="puff"):
    effect = Effect(layers=(Layer(id="a", name="A"), Layer(id="b", name="B"))).edit("textures", textures)
    return effect.edit("layers[0].look.texture", worn)


PUFF = Texture(name="puff", file="puff.png", columns=4, rows=4, normals="bumps")
BUMPS = Texture(name="bumps", file="bumps.png", data=True)
LINE = Texture(name="line", file="line.png")


class TextureMoveTest(unittest.TestCase):
    def test_what_layers_wear_goes_with_them_and_what_stands_beside_it_too(self):
        effect = (
            effect_of(LINE, PUFF, BUMPS)
            .edit("layers[0].look.bend.texture", "line")
            .edit("layers[0].look.bend.amount", 0.2)
        )
        self.assertEqual([one.name for one in worn_by(effect, effect.layers[:1])], ["line", "puff", "bumps"])
        self.assertEqual(worn_by(effect, effect.layers[1:]), ())
        there, layers = with_textures(Effect(), effect.layers[:1], worn_by(effect, effect.layers[:1]))
        self.assertEqual(there.textures, effect.textures)
        self.assertEqual(layers, effect.layers[:1])
        # What is there already is not brought twice.
        again, _ = with_textures(there, effect.layers[:1], worn_by(effect, effect.layers[:1]))
        self.assertEqual(again, there)

    def test_another_texture_of_the_same_name_keeps_it_and_the_newcomer_gets_one_of_its_own(self):
        effect = effect_of(PUFF, BUMPS).edit("layers[0].look.erode.texture", "puff")
        other = Effect().edit("textures", (PUFF.model_copy(update={"file": "else.png", "normals": ""}),))
        there, layers = with_textures(other, effect.layers, worn_by(effect, effect.layers))
        self.assertEqual([one.name for one in there.textures], ["puff", "puff 2", "bumps"])
        self.assertEqual((layers[0].look.texture, layers[0].look.erode.texture), ("puff 2", "puff 2"))
        self.assertEqual(there.texture("puff 2").normals, "bumps")
        self.assertEqual(there.texture("puff").file, "else.png")
        self.assertEqual(layers[1], effect.layers[1])

    def test_free_names_count_on(self):
        effect = Effect().edit("textures", tuple(Texture(name=name) for name in ("puff", "puff 2", "3")))
        self.assertEqual(free_texture_name(effect, "puff"), "puff 3")
        self.assertEqual(free_texture_name(effect, "puff 2"), "puff 3")
        self.assertEqual(free_texture_name(effect, "flame"), "flame")
        self.assertNotIn(free_texture_name(effect, "3"), ("puff", "puff 2", "3"))
        self.assertTrue(free_texture_name(effect, ""))

    def test_a_texture_is_renamed_wherever_it_is_named(self):
        effect = effect_of(PUFF, BUMPS).edit("layers[1].look.shimmer.texture", "bumps")
        new = renamed_texture(effect, "bumps", "hills")
        self.assertEqual([one.name for one in new.textures], ["puff", "hills"])
        self.assertEqual(
            (new.texture("puff").normals, new.layers[1].look.shimmer.texture), ("hills", "hills")
        )
        self.assertIs(new.layers[0], effect.layers[0])
        for wrong in ("", "puff"):
            with self.assertRaises(EffectError):
                renamed_texture(effect, "bumps", wrong)

    def test_what_no_layer_wears_is_left_out_but_what_a_disabled_one_wears_stays(self):
        effect = effect_of(PUFF, BUMPS, LINE).edit("layers[0].enabled", False)
        self.assertEqual([one.name for one in without_unused_textures(effect).textures], ["puff", "bumps"])
        tidy = without_unused_textures(effect)
        self.assertIs(without_unused_textures(tidy), tidy)
        self.assertEqual(without_unused_textures(effect.edit("layers[0].look.texture", "")).textures, ())


if __name__ == "__main__":
    unittest.main()
