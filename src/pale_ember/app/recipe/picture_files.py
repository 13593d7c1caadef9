"""Lists of picture files and of frames as people write them."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from ...effect.errors import EffectError
from ...effect.rules.reading import MOST_FILES


def in_sequence(file: str) -> list[Any]:
    """Return a key that sorts files as people count: 2 before 10."""
    return [int(part) if part.isdigit() else part.lower() for part in re.split(r"(\d+)", Path(file).name)]


def said_files(files: tuple[str, ...]) -> str:
    """Return files in a few words."""
    if not files:
        return "none"
    first = Path(files[0]).name
    return first if len(files) == 1 else f"{first} … {Path(files[-1]).name} ({len(files)})"


def frames_text(frames: tuple[int, ...]) -> str:
    """Return frames as “0-7, 3, 12-8”."""
    runs: list[list[int]] = []
    for frame in frames:
        step = frame - runs[-1][-1] if runs else 0
        if runs and step in (1, -1) and (len(runs[-1]) == 1 or runs[-1][-1] - runs[-1][-2] == step):
            runs[-1].append(frame)
        else:
            runs.append([frame])
    return ", ".join(f"{run[0]}-{run[-1]}" if len(run) > 2 else ", ".join(map(str, run)) for run in runs)


def parse_frames(typed: str) -> list[int]:
    """Return the frames that a text names.

    Raises
    ------
    EffectError
        If it is no list of frames.
    """
    found: list[int] = []
    for part in re.split(r"[,\s]+", typed.strip()):
        run = re.fullmatch(r"(\d{1,3})(?:[-–](\d{1,3}))?", part)
        if part and run is None:
            raise EffectError("order", f"“{part[:20]}” is no frame; write frames such as 0-7, 3, 12-8.")
        if run is not None:
            first, last = int(run[1]), int(run[2] or run[1])
            found += range(first, last + 1) if last >= first else range(first, last - 1, -1)
        if len(found) > MOST_FILES:
            raise EffectError("order", f"these are too many frames; at most {MOST_FILES} fit.")
    return found
