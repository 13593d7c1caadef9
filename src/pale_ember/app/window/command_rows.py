"""Every command of the window, a row each."""

from __future__ import annotations

from ...drawing.backdrops import BACKDROPS
from ..recipe.chapter_table import CHAPTERS
from ..session.linking import AT_EVENT
from ..session.new_layer import new_layer
from ..session.session import SPEEDS
from . import editing
from .commands import Command
from .workplace import Workplace

DEMOS = {
    "kiln-mouth": "kiln mouth", "chimney": "chimney smoke", "quench": "quench", "sleet": "sleet",
    "marsh-mist": "marsh mist", "lantern": "lantern", "flask": "dropped flask", "rake": "raking sparks", "wisp": "marsh wisp", "arc": "arc between posts",
    "column": "molten column",
}  # fmt: skip
DEMO_KEYS = "1234567890-"


def _here(w: Workplace) -> bool:
    return w.session.layer is not None


def _at(w: Workplace) -> int:
    return w.session.effect.index(w.session.selected)


def _several(w: Workplace) -> bool:
    return len(w.session.effect.layers) > 1


def _faster(w: Workplace, by: int) -> None:
    at = SPEEDS.index(w.session.speed) + by
    w.session.set_speed(SPEEDS[min(max(at, 0), len(SPEEDS) - 1)])


def _next_backdrop(w: Workplace) -> None:
    names = list(BACKDROPS)
    now = names.index(w.session.effect.stage.backdrop)
    w.session.edit("stage.backdrop", names[(now + 1) % len(names)], "Change backdrop")


def _toggle_axes(w: Workplace) -> None:
    session = w.session
    session.handle_axes = "world" if session.handle_axes == "layer" else "layer"
    session.shown_changed.emit()


