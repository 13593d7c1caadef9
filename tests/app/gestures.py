"""What gestures of the mouse and keys change, written down line by line, beside what was read.

``PALE_EMBER_PICTURES=write`` keeps what they change now, to be read.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from typing import Any

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QAction, QCursor, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from pale_ember.effect import effect_text

from .case import turn_wheel
from .told import ToldCase

Keys = Qt.KeyboardModifier
PLAIN, SHIFT, CTRL, ALT = Keys.NoModifier, Keys.ShiftModifier, Keys.ControlModifier, Keys.AltModifier
HELD = {PLAIN: "", SHIFT: "Shift ", CTRL: "Ctrl ", ALT: "Alt "}
LEFT, RIGHT, MIDDLE = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton
# Numbers are told to so many places: the last ones are a matter of the processor.
PLACES = 4
# Lists whose members are told one by one.
PARTS = {"layers", "textures", "props", "steps", "bursts", "path"}


def flat(data: Any, at: str = "") -> dict[str, Any]:
    """Return the leaves of nested dictionaries and lists by their paths."""
    if isinstance(data, dict) and data:
        return {path: leaf for key, part in data.items() for path, leaf in flat(part, f"{at}.{key}").items()}
    if isinstance(data, list) and data and at.rpartition(".")[2] in PARTS:
        # A layer is told by its name: it may stand elsewhere, and a new one's id is a matter of chance.
        keys = [part.get("name", i) if isinstance(part, dict) else i for i, part in enumerate(data)]
        found: dict[str, Any] = {}
        for key, part in zip(keys, data, strict=True):
            found |= flat(part, f"{at}[{key}]")
        return found | ({f"order of {at.lstrip('.')}": keys} if at == ".layers" else {})
    return {at.lstrip("."): _rounded(data)}


def _rounded(data: Any) -> Any:
    if isinstance(data, float):
        return float(f"{data:.{PLACES}g}")
    if isinstance(data, list):
        return [_rounded(part) for part in data]
    if isinstance(data, dict):
        return {key: _rounded(part) for key, part in data.items()}
    return data


def changes(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    """Return what became of each leaf that is another now."""
    gone = object()
    lines = []
    for path in dict.fromkeys([*before, *after]):
        old, new = before.get(path, gone), after.get(path, gone)
        if old != new:
            lines.append(f"{path} = {'gone' if new is gone else json.dumps(new, ensure_ascii=False)}")
    return lines


def press(
    widget: QWidget, kind: QEvent.Type, at: QPointF, keys: Keys, down: bool, button: Qt.MouseButton = LEFT
) -> None:
    """Send one event of the mouse to a widget. QTest's moves carry neither button nor keys."""
    moved = kind == QEvent.Type.MouseMove
    event = QMouseEvent(
        kind,
        at,
        widget.mapToGlobal(at),
        Qt.MouseButton.NoButton if moved else button,
        button if down else Qt.MouseButton.NoButton,
        keys,
    )
    QApplication.sendEvent(widget, event)


def pull(
    widget: QWidget, start: QPointF, way: QPointF, keys: Keys = PLAIN, button: Qt.MouseButton = LEFT
) -> None:
    """Press at a place, drag by a way in three moves, and let go."""
    kinds = QEvent.Type
    # The mouse moves over the screen: the widget may move away below it.
    first = widget.mapToGlobal(start)
    press(widget, kinds.MouseButtonPress, start, keys, True, button)
    if not way.isNull():
        for share in (0.3, 0.7, 1.0):
            at = widget.mapFromGlobal(first + way * share)
            press(widget, kinds.MouseMove, at, keys, True, button)
            QApplication.processEvents()
    press(widget, kinds.MouseButtonRelease, widget.mapFromGlobal(first + way), keys, False, button)
    QApplication.processEvents()


def leaves(menu: QMenu) -> list[tuple[tuple[int, ...], str]]:
    """Return the place of each item that can be chosen in a menu, and its words behind those of its menus."""
    found: list[tuple[tuple[int, ...], str]] = []
    for i, action in enumerate(menu.actions()):
        inside = action.menu()
        if isinstance(inside, QMenu):
            inside.aboutToShow.emit()
            found += [((i, *place), f"{action.text()} › {name}") for place, name in leaves(inside)]
        elif action.isEnabled() and not action.isSeparator():
            found.append(((i,), action.text()))
    return [(place, name.replace("&", "")) for place, name in found]


def item(menu: QMenu, place: tuple[int, ...]) -> QAction:
    """Return the item of a menu at a place that :func:`leaves` gave."""
    action = menu.actions()[place[0]]
    if len(place) == 1:
        return action
    inside = action.menu()
    assert isinstance(inside, QMenu)
    inside.aboutToShow.emit()
    return item(inside, place[1:])


