"""What tests compare with what was looked at; ``PALE_EMBER_PICTURES=write`` keeps what there is now."""

from __future__ import annotations

import os
import unittest
from pathlib import Path


def is_writing() -> bool:
    """Return whether what there is now is to be kept."""
    return os.environ.get("PALE_EMBER_PICTURES") == "write"


def compare_text(test: unittest.TestCase, file: Path, now: str) -> None:
    """Compare a text with the one that was read."""
    if is_writing():
        file.write_text(now, encoding="utf-8")
    test.maxDiff = 3000
    test.assertMultiLineEqual(file.read_text(encoding="utf-8"), now)
