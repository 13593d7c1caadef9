"""Looks over a window for cut texts and for widgets that lie over one another."""

from __future__ import annotations

from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QMainWindow, QScrollArea, QWidget

from pale_ember.app.recipe.quiet_line import QuietLine


def faults(window: QMainWindow) -> list[str]:
    """Return what is cut or covered in a window as it stands, in words."""
    found = []
    for widget in window.findChildren(QWidget):
        if not widget.isVisible() or widget.window() is not window:
            continue
        found += _cut(widget)
    for page in window.recipe.pages.findChildren(QWidget):
        if page.isVisible() and page.layout() is not None:
            found += _covered(page)
    for area in window.recipe.findChildren(QScrollArea):
        # What can't be scrolled sideways must not be wider than what is seen of it.
        inside, seen = area.widget(), area.viewport()
        if area.isVisible() and inside is not None and inside.width() > seen.width():
            found.append(
                f"a page of the recipe is {inside.width() - seen.width()} pixels wider than is seen of it"
            )
    shown = [dock for dock in window.panels.docks.values() if dock.isVisible() and not dock.isFloating()]
    boxes = [(dock.windowTitle(), dock.geometry()) for dock in shown] + [
        ("stage", window.centralWidget().geometry())
    ]
    for i, (name, box) in enumerate(boxes):
        if not window.rect().contains(box):
            found.append(f"{name} leaves the window: {box}")
        found += [f"{name} lies over {other}" for other, there in boxes[i + 1 :] if box.intersects(there)]
    for bar in (window.top_bar, window.slim_bar):
        if bar.isVisible():
            found += _covered(bar)
    return found


def _cut(widget: QWidget) -> list[str]:
    metrics, text = widget.fontMetrics(), ""
    room = widget.width()
    if isinstance(widget, QLabel):
        text = widget.text()
        if not text or text.startswith("<") or "…" in text:
            return []
        if widget.wordWrap():
            return [f"“{text}” is cut below"] if widget.height() < widget.heightForWidth(room) - 1 else []
    elif isinstance(widget, QComboBox):
        text, room = widget.currentText(), room - 24
    elif isinstance(widget, QLineEdit):
        text, room = widget.text() or widget.placeholderText(), room - 8
        if widget.accessibleName() in ("Find a field", "Name", "Group"):
            return []
    elif isinstance(widget, QAbstractButton) and widget.accessibleName() != "Menu":
        text = widget.text() if widget.icon().isNull() else ""
    wide = max((metrics.horizontalAdvance(line) for line in text.split("\n")), default=0)
    return [f"“{text}” is cut: {wide} of {room} ({widget.accessibleName()})"] if wide > room else []


def _covered(holder: QWidget) -> list[str]:
    found: list[str] = []
    children = [
        child
        for child in holder.findChildren(QWidget)
        if child.parentWidget() is holder
        and child.isVisible()
        and child.width() > 0
        and not isinstance(child, QMainWindow)
    ]
    for i, a in enumerate(children):
        if not holder.rect().contains(a.geometry()):
            found.append(f"{_name(a)} leaves {_name(holder)}: {a.geometry()} of {holder.rect()}")
        for b in children[i + 1 :]:
            if a.geometry().intersects(b.geometry()):
                found.append(f"{_name(a)} lies over {_name(b)} in {_name(holder)}")
    if isinstance(holder, QuietLine):
        boxes = [box.toRect() for box in holder.boxes()]
        found += [
            f"a word leaves {_name(holder)}"
            for box in boxes
            if not holder.rect().contains(box.adjusted(0, 0, -3, -1))
        ]
    return found


def _name(widget: QWidget) -> str:
    text = getattr(widget, "text", lambda: "")()
    return f"{type(widget).__name__} “{widget.accessibleName() or text}”"
