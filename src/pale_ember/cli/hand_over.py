"""The commands that hand effects over: export, bake, cache, profile."""

from __future__ import annotations

import argparse
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..effect.errors import EffectError, WrongUse, shown
from . import arguments
from .batch_output import BatchOutput
from .command import Command

if TYPE_CHECKING:
    from ..effect import Effect
    from ..files.profile import Profile

_CHANGES_REST_MS = 300
_LOOKS_MS = 1000


def _batch_arguments(parser: argparse.ArgumentParser) -> None:
    """Declare what all commands for many effects take."""
    parser.add_argument("files", nargs="+", metavar="FILE", help="effects, or folders of effects")
    parser.add_argument("--out", "-o", required=True, metavar="DIR", help="the folder that all goes into")
    parser.add_argument(
        "--name",
        default="{folder}/{name}",
        metavar="PATTERN",
        help="what each is called there: {name} of its file, {folder} below the one given ({folder}/{name})",
    )
    parser.add_argument("--profile", metavar="TOML", help="what the game wants; see the command profile")
    parser.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="FIELD=VALUE",
        dest="fields",
        help="one field of the profile, such as sheet.columns=4; again for more",
    )
    parser.add_argument(
        "--json",
        action="store_true",
        help="say what became of each as JSON; with --watch one line of JSON each time",
    )
    parser.add_argument("--watch", action="store_true", help="stay, and write anew whatever changes")
    parser.add_argument(
        "--jobs",
        type=arguments.processes,
        default=0,
        metavar="N",
        help="processes at most (as many as there are cores)",
    )
    parser.add_argument(
        "--shard",
        type=arguments.part_of_batch,
        default=(1, 1),
        metavar="I/N",
        help="only part I of N, for one of N machines",
    )
    parser.add_argument("--anew", action="store_true", help="write also what is as it was")
    parser.add_argument(
        "--dry-run",
        action="store_true",
        help="write nothing; say what would be written, and with --prune removed",
    )
    parser.add_argument(
        "--prune",
        action="store_true",
        help="remove what was written here of effects that are no longer given, if nobody changed it",
    )
    parser.add_argument(
        "--report",
        action="store_true",
        help="write nothing; say of all parts of the batch together what is done, failed and missing",
    )
    parser.add_argument(
        "--any-picture", action="store_true", help="read files outside an effect's folder too"
    )


def _export_arguments(parser: argparse.ArgumentParser) -> None:
    _batch_arguments(parser)
    parser.add_argument(
        "--texture",
        action="append",
        default=[],
        metavar="NAME=FORM",
        help="how one texture is stored, such as flame=bc7 or puff/normals=bc5; again for more",
    )


def _bake_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--as", dest="product", choices=("sheet", "frames", "film"), default="sheet", help="what (sheet)"
    )
    _batch_arguments(parser)


def _profile_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--check", metavar="TOML", help="say instead whether a profile is right")


def run_batch(chosen: argparse.Namespace) -> int:
    """Hand effects over; return the exit status: 0 good, 1 if something is wrong with one or over its
    budget.
    """
    from ..files.hand_over.batch import found_items, refuse_overlaps, shard
    from ..files.hand_over.works import Product

    product = Product({"export": "bundle", "cache": "cache"}.get(chosen.command) or chosen.product)
    profile = _profile(chosen)
    out = Path(chosen.out)
    if out.exists() and not out.is_dir():
        raise WrongUse(chosen.out, "there is a file of this name; choose a folder.")
    output = BatchOutput(product, out, chosen)

    def once() -> int:
        every = found_items(chosen.files, out, chosen.name)
        refuse_overlaps(every, product, profile)
        if chosen.report:
            return output.report(every)
        gone = output.prune(every) if chosen.prune else []
        return output.run(shard(every, *chosen.shard), profile, gone)

    _refuse_unknown_textures(chosen, out)
    status = once()
    return _watch(chosen, out, once, output) if chosen.watch else status


def _refuse_unknown_textures(chosen: argparse.Namespace, out: Path) -> None:
    """Refuse forms for textures that no effect of the batch has."""
    from ..effect import load_effect
    from ..files.hand_over.batch import found_items

    asked = {
        field.rpartition("=")[0].removesuffix("/normals").removesuffix("/motion")
        for field in getattr(chosen, "texture", [])
    }
    for item in found_items(chosen.files, out, chosen.name) if asked else ():
        try:
            asked -= {texture.name for texture in load_effect(item.file).textures}
        except EffectError:
            return  # it is told when its turn comes
        if not asked:
            return
    if asked:
        raise WrongUse("--texture", f"no effect here has a texture called “{shown(min(asked), 60)[1:-1]}”.")


