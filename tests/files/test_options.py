"""What can be chosen of each product, with its limits, beside what was read: an option that changes breaks
the profiles of studios. ``PALE_EMBER_PICTURES=write`` keeps what there is now.
"""

import unittest
from pathlib import Path

from pale_ember.files.profile import Profile, start_text

from ..looked_at import compare_text, fields_of

FILE = Path(__file__).parent / "options.txt"


def options_of(part):
    """Return a line for each option of a part, and of the parts in it."""
    lines = []
    for path, rule, default in fields_of(part):
        said = [path, rule.kind, rule.label, rule.unit, rule.words, rule.group, rule.also]
        numbers = [f"{end:g}" for end in (*rule.hard, *rule.soft)] if not rule.choices else []
        lines.append(" | ".join([*said, " ".join(numbers), f"default {default}"]))
    return lines


class OptionsTest(unittest.TestCase):
    def test_options_their_limits_and_the_profile_to_begin_with_are_those_that_were_read(self):
        now = "\n".join([*options_of(Profile), "", start_text()])
        compare_text(self, FILE, now)
