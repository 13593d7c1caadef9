"""``python -m bench``, or ``./ember bench``: measures, and prints the figures as sentences or as JSON."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from typing import Any

from .hand_over import measure_hand_over
from .report import report, report_contact, report_shapes

PARTS: dict[str, Callable[[Callable[[str], None]], Any]] = {
    "contact": report_contact,
    "shapes": report_shapes,
    "hand-over": measure_hand_over,
}


def main() -> int:
    """Measure what the command line asks for; return its exit status."""
    parser = argparse.ArgumentParser(prog="bench", description="Measure speed, as ratios within this run.")
    parser.add_argument("only", nargs="?", choices=tuple(PARTS), help="measure this alone")
    parser.add_argument("--json", action="store_true", help="print figures as JSON")
    parser.add_argument(
        "--start", action="store_true", help="measure the window and its start too (needs a display)"
    )
    chosen = parser.parse_args()
    if chosen.start:
        from pale_ember.app.window.launch import display_problem

        if problem := display_problem():
            print(problem, file=sys.stderr)
            return 1
    tell: Callable[[str], None] = (lambda line: None) if chosen.json else print
    figures = PARTS[chosen.only](tell) if chosen.only else report(with_start=chosen.start, say=tell)
    if chosen.json:
        print(json.dumps(figures, indent=2))
    return 0


if __name__ == "__main__":
    sys.exit(main())
