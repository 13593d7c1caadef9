"""What a path into an effect says, against the effect itself."""

import unittest

from pale_ember.effect.rules.edit import get
from pale_ember.effect.rules.paths import FieldPath

from ...building import effect_with


class FieldPathTest(unittest.TestCase):
    def test_a_layers_path_comes_apart_and_leads_to_the_same_thing(self):
        effect = effect_with({"a": {}, "b": {"path": [{}, {"at": 1, "position": [1, 2, 3]}]}})
        for rest in ("emit.rate", "look.erode.amount", "path[1].position", "name"):
            whole = FieldPath.of_layer(1, rest)
            self.assertEqual((whole.layer, whole.in_layer, whole.in_owner), (1, rest, rest))
            self.assertEqual(get(effect, whole), get(effect.layers[1], whole.in_layer))
        self.assertEqual(FieldPath.of_layer(1), "layers[1]")
        self.assertEqual((FieldPath("layers[1]").layer, FieldPath("layers[1]").in_layer), (1, ""))

    def test_what_is_in_no_layer_says_so(self):
        for path in ("stage.wind", "duration", "textures[3].build.steps[1].radius", "layers", ""):
            self.assertIsNone(FieldPath(path).layer)
            self.assertEqual((FieldPath(path).in_layer, FieldPath(path).in_owner), ("", path))

    def test_its_names_and_its_index(self):
        path = FieldPath("path[12].position")
        self.assertEqual(
            (path.chapter, path.field, path.owner, path.item), ("path", "position", "path[12]", 12)
        )
        alone = FieldPath("rate")
        self.assertEqual((alone.chapter, alone.field, alone.owner, alone.item), ("rate", "rate", "", None))
        self.assertEqual(FieldPath("emit.bursts[2]").field, "bursts")
