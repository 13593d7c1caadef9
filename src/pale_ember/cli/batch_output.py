"""What the command line says of a batch, in sentences or as JSON."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..effect.errors import EffectError
from .output import print_json, say

if TYPE_CHECKING:
    from ..files.hand_over.batch import Item
    from ..files.hand_over.works import Product
    from ..files.profile import Profile

_PAST = ("written", "unchanged", "to write", "failed")


class BatchOutput:
    """Runs a batch and says what becomes of it."""

    def __init__(self, product: Product, out: Path, chosen: argparse.Namespace) -> None:
        self.product, self.out, self.chosen = product, out, chosen
        # From then on what is as it was is not worth a word.
        self.is_watching = False

    def run(self, items: Sequence[Item], profile: Profile, gone: list[dict[str, Any]]) -> int:
        """Do works and say what became of them; return the exit status. Whoever stops it hears what was
        done by then.
        """
        from ..files.hand_over.running import run_all

        begin = time.monotonic()
        done: dict[int, dict[str, Any]] = {}
        ended = False
        with _Progress(len(items), sys.stderr.isatty() and not self.chosen.json) as progress:

            def heard(number: int, share: float, result: dict[str, Any] | None) -> None:
                progress.heard(number, share)
                if result is not None:
                    done[number] = result

            try:
                run_all(
                    items,
                    self.out,
                    self.product,
                    profile,
                    heard,
                    self.chosen.jobs,
                    self.chosen.any_picture,
                    self.chosen.anew,
                    dry=self.chosen.dry_run,
                )
                ended = True
            finally:
                found = [done[number] for number in sorted(done)]
                if (
                    not ended
                    or not self.is_watching
                    or gone
                    or any(row["state"] != "unchanged" for row in found)
                ):
                    self._tell(found, gone, time.monotonic() - begin, stopped=not ended, count=len(items))
        wrong = [row for row in found if row["state"] == "failed" or row.get("budget")]
        return 1 if wrong or any(row.get("reason") for row in gone) else 0

    def _tell(
        self,
        found: list[dict[str, Any]],
        gone: list[dict[str, Any]],
        seconds: float,
        stopped: bool,
        count: int,
    ) -> None:
        """Print one event of a batch, as a line or as progress."""
        if self.chosen.json:
            data: dict[str, Any] = {
                "product": str(self.product),
                "out": str(self.out),
                "seconds": round(seconds, 2),
                "works": found,
            }
            if gone or self.chosen.prune:
                data["pruned"] = gone
            if stopped:
                data["stopped"] = True
            print_json(data, self.chosen.watch)
            return
        for row in found:
            self._tell_work(row)
        for row in gone:
            kept = row.get("reason")
            print(
                f"{row['at']}: "
                f"{'kept, ' + kept if kept else 'to remove' if self.chosen.dry_run else 'removed'}"
            )
        counts = {state: sum(row["state"] == state for row in found) for state in _PAST}
        rows = [f"{many} {state}" for state, many in counts.items() if many]
        if stopped:
            rows.append(f"{count - len(found)} not begun or given up")
        print(", ".join(rows or ["nothing to do"]) + ".", flush=True)

    def _tell_work(self, row: dict[str, Any]) -> None:
        if row["state"] == "failed":
            place = "" if row["place"] == row["file"] else f" {row['place']}:"
            say(f"{row['file']}:{place} {row['reason']}")
        elif row["state"] == "written":
            print(f"{row['at']}: written, {row['seconds']:.1f} s")
        else:
            print(f"{row['at']}: {row['state']}")
        for words in row.get("budget") or []:
            say(f"{row['file']}: {words}")

    def prune(self, items: list[Item]) -> list[dict[str, Any]]:
        """Remove what was written of effects that are no longer given; return each, and why one is kept."""
        from ..files.hand_over.notes import left_over, prune

        found = []
        for name in left_over(items, self.product, self.out):
            kept = "" if self.chosen.dry_run else prune(name, self.product, self.out)
            found.append({"at": str(self.out / name), **({"reason": kept} if kept else {})})
        return found

    def report(self, items: list[Item]) -> int:
        """Say of all works of a batch what their notes say; return 0 if all are done and within their
        budgets.
        """
        from ..files.hand_over.notes import report

        rows = report(items, self.product, self.out)
        if self.chosen.json:
            print_json({"product": str(self.product), "out": str(self.out), "works": rows}, False)
        else:
            for row in rows:
                if row["state"] != "done":
                    print(f"{row['at']}: {row['state']}" + (f", {row['reason']}" if "reason" in row else ""))
            counts = {
                state: sum(row["state"] == state for row in rows)
                for state in ("done", "changed", "failed", "missing")
            }
            print(", ".join(f"{many} {state}" for state, many in counts.items() if many) + ".", flush=True)
        return 0 if all(row["state"] == "done" and not row.get("budget") for row in rows) else 1

    def watching(self, folders: list[str]) -> None:
        """Say which folders are watched."""
        self.is_watching = True
        if self.chosen.json:
            print_json({"watching": folders}, True)
        else:
            print(f"Watching {', '.join(folders)}; Ctrl+C ends it.", flush=True)

    def wrong(self, wrong: EffectError) -> None:
        """Say what kept a batch from being begun."""
        if self.chosen.json:
            print_json({"place": wrong.place, "reason": wrong.reason}, True)
        else:
            say(str(wrong))


class _Progress:
    """A line of progress with the time that is left, where somebody looks on."""

    def __init__(self, count: int, shown: bool) -> None:
        self._bar: Any = None
        self._shares = [0.0] * count
        if shown and count:
            from rich.console import Console
            from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

            columns = (
                TextColumn("{task.description}"),
                BarColumn(),
                MofNCompleteColumn(),
                TimeRemainingColumn(),
            )
            self._bar = Progress(*columns, console=Console(stderr=True), transient=True)
            self._count = self._bar.add_task("Handing over", total=count)

    def __enter__(self) -> _Progress:
        if self._bar is not None:
            self._bar.start()
        return self

    def __exit__(self, *_: object) -> None:
        if self._bar is not None:
            self._bar.stop()

    def heard(self, number: int, share: float) -> None:
        """Take note of how far a work is."""
        self._shares[number] = share
        if self._bar is not None:
            self._bar.update(self._count, completed=sum(self._shares))
