"""Commands of the menu File: effects, pictures, what is handed over."""

from __future__ import annotations

from functools import partial

from .. import keeping
from ..commands import Command
from ..workplace import Workplace

DEMOS = {
    "kiln-mouth": "kiln mouth",
    "chimney": "chimney smoke",
    "quench": "quench",
    "sleet": "sleet",
    "marsh-mist": "marsh mist",
    "lantern": "lantern",
    "flask": "dropped flask",
    "rake": "raking sparks",
    "wisp": "marsh wisp",
    "arc": "arc between posts",
    "column": "molten column",
}
DEMO_KEYS = "1234567890-"


def _open_demo(w: Workplace, name: str) -> None:
    w.files.open_demo(name)


FILE = (
    Command("new", "File", "New effect", "Ctrl+N", "Start a blank effect", lambda w: w.files.new()),
    Command("open", "File", "Open …", "Ctrl+O", "Open an effect from a file", lambda w: w.files.open()),
    *(
        Command(
            f"demo_{name}",
            "File",
            f"Demo: {words}",
            f"Ctrl+Alt+{DEMO_KEYS[i]}",
            f"Open the demo “{words}”",
            partial(_open_demo, name=name),
        )
        for i, (name, words) in enumerate(DEMOS.items())
    ),
    Command("save", "File", "Save", "Ctrl+S", "Write the effect to its file", lambda w: w.files.save()),
    Command(
        "save_as",
        "File",
        "Save as …",
        "Ctrl+Shift+S",
        "Write the effect to another file",
        lambda w: w.files.save_as(),
    ),
    Command(
        "picture",
        "File",
        "Save a picture …",
        "Ctrl+Shift+P",
        "Save the stage's present moment as a PNG",
        keeping.save_picture,
    ),
    Command(
        "hand_over",
        "File",
        "Hand over",
        "Ctrl+E",
        "Show what can be handed over: bundles, sheets, frames, films, caches",
        lambda w: w.show_hand_over(not w.hands_over),
        lambda w: bool(w.session.effect.layers),
        lambda w: w.hands_over,
    ),
    Command(
        "hand_over_now",
        "File",
        "Hand over now",
        "Ctrl+Return",
        "Write what the panel Hand over shows",
        lambda w: w.hand_over_panel.hand_over(),
        lambda w: w.hands_over,
    ),
    Command(
        "compression",
        "File",
        "Compare compression …",
        "Ctrl+Shift+E",
        "See each texture beside what becomes of it in a bundle",
        lambda w: w.open_compression(),
        lambda w: bool(w.session.effect.textures),
    ),
    Command(
        "keep_bundle",
        "File",
        "Keep what is in a bundle …",
        "Ctrl+Alt+E",
        "Keep a bundle's layers and textures as your own to start from",
        keeping.keep_from_bundle,
    ),
    Command(
        "preferences",
        "File",
        "Preferences …",
        "Ctrl+,",
        "Keys, undo steps, autosave, scale and decimals",
        lambda w: w.open_preferences(),
    ),
    Command("quit", "File", "Quit", "Ctrl+Q", "Close the window", lambda w: w.close()),
)