def _profile(chosen: argparse.Namespace) -> Profile:
    """Print, check or write a profile."""
    from ..effect.rules.edit import edited
    from ..files.profile import Profile, load_profile

    try:
        profile = load_profile(chosen.profile) if chosen.profile else Profile()
        for field in chosen.fields:
            path, equals, value = field.partition("=")
            if not equals:
                raise WrongUse("--set", f"“{field[:60]}” names no value; write it as sheet.columns=4.")
            profile = edited(profile, path.strip(), _value(value.strip()))
        for field in getattr(chosen, "texture", []):
            name, equals, form = field.rpartition("=")
            if not equals:
                raise WrongUse("--texture", f"“{field[:60]}” names no form; write it as flame=bc7.")
            profile = edited(profile, "textures", {**profile.textures, name: form})
        return profile
    except EffectError as wrong:
        raise WrongUse(wrong.place, wrong.reason) from None


def _value(text: str) -> Any:
    if text in ("true", "false"):
        return text == "true"
    for kind in (int, float):
        try:
            return kind(text)
        except ValueError:
            continue
    return text


def _watched(chosen: argparse.Namespace, out: Path) -> list[str]:
    """Return the folders of all that a batch reads."""
    from ..effect import load_effect
    from ..files.hand_over.batch import effect_files, found_items

    found = {
        Path(one).resolve() if Path(one).is_dir() else Path(one).resolve().parent for one in chosen.files
    }
    if chosen.profile:
        found.add(Path(chosen.profile).resolve().parent)
    for item in found_items(chosen.files, out, chosen.name):
        try:
            found |= {Path(file).resolve().parent for file in effect_files(load_effect(item.file))}
        except EffectError:
            continue  # it was told already, and will be looked at again when it changes
    return sorted(str(folder) for folder in found if folder.is_dir())


def _watch(chosen: argparse.Namespace, out: Path, once: Callable[[], int], output: BatchOutput) -> int:
    """Do it again whenever a file of the effects' folders changes, until somebody stops it."""
    from watchfiles import watch

    whole = out.resolve()
    folders = _watched(chosen, out)

    def matters(change: object, path: str) -> bool:
        at = Path(path)
        return not at.is_relative_to(whole) and not at.name.startswith(".")

    output.watching(folders)
    changes = watch(
        *folders,
        watch_filter=matters,
        debounce=_CHANGES_REST_MS,
        raise_interrupt=True,
        yield_on_timeout=True,
        rust_timeout=_LOOKS_MS,
    )
    next(changes)
    # Files that changed before the watch began.
    _again(once, output)
    for seen in changes:
        if seen:
            _again(once, output)
    return 0


def _again(once: Callable[[], int], output: BatchOutput) -> None:
    try:
        once()
    except EffectError as wrong:
        output.wrong(wrong)


def bundled(file: str) -> tuple[Effect, list[EffectError]] | None:
    """Return the effect of a bundle, and which of its files are not as they were written; None for what is no
    bundle.

    Raises
    ------
    EffectError
        If the bundle can't be read.
    """
    from ..effect.storing.whole_files import shown_path
    from ..files.bundle.reading import ADDED, added_to_zip, is_bundle, load_bundle, unpacked, wrong_files

    if not is_bundle(file) and not Path(file).is_dir():
        return None
    with tempfile.TemporaryDirectory(prefix="pale-ember-") as keep:
        folder = unpacked(file, keep)
        try:
            wrong = wrong_files(folder)
            if Path(file).suffix.lower() == ".zip":
                wrong |= dict.fromkeys(added_to_zip(file), ADDED)
            return load_bundle(folder), [
                EffectError(shown_path(name), words) for name, words in wrong.items()
            ]
        except EffectError as wrong_one:
            # Where it was unpacked for the moment is nobody's business.
            raise EffectError(
                *(
                    words.replace(f"{folder}/", "").replace(str(folder), file)
                    for words in (wrong_one.place, wrong_one.reason)
                )
            ) from None


def run_profile(chosen: argparse.Namespace) -> int:
    """Print a profile to start from, or say whether one is right."""
    from ..files.profile import load_profile, start_text

    if chosen.check:
        load_profile(chosen.check)
        print(f"{chosen.check} is whole.")
        return 0
    sys.stdout.write(start_text())
    return 0


COMMANDS = (
    Command(
        "export",
        "write effects as bundles for a game: settings, textures, meshes, tables, a page, a player",
        _export_arguments,
        run_batch,
    ),
    Command("bake", "write effects as pictures: a sheet, frames, a film", _bake_arguments, run_batch),
    Command(
        "cache", "write all particles of effects at all moments, as numbers", _batch_arguments, run_batch
    ),
    Command(
        "profile",
        "print a profile to start from, with all fields and what they mean",
        _profile_arguments,
        run_profile,
    ),
)
