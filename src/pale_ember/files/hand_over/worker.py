"""A process that does works one after the other: each a line of JSON on its input, what becomes of it lines on its output."""

from __future__ import annotations

import dataclasses
import json
import os
import signal
import sys
import time
from pathlib import Path
from typing import Any

from ...effect.errors import EffectError
from ...effect.whole_files import sweep
from .batch import Item, do, done_before, work_of
from .profile import parse_profile
from .works import Product, perform

# How often progress is told, s.
_OFTEN = 0.1


def handle(order: dict[str, Any], say: Any) -> dict[str, Any]:
    """Do one work; return what became of it: ``state`` is ``written``, ``unchanged`` or ``failed``.

    Parameters
    ----------
    order : dict
        ``file``, ``at``, ``out``, ``product``, ``profile`` as TOML, ``any_picture``, ``anew``; ``guarded``, files that are
        never written over; ``unnoted``, whether nothing is noted beside what is written.
    say : callable
        Takes a share 0…1; returns whether to give up.
    """
    item, out = Item(Path(order["file"]), Path(order["at"])), Path(order["out"])
    found: dict[str, Any] = {"file": order["file"], "at": order["at"], "state": "failed"}
    begin = time.monotonic()
    try:
        work = work_of(item, Product(order["product"]), parse_profile(order["profile"]), order.get("any_picture", False))
        work = dataclasses.replace(work, inputs=(*work.inputs, *order.get("guarded", ())))
        if item.at.parent.is_dir():
            # What a run that was killed left goes, even where nothing is written now.
            sweep(item.at.parent)
        known = None if order.get("anew") or order.get("unnoted") else done_before(work, out)
        said = known["said"] if known is not None else perform(work, say) if order.get("unnoted") else do(work, out, say)
        found |= {"state": "unchanged" if known is not None else "written", "budget": said}
    except EffectError as wrong:
        found |= {"place": wrong.place, "reason": wrong.reason}
    except MemoryError:
        found |= {"place": order["file"], "reason": "there is not enough memory for this; take smaller pictures or lower the caps of the layers."}
    return {**found, "seconds": round(time.monotonic() - begin, 3)}


def main() -> None:
    """Do works until there are no more; end with whoever gives them."""

    def end(number: int, frame: object) -> None:
        raise SystemExit(128 + number)

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    told = [0.0]

    def say(share: float) -> bool:
        now = time.monotonic()
        if now - told[0] >= _OFTEN:
            told[0] = now
            _tell({"share": share})
        return False

    for line in sys.stdin:
        try:
            found = handle(json.loads(line), say)
        except Exception as wrong:
            # One effect that nobody foresaw shall not end the others.
            order = json.loads(line)
            found = {"file": order["file"], "at": order["at"], "state": "failed", "place": order["file"], "reason": f"it can't be done ({type(wrong).__name__}: {wrong}).", "seconds": 0.0}
        _tell(found)


def _tell(what: dict[str, Any]) -> None:
    try:
        print(json.dumps(what), flush=True)
    except BrokenPipeError:
        # Whoever gave the work has gone; what is half done is given up.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(1) from None


if __name__ == "__main__":
    main()