_FILE = (
    Command("new", "File", "New effect", "Ctrl+N", "Start a blank effect", lambda w: w.files.new()),
    Command("open", "File", "Open …", "Ctrl+O", "Open an effect from a file", lambda w: w.files.open()),
    *(
        Command(f"demo_{name}", "File", f"Demo: {words}", f"Ctrl+Alt+{DEMO_KEYS[i]}", f"Open the demo “{words}”",
                lambda w, name=name: w.files.open_demo(name))  # type: ignore[misc]
        for i, (name, words) in enumerate(DEMOS.items())
    ),
    Command("save", "File", "Save", "Ctrl+S", "Write the effect to its file", lambda w: w.files.save()),
    Command("save_as", "File", "Save as …", "Ctrl+Shift+S", "Write the effect to another file", lambda w: w.files.save_as()),
    Command("picture", "File", "Save a picture …", "Ctrl+Shift+P", "Save the stage's present moment as a PNG",
            lambda w: w.save_picture()),
    Command("hand_over", "File", "Hand over", "Ctrl+E", "Show what can be handed over: bundles, sheets, frames, films, caches",
            lambda w: w.show_hand_over(not w.hands_over), lambda w: bool(w.session.effect.layers), lambda w: w.hands_over),
    Command("hand_over_now", "File", "Hand over now", "Ctrl+Return", "Write what the panel Hand over shows",
            lambda w: w.hand_over_panel.hand_over(), lambda w: w.hands_over),
    Command("compression", "File", "Compare compression …", "Ctrl+Shift+E", "See each texture beside what becomes of it in a bundle",
            lambda w: w.open_compression(), lambda w: bool(w.session.effect.textures)),
    Command("keep_bundle", "File", "Keep what is in a bundle …", "Ctrl+Alt+E", "Keep a bundle's layers and textures as your own to start from",
            editing.keep_from_bundle),
    Command("preferences", "File", "Preferences …", "Ctrl+,", "Keys, undo steps, autosave, scale and decimals",
            lambda w: w.open_preferences()),
    Command("quit", "File", "Quit", "Ctrl+Q", "Close the window", lambda w: w.close()),
)  # fmt: skip
_EDIT = (
    Command("undo", "Edit", "Undo", "Ctrl+Z", "Take the last change back", lambda w: w.session.undo(),
            lambda w: bool(w.session.document.undo_name), icon="undo"),
    Command("redo", "Edit", "Redo", "Ctrl+Shift+Z Ctrl+Y", "Make the change again that was taken back",
            lambda w: w.session.redo(), lambda w: bool(w.session.document.redo_name), icon="redo"),
    Command("cut", "Edit", "Cut", "Ctrl+X", "Copy the held keys or the selected layers, and delete them", editing.cut, _here),
    Command("copy", "Edit", "Copy", "Ctrl+C", "Copy the held keys, the field in focus, or the selected layers",
            editing.copy, _here),
    Command("paste", "Edit", "Paste", "Ctrl+V", "Paste what was copied: keys, a field, a chapter, or layers", editing.paste),
    Command("find", "Edit", "Find a command, field or layer …", "Ctrl+K", "Type to find a command, a field or a layer",
            lambda w: w.open_finder()),
    Command("field", "Edit", "Find a field", "Ctrl+F", "Show the fields of all chapters that have some words", editing.find_field),
    Command("changed", "Edit", "Changed fields only", "Ctrl+Shift+C", "Show only what differs from its default",
            lambda w: w.recipe.only_changed.toggle(), checked=lambda w: w.recipe.only_changed.isChecked()),
    Command("copy_field", "Edit", "Copy field", "Ctrl+Alt+X", "Copy the field that has the focus",
            lambda w: editing.with_field(w, "copy"), _here),
    Command("paste_field", "Edit", "Paste field", "Ctrl+Alt+B", "Give the field that has the focus the copied value",
            lambda w: editing.with_field(w, "paste"), _here),
    Command("reset_field", "Edit", "Reset field", "Ctrl+R", "Set the field that has the focus back to its default",
            lambda w: editing.with_field(w, "reset"), _here),
    Command("copy_chapter", "Edit", "Copy chapter", "Ctrl+Alt+C", "Copy the chapter in view, for another layer",
            lambda w: w.clip.copy(), _here),
    Command("paste_chapter", "Edit", "Paste chapter", "Ctrl+Alt+V", "Give the selected layers the chapter that was copied",
            lambda w: w.clip.paste(), _here),
    Command("reset_chapter", "Edit", "Reset chapter", "Ctrl+Alt+R", "Set the whole chapter in view back to its defaults",
            lambda w: w.clip.reset(), _here),
    Command("give_up", "Edit", "Give up", "Esc", "Let go of what is held, stop a long simulation, bring the panels back",
            editing.give_up),
)  # fmt: skip
_LAYER = (
    Command("add", "Layer", "Add a layer", "Ctrl+L", "Add a layer; it emits at once",
            lambda w: w.session.add(new_layer(w.session.effect)), icon="plus"),
    Command("library", "Layer", "Add from the library …", "Ctrl+Shift+A", "Choose a ready-made layer, or one of your own",
            lambda w: w.open_library(), icon="library"),
    *(
        Command(f"follow_{when}", "Layer", f"Follow-up {words}", f"Alt+{i + 1}", f"Add a layer that starts {words} of the layer's particles",
                lambda w, when=when: w.session.add_follow_up(when), _here)  # type: ignore[misc]
        for i, (when, words) in enumerate(AT_EVENT.items())
    ),
    Command("ribbon", "Layer", "Ribbon behind each particle", f"Alt+{len(AT_EVENT) + 1}", "Add a ribbon that trails behind each of the layer's particles",
            lambda w: w.session.add_ribbon(), _here, icon="ribbon"),
    Command("cut_link", "Layer", "Cut the thread", "Alt+0", "Let the layer follow nobody: it emits by itself",
            lambda w: w.session.cut_link(w.session.selected), lambda w: w.session.layer is not None and bool(w.session.layer.origin.parent)),
    Command("keep_layer", "Layer", "Keep layer in the library", "Ctrl+Shift+K", "Save the layer as one of your own to start from",
            editing.keep_in_library, _here),
    Command("duplicate", "Layer", "Duplicate layer", "Ctrl+D", "Make an independent copy of the layer",
            lambda w: w.session.duplicate(), _here, icon="copy"),
    Command("offset", "Layer", "Duplicate with an offset …", "Ctrl+Alt+D",
            "Make several copies, each a step further in place, turn and time", lambda w: w.open_offset(), _here),
    Command("rename", "Layer", "Rename layer", "F2", "Type another name for the layer",
            lambda w: w.timeline.rows.rename(_at(w)), _here),
    Command("delete", "Layer", "Delete layer", "Ctrl+Backspace Ctrl+Del", "Delete the selected layers; in the timeline, Del does",
            lambda w: w.session.remove(), _here, icon="bin"),
    Command("up", "Layer", "Move layer up", "Alt+Up", "Move the selected layers one place up",
            lambda w: w.session.shift(-1), lambda w: _at(w) > 0, icon="up"),
    Command("down", "Layer", "Move layer down", "Alt+Down", "Move the selected layers one place down",
            lambda w: w.session.shift(1), lambda w: 0 <= _at(w) < len(w.session.effect.layers) - 1, icon="down"),
    Command("enable", "Layer", "Enable or disable layer", "H", "Take the layer out of the effect, or back in; saved with it",
            lambda w: w.session.toggle_enabled(*w.session.chosen), _here, icon="eye"),
    Command("alone", "Layer", "Show layer alone", "S", "Show this layer alone, or all again",
            lambda w: w.session.toggle_alone(*w.session.chosen), _here, icon="alone"),
    Command("burst", "Layer", "Add a burst", "Ctrl+B", "Add a burst to the layer",
            lambda w: editing.add_part(w, "Emit", "emit.bursts"), _here, icon="burst"),
    Command("path_key", "Layer", "Add a path key", "Ctrl+Shift+M", "Add a pose that the layer passes at this moment",
            lambda w: editing.add_part(w, "Birthplace", "path"), _here),
    Command("draw_path", "Layer", "Draw a path", "Ctrl+Alt+M", "Draw the layer's path over the stage by one stroke, at the pace of the hand",
            lambda w: w.stage.stroke.begin(), _here),
    Command("all", "Layer", "Select all layers", "Ctrl+A", "Select all layers, to edit them together",
            lambda w: w.session.select_all(), _here),
    Command("wear", "Layer", "Wear a picture …", "Ctrl+Alt+T", "Choose a picture file for the layer's particles", editing.wear, _here),
    Command("unused", "Layer", "Remove unused textures", "Ctrl+Alt+U", "Take textures that no layer wears out of the effect",
            editing.remove_unused, lambda w: bool(w.session.effect.textures)),
    Command("layout_of_sheet", "Layer", "Find the sheet's layout", "Ctrl+Alt+L", "Look for the columns, rows and frames of the layer's texture",
            editing.find_sheet, editing.wears_file),
    Command("group", "Layer", "Group layers …", "Ctrl+G", "Put the selected layers into a group that folds", editing.ask_group, _here),
    Command("ungroup", "Layer", "Ungroup layers", "Ctrl+Shift+G", "Take the selected layers out of their group",
            lambda w: w.session.group(""), _here),
    Command("previous", "Layer", "Select the layer above", "Ctrl+Up", "Select the layer above",
            lambda w: w.session.select_next(-1), _several),
    Command("next", "Layer", "Select the layer below", "Ctrl+Down", "Select the layer below",
            lambda w: w.session.select_next(1), _several),
)  # fmt: skip
_TIME = (
    Command("play", "Time", "Play or pause", "Space", "Play or pause",
            lambda w: w.session.play(not w.session.playing), icon="play"),
    Command("restart", "Time", "Restart", "Home", "Go back to time 0", lambda w: w.session.seek(0.0), icon="restart"),
    Command("step_back", "Time", "One step back", ",", "Pause and go one step back", lambda w: w.session.step(-1), icon="back"),
    Command("step", "Time", "One step on", ".", "Pause and go one step on", lambda w: w.session.step(1), icon="step"),
    Command("slower", "Time", "Slower", "[", "Play at half the speed", lambda w: _faster(w, -1)),
    Command("faster", "Time", "Faster", "]", "Play at twice the speed", lambda w: _faster(w, 1)),
    Command("loop", "Time", "Loop", "L", "Start over when the effect's duration has passed",
            lambda w: w.session.edit("loop", not w.session.effect.loop, "Change loop"),
            checked=lambda w: w.session.effect.loop, icon="loop"),
    Command("zoom_in", "Time", "Zoom in on the time", "Ctrl+= Ctrl++", "Show less of the time, about the playhead",
            lambda w: w.timeline.zoom(1.5)),
    Command("zoom_out", "Time", "Zoom out of the time", "Ctrl+-", "Show more of the time", lambda w: w.timeline.zoom(1 / 1.5)),
    Command("zoom_all", "Time", "Show the whole time", "Ctrl+0", "Show the effect's whole duration",
            lambda w: w.timeline.view.show_all()),
)  # fmt: skip
_STRIP = (
    *(
        Command(f"axis_{axis}", "Life strip", f"Lanes along {'the ' * (axis == 'clock')}{axis}", f"Shift+{i + 1}", f"Show what goes by {words}",
                lambda w, axis=axis: w.strip.show_axis(axis), checked=lambda w, axis=axis: w.strip.axis_name == axis)  # type: ignore[misc]
        for i, (axis, words) in enumerate(
            (("life", "each particle's age"), ("clock", "the layer's clock"), ("speed", "each particle's speed"))
        )
    ),
    Command("dice", "Life strip", "Another particle", "D", "Show the life of another particle", lambda w: w.strip.film.roll(), _here, icon="dice"),
    Command("three", "Life strip", "Low, middle and high", "Shift+D", "Show low, middle and high together",
            lambda w: w.strip.film.set_three(not w.strip.film.three), _here, lambda w: w.strip.film.three, "three"),
    Command("lane", "Life strip", "Add a lane …", "Shift+A", "Add a lane from the list of all properties", editing.open_lane_list, _here, icon="plus"),
    Command("lane_menu", "Life strip", "The lane's menu", "M", "Eases, shapes and edits of the lane in focus", editing.open_menu_of_lane, _here),
    Command("unfollow", "Life strip", "Follow no particle", "Shift+Esc", "Let the picked particle go", lambda w: w.session.pick(None)),
)  # fmt: skip
_VIEW = (
    Command("stage_alone", "View", "Stage alone", "T", "Leave the stage alone with a slim bar, or bring all panels back",
            lambda w: w.toggle_stage_alone(), checked=lambda w: w.panels.stage_alone, icon="stage"),
    Command("wide", "View", "Life strip at full width", "E", "Give the life strip all the room below",
            lambda w: w.panels.widen("strip"), checked=lambda w: w.panels.wide == "strip", icon="wide"),
    Command("wide_time", "View", "Timeline at full width", "Shift+E", "Give the timeline all the room below",
            lambda w: w.panels.widen("timeline"), checked=lambda w: w.panels.wide == "timeline", icon="wide"),
    *(
        Command(f"fold_{name}", "View", f"Fold the {words}", f"Ctrl+Shift+{i + 1}", f"Fold the {words} to its title, or unfold it",
                lambda w, name=name: w.panels.toggle_fold(name), checked=lambda w, name=name: name in w.panels.folded)  # type: ignore[misc]
        for i, (name, words) in enumerate((("recipe", "recipe"), ("timeline", "timeline"), ("strip", "life strip")))
    ),
    Command("frame", "View", "Frame selection", "F", "Bring the selected layer's particles into view", lambda w: w.stage.frame(), icon="frame"),
    Command("home_view", "View", "Go to the effect's camera", "Shift+F", "See the stage from the effect's own camera",
            lambda w: w.session.look_from(w.session.effect.stage.camera)),
    Command("keep_view", "View", "Keep this view", "Ctrl+Shift+F", "Make this view the effect's own camera, saved with it",
            lambda w: w.session.edit("stage.camera", w.session.camera, "Keep this view")),
    Command("backdrop", "View", "Next backdrop", "B", "Put another backdrop behind the effect", _next_backdrop),
    Command("tracks", "View", "Where particles go", "R", "Draw the ways of some of the layer's particles over their whole lives",
            lambda w: w.stage.tracks.toggle(), _here, lambda w: w.stage.tracks.on, "tracks"),
    Command("grid", "View", "Floor grid", "G", "Show or hide the floor's grid of metres",
            lambda w: w.stage.toggle_grid(), checked=lambda w: w.stage.show_grid),
    Command("wire", "View", "Birthplace lines", "W", "Show or hide the lines of the selected layer's birthplace",
            lambda w: w.stage.toggle_wire(), checked=lambda w: w.stage.show_wire),
    Command("overdraw", "View", "Overdraw", "O", "Show how many layers of particles lie over each pixel, as heat",
            lambda w: w.stage.toggle_overdraw(), checked=lambda w: w.stage.show_overdraw),
    Command("hits", "View", "Hits", "Shift+H", "Show where particles hit: a dot and the surface's direction for each hit of the last half second",
            lambda w: w.session.watch_hits(not w.session.watches_hits), checked=lambda w: w.session.watches_hits),
    Command("figure", "View", "Person-sized figure", "Ctrl+Alt+F", "Let a figure 1.75 m tall stand on the stage, or no longer",
            lambda w: w.session.edit("stage.figure", not w.session.effect.stage.figure, "Change figure"),
            checked=lambda w: w.session.effect.stage.figure),
    Command("prop", "View", "Add a prop", "Ctrl+Alt+P", "Put a box, ball, cylinder or mesh on the stage",
            lambda w: editing.add_part(w, "Effect", "stage.props")),
    Command("axes", "View", "Handles in the layer's axes", "X", "Let the stage's handles go along the layer's own axes, or the world's",
            _toggle_axes, checked=lambda w: w.session.handle_axes == "layer"),
    Command("layout", "View", "Restore the layout", "Ctrl+Shift+L", "Put all panels back where they were at first",
            lambda w: w.panels.restore_first()),
)  # fmt: skip
_CHAPTERS = tuple(
    Command(f"chapter_{i + 1}", "Chapter", name, str(i + 1),
            "Show the effect's own fields" if name == "Effect" else f"Show the chapter {name}",
            lambda w, i=i: editing.show_chapter(w, i))  # type: ignore[misc]
    for i, name in enumerate(CHAPTERS)
)  # fmt: skip

