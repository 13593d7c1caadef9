"""Takes the pictures in docs/screenshots anew, from the demos.

Usage::

    .venv/bin/python docs/make_pictures.py          all of them
    .venv/bin/python docs/make_pictures.py NAME …   some

It needs a display; the state of the artist at this machine is neither seen nor changed.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

SIZE = 1280, 800
FOLDER = Path(__file__).parent / "screenshots"
PATIENCE = 240.0

_home = tempfile.TemporaryDirectory()
for _name in ("PALE_EMBER_STATE", "XDG_CONFIG_HOME", "XDG_DATA_HOME"):
    os.environ[_name] = str(Path(_home.name, _name.lower()))

from PyQt6.QtCore import QElapsedTimer  # noqa: E402
from PyQt6.QtWidgets import QApplication, QWidget  # noqa: E402

from pale_ember.app.recipe.chapter_table import CHAPTERS  # noqa: E402
from pale_ember.app.window.application import new_application  # noqa: E402
from pale_ember.app.window.launch import window_picture  # noqa: E402
from pale_ember.app.window.main_window import MainWindow  # noqa: E402
from pale_ember.demo import demo  # noqa: E402
from pale_ember.effect.effect import Effect  # noqa: E402

# By its name: the demo, its moment, s, the selected layer, the chapter, and what else is done.
View = tuple[str, float, str, str, "Callable[[MainWindow], QWidget | None] | None"]


def wait(seconds: float) -> None:
    """Let the window go on for a while."""
    timer = QElapsedTimer()
    timer.start()
    while timer.elapsed() < seconds * 1000:
        QApplication.processEvents()
        time.sleep(0.005)


def wait_for(holds: Callable[[], bool]) -> None:
    """Let the window go on until something holds."""
    end = time.monotonic() + PATIENCE
    while not holds() and time.monotonic() < end:
        wait(0.3)


def settle(window: MainWindow) -> None:
    """Wait until the moment, the textures and the pictures in the window are there."""
    session, end = window.session, time.monotonic() + PATIENCE
    still = 0
    while still < 12 and time.monotonic() < end:
        wait(0.25)
        ready = session.moment_number == session.asked_number and not session.textures.busy
        still = still + 1 if ready else 0


def act(*names: str) -> Callable[[MainWindow], None]:
    """Return what does some of the window's commands."""

    def do(window: MainWindow) -> None:
        for name in names:
            window.actions_by_name[name].trigger()
            wait(0.3)

    return do


def held_keys(window: MainWindow) -> None:
    act("wide")(window)
    lane = window.strip.lanes["look.opacity"]
    for index in (1, 2):
        window.strip.selection.take((lane.path, 0, index), index > 1)
    window.session.pin_cursor(0.4)


def three_layers(window: MainWindow) -> None:
    act("wide_time")(window)
    for name in ("Licking tongues", "Pale embers"):
        window.session.select(window.session.effect.layer(name).id, "also")


def puff_on_the_bench(window: MainWindow) -> None:
    window.bench.open("puff")
    settle(window)
    window.bench.select(0)
    window.bench.show_frame(9)


def masks_on_the_bench(window: MainWindow) -> None:
    act("new_texture")(window)
    shelf_of_textures = window.open_shelf()
    names = [shelf_of_textures.list.item(i).text() for i in range(shelf_of_textures.list.count())]
    shelf_of_textures.list.setCurrentRow(names.index("masks"))
    shelf_of_textures.take()
    settle(window)
    window.bench.select(len(window.bench.steps) - 1)


def handing_over(window: MainWindow) -> None:
    window.show_hand_over(True)
    window.desk.go_to("/tmp/kiln")
    window.hand_over_panel.show_chapter(1)


def compressing(window: MainWindow) -> QWidget:
    view = window.open_compression()
    wait_for(lambda: view._now is not None and "Compressing" not in view.words.text())
    view.pair._scale = 1.6
    view.pair.update()
    return view


def shelf(window: MainWindow) -> None:
    view = window.open_shelf()
    items = [view.list.item(i) for i in range(view.list.count())]
    blank = {item.icon().cacheKey() for item in items[-1:]}
    # Its pictures come one after the other.
    wait_for(lambda: all(item.icon().cacheKey() not in blank for item in items))


def library(window: MainWindow) -> None:
    window.open_library()
    wait(12.0)


def nothing_yet(window: MainWindow) -> None:
    wait(25.0)


VIEWS: dict[str, View] = {
    "main": ("kiln-mouth", 1.9, "Core flame", "Emit", None),
    "look": ("kiln-mouth", 1.9, "Core flame", "Look", None),
    "life-strip": ("kiln-mouth", 2.2, "Licking tongues", "Look", held_keys),
    "wide-timeline": ("kiln-mouth", 2.4, "Core flame", "Look", three_layers),
    "overdraw": ("kiln-mouth", 2.2, "Core flame", "Look", act("overdraw")),
    "hand-over": ("kiln-mouth", 1.7, "Core flame", "Emit", handing_over),
    "compression": ("kiln-mouth", 1.7, "Core flame", "Emit", compressing),
    "shelf": ("kiln-mouth", 0.1, "Core flame", "Emit", shelf),
    "layer-library": ("kiln-mouth", 3.4, "Core flame", "Emit", library),
    "flask": ("flask", 0.79, "Shards", "Look", None),
    "threads": ("flask", 1.0, "Flash", "Emit", act("wide_time")),
    "light": ("flask", 1.0, "Flask", "Effect", None),
    "bench": ("chimney", 3.4, "Smoke", "Look", puff_on_the_bench),
    "bench-masks": ("chimney", 3.4, "Smoke", "Look", masks_on_the_bench),
    "quench": ("quench", 1.6, "Steam burst", "Emit", None),
    "sleet": ("sleet", 2.0, "Ice needles", "Contact", None),
    "arc": ("arc", 1.0, "Arc", "Birthplace", None),
    "column": ("column", 2.0, "Scorch", "Emit", None),
    "blank": ("", 0.0, "", "Emit", nothing_yet),
}


def take(name: str) -> None:
    """Take one of the pictures."""
    source, time_at, layer, chapter, more = VIEWS[name]
    window = MainWindow(demo(source) if source else Effect())
    window.resize(*SIZE)
    window.show()
    window.arrange()
    session = window.session
    if source:
        session.play(False)
        if layer:
            session.select(session.effect.layer(layer).id)
        window.recipe.show_chapter(list(CHAPTERS).index(chapter))
        session.seek(time_at)
    settle(window)
    shown = more(window) if more is not None else None
    settle(window)
    window.notice.hide()
    picture = shown.grab() if shown is not None else window_picture(window)
    picture.save(str(FOLDER / f"{name}.png"))
    print(name, picture.width(), picture.height(), flush=True)
    window.shut()
    window.hide()
    window.deleteLater()
    wait(0.5)


def main() -> None:
    application = new_application()
    for name in sys.argv[1:] or VIEWS:
        take(name)
    application.processEvents()
    sys.stdout.flush()
    # Threads and drivers need no waiting for.
    os._exit(0)


if __name__ == "__main__":
    main()
