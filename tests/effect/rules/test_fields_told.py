"""What is declared of every field, beside what was read: a change of it changes files, docs and the window.

``PALE_EMBER_PICTURES=write`` keeps what is declared now.
"""

import dataclasses
import unittest
from pathlib import Path

from pale_ember.effect.effect import Effect, Layer
from pale_ember.effect.rules import fields
from pale_ember.effect.steps import STEPS
from pale_ember.effect.textures import Build, Texture

from ...looked_at import compare_text, fields_of

FILE = Path(__file__).parent / "fields.txt"
# Told by tests of the pages and of the schema.
WORDS = ("help", "also")


def declared(part, at):
    """Return a line for each field of a part, and of the parts that its defaults hold."""
    lines = []
    for path, rule, default in fields_of(part, at):
        plain = {field.name: field.default for field in dataclasses.fields(rule)}
        said = [
            f"{key} {getattr(rule, key)}"
            for key, usual in plain.items()
            if key not in WORDS and getattr(rule, key) != usual
        ]
        lines.append(f"{path}: {'; '.join(said)}; default {default}")
    return lines


class FieldsTold(unittest.TestCase):
    def test_every_field_of_effects_layers_textures_and_steps(self):
        lines = [*declared(Effect, ""), *declared(Layer, "layer."), *declared(Texture, "texture.")]
        lines += declared(Build, "build.")
        for name, step in STEPS.items():
            lines += declared(step, f"{name}.")
        compare_text(self, FILE, "\n".join(lines) + "\n")

    def test_each_way_to_declare_one_gives_its_kind(self):
        lines = []
        for name, make in sorted(vars(fields).items()):
            if (
                getattr(make, "__module__", "") != fields.__name__
                or name.startswith("_")
                or not callable(make)
            ):
                continue
            if isinstance(make, type):
                continue
            for words in (("L", "H"), (1, "L", "H"), ("a", "L", "H")):
                try:
                    info = make(*words)
                except (TypeError, ValueError, AttributeError):
                    continue
                rule = info.json_schema_extra["rule"]
                lines.append(f"{name}{words}: {rule} {info.default!r}")
        self.assertGreater(len(lines), 12)
        compare_text(self, FILE.with_name("kinds.txt"), "\n".join(lines) + "\n")
