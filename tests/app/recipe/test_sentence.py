"""The sentences as text: of each demo layer, and of each field of a layer."""

import unittest
from pathlib import Path

from pale_ember.app.recipe.sentence import pieces, sentence
from pale_ember.demo import NAMES, demo
from pale_ember.effect.editing.chains import parent_of
from pale_ember.effect.errors import EffectError
from pale_ember.effect.rules.edit import get
from pale_ember.effect.textures import Texture

from ...building import single

# What says nothing by itself: it is a matter of place, order or names, or belongs to another field that does.
QUIET = {
    "id",
    "name",
    "group",
    "enabled",
    "place.position",
    "place.rotation",
    "place.scale",
    "emit.cap",
    "birthplace.arc",
    "birthplace.tube",
    "birthplace.angle",
    "birthplace.mesh_scale",
    "launch.angle",
    "flight.eddy",
    "flight.churn",
    "flight.octaves",
    "flight.speed_range",
    "look.color",
    "look.sort",
    "look.order",
    "look.frame_end",
    "look.streak_least",
    "look.streak_most",
    "look.anchor",
    "look.roundness",
    "look.shine_reach",
    "look.cutoff",
    "look.nudge",
    "look.erode.edge",
    "look.erode.rim_color",
    "look.erode.inward",
    "look.tiles",
    "look.ribbon.smooth",
    "look.mesh.faces",
    "look.mesh.rim_power",
    *(f"birthplace.{end}{what}" for end in ("start", "end") for what in ("", "_pull")),
    *(
        f"look.{noise}.{name}"
        for noise in ("erode", "bend", "shimmer")
        for name in ("texture", "channel", "tiles", "pan")
    ),
}
# What counts only where something else is there.
WITH = {
    "emit.per_metre": {"path": [{}, {"at": 1}]},
    "launch.carry": {"path": [{}, {"at": 1}]},
    "flight.follow": {"path": [{}, {"at": 1}]},
    "flight.wind": {"flight.drag": 1},
    "birthplace.radius": {"birthplace.kind": "ball"},
    "birthplace.height": {"birthplace.kind": "cylinder"},
    "birthplace.extents": {"birthplace.kind": "box"},
    "birthplace.mesh": {"birthplace.kind": "mesh"},
    "birthplace.fill": {"birthplace.kind": "ball"},
    "birthplace.around_camera": {"birthplace.kind": "box"},
    "birthplace.glitter": {"birthplace.kind": "ball"},
    "look.channel": {"look.texture": "x"},
    "look.mirror": {"look.texture": "x"},
    "look.frame": {"look.texture": "x"},
    "look.frame_rate": {"look.texture": "x"},
    "look.frame_blend": {"look.texture": "x"},
    "look.streak": {"look.facing": "streak"},
    "look.mix": {"look.blend": "mix"},
    "look.erode.rim_intensity": {"look.erode.amount": 0.5},
    "look.pan": {"look.texture": "x", "look.draw": "ribbon"},
    "birthplace.stray": {"birthplace.kind": "bow"},
    "birthplace.in_row": {"birthplace.kind": "bow"},
    "birthplace.start_on": {"birthplace.kind": "bow"},
    "birthplace.end_on": {"birthplace.kind": "bow"},
    **{
        f"look.ribbon.{name}": {"look.draw": "ribbon", "look.texture": "x"}
        for name in ("join", "across", "lay", "gap")
    },
    "look.ribbon.every": {"look.draw": "ribbon", "look.texture": "x", "look.ribbon.lay": "repeat"},
    "look.ribbon.lay_from": {"look.draw": "ribbon", "look.texture": "x", "look.ribbon.lay": "repeat"},
    **{f"look.mesh.{name}": {"look.draw": "mesh"} for name in ("mesh", "stand", "stretch", "rim", "core")},
}


SHEET = (Texture(name="x", file="x.png", columns=4, rows=4),)


def other(rule, now):
    """Return a value that isn't the one that a field has."""
    made = {
        "value": lambda: rule.soft[1] * 0.5 + 0.25,
        "vec3_value": lambda: [0, 2, 0],
        "color_value": lambda: "#806040",
        "number": lambda: rule.soft[1] * 0.75,
        "integer": lambda: 3,
        "vec3": lambda: [1.5, 2.5, 3.5],
        "flag": lambda: not now,
        "choice": lambda: next(str(one) for one in rule.choices if one != now),
        "mesh": lambda: "torus",
        "anchor": lambda: "prop:Post",
        "text": lambda: "x",
        "texture": lambda: "x",
        "vec2": lambda: [2.0, 2.0],
        "color": lambda: "#123456",
    }
    return made[rule.kind]()


class SentenceTest(unittest.TestCase):
    def test_the_sentences_of_the_demos(self):
        told = [
            f"{layer.name}: {sentence(layer, effect.textures, getattr(parent_of(effect, layer), 'name', ''))}"
            for effect in map(demo, NAMES)
            for layer in effect.layers
        ]
        expected = (Path(__file__).parent / "sentences.txt").read_text(encoding="utf-8").splitlines()
        self.assertEqual(told, expected)

    def test_each_field_that_is_changed_is_told_and_its_words_lead_to_it(self):
        silent = []
        for chapter in (
            "",
            "place",
            "window",
            "emit",
            "birthplace",
            "launch",
            "flight",
            "look",
            "look.erode",
            "look.bend",
            "look.shimmer",
            "look.ribbon",
            "look.mesh",
        ):
            effect = single({})
            rules = type(get(effect, f"layers[0].{chapter}") if chapter else effect.layers[0]).rules()
            for name, rule in rules.items():
                at = f"{chapter}.{name}".lstrip(".")
                before = single(WITH.get(at, {}))
                after = before.edit(f"layers[0].{at}", other(rule, get(before, f"layers[0].{at}")))
                if sentence(before.layers[0], SHEET) == sentence(after.layers[0], SHEET):
                    silent.append(at)
                else:
                    self.assertIn(
                        at, {"window.begin", *(piece.path for piece in pieces(after.layers[0], SHEET))}, at
                    )
        self.assertEqual(set(silent), QUIET)

    def test_every_link_leads_to_a_field(self):
        for name in NAMES:
            effect = demo(name)
            for i, layer in enumerate(effect.layers):
                for piece in pieces(layer):
                    if piece.path:
                        try:
                            get(effect, f"layers[{i}].{piece.path}")
                        except EffectError:
                            self.fail(piece)

    def test_at_rest_is_what_has_neither_speed_nor_push(self):
        self.assertIn("starting at rest", sentence(single({"launch.speed": 0}).layers[0]))
        pushed = sentence(single({"launch.speed": 0, "launch.push": [0, -9, 0]}).layers[0])
        self.assertNotIn("at rest", pushed)
        self.assertIn("pushed off downward", pushed)

    def test_what_emits_nothing_has_no_way_of_facing_and_no_look(self):
        words = sentence(single({"emit.rate": 0, "birthplace.aim": "outward", "look.blend": "add"}).layers[0])
        self.assertEqual(words, "Nothing is born. Raise its rate, or add a burst.")

    def test_what_is_at_its_default_is_left_out(self):
        plain = single(
            {
                "launch.speed": {"spread": [-1, 2]},
                "flight.gravity": -0.5,
                "emit.rate": 0,
                "emit.bursts": [{"count": 9}],
            }
        )
        self.assertEqual(
            sentence(plain.layers[0]),
            "A burst of 9 born at a point, setting out at −1 to 2 m/s. They rise with 0.5× gravity. "
            "They cover what is behind.",
        )


if __name__ == "__main__":
    unittest.main()
