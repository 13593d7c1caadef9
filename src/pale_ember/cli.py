"""The command line: the window, and what works without one."""

from __future__ import annotations

import argparse
import contextlib
import io
import json
import logging
import os
import signal
import sys
import threading
import warnings
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from . import VERSION, early_stop
from . import cli_words as words
from .cli_hand_over import NAMES as HAND_OVER
from .cli_hand_over import add_commands, bundled, run_batch, run_profile
from .demo import NAMES
from .effect.kinds import Backdrop

if TYPE_CHECKING:
    from .effect import Effect

GOOD, PROBLEMS, WRONG_USE = 0, 1, 2
COMMANDS = ("demo", "render", "filmstrip", "stats", "check", "bake-textures", *HAND_OVER, "bench", "schema", "reference")


def parser() -> argparse.ArgumentParser:
    """Return the command line's parser."""
    top = argparse.ArgumentParser(
        prog="pale-ember",
        description="Build and tune layered 3D particle effects. Without a command it opens FILE, or a blank effect.",
    )
    top.add_argument("--version", action="version", version=f"pale-ember {VERSION}")
    commands = top.add_subparsers(dest="command", metavar="COMMAND")

    window = commands.add_parser("open", help="open a file in the window")
    window.add_argument("file", nargs="?", help="an .ember file")
    demo = commands.add_parser("demo", help="open the window on the Saltglass Kiln")
    demo.add_argument("name", nargs="?", choices=NAMES, default=NAMES[0], help=f"which: {', '.join(NAMES)} (the first)")
    for command in (window, demo):
        command.add_argument("--shot", metavar="PNG", help="save a picture of the whole window and end")
        command.add_argument("--size", type=words.size, default=(1280, 800), metavar="WxH", help="the window's size")
        command.add_argument("--at", type=words.seconds, default=None, metavar="SECONDS", help="the moment to show")
        command.add_argument("--select", metavar="LAYER", help="the layer to select, by name or id")
        command.add_argument("--until", choices=("frame", "particles"), default="", help=argparse.SUPPRESS)

    render = commands.add_parser("render", help="draw one moment into a PNG, without a window")
    render.add_argument("file")
    render.add_argument("--time", type=words.seconds, default=1.0, metavar="T", help="seconds (1)")
    render.add_argument("--size", type=words.size, default=(960, 600), metavar="WxH", help="pixels (960x600)")
    render.add_argument("--backdrop", type=words.backdrop, choices=[str(one) for one in Backdrop], help="instead of the file's")
    render.add_argument("--clear", action="store_true", help="draw the effect on nothing, with an alpha channel")
    render.add_argument("--no-grid", action="store_true", help="leave the floor's grid out")
    render.add_argument("-o", "--output", required=True, metavar="PNG")

    render.add_argument("--any-picture", action="store_true", help="read textures outside the effect's folder too")
    baked = commands.add_parser("bake-textures", help="write the textures that builds make as PNG files")
    baked.add_argument("file")
    baked.add_argument("--out", required=True, metavar="DIR", help="the folder that they go into")
    baked.add_argument("--size", type=words.side, metavar="N", help="pixels of a frame, instead of the build's own")
    baked.add_argument("--json", action="store_true", help="say what was written as JSON")
    strip = commands.add_parser("filmstrip", help="draw one particle's life into a PNG, without a window")
    strip.add_argument("file")
    strip.add_argument("--layer", default="", metavar="LAYER", help="name or id (the first)")
    strip.add_argument("--particle", type=words.particle, default=0, metavar="N", help="which, counted by birth from 0 (0)")
    strip.add_argument("--frames", type=words.frames, default=16, metavar="N", help="how many pictures (16)")
    strip.add_argument("--size", type=words.size, default=(64, 64), metavar="WxH", help="of one picture, pixels (64x64)")
    strip.add_argument("--scale", type=float, default=None, metavar="S", help="pixels for a metre (what fits)")
    strip.add_argument("-o", "--output", required=True, metavar="PNG")
    strip.add_argument("--any-picture", action="store_true", help="read textures outside the effect's folder too")

    stats = commands.add_parser("stats", help="count births, deaths and the most alive, layer by layer")
    stats.add_argument("file")
    stats.add_argument("--until", type=words.seconds, default=None, metavar="T", help="seconds (the effect's duration)")
    stats.add_argument("--json", action="store_true", help="print figures as JSON")

    check = commands.add_parser("check", help="say whether files are whole effects, or bundles as they were written, and what is wrong if not")
    check.add_argument("files", nargs="+", metavar="FILE", help="effects; bundles: their folders, bundle.json or .zip")
    check.add_argument("--json", action="store_true", help="print findings as JSON")

    add_commands(commands)
    bench = commands.add_parser("bench", help="measure speed, as ratios within this run")
    bench.add_argument("only", nargs="?", choices=("contact", "shapes", "hand-over"), help="measure this alone")
    bench.add_argument("--json", action="store_true", help="print figures as JSON")
    bench.add_argument("--start", action="store_true", help="measure the start of the window too (needs a display)")

    commands.add_parser("schema", help="print the JSON Schema of effect files")
    commands.add_parser("reference", help="print the reference page of all fields")
    return top


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; return the exit status: 0 good, 1 problems found, 2 wrong use."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if not given or (given[0] not in (*COMMANDS, "open") and not given[0].startswith("-")):
        given.insert(0, "open")
    try:
        # From here on a stop is an exception; nothing is imported before.
        _speak_safely()
        return _run(given)
    except KeyboardInterrupt:
        return _end("stopped.", 128 + signal.SIGINT)
    except _Terminated:
        return _end("stopped.", 128 + signal.SIGTERM)


