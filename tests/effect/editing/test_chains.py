"""Chains of layers against plain searches of the same links."""

import unittest

import numpy as np

from pale_ember.effect import Effect
from pale_ember.effect.chapters.contact import DEEPEST, wrong_link
from pale_ember.effect.editing.chains import (
    ancestors,
    chains,
    descendants,
    follow_ups,
    parent_of,
    refusal_of_link,
)
from pale_ember.effect.editing.layers import add_layers, duplicate_layers, remove_layer, with_origin
from pale_ember.effect.effect import Layer


def effect_of(links):
    layers = [with_origin(Layer(id=one, name=one.upper()), parent=parent) for one, parent in links]
    return Effect(layers=tuple(layers))


def depth_of(one, parents):
    """Return how many layers a chain has up from one; None if it never ends."""
    seen = []
    while one in parents:
        if one in seen:
            return None
        seen.append(one)
        one = parents[one]
    return len(seen)


class ChainTest(unittest.TestCase):
    def test_random_links_are_refused_exactly_where_they_loop_or_go_too_deep(self):
        roll, refused = np.random.default_rng(1), 0
        for _ in range(400):
            names = [f"l{i}" for i in range(int(roll.integers(1, 8)))]
            links = [(name, str(roll.choice(["", "gone", *names]))) for name in names]
            parents = dict(links)
            depths = [depth_of(name, parents) for name in names]
            wrong = any(depth is None or depth > DEEPEST for depth in depths)
            found = wrong_link(links)
            self.assertEqual(found is not None, wrong, links)
            if found is None:
                self.assertEqual(
                    [layer.origin.parent for layer in effect_of(links).layers],
                    [parent for _, parent in links],
                )
                continue
            refused += 1
            self.assertTrue(found[1].endswith("."))
            with self.assertRaises(ValueError):
                effect_of(links)
        self.assertGreater(refused, 100)

    def test_who_follows_whom(self):
        effect = effect_of([("a", ""), ("b", "a"), ("c", "b"), ("d", "a"), ("e", "gone"), ("f", "")])
        a, b, c, _, e, _ = effect.layers
        self.assertEqual([layer.id for layer in follow_ups(effect, "a")], ["b", "d"])
        self.assertEqual(follow_ups(effect, ""), [])
        self.assertEqual([layer.id for layer in descendants(effect, "a")], ["b", "c", "d"])
        self.assertEqual([layer.id for layer in ancestors(effect, c)], ["b", "a"])
        self.assertEqual(
            (parent_of(effect, b).id, parent_of(effect, a), parent_of(effect, e)), ("a", None, None)
        )
        self.assertEqual(refusal_of_link(effect, "f", "c"), "")
        self.assertIn("loop", refusal_of_link(effect, "a", "c"))
        self.assertIn("itself", refusal_of_link(effect, "a", "a"))
        deeper = effect_of([("a", ""), ("b", "a"), ("c", "b"), ("d", "c"), ("e", "")])
        self.assertIn("deep", refusal_of_link(deeper, "e", "d"))

    def test_each_enabled_layer_is_in_one_chain_behind_its_parent(self):
        roll = np.random.default_rng(3)
        for _ in range(100):
            names = [f"l{i}" for i in range(6)]
            links = [(name, str(roll.choice(["", *names[:i]])) if i else "") for i, name in enumerate(names)]
            try:
                effect = effect_of([links[i] for i in roll.permutation(6)])
            except ValueError:
                continue
            for i in range(6):
                effect = effect.edit(f"layers[{i}].enabled", bool(roll.integers(4)))
            found = chains(effect)
            ids = [layer.id for chain in found for layer in chain]
            self.assertCountEqual(ids, [layer.id for layer in effect.layers if layer.enabled])
            for chain in found:
                for i, layer in enumerate(chain):
                    above = layer.origin.parent
                    if above in ids:
                        self.assertIn(above, [one.id for one in chain[:i]])
                    else:
                        self.assertEqual(i, 0)

    def test_copies_of_a_chain_are_linked_among_themselves_and_a_lost_parent_is_kept_in_mind(self):
        effect = effect_of([("a", ""), ("b", "a"), ("c", "")])
        twice = duplicate_layers(effect, ["a", "b"])
        new = [layer for layer in twice.layers if layer.id not in ("a", "b", "c")]
        self.assertEqual([layer.origin.parent for layer in new], ["", new[0].id])
        # They stand behind the last of those that were copied.
        self.assertEqual([layer.id for layer in twice.layers], ["a", "b", *(layer.id for layer in new), "c"])
        # A follow-up that is copied alone follows the same parent.
        alone = duplicate_layers(effect, ["b"])
        self.assertEqual([layer.origin.parent for layer in alone.layers], ["", "a", "a", ""])
        self.assertEqual(remove_layer(effect, "a").layer("b").origin.parent, "a")
        self.assertEqual(len({layer.id for layer in add_layers(twice, new).layers}), 7)


if __name__ == "__main__":
    unittest.main()
