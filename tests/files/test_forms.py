"""Kinds that must agree: what a profile can name, and what can be made."""

import unittest

from pale_ember.effect.kinds import Backdrop, Behind, CacheForm, FilmForm, TextureForm
from pale_ember.files.bakes.film import _FORMS
from pale_ember.files.caches.writing import ENDINGS, WRITERS
from pale_ember.files.hand_over.works import _MAKERS, Product
from pale_ember.files.profile import Profile
from pale_ember.textures.compressing import BLOCKS, Blocks


class Kinds(unittest.TestCase):
    def test_each_form_is_known_wherever_it_must_be(self):
        self.assertEqual(
            {str(one) for one in Behind},
            {"own", "nothing", *(str(one) for one in Backdrop if one != Backdrop.PICTURE)},
        )
        self.assertEqual(
            {str(one) for one in TextureForm}, {"proposed", "png", *(str(one) for one in BLOCKS)}
        )
        self.assertEqual(set(BLOCKS) | {Blocks.PLAIN}, set(Blocks))
        self.assertEqual(set(_FORMS), set(FilmForm))
        self.assertEqual((set(WRITERS), set(ENDINGS)), (set(CacheForm), set(CacheForm)))
        self.assertEqual(set(_MAKERS), set(Product))
        self.assertTrue(all(hasattr(Profile(), product) for product in Product))