def _run(given: list[str]) -> int:
    """Run a command line; return the exit status. What is wrong is said."""
    chosen = parser().parse_args(given)
    from .effect.errors import EffectError, WrongUse

    try:
        early_stop.over()
        status = _RUNNERS[chosen.command](chosen)
        sys.stdout.flush()
        return status
    except WrongUse as wrong:
        return _end(str(wrong), WRONG_USE)
    except EffectError as wrong:
        return _end(str(wrong), PROBLEMS)
    except MemoryError:
        return _end("there is not enough memory for this; lower the caps of the layers, or take a smaller picture.", PROBLEMS)
    except BrokenPipeError:
        # Whoever read along has gone; nothing is left to say.
        _silence()
        return PROBLEMS
    except OSError as wrong:
        _silence()
        return _end(f"what was found can't be written: {(wrong.strerror or str(wrong)).lower()}.", PROBLEMS)


class _Terminated(BaseException):
    """SIGTERM, where no window has its own answer to it."""


def _terminate(number: int, frame: object) -> None:
    raise _Terminated


def _speak_safely() -> None:
    """Let what a terminal can't show be written as escapes, and SIGTERM end a command by a sentence.

    What libraries warn of is for programmers; what matters here is in sentences.
    """
    warnings.simplefilter("ignore")
    logging.disable(logging.WARNING)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGTERM, _terminate)
        early_stop.keep({_Terminated: signal.SIGTERM, KeyboardInterrupt: signal.SIGINT})


