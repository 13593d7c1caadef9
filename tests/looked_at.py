"""What tests compare with what was looked at; ``PALE_EMBER_PICTURES=write`` keeps what there is now."""

from __future__ import annotations

import os
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from pale_ember.effect.rules.fields import Rule
from pale_ember.effect.rules.part import Part


def fields_of(part: type[Part], at: str = "") -> Iterator[tuple[str, Rule, Any]]:
    """Yield path, rule and default of each field of a part, and behind them of the parts that it holds."""
    for name, rule in part.rules().items():
        yield f"{at}{name}", rule, part.default_of(name)
    for name in part.model_fields:
        inside = part.default_of(name)
        if isinstance(inside, Part):
            yield from fields_of(type(inside), f"{at}{name}.")


def is_writing() -> bool:
    """Return whether what there is now is to be kept."""
    return os.environ.get("PALE_EMBER_PICTURES") == "write"


def compare_text(test: unittest.TestCase, file: Path, now: str) -> None:
    """Compare a text with the one that was read."""
    if is_writing():
        file.write_text(now, encoding="utf-8")
    test.maxDiff = 3000
    test.assertMultiLineEqual(file.read_text(encoding="utf-8"), now)
