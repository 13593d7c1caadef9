"""A process that does works one after the other: each a line of JSON on its input, what becomes of it
lines on its output.
"""

from __future__ import annotations

import dataclasses
import json
import logging
import os
import signal
import sys
import time
import warnings
from pathlib import Path
from typing import Any

from ...effect.errors import EffectError
from ...effect.storing.whole_files import sweep
from ..profile import parse_profile
from .batch import Item, work_of
from .notes import done_before, key_of, note_done, note_failed
from .works import Product, perform

# How often progress is told, s.
_OFTEN = 0.1
# How often a work is done again because its files change while it is done.
_TURNS = 3


def handle(order: dict[str, Any], say: Any) -> dict[str, Any]:
    """Do one work; return what became of it: ``state`` is ``written``, ``unchanged``, ``to write`` or
    ``failed``.

    Parameters
    ----------
    order : dict
        ``file``, ``at``, ``out``, ``product``, ``profile`` as TOML, ``any_picture``, ``anew``; ``guarded``,
        files that are never written over; ``unnoted``, whether nothing is noted beside what is written;
        ``dry``, whether it is only said what would be done.
    say : callable
        Takes a share 0…1; returns whether to give up.
    """
    item, out = Item(Path(order["file"]), Path(order["at"]), order.get("name", "")), Path(order["out"])
    product = Product(order["product"])
    found: dict[str, Any] = {"file": order["file"], "at": order["at"], "state": "failed"}
    begin = time.monotonic()
    try:
        if item.at.parent.is_dir():
            # Remove temporary files of killed runs, even if nothing is written now.
            sweep(item.at.parent)
        found |= _done(order, item, product, out, say)
    except EffectError as wrong:
        found |= {"place": wrong.place, "reason": wrong.reason}
        if not order.get("unnoted") and item.name:
            note_failed(item, product, out, str(wrong))
    except MemoryError:
        found |= {
            "place": order["file"],
            "reason": "there is not enough memory for this; take smaller pictures or lower the caps of the "
            "layers.",
        }
    return {**found, "seconds": round(time.monotonic() - begin, 3)}


def _done(order: dict[str, Any], item: Item, product: Product, out: Path, say: Any) -> dict[str, Any]:
    """Do a work; where one of its files changes meanwhile, do it again. Return its state, and what is
    over its budget.
    """
    profile = parse_profile(order["profile"])
    for _ in range(_TURNS):
        work = work_of(item, product, profile, order.get("any_picture", False))
        if order.get("unnoted"):
            return {
                "state": "written",
                "budget": perform(
                    dataclasses.replace(work, inputs=(*work.inputs, *order.get("guarded", ()))), say
                ),
            }
        key = key_of(work)
        known = None if order.get("anew") else done_before(work, key, item, out)
        if known is not None:
            return {"state": "unchanged", "budget": known["said"]}
        if order.get("dry"):
            return {"state": "to write", "budget": []}
        said = perform(work, say)
        # Only what was made of files that are still so is noted as done.
        if key_of(work_of(item, product, profile, order.get("any_picture", False))) == key:
            note_done(work, key, item, out, said)
            break
    return {"state": "written", "budget": said}


def main() -> None:
    """Do works, one on each line of the input, until the input ends."""

    def end(number: int, frame: object) -> None:
        raise SystemExit(128 + number)

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    progress = [0.0]

    def say(share: float) -> bool:
        now = time.monotonic()
        if now - progress[0] >= _OFTEN:
            progress[0] = now
            _tell({"share": share})
        return False

    # Warnings of libraries are for programmers; errors are reported as sentences.
    warnings.simplefilter("ignore")
    logging.disable(logging.WARNING)
    for line in sys.stdin:
        try:
            found = handle(json.loads(line), say)
        except Exception as wrong:
            # One effect that nobody foresaw shall not end the others.
            order = json.loads(line)
            found = {
                "file": order["file"],
                "at": order["at"],
                "state": "failed",
                "place": order["file"],
                "reason": f"it can't be done ({type(wrong).__name__}: {wrong}).",
                "seconds": 0.0,
            }
        _tell(found)


def _tell(what: dict[str, Any]) -> None:
    try:
        print(json.dumps(what), flush=True)
    except BrokenPipeError:
        # The process that gave the work has gone; give up.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(1) from None


if __name__ == "__main__":
    main()
