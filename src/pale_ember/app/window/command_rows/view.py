"""Commands of the menus View and Chapter: panels, handles, what the stage shows."""

from __future__ import annotations

from functools import partial

from ....drawing.backdrops import BACKDROPS
from ...recipe.chapter_table import CHAPTERS
from .. import editing
from ..commands import Command
from ..workplace import Workplace
from .questions import is_layer_there


def _next_backdrop(w: Workplace) -> None:
    names = list(BACKDROPS)
    now = names.index(w.session.effect.stage.backdrop)
    w.session.edit("stage.backdrop", names[(now + 1) % len(names)], "Change backdrop")


def _toggle_axes(w: Workplace) -> None:
    session = w.session
    session.handle_axes = "world" if session.handle_axes == "layer" else "layer"
    session.shown_changed.emit()


def _fold(w: Workplace, name: str) -> None:
    w.panels.toggle_fold(name)


def _is_folded(w: Workplace, name: str) -> bool:
    return name in w.panels.folded


VIEW = (
    Command(
        "stage_alone",
        "View",
        "Stage alone",
        "T",
        "Leave the stage alone with a slim bar, or bring all panels back",
        lambda w: w.toggle_stage_alone(),
        checked=lambda w: w.panels.stage_alone,
        icon="stage",
    ),
    Command(
        "wide",
        "View",
        "Life strip at full width",
        "E",
        "Give the life strip all the room below",
        lambda w: w.panels.widen("strip"),
        checked=lambda w: w.panels.wide == "strip",
        icon="wide",
    ),
    Command(
        "wide_time",
        "View",
        "Timeline at full width",
        "Shift+E",
        "Give the timeline all the room below",
        lambda w: w.panels.widen("timeline"),
        checked=lambda w: w.panels.wide == "timeline",
        icon="wide",
    ),
    *(
        Command(
            f"fold_{name}",
            "View",
            f"Fold the {words}",
            f"Ctrl+Shift+{i + 1}",
            f"Fold the {words} to its title, or unfold it",
            partial(_fold, name=name),
            checked=partial(_is_folded, name=name),
        )
        for i, (name, words) in enumerate(
            (("recipe", "recipe"), ("timeline", "timeline"), ("strip", "life strip"))
        )
    ),
    Command(
        "frame",
        "View",
        "Frame selection",
        "F",
        "Bring the selected layer's particles into view",
        lambda w: w.stage.frame(),
        icon="frame",
    ),
    Command(
        "home_view",
        "View",
        "Go to the effect's camera",
        "Shift+F",
        "See the stage from the effect's own camera",
        lambda w: w.session.look_from(w.session.effect.stage.camera),
    ),
    Command(
        "keep_view",
        "View",
        "Keep this view",
        "Ctrl+Shift+F",
        "Make this view the effect's own camera, saved with it",
        lambda w: w.session.edit("stage.camera", w.session.camera, "Keep this view"),
    ),
    Command(
        "backdrop", "View", "Next backdrop", "B", "Put another backdrop behind the effect", _next_backdrop
    ),
    Command(
        "tracks",
        "View",
        "Where particles go",
        "R",
        "Draw the ways of some of the layer's particles over their whole lives",
        lambda w: w.stage.tracks.toggle(),
        is_layer_there,
        lambda w: w.stage.tracks.on,
        "tracks",
    ),
    Command(
        "grid",
        "View",
        "Floor grid",
        "G",
        "Show or hide the floor's grid of metres",
        lambda w: w.stage.toggle_grid(),
        checked=lambda w: w.stage.show_grid,
    ),
    Command(
        "wire",
        "View",
        "Birthplace lines",
        "W",
        "Show or hide the lines of the selected layer's birthplace",
        lambda w: w.stage.toggle_wire(),
        checked=lambda w: w.stage.show_wire,
    ),
    Command(
        "overdraw",
        "View",
        "Overdraw",
        "O",
        "Show how many layers of particles lie over each pixel, as heat",
        lambda w: w.stage.toggle_overdraw(),
        checked=lambda w: w.stage.show_overdraw,
    ),
    Command(
        "hits",
        "View",
        "Hits",
        "Shift+H",
        "Show where particles hit: a dot and the surface's direction for each hit of the last half second",
        lambda w: w.session.watch_hits(not w.session.watches_hits),
        checked=lambda w: w.session.watches_hits,
    ),
    Command(
        "figure",
        "View",
        "Person-sized figure",
        "Ctrl+Alt+F",
        "Let a figure 1.75 m tall stand on the stage, or no longer",
        lambda w: w.session.edit("stage.figure", not w.session.effect.stage.figure, "Change figure"),
        checked=lambda w: w.session.effect.stage.figure,
    ),
    Command(
        "prop",
        "View",
        "Add a prop",
        "Ctrl+Alt+P",
        "Put a box, ball, cylinder or mesh on the stage",
        lambda w: editing.add_part(w, "Effect", "stage.props"),
    ),
    Command(
        "axes",
        "View",
        "Handles in the layer's axes",
        "X",
        "Let the stage's handles go along the layer's own axes, or the world's",
        _toggle_axes,
        checked=lambda w: w.session.handle_axes == "layer",
    ),
    Command(
        "layout",
        "View",
        "Restore the layout",
        "Ctrl+Shift+L",
        "Put all panels back where they were at first",
        lambda w: w.panels.restore_first(),
    ),
)
CHAPTER = tuple(
    Command(
        f"chapter_{i + 1}",
        "Chapter",
        name,
        str(i + 1),
        "Show the effect's own fields" if name == "Effect" else f"Show the chapter {name}",
        partial(editing.show_chapter, index=i),
    )
    for i, name in enumerate(CHAPTERS)
)
