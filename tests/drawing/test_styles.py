"""How looks become features, uniforms and textures of the shaders, beside what was read.

``PALE_EMBER_PICTURES=write`` keeps what they are now. What they look like is held by pictures of other tests.
"""

import dataclasses
import unittest
from pathlib import Path

import numpy as np

from pale_ember.drawing.moment import DrawnLayer
from pale_ember.drawing.styles import style_of
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.rules.edit import edited
from pale_ember.simulation.layout.instances import instance_type
from pale_ember.textures.shipped import plain_cloud

from ..looked_at import compare_text

FILE = Path(__file__).parent / "styles.txt"
EDITS = [
    *({"blend": blend} for blend in ("alpha", "add", "mix", "multiply", "cutout")),
    *({"facing": facing} for facing in ("camera", "streak", "upright", "flat", "travel")),
    {"facing": "streak", "streak_least": 0.5, "streak_most": 0.2},
    {"anchor": 0.25},
    {"nudge": 0.1},
    {"soften": 0.2},
    {"soften": 0.2, "blend": "cutout"},
    {"tiles": [2, 1]},
    {"pan": [0, 0.5]},
    {"lit": 0.5, "roundness": 0.3},
    {"channel": "green"},
    {"mirror": 0.5},
    {"frame_blend": True},
    {"frame_end": "hold"},
    {"ribbon.lay": "repeat"},
    {"ribbon.lay": "repeat", "lit": 1.0},
    {"mesh.core": 0.5},
    {"mesh.rim": 0.5, "mesh.rim_power": 3.0},
    {"erode.amount": 0.5},
    {"erode.amount": 0.5, "erode.rim_intensity": 2.0, "erode.rim_color": "#ff0000", "erode.edge": 0.3},
    {"erode.amount": 0.5, "erode.inward": 0.4},
    {"bend.amount": 0.5, "bend.channel": "blue", "bend.tiles": [3, 2], "bend.pan": [1, -1]},
    {"shimmer.amount": 0.5},
]


class StyleTest(unittest.TestCase):
    def test_each_field_asks_for_what_it_needs(self):
        cloud = plain_cloud()
        painted = dataclasses.replace(cloud, data=False, wrap=False)
        lines = []
        for draw in ("sprite", "ribbon", "mesh"):
            for edits in ({}, *EDITS):
                look = Look()
                for path, value in {"draw": draw, **edits}.items():
                    look = edited(look, path, value)
                noises = {name: cloud for name in ("erode", "bend", "shimmer") if f"{name}.amount" in edits}
                plain = style_of(self.layer(Look(draw=look.draw), {}), True)
                for wears in ({}, {"picture": painted}):
                    style, soft = (
                        style_of(self.layer(look, noises | wears), solid) for solid in (True, False)
                    )
                    lines.append(
                        f"{draw} {edits}{' with a picture' if wears else ''}: {self.told(style, plain)}"
                    )
                    if soft != style:
                        lines.append(f"  with nothing solid {self.told(soft, style)}")
        compare_text(self, FILE, "\n".join(lines) + "\n")

    def layer(self, look, wears):
        used = {name: (0.5,) for name in ("erode", "bend", "shimmer") if name in wears}
        return DrawnLayer("a", np.zeros(2, instance_type(())), look, used, wears=wears)

    def told(self, style, plain):
        """Return what a style has that another has not, and the other way round."""
        more = sorted(style.features - plain.features)
        less = sorted(f"no {one}" for one in plain.features - style.features)
        numbers = [f"{name} {value}" for name, value in style.uniforms if (name, value) not in plain.uniforms]
        units = [
            f"{unit.name} of {unit.part}{' wrapped' * unit.wrap}{' anisotropic' * unit.anisotropic}"
            for unit in style.units
        ]
        return "; ".join([*more, *less, *numbers, *units, f"{style.corners} corners"])


if __name__ == "__main__":
    unittest.main()
