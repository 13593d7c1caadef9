"""The commands that open the window: open, demo."""

from __future__ import annotations

import argparse

from ..demo import NAMES
from . import arguments
from .command import Command


def _window_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--shot", metavar="PNG", help="save a picture of the whole window and end")
    parser.add_argument(
        "--size", type=arguments.size, default=(1280, 800), metavar="WxH", help="the window's size"
    )
    parser.add_argument(
        "--at", type=arguments.seconds, default=None, metavar="SECONDS", help="the moment to show"
    )
    parser.add_argument("--select", metavar="LAYER", help="the layer to select, by name or id")
    parser.add_argument("--until", choices=("frame", "particles"), default="", help=argparse.SUPPRESS)


def _open_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", nargs="?", help="an .ember file")
    _window_arguments(parser)


def _demo_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "name", nargs="?", choices=NAMES, default=NAMES[0], help=f"which: {', '.join(NAMES)} (the first)"
    )
    _window_arguments(parser)


def _open(chosen: argparse.Namespace) -> int:
    """Open the window."""
    from .. import first_start

    first_start.begin()
    from ..app.window.launch import launch

    file = chosen.file if chosen.command == "open" else None
    return launch(
        file,
        demo=chosen.name if chosen.command == "demo" else "",
        shot=chosen.shot,
        size=chosen.size,
        at=chosen.at,
        select=chosen.select,
        until=chosen.until,
    )


COMMANDS = (
    Command("open", "open a file in the window", _open_arguments, _open),
    Command("demo", "open the window on the Saltglass Kiln", _demo_arguments, _open),
)
