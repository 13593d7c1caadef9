"""The commands that say something of an effect, or of all: stats, check, schema, reference."""

from __future__ import annotations

import argparse
import sys
from typing import TYPE_CHECKING, Any

from . import arguments
from .command import Command, no_arguments
from .hand_over import bundled
from .output import GOOD, PROBLEMS, print_json, printable, say_findings
from .pictures import trusted_beside

if TYPE_CHECKING:
    from ..effect import Effect


def _stats_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument(
        "--until", type=arguments.seconds, default=None, metavar="T", help="seconds (the effect's duration)"
    )
    parser.add_argument("--json", action="store_true", help="print figures as JSON")


def _check_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "files", nargs="+", metavar="FILE", help="effects; bundles: their folders, bundle.json or .zip"
    )
    parser.add_argument("--json", action="store_true", help="print findings as JSON")


def _stats(chosen: argparse.Namespace) -> int:
    """Print figures of an effect's layers up to a time."""
    from ..effect import load_effect
    from ..files.figures import stats

    effect = load_effect(chosen.file)
    status = say_findings(effect, chosen.file)
    until = effect.duration if chosen.until is None else chosen.until
    rows = stats(effect, until)
    if chosen.json:
        print_json({"file": str(chosen.file), "until": until, "layers": rows})
        return status
    print(printable(f"{effect.name}, until {until:g} s"))
    print(f"{'layer':24}{'born':>9}{'died':>9}{'hits':>7}{'refused':>9}{'alive':>8}{'peak':>8}  bounds m")
    for row in rows:
        low, high = row["bounds"] or ([], [])
        box = " ".join(f"{a:.2f}…{b:.2f}" for a, b in zip(low, high, strict=True)) or "none"
        figures = (
            f"{row['born']:9}{row['died']:9}{row['hits']:7}{row['refused']:9}{row['alive']:8}{row['peak']:8}"
        )
        print(f"{printable(row['name'])[:23]:24}{figures}  {box}")
    return status


def _check(chosen: argparse.Namespace) -> int:
    """Print what is wrong with effects; 1 if anything is."""
    from ..checks import find_problems
    from ..effect import EffectError, load_effect

    found: list[dict[str, str]] = []
    for file in chosen.files:
        try:
            effect, wrong_files = bundled(file) or (load_effect(file), [])
            problems = wrong_files + find_problems(effect) + _texture_problems(effect, file)
        except EffectError as wrong:
            problems = [wrong]
        except MemoryError:
            problems = [EffectError("file", "there is not enough memory to read it.")]
        found += [{"file": file, "place": wrong.place, "reason": wrong.reason} for wrong in problems]
    if chosen.json:
        print_json({"problems": found})
    else:
        for row in found:
            place = "" if row["place"] == row["file"] else f" {row['place']}:"
            print(printable(f"{row['file']}:{place} {row['reason']}"))
        if not found:
            print(f"{len(chosen.files)} of {len(chosen.files)} files are whole.")
    return PROBLEMS if found else GOOD


def _texture_problems(effect: Effect, file: str) -> list[Any]:
    """Return what is wrong with an effect's textures, used or not."""

    from ..files.textures import problems_of

    return problems_of(effect, trusted_beside(file))


def _schema(chosen: argparse.Namespace) -> int:
    from ..effect.storing.schema import effect_schema

    print_json(effect_schema())
    return GOOD


def _reference(chosen: argparse.Namespace) -> int:
    from ..effect.storing.reference import reference_page

    sys.stdout.write(reference_page())
    return GOOD


COMMANDS = (
    Command("stats", "count births, deaths and the most alive, layer by layer", _stats_arguments, _stats),
    Command(
        "check",
        "say whether files are whole effects, or bundles as they were written, and what is wrong if not",
        _check_arguments,
        _check,
    ),
    Command("schema", "print the JSON Schema of effect files", no_arguments, _schema),
    Command("reference", "print the reference page of all fields", no_arguments, _reference),
)
