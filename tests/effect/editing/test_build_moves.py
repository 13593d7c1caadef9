"""Builds that are made of others, as files have them, beside what was read.

``PALE_EMBER_PICTURES=write`` keeps what they are now. What they look like is held in tests of textures.
"""

import json
import unittest
from pathlib import Path

from pale_ember.effect.editing.build_moves import (
    MaskSource,
    as_build,
    comes_round,
    halved,
    mask_steps,
    packed,
    power_below,
    read_steps,
    seeds_differ,
    steps_data,
    unpacked,
)
from pale_ember.effect.effect import Effect
from pale_ember.effect.errors import EffectError
from pale_ember.effect.kinds import Channel
from pale_ember.effect.storing.storage import part_data

from ...looked_at import compare_text

FILE = Path(__file__).parent / "builds.txt"
MASKED = [
    {"step": "dot"},
    {"step": "color"},
    {"step": "pack", "channel": "red"},
    {"step": "cloud"},
    {"step": "mask", "channel": "red"},
    {"step": "pack", "channel": "green", "strength": 0.5},
    {"step": "rays"},
    {"step": "mask", "channel": "green"},
    {"step": "pack", "channel": "blue"},
]
# Red is packed twice; what is multiplied by it needs the second, and what that one is multiplied by.
TWICE = [
    {"step": "dot"},
    {"step": "pack", "channel": "green"},
    {"step": "ring"},
    {"step": "pack", "channel": "red"},
    {"step": "cloud"},
    {"step": "mask", "channel": "green"},
    {"step": "pack", "channel": "red"},
    {"step": "grain"},
    {"step": "mask", "channel": "red"},
    {"step": "pack", "channel": "blue"},
]
TEXTURES = {
    "plain": {"build": {"size": 64, "steps": [{"step": "dot"}]}},
    "masked": {"data": True, "frames": 6, "build": {"size": 32, "seed": 7, "steps": MASKED}},
    "twice": {"data": True, "build": {"size": 32, "steps": TWICE}},
    "all": {
        "build": {"steps": [{"step": "ring"}, {"step": "pack", "channel": "all"}, {"step": "grain"}]},
        "data": True,
    },
    "off": {"build": {"steps": [{"step": "ring"}, {"step": "pack", "channel": "red", "on": False}]}},
    "file": {"file": "soot.png", "columns": 4, "rows": 2, "margin": 1, "gap": 2, "frames": 7},
    "masks": {"file": "masks.png", "data": True},
    "premultiplied": {"file": "glow.png", "cover": "premultiplied"},
    "encoded": {"file": "old.png", "cover": "premultiplied_srgb"},
    "flow": {"frames": 8, "build": {"steps": [{"step": "flow", "loop": True}]}},
    "nothing": {},
}


def textures():
    data = [{"name": name, **one} for name, one in TEXTURES.items()]
    return {one.name: one for one in Effect().edit("textures", data).textures}


class BuildMoves(unittest.TestCase):
    def setUp(self):
        self.textures, self.lines = textures(), []

    def tell(self, words, made):
        """Write down what something gives, or why it gives nothing."""
        try:
            found = made()
        except EffectError as wrong:
            found = str(wrong)
        data = found if isinstance(found, str) else json.dumps(found, ensure_ascii=False)
        self.lines.append(f"{words}: {data}")

    def test_masks_packs_and_files_become_builds(self):
        one = self.textures
        for name, texture in one.items():
            for channel in Channel:
                self.tell(
                    f"mask of {name}, {channel}, into green",
                    lambda t=texture, c=channel: steps_data(mask_steps(MaskSource(t, c), Channel.GREEN))[
                        "steps"
                    ],
                )
            self.tell(f"{name} unpacked", lambda t=texture: [part_data(part) for part in unpacked(t)])
            if texture.file:
                self.tell(f"{name} as a build", lambda t=texture: part_data(as_build(t, (96, 40))))
        pairs = {
            "two builds": {Channel.RED: MaskSource(one["plain"]), Channel.ALPHA: MaskSource(one["all"])},
            "one that is multiplied": {
                Channel.RED: MaskSource(one["plain"]),
                Channel.GREEN: MaskSource(one["masked"], Channel.BLUE),
            },
            "one that finds no channel": {
                Channel.RED: MaskSource(one["masked"], Channel.BLUE),
                Channel.GREEN: MaskSource(one["masked"], Channel.BLUE),
            },
            "files": {Channel.BLUE: MaskSource(one["file"]), Channel.GREEN: MaskSource(one["masks"])},
            "nothing": {Channel.RED: MaskSource(one["nothing"])},
        }
        for words, sources in pairs.items():
            self.tell(f"{words} packed", lambda s=sources: part_data(packed("packed", s)))
            self.tell(f"{words} packed small", lambda s=sources: part_data(packed("packed", s, 16)))
            self.lines.append(f"{words}: seeds differ {seeds_differ(sources.values())}")
        compare_text(self, FILE, "\n".join(self.lines) + "\n")

    def test_too_many_steps_are_refused(self):
        long = self.textures["plain"].build.model_copy(
            update={"steps": self.textures["plain"].build.steps * 63}
        )
        texture = self.textures["plain"].model_copy(update={"build": long})
        self.assertEqual(len(packed("one", {Channel.RED: MaskSource(texture)}).build.steps), 64)
        with self.assertRaisesRegex(EffectError, "together these have 128 steps; a build has at most 64"):
            packed("two", {Channel.RED: MaskSource(texture), Channel.BLUE: MaskSource(texture)})

    def test_sizes_are_powers_of_two_within_limits(self):
        found = [power_below(size) for size in (0, 3, 4, 5, 63, 64, 65, 1024, 5000)]
        self.assertEqual(found, [4, 4, 4, 4, 32, 64, 64, 1024, 1024])
        self.assertEqual([halved(size) for size in (4, 5, 64, 65, 100, 1024)], [4, 4, 32, 64, 64, 512])

    def test_only_a_flow_that_loops_comes_round(self):
        found = {name for name, texture in self.textures.items() if comes_round(texture)}
        self.assertEqual(found, {"flow"})

    def test_steps_go_over_the_clipboard_and_others_are_refused(self):
        steps = self.textures["masked"].build.steps
        self.assertEqual(read_steps(json.loads(json.dumps(steps_data(steps)))), steps)
        wrong = {"format": "pale-ember/steps", "steps": [{"step": "dott"}]}
        for data in (None, [], {}, {"steps": []}, {"format": "pale-ember/steps", "steps": 1}):
            with self.assertRaisesRegex(EffectError, "no steps on the clipboard"):
                read_steps(data)
        with self.assertRaisesRegex(EffectError, "“dott” is no step; did you mean “dot”"):
            read_steps(wrong)
