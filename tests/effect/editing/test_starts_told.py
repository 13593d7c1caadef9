"""Follow-ups as they are begun with, beside what was read; and shipped files as they are written.

``PALE_EMBER_PICTURES=write`` keeps what they are now.
"""

import unittest
from pathlib import Path

import pale_ember
from pale_ember.effect import effect_text, parse_effect
from pale_ember.effect.editing.follow_starts import follow_start, ribbon_start
from pale_ember.effect.effect import Effect
from pale_ember.effect.kinds import When

from ...building import effect_with
from ...looked_at import compare_text

FILE = Path(__file__).parent / "starts.txt"
PARENTS = {
    "plain": {},
    "large": {"launch.size": {"spread": [1, 3]}, "launch.speed": 12, "look.blend": "add", "place.scale": 2},
    "many": {"emit.rate": 5000, "emit.cap": 20_000, "contact.enabled": True, "launch.lifetime": 0.2},
}


class StartsTold(unittest.TestCase):
    maxDiff = 3000

    def test_every_start_for_parents_of_several_kinds_as_files_have_them(self):
        parents = effect_with(PARENTS).layers
        lines = []
        for parent in parents:
            for each_second in (3.0, 900.0):
                starts = [follow_start(when, parent, each_second) for when in When]
                starts.append(ribbon_start(parent, each_second))
                named = [start.model_copy(update={"id": f"x{i}"}) for i, start in enumerate(starts)]
                lines += [f"== {parent.name}, {each_second:g} a second"]
                lines.append(effect_text(Effect(layers=(parent, *named))))
        compare_text(self, FILE, "\n".join(lines))

    def test_shipped_files_are_as_the_program_writes_them(self):
        files = sorted((Path(pale_ember.__file__).parent / "demo").rglob("*.ember"))
        self.assertGreater(len(files), 30)
        for file in files:
            text = file.read_text(encoding="utf-8")
            with self.subTest(file.name):
                self.assertMultiLineEqual(effect_text(parse_effect(text)), text)
