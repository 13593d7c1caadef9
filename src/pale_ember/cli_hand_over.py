"""The commands that hand effects over: export, bake, cache, profile."""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .effect.errors import EffectError

if TYPE_CHECKING:
    from .effect import Effect
    from .files.hand_over.batch import Item
    from .files.hand_over.profile import Profile
    from .files.hand_over.works import Product

NAMES = ("export", "bake", "cache", "profile")
_CHANGES_REST_MS = 300


def _shard(text: str) -> tuple[int, int]:
    number, slash, count = text.partition("/")
    if not (slash and number.isdigit() and count.isdigit() and 1 <= int(number) <= int(count)):
        raise argparse.ArgumentTypeError(f"“{text}” is no part of a batch; write it as 2/8, from 1/8 to 8/8")
    return int(number), int(count)


def _jobs(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 256:
        raise argparse.ArgumentTypeError(f"“{text}” is no number of processes; give 1 to 256")
    return int(text)


def add_commands(commands: Any) -> None:
    """Add the commands to the command line's parser."""
    export = commands.add_parser("export", help="write effects as bundles for a game: settings, textures, meshes, tables, a page, a player")
    bake = commands.add_parser("bake", help="write effects as pictures: a sheet, frames, a film")
    bake.add_argument("--as", dest="product", choices=("sheet", "frames", "film"), default="sheet", help="what (sheet)")
    cache = commands.add_parser("cache", help="write all particles of effects at all moments, as numbers")
    for command in (export, bake, cache):
        command.add_argument("files", nargs="+", metavar="FILE", help="effects, or folders of effects")
        command.add_argument("--out", "-o", required=True, metavar="DIR", help="the folder that all goes into")
        command.add_argument("--name", default="{folder}/{name}", metavar="PATTERN", help="what each is called there: {name} of its file, {folder} below the one given ({folder}/{name})")
        command.add_argument("--profile", metavar="TOML", help="what the game wants; see the command profile")
        command.add_argument("--set", action="append", default=[], metavar="FIELD=VALUE", dest="fields", help="one field of the profile, such as sheet.columns=4; again for more")
        if command is export:
            command.add_argument("--texture", action="append", default=[], metavar="NAME=FORM", help="how one texture is stored, such as flame=bc7 or puff/normals=bc5; again for more")
        command.add_argument("--json", action="store_true", help="say what became of each as JSON")
        command.add_argument("--watch", action="store_true", help="stay, and write anew whatever changes")
        command.add_argument("--jobs", type=_jobs, default=0, metavar="N", help="processes at most (as many as there are cores)")
        command.add_argument("--shard", type=_shard, default=(1, 1), metavar="I/N", help="only part I of N, for one of N machines")
        command.add_argument("--anew", action="store_true", help="write also what is as it was")
        command.add_argument("--any-picture", action="store_true", help="read files outside an effect's folder too")
    profile = commands.add_parser("profile", help="print a profile to start from, with all fields and what they mean")
    profile.add_argument("--check", metavar="TOML", help="say instead whether a profile is right")


def run_batch(chosen: argparse.Namespace, say: Callable[[str], None], print_json: Callable[[Any], None]) -> int:
    """Hand effects over; return the exit status: 0 good, 1 if something is wrong with one or over its budget."""
    from .files.hand_over.batch import found_items, shard
    from .files.hand_over.works import Product

    product = Product({"export": "bundle", "cache": "cache"}.get(chosen.command) or chosen.product)
    profile = _profile(chosen)
    out = Path(chosen.out)
    if out.exists() and not out.is_dir():
        raise EffectError(chosen.out, "there is a file of this name; choose a folder.")

    def once() -> int:
        items = shard(found_items(chosen.files, out, chosen.name), *chosen.shard)
        return _once(items, out, product, profile, chosen, say, print_json)

    status = once()
    return _watch(chosen, out, once, say) if chosen.watch else status


def _profile(chosen: argparse.Namespace) -> Profile:
    from .effect.edit import edited
    from .files.hand_over.profile import Profile, load_profile

    profile = load_profile(chosen.profile) if chosen.profile else Profile()
    for field in chosen.fields:
        path, equals, value = field.partition("=")
        if not equals:
            raise EffectError("--set", f"“{field[:60]}” names no value; write it as sheet.columns=4.")
        profile = edited(profile, path.strip(), _value(value.strip()))
    for field in getattr(chosen, "texture", []):
        name, equals, form = field.rpartition("=")
        if not equals:
            raise EffectError("--texture", f"“{field[:60]}” names no form; write it as flame=bc7.")
        profile = edited(profile, "textures", {**profile.textures, name: form})
    return profile


def _value(text: str) -> Any:
    if text in ("true", "false"):
        return text == "true"
    for kind in (int, float):
        try:
            return kind(text)
        except ValueError:
            continue
    return text


def _once(
    items: list[Item], out: Path, product: Product, profile: Profile, chosen: argparse.Namespace, say: Callable[[str], None], print_json: Callable[[Any], None]
) -> int:
    from .files.hand_over.running import run_all

    begin = time.monotonic()
    with _Progress(len(items), sys.stderr.isatty() and not chosen.json) as progress:
        found = run_all(items, out, product, profile, progress.heard, chosen.jobs, chosen.any_picture, chosen.anew)
    wrong = [row for row in found if row["state"] == "failed" or row.get("budget")]
    if chosen.json:
        print_json({"product": str(product), "out": str(out), "seconds": round(time.monotonic() - begin, 2), "works": found})
    else:
        for row in found:
            if row["state"] == "failed":
                place = "" if row["place"] == row["file"] else f" {row['place']}:"
                say(f"{row['file']}:{place} {row['reason']}")
            else:
                print(_line(row))
            for words in row.get("budget") or []:
                say(f"{row['file']}: {words}")
        counts = {state: sum(row["state"] == state for row in found) for state in ("written", "unchanged", "failed")}
        print(", ".join(f"{count} {state}" for state, count in counts.items() if count) + ".", flush=True)
    return 1 if wrong else 0


def _line(row: dict[str, Any]) -> str:
    return f"{row['at']}: unchanged" if row["state"] == "unchanged" else f"{row['at']}: written, {row['seconds']:.1f} s"


class _Progress:
    """A line of progress with the time that is left, where somebody looks on."""

    def __init__(self, count: int, shown: bool) -> None:
        self._bar: Any = None
        self._shares = [0.0] * count
        if shown and count:
            from rich.console import Console
            from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

            columns = TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn(), TimeRemainingColumn()
            self._bar = Progress(*columns, console=Console(stderr=True), transient=True)
            self._count = self._bar.add_task("Handing over", total=count)

    def __enter__(self) -> _Progress:
        if self._bar is not None:
            self._bar.start()
        return self

    def __exit__(self, *_: object) -> None:
        if self._bar is not None:
            self._bar.stop()

    def heard(self, number: int, share: float, result: dict[str, Any] | None) -> None:
        """Take note of how far a work is."""
        self._shares[number] = share
        if self._bar is not None:
            self._bar.update(self._count, completed=sum(self._shares))


def _watched(chosen: argparse.Namespace, out: Path) -> list[str]:
    """Return the folders of all that a batch reads."""
    from .effect import load_effect
    from .files.hand_over.batch import effect_files, found_items

    found = {Path(one).resolve() if Path(one).is_dir() else Path(one).resolve().parent for one in chosen.files}
    if chosen.profile:
        found.add(Path(chosen.profile).resolve().parent)
    for item in found_items(chosen.files, out, chosen.name):
        try:
            found |= {Path(file).resolve().parent for file in effect_files(load_effect(item.file))}
        except EffectError:
            continue  # it was told already, and will be looked at again when it changes
    return sorted(str(folder) for folder in found if folder.is_dir())


def _watch(chosen: argparse.Namespace, out: Path, once: Callable[[], int], say: Callable[[str], None]) -> int:
    """Do it again whenever a file of the effects' folders changes, until somebody stops it."""
    from watchfiles import watch

    whole = out.resolve()
    folders = _watched(chosen, out)

    def matters(change: object, path: str) -> bool:
        at = Path(path)
        return not at.is_relative_to(whole) and not at.name.startswith(".")

    print(f"Watching {', '.join(folders)}; Ctrl+C ends it.", flush=True)
    for _ in watch(*folders, watch_filter=matters, debounce=_CHANGES_REST_MS, raise_interrupt=True):
        try:
            once()
        except EffectError as wrong:
            say(str(wrong))
    return 0


def bundled(file: str) -> tuple[Effect, list[EffectError]] | None:
    """Return the effect of a bundle, and which of its files are not as they were written; None for what is no bundle.

    Raises
    ------
    EffectError
        If the bundle can't be read.
    """
    from .files.bundle.reading import damaged, is_bundle, load_bundle, unpacked

    if not is_bundle(file):
        return None
    with tempfile.TemporaryDirectory(prefix="pale-ember-") as keep:
        folder = unpacked(file, keep)
        words = "this file is missing or not as it was written; take the bundle anew from where it came from."
        return load_bundle(folder), [EffectError(name, words) for name in damaged(folder)]


def run_profile(chosen: argparse.Namespace, say: Callable[[str], None]) -> int:
    """Print a profile to start from, or say whether one is right."""
    from .files.hand_over.profile import load_profile, start_text

    if chosen.check:
        load_profile(chosen.check)
        print(f"{chosen.check} is whole.")
        return 0
    sys.stdout.write(start_text())
    return 0
