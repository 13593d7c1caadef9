"""The foot of Hand over: what is written, where it goes, the command line, and how far the work is."""

from __future__ import annotations

import time

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices, QGuiApplication
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from ..widgets import theme
from ..widgets.controls import Button, Line, Notes, ToolButton
from ..widgets.icons import icon
from .hand_over_work import HandOverWork


class Foot(QWidget):
    """The part below the products, the same for all of them."""

    asked = pyqtSignal()  # to hand over

    def __init__(self, desk: HandOverWork) -> None:
        super().__init__()
        self.desk = desk
        self.setObjectName("foot")
        self.setStyleSheet(f"QWidget#foot {{ border-top: 1px solid {theme.ASH_3}; }}")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 10, 10)
        column.setSpacing(6)
        column.addLayout(self._target_line())
        column.addLayout(self._command_line())
        self.result = QLabel()
        self.result.setWordWrap(True)
        column.addWidget(self.result)
        column.addLayout(self._work_line())
        self.clear()

    def _target_line(self) -> QHBoxLayout:
        """Return the line of the name and the folder."""
        line = QHBoxLayout()
        line.setSpacing(4)
        self.name, self.folder = Line(), Line()
        self.name.setAccessibleName("Name of what is written")
        self.name.setToolTip("What it is called, without an ending")
        self.name.editingFinished.connect(self._named)
        self.folder.setAccessibleName("Folder that it goes into")
        self.folder.setPlaceholderText("choose a folder")
        self.folder.editingFinished.connect(self._placed)
        browse = ToolButton()
        browse.setIcon(icon("open"))
        browse.setAccessibleName("Choose the folder")
        browse.setToolTip("Choose the folder that it goes into")
        browse.clicked.connect(self.browse)
        for widget, stretch in (
            (QLabel("As"), 0),
            (self.name, 2),
            (QLabel("in"), 0),
            (self.folder, 3),
            (browse, 0),
        ):
            line.addWidget(widget, stretch)
        return line

    def _command_line(self) -> QHBoxLayout:
        """Return the line of the command that does the same."""
        line = QHBoxLayout()
        self.command = Notes()
        self.command.setReadOnly(True)
        self.command.setAccessibleName("Command line that does the same")
        self.command.setToolTip(
            "The command line that does the same, for build machines and for many effects at once"
        )
        self.command.setStyleSheet(f"color: {theme.DIM}; font-family: monospace; font-size: 11px;")
        self.command.setFixedHeight(50)
        copy = Button("Copy")
        copy.setToolTip("Copy the command line")
        copy.setAccessibleName("Copy the command line")
        copy.clicked.connect(self._copy)
        line.addWidget(self.command, 1)
        line.addWidget(copy)
        return line

    def _work_line(self) -> QHBoxLayout:
        """Return the line of progress and of the buttons that begin and stop."""
        line = QHBoxLayout()
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.left = QLabel()
        self.left.setStyleSheet(f"color: {theme.DIM};")
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Give it up; what was there before stays")
        self.stop.clicked.connect(self.desk.give_up)
        self.show_folder = QPushButton("Show folder")
        self.show_folder.setToolTip("Open the folder that it was written to")
        self.show_folder.clicked.connect(
            lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(self.desk.folder))
        )
        self.go = QPushButton("Hand over")
        self.go.setToolTip("Write it (Ctrl+Return)")
        self.go.setStyleSheet(
            f"QPushButton {{ background: {theme.EMBER}; color: {theme.ASH_0}; font-weight: 600; "
            f"padding: 6px 16px; }} "
            f"QPushButton:disabled {{ background: {theme.ASH_3}; color: {theme.DIM}; }} "
            f"QPushButton:focus {{ border: 2px solid {theme.BRIGHT}; }}"
        )
        self.go.clicked.connect(self.asked.emit)
        line.addWidget(self.bar, 1)
        line.addWidget(self.left)
        line.addStretch(0)
        for button in (self.show_folder, self.stop, self.go):
            line.addWidget(button)
        return line

    def clear(self) -> None:
        """Leave out what was said of the work before."""
        self.result.hide()
        self.show_folder.hide()

    def begin(self) -> None:
        """Show that work begins."""
        self.clear()
        self.bar.setValue(0)
        self.left.setText("begins …")

    def refresh(self) -> None:
        """Show name, folder, command line and the state of the work."""
        desk, effect = self.desk, self.desk.session.effect
        if not self.name.hasFocus() or not self.name.isModified():
            self.name.setText(desk.name or desk.title)
        if not self.folder.hasFocus() or not self.folder.isModified():
            self.folder.setText(desk.folder)
        self.command.setPlainText(desk.line())
        busy = desk.busy
        # The focus stays where the work is begun and stopped.
        focused = self.go.hasFocus() or self.stop.hasFocus()
        self.bar.setVisible(busy)
        self.left.setVisible(busy)
        self.stop.setVisible(busy)
        self.go.setVisible(not busy)
        self.go.setEnabled(bool(effect.layers))
        if focused:
            (self.stop if busy else self.go).setFocus(Qt.FocusReason.OtherFocusReason)
        self.go.setText(f"Hand over {desk.product}{'' if desk.folder else ' …'}")

    def _named(self) -> None:
        if self.name.isModified():
            self.desk.call(self.name.text())

    def _placed(self) -> None:
        if self.folder.isModified():
            self.desk.go_to(self.folder.text().strip())

    def browse(self) -> bool:
        """Choose the folder that it goes into; return whether one was."""
        found = QFileDialog.getExistingDirectory(self, "Hand over to", self.desk.folder)
        if found:
            self.desk.go_to(found)
        return bool(found)

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        assert clipboard is not None
        clipboard.setText(self.command.toPlainText())
        self.desk.session.said.emit("The command line is copied.")

    def show_share(self, share: float) -> None:
        """Show which share of the work is done."""
        self.bar.setValue(round(1000 * share))
        spent = time.monotonic() - self.desk.began
        if share > 0.05 and spent > 1.0:
            rest = spent / share * (1.0 - share)
            self.left.setText("nearly done" if rest < 1.0 else f"about {rest:.0f} s left")

    def say(self, words: str, bad: bool = False) -> None:
        """Say how the work ended."""
        self.result.setText(words)
        self.result.setStyleSheet(f"color: {theme.WARN if bad else theme.TEXT};")
        self.result.show()
        if not self.isVisible():
            self.desk.session.said.emit(words)