class GestureCase(ToldCase):
    """Does gestures one after another, each on the same effect, and writes down what each one changed."""

    def setUp(self) -> None:
        super().setUp()
        QCursor.setPos(5, 1190)
        self.lines: list[str] = []
        # What is said is written down; its line in the window would move what is below it.
        self.said: list[str] = []
        self.session.said.disconnect(self.window.notice.say)
        self.session.said.connect(self.said.append)
        self.window.notice.hide()

    def state(self) -> dict[str, Any]:
        """Return what gestures change besides the effect; subclasses add what is theirs."""
        session = self.session
        return {
            "selected": " ".join(session.effect.layer(one).name for one in session.chosen),
            "time": round(session.time, 3),
            "cursor": round(session.cursor, 3),
        }

    def prepare(self) -> None:
        """Bring about what each gesture begins with; subclasses say what that is."""

    def seen(self) -> dict[str, Any]:
        effect = json.loads(effect_text(self.session.effect))
        names = {layer.pop("id"): layer["name"] for layer in effect.get("layers", ())}
        for layer in effect.get("layers", ()):
            if "parent" in layer.get("origin", {}):
                layer["origin"]["parent"] = names.get(layer["origin"]["parent"], "gone")
        return flat(effect) | {f"({name})": value for name, value in self.state().items()}

    def does(self, words: str, act: Callable[[], object]) -> None:
        """Do something, write down what it changed, and take it back."""
        document, session = self.session.document, self.session
        self.prepare()
        QApplication.processEvents()
        first, whole = document.index, effect_text(session.effect)
        before = self.seen()
        self.said.clear()
        act()
        QApplication.processEvents()
        found = changes(before, self.seen())
        found += [f"says {words}" for words in self.said]
        if self.window.picking.picker is not None:
            found.append("asks for a colour")
            self.window.picking.close()
        popup = QApplication.activePopupWidget()
        if isinstance(popup, QMenu):
            found.append(f"menu {', '.join(action.text() for action in popup.actions() if action.text())}")
            popup.close()
        names = [step.name for step in document.history[first + 1 : document.index + 1]]
        step = f" “{'”, “'.join(names)}”" if names else ""
        self.lines.append(f"{words}:{step} {'; '.join(found) or 'nothing'}")
        while document.index > first:
            session.undo()
        self.assertEqual(effect_text(session.effect), whole, f"{words} is not undone")

    def clicks(self, words: str, widget: QWidget, at: QPointF, held: Iterable[Keys] = (PLAIN,)) -> None:
        """Click on a place, with each of some keys held."""
        for keys in held:
            self.does(f"{HELD[keys]}click {words}", lambda keys=keys: pull(widget, at, QPointF(), keys))

    def drags(
        self, words: str, widget: QWidget, at: QPointF, way: QPointF, held: Iterable[Keys] = (PLAIN,)
    ) -> None:
        """Drag from a place, with each of some keys held."""
        said = f"{words} by {way.x():g}, {way.y():g}"
        for keys in held:
            self.does(f"{HELD[keys]}drag {said}", lambda keys=keys: pull(widget, at, way, keys))

    def double_clicks(self, words: str, widget: QWidget, at: QPointF) -> None:
        self.does(f"double click {words}", lambda: QTest.mouseDClick(widget, LEFT, PLAIN, at.toPoint()))

    def turns(self, words: str, widget: QWidget, at: QPointF, held: Iterable[Keys] = (PLAIN,)) -> None:
        """Turn the wheel by one notch up and two down."""
        for keys in held:
            for notches in (1, -2):
                turn = QPoint(0, 120 * notches)
                self.does(
                    f"{HELD[keys]}wheel {notches:+d} {words}",
                    lambda turn=turn, keys=keys: turn_wheel(widget, at, turn, keys),
                )

    def items(self, words: str, make: Callable[[], QMenu]) -> None:
        """Choose each item of a menu, and of those in it; the menu is made anew for each."""
        self.prepare()
        for place, name in leaves(make()):
            self.does(f"choose {name} {words}", lambda place=place: item(make(), place).trigger())

    def keys(
        self, words: str, widget: QWidget, names: Iterable[str], held: Iterable[Keys] = (PLAIN,)
    ) -> None:
        """Press keys of the keyboard on a widget, one at a time."""
        for keys in held:
            for name in names:
                key = getattr(Qt.Key, f"Key_{name}")
                self.does(
                    f"{HELD[keys]}{name} {words}",
                    lambda key=key, keys=keys: QTest.keyClick(widget, key, keys),
                )


def hold(widget: QWidget, start: QPointF, way: QPointF, keys: Keys = PLAIN) -> QPointF:
    """Press at a place and drag by a way, without letting go; return where the mouse is then."""
    kinds = QEvent.Type
    press(widget, kinds.MouseButtonPress, start, keys, True)
    for share in (0.5, 1.0):
        press(widget, kinds.MouseMove, start + way * share, keys, True)
        QApplication.processEvents()
    return start + way


def let_go(widget: QWidget, at: QPointF) -> None:
    """Let go of what :func:`hold` took."""
    press(widget, QEvent.Type.MouseButtonRelease, at, PLAIN, False)
    QApplication.processEvents()
