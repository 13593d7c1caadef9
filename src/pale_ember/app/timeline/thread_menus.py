"""Menus of ports and threads: what can be done without dragging."""

from __future__ import annotations

import functools

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu, QWidget

from ...effect.editing.chains import refusal_of_link
from ...effect.kinds import When
from ..session.linking import AT_EVENT
from ..session.session import Session
from ..widgets.icons import icon
from .geometry import PORTS


def port_menu(session: Session, layer_id: str, when: When, parent: QWidget) -> QMenu:
    """Return the menu of a port: a new layer, or one of those that could follow."""
    menu = QMenu(parent)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    new = menu.addAction(icon(f"port-{when}"), f"New layer {AT_EVENT[when]}")
    assert new is not None
    new.triggered.connect(lambda: session.links.add_follow_up(when, layer_id))
    if when == When.ALIVE:
        ribbon = menu.addAction(icon("ribbon"), "New ribbon behind each particle")
        assert ribbon is not None
        ribbon.triggered.connect(lambda: session.links.add_ribbon(layer_id))
    able = [
        one
        for one in session.effect.layers
        if one.id != layer_id and not refusal_of_link(session.effect, one.id, layer_id)
    ]
    if able:
        menu.addSeparator()
    for one in able[:20]:
        action = menu.addAction(f"Let {one.name} follow")
        assert action is not None
        action.setEnabled((one.origin.parent, one.origin.when) != (layer_id, when))
        action.triggered.connect(functools.partial(_link, session, one.id, layer_id, when))
    return menu


def _link(session: Session, child: str, parent: str, when: When, *_: object) -> None:
    session.links.link(child, parent, when)


def thread_menu(session: Session, child_id: str, parent: QWidget) -> QMenu:
    """Return the menu of a thread: its event, and cutting it."""
    layer = session.effect.layer(child_id)
    menu = QMenu(parent)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    for when in PORTS:
        action = menu.addAction(icon(f"port-{when}"), f"Start {AT_EVENT[when]}")
        assert action is not None
        action.setCheckable(True)
        action.setChecked(layer.origin.when == when)
        action.triggered.connect(functools.partial(_set_event, session, child_id, when))
    menu.addSeparator()
    trouble = session.links.trouble_of(layer)
    if trouble is not None and trouble.mend:
        mend = menu.addAction(trouble.mend)
        assert mend is not None
        mend.triggered.connect(lambda: session.links.mend_link(child_id))
    cut = menu.addAction("Cut the thread")
    assert cut is not None
    cut.triggered.connect(lambda: session.links.cut_link(child_id))
    return menu


def _set_event(session: Session, child_id: str, when: When, *_: object) -> None:
    session.links.set_event(child_id, when)