def _silence() -> None:
    """Point standard output at nothing, so that the interpreter's end doesn't stumble over it again."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _end(said: str, status: int) -> int:
    with contextlib.suppress(OSError):
        print(f"pale-ember: {printable(said)}", file=sys.stderr)
    return status


def _say(said: str) -> None:
    _end(said, PROBLEMS)


def printable(said: str) -> str:
    """Return a text without what could steer a terminal."""
    return "".join(c if c.isprintable() or c == "\n" else "?" for c in said)


def _tell_findings(effect: Effect, chosen: argparse.Namespace) -> int:
    """Say what keeps an effect from being simulated as it is meant; return the exit status."""
    from .checks import findings

    found = findings(effect)
    for wrong in found:
        _end(f"{chosen.file}: {wrong}", PROBLEMS)
    return PROBLEMS if any("heavy" not in wrong.reason for wrong in found) else GOOD


def _open(chosen: argparse.Namespace) -> int:
    from . import first_start

    first_start.begin()
    from .app.window.launch import launch

    file = chosen.file if chosen.command == "open" else None
    return launch(
        file, demo=chosen.name if chosen.command == "demo" else "", shot=chosen.shot, size=chosen.size, at=chosen.at,
        select=chosen.select, until=chosen.until,
    )  # fmt: skip


def _render(chosen: argparse.Namespace) -> int:
    from .effect import load_effect
    from .files.pictures import render_file
    from .files.textures import picture_files

    effect = load_effect(chosen.file)
    status = _tell_findings(effect, chosen)
    backdrop = Backdrop(chosen.backdrop) if chosen.backdrop else None
    textures, worse = _textures(effect, chosen)
    render_file(
        effect, chosen.time, chosen.size, chosen.output, backdrop, not chosen.no_grid, chosen.clear,
        (chosen.file, *picture_files(effect)), textures,
    )  # fmt: skip
    return max(status, worse)


def _textures(effect: Effect, chosen: argparse.Namespace) -> tuple[dict[str, Any], int]:
    """Return an effect's textures, saying what is wrong with others, and the exit status."""
    from .files.textures import textures_of

    trusted = (lambda path: True) if chosen.any_picture else _trusted_beside(chosen.file)
    found, wrongs = textures_of(effect, trusted)
    for wrong in wrongs:
        _end(f"{chosen.file}: {wrong}", PROBLEMS)
    return found, PROBLEMS if wrongs else GOOD


def _filmstrip(chosen: argparse.Namespace) -> int:
    from .effect import EffectError, load_effect
    from .files.pictures import filmstrip_file
    from .files.textures import picture_files

    if chosen.scale is not None and not 0.001 <= chosen.scale <= 1e6:
        raise EffectError("scale", f"{chosen.scale:g} pixels for a metre can't be drawn; give 0.001 to 1000000.")
    effect = load_effect(chosen.file)
    status = _tell_findings(effect, chosen)
    textures, worse = _textures(effect, chosen)
    filmstrip_file(
        effect, chosen.layer, chosen.output, particle=chosen.particle, frames=chosen.frames,
        size=chosen.size, scale=chosen.scale, inputs=(chosen.file, *picture_files(effect)), textures=textures,
    )  # fmt: skip
    return max(status, worse)


def _trusted_beside(file: str) -> Callable[[str], bool]:
    """Return the rule that pictures in an effect's own folder may be read."""
    from pathlib import Path

    from .files.chosen_pictures import trusted_from

    return trusted_from(Path(os.path.abspath(file)).parent)


def _bake_textures(chosen: argparse.Namespace) -> int:
    from .effect import load_effect
    from .files.baked_textures import bake_textures

    rows = bake_textures(load_effect(chosen.file), chosen.out, chosen.size, _trusted_beside(chosen.file))
    if chosen.json:
        _print_json({"file": str(chosen.file), "out": str(chosen.out), "textures": rows})
        return GOOD
    for row in rows:
        sheet = f"{row['columns']} × {row['rows']}, {row['frames']} frames" if row["frames"] > 1 else "one frame"
        reach = f", reach {row['reach']:g}" if "reach" in row else ""
        print(printable(f"{row['file']}: {row['kind']} of {row['texture']}, {sheet} of {row['size']} pixels{reach}"))
    if not rows:
        print("No texture of this effect is made by a build.")
    return GOOD