_TEXTURE = (
    Command("bench", "Texture", "Bench", "N", "Put the selected layer's texture on the bench, or go back to the stage",
            lambda w: w.toggle_bench(), lambda w: w.bench.is_open or bool(w.session.effect.layers), lambda w: w.bench.is_open, "bench"),
    Command("shelf", "Texture", "Textures to start from …", "Ctrl+Shift+T", "Choose a ready-made texture, or one of your own",
            lambda w: w.open_shelf(), lambda w: w.bench.is_open or _here(w)),
    Command("new_texture", "Texture", "New texture", "Ctrl+Shift+N", "Let the selected layers wear a new texture, and make it on the bench",
            editing.new_texture, _here),
    Command("pack", "Texture", "Pack masks …", "Ctrl+Shift+B", "Put masks into the channels of a new texture", lambda w: w.open_pack()),
    Command("unpack", "Texture", "Unpack into masks", "Ctrl+Alt+K", "Give each packed channel a texture of its own",
            lambda w: w.bench.unpack(), lambda w: w.bench.texture is not None),
    Command("halve", "Texture", "Halve the size", "Ctrl+Alt+H", "Make the frames the next smaller power of two",
            lambda w: w.bench.halve(), lambda w: w.bench.build is not None),
    Command("to_build", "Texture", "Turn the file into a build", "Ctrl+Alt+O", "Cut the file's sheet apart: it becomes the first step of a build",
            lambda w: w.bench.turn_into_build(), lambda w: w.bench.texture is not None and w.bench.build is None),
    Command("tiled", "Texture", "Show it tiled", "Y", "Let the picture on the bench go on at all its sides",
            lambda w: w.bench.look_at(tiled=not w.bench.tiled), lambda w: w.bench.is_open, lambda w: w.bench.tiled),
)  # fmt: skip

COMMANDS = (*_FILE, *_EDIT, *_LAYER, *_TIME, *_STRIP, *_TEXTURE, *_VIEW, *_CHAPTERS)
