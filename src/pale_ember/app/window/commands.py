"""Every command of the window: its key, its tooltip, and what it does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget

from ..widgets.icons import icon


@dataclass(frozen=True)
class Command:
    """A command: ``group`` is its menu."""

    name: str
    group: str
    title: str
    key: str
    tip: str
    icon: str = ""


COMMANDS = (
    Command("new", "File", "New effect", "Ctrl+N", "Start a blank effect"),
    Command("open", "File", "Open …", "Ctrl+O", "Open an effect from a file"),
    Command("demo", "File", "Demo: kiln mouth", "Ctrl+Shift+D", "Open the fire of the Saltglass Kiln"),
    Command("demo_chimney", "File", "Demo: chimney smoke", "Ctrl+Alt+2", "Open the chimney in the marsh wind"),
    Command("demo_sleet", "File", "Demo: sleet", "Ctrl+Alt+3", "Open the sleet over the yard"),
    Command("demo_lantern", "File", "Demo: lantern", "Ctrl+Alt+4", "Open the lantern on its round"),
    Command("save", "File", "Save", "Ctrl+S", "Write the effect to its file"),
    Command("save_as", "File", "Save as …", "Ctrl+Shift+S", "Write the effect to another file"),
    Command("picture", "File", "Save a picture …", "Ctrl+Shift+P", "Save the stage's present moment as a PNG"),
    Command("quit", "File", "Quit", "Ctrl+Q", "Close the window"),
    Command("undo", "Edit", "Undo", "Ctrl+Z", "Take the last change back", "undo"),
    Command("redo", "Edit", "Redo", "Ctrl+Shift+Z", "Make the change again that was taken back", "redo"),
    Command("find", "Edit", "Find a command, field or layer …", "Ctrl+K", "Type to find a command, a field or a layer"),
    Command("field", "Edit", "Find a field", "Ctrl+F", "Show the fields of all chapters that have some words"),
    Command("changed", "Edit", "Changed fields only", "Ctrl+Shift+C", "Show only what differs from its default"),
    Command("copy_field", "Edit", "Copy field", "Ctrl+Alt+X", "Copy the field that has the focus"),
    Command("paste_field", "Edit", "Paste field", "Ctrl+Alt+B", "Give the field that has the focus the copied value"),
    Command("copy_chapter", "Edit", "Copy chapter", "Ctrl+Alt+C", "Copy the chapter in view, for another layer"),
    Command(
        "paste_chapter", "Edit", "Paste chapter", "Ctrl+Alt+V", "Give the selected layer the chapter that was copied"
    ),
    Command(
        "reset_chapter", "Edit", "Reset chapter", "Ctrl+Alt+R", "Set the whole chapter in view back to its defaults"
    ),
    Command("add", "Layer", "Add a layer", "Ctrl+L", "Add a layer; it emits at once", "plus"),
    Command(
        "library",
        "Layer",
        "Add from the library …",
        "Ctrl+Shift+A",
        "Choose a ready-made layer, or one of your own",
        "library",
    ),
    Command(
        "keep_layer",
        "Layer",
        "Keep layer in the library",
        "Ctrl+Shift+K",
        "Save the layer as one of your own to start from",
    ),
    Command("duplicate", "Layer", "Duplicate layer", "Ctrl+D", "Make an independent copy of the layer", "copy"),
    Command("rename", "Layer", "Rename layer", "F2", "Type another name for the layer"),
    Command("delete", "Layer", "Delete layer", "Ctrl+Backspace", "Delete the layer", "bin"),
    Command("up", "Layer", "Move layer up", "Alt+Up", "Move the layer one place up", "up"),
    Command("down", "Layer", "Move layer down", "Alt+Down", "Move the layer one place down", "down"),
    Command("hide", "Layer", "Hide or show layer", "H", "Hide the layer, or show it again", "eye"),
    Command("alone", "Layer", "Show layer alone", "S", "Show this layer alone, or all again", "alone"),
    Command("burst", "Layer", "Add a burst", "Ctrl+B", "Add a burst to the layer", "burst"),
    Command("path_key", "Layer", "Add a path key", "Ctrl+Shift+M", "Add a pose that the layer passes at this moment"),
    Command("all", "Layer", "Select all layers", "Ctrl+A", "Select all layers, to edit them together"),
    Command("group", "Layer", "Group layers …", "Ctrl+G", "Put the selected layers into a group that folds"),
    Command("ungroup", "Layer", "Ungroup layers", "Ctrl+Shift+G", "Take the selected layers out of their group"),
    Command("previous", "Layer", "Select the layer above", "Ctrl+Up", "Select the layer above"),
    Command("next", "Layer", "Select the layer below", "Ctrl+Down", "Select the layer below"),
    Command("play", "Time", "Play or pause", "Space", "Play or pause", "play"),
    Command("restart", "Time", "Restart", "Home", "Go back to time 0", "restart"),
    Command("step_back", "Time", "One step back", ",", "Pause and go one step back", "back"),
    Command("step", "Time", "One step on", ".", "Pause and go one step on", "step"),
    Command("slower", "Time", "Slower", "[", "Play at half the speed"),
    Command("faster", "Time", "Faster", "]", "Play at twice the speed"),
    Command("loop", "Time", "Loop", "L", "Start over when the effect's duration has passed", "loop"),
    Command("zoom_in", "Time", "Zoom in on the time", "Ctrl+=", "Show less of the time, about the playhead"),
    Command("zoom_out", "Time", "Zoom out of the time", "Ctrl+-", "Show more of the time"),
    Command("zoom_all", "Time", "Show the whole time", "Ctrl+0", "Show the effect's whole duration"),
    Command("axis_life", "Life strip", "LayerRows along life", "Shift+1", "Show what goes by each particle's age"),
    Command("axis_clock", "Life strip", "LayerRows along the clock", "Shift+2", "Show what goes by the layer's clock"),
    Command("axis_speed", "Life strip", "LayerRows along speed", "Shift+3", "Show what goes by each particle's speed"),
    Command("dice", "Life strip", "Another particle", "D", "Show the life of another particle", "dice"),
    Command("three", "Life strip", "Low, middle and high", "Shift+D", "Show low, middle and high together", "three"),
    Command("lane", "Life strip", "Add a lane …", "Shift+A", "Add a lane from the list of all properties", "plus"),
    Command("lane_menu", "Life strip", "The lane's menu", "M", "Eases, shapes and edits of the lane in focus"),
    Command("unfollow", "Life strip", "Follow no particle", "Shift+Esc", "Let the picked particle go"),
    Command("wide", "Life strip", "Life strip at full width", "E", "Give the life strip all the room below", "wide"),
    Command("frame", "View", "Frame selection", "F", "Bring the selected layer's particles into view", "frame"),
    Command("home_view", "View", "Go to the effect's camera", "Shift+F", "See the stage from the effect's own camera"),
    Command(
        "keep_view", "View", "Keep this view", "Ctrl+Shift+F", "Make this view the effect's own camera, saved with it"
    ),
    Command("backdrop", "View", "Next backdrop", "B", "Put another backdrop behind the effect"),
    Command("grid", "View", "Floor grid", "G", "Show or hide the floor's grid of metres"),
    Command("wire", "View", "Birthplace lines", "W", "Show or hide the lines of the selected layer's birthplace"),
    Command("layout", "View", "Restore the layout", "Ctrl+Shift+L", "Put all panels back where they were at first"),
    Command("chapter_1", "Chapter", "Emit", "1", "Show the chapter Emit"),
    Command("chapter_2", "Chapter", "Birthplace", "2", "Show the chapter Birthplace"),
    Command("chapter_3", "Chapter", "Launch", "3", "Show the chapter Launch"),
    Command("chapter_4", "Chapter", "Flight", "4", "Show the chapter Flight"),
    Command("chapter_5", "Chapter", "Look", "5", "Show the chapter Look"),
    Command("chapter_6", "Chapter", "Effect", "6", "Show the effect's own fields"),
)

ALSO = {"redo": "Ctrl+Y", "delete": "Ctrl+Del"}


def make_actions(window: QWidget, run: Callable[[str], None]) -> dict[str, QAction]:
    """Return an action for each command, with its key at work in the whole window."""
    found = {}
    for command in COMMANDS:
        action = QAction(command.title, window)
        keys = [QKeySequence(command.key)]
        if command.name in ALSO:
            keys.append(QKeySequence(ALSO[command.name]))
        action.setShortcuts(keys)
        action.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
        action.setToolTip(f"{command.tip} ({command.key})")
        if command.icon:
            action.setIcon(icon(command.icon))
        action.triggered.connect(lambda _=False, name=command.name: run(name))
        window.addAction(action)
        found[command.name] = action
    for name in ("loop", "grid", "wire", "three", "wide", "axis_life", "axis_clock", "axis_speed"):
        found[name].setCheckable(True)
    return found
