"""What words of the command line mean: sizes, times, numbers; each refused in a sentence."""

from __future__ import annotations

import argparse


def whole_number(text: str, least: int, most: int) -> int | None:
    """Return a whole number in plain digits, if it is one from ``least`` to ``most``."""
    plain = text.isascii() and text.isdecimal() and len(text) < 20
    return int(text) if plain and least <= int(text) <= most else None


def size(text: str) -> tuple[int, int]:
    wide, _, high = text.lower().partition("x")
    width, height = whole_number(wide, 1, 8192), whole_number(high, 1, 8192)
    if width is None or height is None:
        raise argparse.ArgumentTypeError(
            f"“{text}” is not a size; write it as 1280x800, each side from 1 to 8192"
        )
    return width, height


def seconds(text: str) -> float:
    try:
        found = float(text)
    except ValueError:
        found = -1.0
    if not 0.0 <= found <= 36_000.0:
        raise argparse.ArgumentTypeError(f"“{text}” is not a time; give seconds from 0 to 36000")
    return found


def backdrop(text: str) -> str:
    # Files of version 1 called noon “day”.
    return "noon" if text == "day" else text


def side(text: str) -> int:
    found = whole_number(text, 4, 1024)
    if found is None:
        raise argparse.ArgumentTypeError(f"“{text}” is not a size; give 4 to 1024 pixels")
    return found


def frames(text: str) -> int:
    found = whole_number(text, 1, 64)
    if found is None:
        raise argparse.ArgumentTypeError(f"“{text}” is not a number of pictures; give 1 to 64")
    return found


def particle(text: str) -> int:
    found = whole_number(text, 0, 4_000_000_000)
    if found is None:
        raise argparse.ArgumentTypeError(f"“{text}” is no particle; give its number, counted by birth from 0")
    return found


def part_of_batch(text: str) -> tuple[int, int]:
    first, _, last = text.partition("/")
    count = whole_number(last, 1, 1_000_000)
    number = whole_number(first, 1, count or 0)
    if number is None or count is None:
        raise argparse.ArgumentTypeError(f"“{text}” is no part of a batch; write it as 2/8, from 1/8 to 8/8")
    return number, count


def processes(text: str) -> int:
    found = whole_number(text, 1, 256)
    if found is None:
        raise argparse.ArgumentTypeError(f"“{text}” is no number of processes; give 1 to 256")
    return found
