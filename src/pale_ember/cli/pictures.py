"""The commands that draw without a window: render, filmstrip, bake-textures."""

from __future__ import annotations

import argparse
import os
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..effect.kinds import Backdrop
from . import arguments
from .command import Command
from .output import GOOD, PROBLEMS, print_json, printable, say, say_findings

if TYPE_CHECKING:
    from ..effect import Effect


def _render_arguments(parser: argparse.ArgumentParser) -> None:
    """Declare what ``render`` takes."""
    parser.add_argument("file")
    parser.add_argument("--time", type=arguments.seconds, default=1.0, metavar="T", help="seconds (1)")
    parser.add_argument(
        "--size", type=arguments.size, default=(960, 600), metavar="WxH", help="pixels (960x600)"
    )
    parser.add_argument(
        "--backdrop",
        type=arguments.backdrop,
        choices=[str(one) for one in Backdrop],
        help="instead of the file's",
    )
    parser.add_argument(
        "--clear", action="store_true", help="draw the effect on nothing, with an alpha channel"
    )
    parser.add_argument("--no-grid", action="store_true", help="leave the floor's grid out")
    parser.add_argument("-o", "--output", required=True, metavar="PNG")
    parser.add_argument(
        "--any-picture", action="store_true", help="read textures outside the effect's folder too"
    )


def _filmstrip_arguments(parser: argparse.ArgumentParser) -> None:
    """Declare what ``filmstrip`` takes."""
    parser.add_argument("file")
    parser.add_argument("--layer", default="", metavar="LAYER", help="name or id (the first)")
    parser.add_argument(
        "--particle",
        type=arguments.particle,
        default=0,
        metavar="N",
        help="which, counted by birth from 0 (0)",
    )
    parser.add_argument(
        "--frames", type=arguments.frames, default=16, metavar="N", help="how many pictures (16)"
    )
    parser.add_argument(
        "--size", type=arguments.size, default=(64, 64), metavar="WxH", help="of one picture, pixels (64x64)"
    )
    parser.add_argument(
        "--scale", type=float, default=None, metavar="S", help="pixels for a metre (what fits)"
    )
    parser.add_argument("-o", "--output", required=True, metavar="PNG")
    parser.add_argument(
        "--any-picture", action="store_true", help="read textures outside the effect's folder too"
    )


def _bake_textures_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("--out", required=True, metavar="DIR", help="the folder that they go into")
    parser.add_argument(
        "--size", type=arguments.side, metavar="N", help="pixels of a frame, instead of the build's own"
    )
    parser.add_argument("--json", action="store_true", help="say what was written as JSON")


def trusted_beside(file: str) -> Callable[[str], bool]:
    """Return the rule that pictures in an effect's own folder may be read."""

    from ..files.chosen_pictures import trusted_from

    return trusted_from(Path(os.path.abspath(file)).parent)


def _textures(effect: Effect, chosen: argparse.Namespace) -> tuple[dict[str, Any], int]:
    """Return an effect's textures, saying what is wrong with others, and the exit status."""
    from ..files.textures import textures_of

    trusted = (lambda path: True) if chosen.any_picture else trusted_beside(chosen.file)
    found, wrongs = textures_of(effect, trusted)
    for wrong in wrongs:
        say(f"{chosen.file}: {wrong}")
    return found, PROBLEMS if wrongs else GOOD


def _render(chosen: argparse.Namespace) -> int:
    """Write a picture of an effect."""
    from ..effect import load_effect
    from ..files.pictures import render_file
    from ..files.textures import picture_files

    effect = load_effect(chosen.file)
    status = say_findings(effect, chosen.file)
    backdrop = Backdrop(chosen.backdrop) if chosen.backdrop else None
    textures, worse = _textures(effect, chosen)
    render_file(
        effect,
        chosen.time,
        chosen.size,
        chosen.output,
        backdrop,
        not chosen.no_grid,
        chosen.clear,
        (chosen.file, *picture_files(effect)),
        textures,
    )
    return max(status, worse)


def _filmstrip(chosen: argparse.Namespace) -> int:
    """Write the film strip of a particle."""
    from ..effect import EffectError, load_effect
    from ..files.pictures import filmstrip_file
    from ..files.textures import picture_files

    if chosen.scale is not None and not 0.001 <= chosen.scale <= 1e6:
        raise EffectError(
            "scale", f"{chosen.scale:g} pixels for a metre can't be drawn; give 0.001 to 1000000."
        )
    effect = load_effect(chosen.file)
    status = say_findings(effect, chosen.file)
    textures, worse = _textures(effect, chosen)
    filmstrip_file(
        effect,
        chosen.layer,
        chosen.output,
        particle=chosen.particle,
        frames=chosen.frames,
        size=chosen.size,
        scale=chosen.scale,
        inputs=(chosen.file, *picture_files(effect)),
        textures=textures,
    )
    return max(status, worse)


def _bake_textures(chosen: argparse.Namespace) -> int:
    """Write an effect's textures as files."""
    from ..effect import load_effect
    from ..files.baked_textures import bake_textures

    rows = bake_textures(load_effect(chosen.file), chosen.out, chosen.size, trusted_beside(chosen.file))
    if chosen.json:
        print_json({"file": str(chosen.file), "out": str(chosen.out), "textures": rows})
        return GOOD
    for row in rows:
        sheet = (
            f"{row['columns']} × {row['rows']}, {row['frames']} frames" if row["frames"] > 1 else "one frame"
        )
        reach = f", reach {row['reach']:g}" if "reach" in row else ""
        print(
            printable(
                f"{row['file']}: {row['kind']} of {row['texture']}, {sheet} of {row['size']} pixels{reach}"
            )
        )
    if not rows:
        print("No texture of this effect is made by a build.")
    return GOOD


COMMANDS = (
    Command("render", "draw one moment into a PNG, without a window", _render_arguments, _render),
    Command(
        "filmstrip", "draw one particle's life into a PNG, without a window", _filmstrip_arguments, _filmstrip
    ),
    Command(
        "bake-textures",
        "write the textures that builds make as PNG files",
        _bake_textures_arguments,
        _bake_textures,
    ),
)