def _stats(chosen: argparse.Namespace) -> int:
    from .effect import load_effect
    from .files.figures import stats

    effect = load_effect(chosen.file)
    status = _tell_findings(effect, chosen)
    until = effect.duration if chosen.until is None else chosen.until
    rows = stats(effect, until)
    if chosen.json:
        _print_json({"file": str(chosen.file), "until": until, "layers": rows})
        return status
    print(printable(f"{effect.name}, until {until:g} s"))
    print(f"{'layer':24}{'born':>9}{'died':>9}{'hits':>7}{'refused':>9}{'alive':>8}{'peak':>8}  bounds m")
    for row in rows:
        low, high = row["bounds"] or ([], [])
        box = " ".join(f"{a:.2f}…{b:.2f}" for a, b in zip(low, high, strict=True)) or "none"
        figures = f"{row['born']:9}{row['died']:9}{row['hits']:7}{row['refused']:9}{row['alive']:8}{row['peak']:8}"
        print(f"{printable(row['name'])[:23]:24}{figures}  {box}")
    return status


def _check(chosen: argparse.Namespace) -> int:
    from .checks import findings
    from .effect import EffectError, load_effect

    found: list[dict[str, str]] = []
    for file in chosen.files:
        try:
            effect, wrong_files = bundled(file) or (load_effect(file), [])
            problems = wrong_files + findings(effect) + _texture_problems(effect, file)
        except EffectError as wrong:
            problems = [wrong]
        except MemoryError:
            problems = [EffectError("file", "there is not enough memory to read it.")]
        found += [{"file": file, "place": wrong.place, "reason": wrong.reason} for wrong in problems]
    if chosen.json:
        _print_json({"problems": found})
    else:
        for row in found:
            place = "" if row["place"] == row["file"] else f" {row['place']}:"
            print(printable(f"{row['file']}:{place} {row['reason']}"))
        if not found:
            print(f"{len(chosen.files)} of {len(chosen.files)} files are whole.")
    return PROBLEMS if found else GOOD


def _texture_problems(effect: Effect, file: str) -> list[Any]:
    """Return what is wrong with an effect's textures, used or not."""

    from .files.textures import problems_of

    return problems_of(effect, _trusted_beside(file))


def _bench(chosen: argparse.Namespace) -> int:
    from .bench import report, report_contact, report_shapes
    from .bench_hand_over import measure_hand_over

    if chosen.start:
        from .app.window.launch import display_problem

        if problem := display_problem():
            return _end(problem, PROBLEMS)
    tell = (lambda line: None) if chosen.json else print
    parts: dict[str, Callable[..., Any]] = {"contact": report_contact, "shapes": report_shapes, "hand-over": measure_hand_over}
    figures: Any = parts[chosen.only](tell) if chosen.only else report(with_start=chosen.start, say=None if chosen.json else print)
    if chosen.json:
        _print_json(figures)
    return GOOD


def _schema(chosen: argparse.Namespace) -> int:
    from .effect.schema import effect_schema

    _print_json(effect_schema())
    return GOOD


def _reference(chosen: argparse.Namespace) -> int:
    from .effect.reference import reference_page

    sys.stdout.write(reference_page())
    return GOOD


def _print_json(data: Any, in_a_line: bool = False) -> None:
    # Names may hold what steers a terminal; in JSON all but plain letters are escapes where need be.
    unicode = (sys.stdout.encoding or "").lower().replace("-", "") == "utf8"
    text = json.dumps(data, indent=None if in_a_line else 2, ensure_ascii=not unicode)
    print("".join(c if c.isprintable() or c == "\n" else f"\\u{ord(c):04x}" for c in text), flush=in_a_line)


_RUNNERS = {
    "open": _open,
    "demo": _open,
    "render": _render,
    "filmstrip": _filmstrip,
    "bake-textures": _bake_textures,
    "stats": _stats,
    "check": _check,
    **dict.fromkeys(("export", "bake", "cache"), lambda chosen: run_batch(chosen, _say, _print_json)),
    "profile": lambda chosen: run_profile(chosen, _say),
    "bench": _bench,
    "schema": _schema,
    "reference": _reference,
}

if __name__ == "__main__":
    sys.exit(main())
