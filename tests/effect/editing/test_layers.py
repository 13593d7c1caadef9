"""Copies a step apart, layers moved together, and what goes over the clipboard."""

import json
import unittest

import numpy as np

from pale_ember.effect import EffectError, effect_text
from pale_ember.effect.chapters.place import Place
from pale_ember.effect.chapters.source import Window
from pale_ember.effect.editing.layers import Step, duplicate_stepped, free_name, move_layers, stepped
from pale_ember.effect.editing.snippets import (
    KeyRun,
    keys_text,
    layers_text,
    parse_keys,
    parse_layers,
    snippet_kind,
)
from pale_ember.effect.values.colors import Stop
from pale_ember.effect.values.curves import Key
from pale_ember.effect.values.rotations import angles_of, matrix_of

from ...building import effect_with


class NameTest(unittest.TestCase):
    def test_names_that_are_taken_count_on(self):
        effect = effect_with({"a": {"name": "Smoke"}, "b": {"name": "Smoke 2"}, "c": {"name": "2024"}})
        for wished, found in (
            ("Fire", "Fire"),
            ("Smoke", "Smoke 3"),
            ("Smoke 2", "Smoke 3"),
            ("Smoke 7", "Smoke 7"),
            ("2024", "2024 2"),
        ):
            self.assertEqual(free_name(effect, wished), found)


class WindowSpanTest(unittest.TestCase):
    def test_a_window_is_cut_at_the_effects_end(self):
        for begin, length, duration, span in (
            (0.5, None, 2.0, (0.5, 1.5)),
            (0.5, 1.0, 2.0, (0.5, 1.0)),
            (0.5, 9.0, 2.0, (0.5, 1.5)),
            (3.0, None, 2.0, (2.0, 0.0)),
            (3.0, 1.0, 2.0, (2.0, 0.0)),
        ):
            self.assertEqual(Window(begin=begin, length=length).span(duration), span)


class BowOnTheClipboardTest(unittest.TestCase):
    def test_a_bow_that_comes_with_what_it_stands_on_goes_on_standing_on_that(self):
        effect = effect_with(
            {
                "a": {},
                "b": {"birthplace.start_on": "layer:a", "birthplace.end_on": "prop:a"},
                "c": {"birthplace.start_on": "layer:b"},
            }
        )
        a, b = parse_layers(layers_text(effect.layers[:2])).layers
        self.assertNotIn("a", (a.id, b.id))
        self.assertEqual((b.birthplace.start_on, b.birthplace.end_on), (f"layer:{a.id}", "prop:a"))
        (c,) = parse_layers(layers_text(effect.layers[2:])).layers
        self.assertEqual(c.birthplace.start_on, "layer:b")


class RotationTest(unittest.TestCase):
    def test_angles_of_a_matrix_give_it_again(self):
        roll = np.random.default_rng(4)
        for _ in range(500):
            turn = roll.uniform(-180, 180, 3)
            if roll.uniform() < 0.2:
                turn[1] = roll.choice([90, -90])
            matrix = matrix_of(tuple(turn))
            np.testing.assert_allclose(matrix_of(angles_of(matrix)), matrix, atol=1e-7)


class StepTest(unittest.TestCase):
    def test_a_step_in_the_layers_axes_goes_on_from_where_the_last_one_faces(self):
        # Six times a metre ahead and sixty degrees about: a hexagon that closes.
        place = first = Place(position=(1, 0, 0), rotation=(10, 20, 30))
        step = Step((1, 0, 0), (0, 60, 0))
        for _ in range(6):
            place = stepped(place, step)
        np.testing.assert_allclose(place.position, first.position, atol=1e-4)
        np.testing.assert_allclose(matrix_of(place.rotation), matrix_of(first.rotation), atol=1e-4)

    def test_a_step_in_the_worlds_axes_turns_about_a_centre(self):
        step = Step((0, 0.5, 0), (0, 90, 0), "world", (1, 0, 0))
        place = stepped(Place(position=(3, 0, 0)), step)
        np.testing.assert_allclose(place.position, (1, 0.5, -2), atol=1e-6)
        np.testing.assert_allclose(matrix_of(place.rotation), matrix_of((0, 90, 0)), atol=1e-6)

    def test_copies_stand_behind_their_layers_with_ids_and_names_of_their_own(self):
        effect = effect_with({"a": {}, "b": {"place.position": [0, 1, 0]}, "c": {}})
        found = duplicate_stepped(effect, ["a", "b"], 2, Step((1, 0, 0)))
        self.assertEqual([layer.name for layer in found.layers], ["a", "b", "a 2", "b 2", "a 3", "b 3", "c"])
        self.assertEqual(
            [layer.place.position for layer in found.layers[2:6]],
            [(1, 0, 0), (1, 1, 0), (2, 0, 0), (2, 1, 0)],
        )
        self.assertEqual(len({layer.id for layer in found.layers}), 7)

    def test_layers_are_moved_in_their_order(self):
        effect = effect_with({name: {} for name in "abcde"})
        for ids, to, order in (
            (["b", "d"], 0, "bdace"),
            (["a", "b"], 5, "cdeab"),
            (["a", "e"], 2, "baecd"),
            (["c"], 3, "abcde"),
        ):
            self.assertEqual("".join(layer.id for layer in move_layers(effect, ids, to).layers), order)


class SnippetTest(unittest.TestCase):
    def test_layers_go_out_and_in_as_the_files_own_json(self):
        effect = effect_with({"a": {"emit.rate": 5, "look.opacity": {"curve": [[0, 0], [1, 1]]}}, "b": {}})
        text = layers_text(effect.layers)
        self.assertEqual(json.loads(text)["layers"], json.loads(effect_text(effect))["layers"])
        self.assertEqual(snippet_kind(text), "layers")
        for source in (text, effect_text(effect)):
            again = parse_layers(source)
            self.assertEqual(
                [layer.model_copy(update={"id": ""}) for layer in again.layers],
                [layer.model_copy(update={"id": ""}) for layer in effect.layers],
            )

    def test_keys_and_stops_go_out_and_in(self):
        runs = [
            KeyRun("look.opacity", 0, (Key(0.1, 0.5), Key(0.4, 1.0, "hold"))),
            KeyRun("look.color", 1, (Stop(0.2, "#102030"),)),
        ]
        self.assertEqual(parse_keys(keys_text(runs)), runs)

    def test_anything_else_is_refused_in_a_sentence(self):
        for text in (
            "",
            "x",
            "[1]",
            "{",
            '{"format": "pale-ember/keys", "lines": [{"path": 3}]}',
            '{"format": "pale-ember/keys"}',
            '{"format": "pale-ember/keys", "lines": [{"path": "a", "side": 0, "keys": [["x", 1]]}]}',
            '{"format": "pale-ember/layers"}',
            '{"format": "pale-ember/layers", "layers": [3]}',
            "{" * 5000,
        ):
            for parse in (parse_layers, parse_keys):
                with self.assertRaises(EffectError) as caught:
                    parse(text)
                self.assertTrue(str(caught.exception).endswith("."), caught.exception)


if __name__ == "__main__":
    unittest.main()
