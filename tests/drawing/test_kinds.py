"""Each list of kinds stands once, and every room that acts on one knows all of it."""

import unittest

import numpy as np

from pale_ember.drawing.backdrops import BACKDROPS
from pale_ember.drawing.blends import BLENDS
from pale_ember.drawing.wires import birthplace_wire
from pale_ember.effect.chapters.path import path_pieces
from pale_ember.effect.chapters.place import PathKey
from pale_ember.effect.kinds import Aim, Along, Backdrop, Blend, EmitterShape, Fill, PathEase, Sort
from pale_ember.effect.storing.schema import effect_schema
from pale_ember.simulation import Simulation
from pale_ember.simulation.births.shapes import PLACES

from ..building import single


class KindTest(unittest.TestCase):
    def test_rooms_know_all_kinds(self):
        self.assertEqual(set(BACKDROPS), set(Backdrop))
        self.assertEqual(set(BLENDS), set(Blend))
        self.assertEqual(set(PLACES), set(EmitterShape))
        schema = effect_schema()["properties"]
        layer = schema["layers"]["items"]["properties"]
        for found, kinds in (
            (layer["birthplace"]["properties"]["kind"], EmitterShape),
            (layer["birthplace"]["properties"]["fill"], Fill),
            (layer["birthplace"]["properties"]["aim"], Aim),
            (layer["look"]["properties"]["blend"], Blend),
            (layer["look"]["properties"]["sort"], Sort),
            (layer["path"]["items"]["properties"]["ease"], PathEase),
            (schema["stage"]["properties"]["backdrop"], Backdrop),
        ):
            self.assertEqual(found["enum"], list(kinds))

    def test_each_kind_is_born_in_and_outlined_and_each_aim_and_axis_is_taken(self):
        places = set()
        for kind in EmitterShape:
            effect = single({"birthplace.kind": kind, "emit.rate": 300, "launch.speed": 0})
            self.assertGreater(len(birthplace_wire(effect.layers[0])), 2)
            sim = Simulation(effect)
            sim.seek(0.5)
            places.add(np.round(sim.particles("a").position, 5).tobytes())
        self.assertEqual(len(places), len(EmitterShape))
        ways = set()
        for aim in Aim:
            sim = Simulation(single({"birthplace.kind": "ball", "birthplace.aim": aim, "emit.rate": 300}))
            sim.seek(0.5)
            ways.add(np.round(sim.particles("a").velocity, 5).tobytes())
        self.assertEqual(len(ways), len(Aim))
        seen = set()
        for along in Along:
            size = {"curve": [[0, 0.1], [0.3, 2], [1, 1]], "along": along}
            sim = Simulation(
                single({"look.grow": size, "launch.speed": {"spread": [0, 4]}, "emit.rate": 100})
            )
            sim.seek(0.7)
            seen.add(sim.particles("a").size.tobytes())
        self.assertEqual(len(seen), len(Along))
        pieces = {
            path_pieces((PathKey(ease=ease), PathKey(at=0.5, position=(1, 2, 0)), PathKey(at=1))).c.tobytes()
            for ease in PathEase
        }
        self.assertEqual(len(pieces), len(PathEase))


if __name__ == "__main__":
    unittest.main()
