"""Commands of the menus Time and Life strip."""

from __future__ import annotations

from functools import partial

from ...session.session import SPEEDS
from .. import editing
from ..commands import Command
from ..workplace import Workplace
from .questions import is_layer_there


def _faster(w: Workplace, by: int) -> None:
    at = SPEEDS.index(w.session.speed) + by
    w.session.set_speed(SPEEDS[min(max(at, 0), len(SPEEDS) - 1)])


def _show_axis(w: Workplace, axis: str) -> None:
    w.strip.show_axis(axis)


def _shows_axis(w: Workplace, axis: str) -> bool:
    return w.strip.axis_name == axis


TIME = (
    Command(
        "play",
        "Time",
        "Play or pause",
        "Space",
        "Play or pause",
        lambda w: w.session.play(not w.session.playing),
        icon="play",
    ),
    Command(
        "restart",
        "Time",
        "Restart",
        "Home",
        "Go back to time 0",
        lambda w: w.session.seek(0.0),
        icon="restart",
    ),
    Command(
        "step_back",
        "Time",
        "One step back",
        ",",
        "Pause and go one step back",
        lambda w: w.session.step(-1),
        icon="back",
    ),
    Command(
        "step",
        "Time",
        "One step on",
        ".",
        "Pause and go one step on",
        lambda w: w.session.step(1),
        icon="step",
    ),
    Command("slower", "Time", "Slower", "[", "Play at half the speed", lambda w: _faster(w, -1)),
    Command("faster", "Time", "Faster", "]", "Play at twice the speed", lambda w: _faster(w, 1)),
    Command(
        "loop",
        "Time",
        "Loop",
        "L",
        "Start over when the effect's duration has passed",
        lambda w: w.session.edit("loop", not w.session.effect.loop, "Change loop"),
        checked=lambda w: w.session.effect.loop,
        icon="loop",
    ),
    Command(
        "zoom_in",
        "Time",
        "Zoom in on the time",
        "Ctrl+= Ctrl++",
        "Show less of the time, about the playhead",
        lambda w: w.timeline.zoom(1.5),
    ),
    Command(
        "zoom_out",
        "Time",
        "Zoom out of the time",
        "Ctrl+-",
        "Show more of the time",
        lambda w: w.timeline.zoom(1 / 1.5),
    ),
    Command(
        "zoom_all",
        "Time",
        "Show the whole time",
        "Ctrl+0",
        "Show the effect's whole duration",
        lambda w: w.timeline.view.show_all(),
    ),
)
STRIP = (
    *(
        Command(
            f"axis_{axis}",
            "Life strip",
            f"Lanes along {'the ' * (axis == 'clock')}{axis}",
            f"Shift+{i + 1}",
            f"Show what goes by {words}",
            partial(_show_axis, axis=axis),
            checked=partial(_shows_axis, axis=axis),
        )
        for i, (axis, words) in enumerate(
            (
                ("life", "each particle's age"),
                ("clock", "the layer's clock"),
                ("speed", "each particle's speed"),
            )
        )
    ),
    Command(
        "dice",
        "Life strip",
        "Another particle",
        "D",
        "Show the life of another particle",
        lambda w: w.strip.film.roll(),
        is_layer_there,
        icon="dice",
    ),
    Command(
        "three",
        "Life strip",
        "Low, middle and high",
        "Shift+D",
        "Show low, middle and high together",
        lambda w: w.strip.film.set_three(not w.strip.film.three),
        is_layer_there,
        lambda w: w.strip.film.three,
        "three",
    ),
    Command(
        "lane",
        "Life strip",
        "Add a lane …",
        "Shift+A",
        "Add a lane from the list of all properties",
        editing.open_lane_list,
        is_layer_there,
        icon="plus",
    ),
    Command(
        "lane_menu",
        "Life strip",
        "The lane's menu",
        "M",
        "Eases, shapes and edits of the lane in focus",
        editing.open_menu_of_lane,
        is_layer_there,
    ),
    Command(
        "unfollow",
        "Life strip",
        "Follow no particle",
        "Shift+Esc",
        "Let the picked particle go",
        lambda w: w.session.pick(None),
    ),
)
