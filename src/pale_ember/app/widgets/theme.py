"""The look of the window: colours, the shipped font, the style sheet."""

from __future__ import annotations

import functools
from importlib import resources
from pathlib import Path

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

ASH_0 = "#1c1b1a"  # behind everything
ASH_1 = "#242322"  # panels
ASH_2 = "#2e2c2b"  # fields, lanes
ASH_3 = "#3b3937"  # lines, hovered
ASH_4 = "#56524f"  # stronger lines
DIM = "#a29b95"  # second text; 5.6:1 on panels
TEXT = "#dcd6d0"
BRIGHT = "#f3eee9"
EMBER = "#f2b48c"  # live, selected
EMBER_DARK = "#5a4435"
SALT = "#8fb0bf"  # the other one: compared, high edge of a band
WARN = "#e39b7a"

FAMILY = "Inter"


@functools.cache
def color(name: str, alpha: int = 255) -> QColor:
    """Return a colour of the theme with an opacity 0…255; nobody changes it, so there is one of each."""
    found = QColor(name)
    found.setAlpha(alpha)
    return found


@functools.cache
def font(pixels: int = 12, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Return the interface's font, with figures of one width."""
    found = QFont(FAMILY)
    found.setPixelSize(pixels)
    found.setWeight(weight)
    found.setFeature(QFont.Tag(b"tnum"), 1)
    return found


def dress(app: QApplication) -> None:
    """Give an application the theme."""
    folder = resources.files(__package__) / "fonts"
    for name in ("Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf"):
        QFontDatabase.addApplicationFontFromData((folder / name).read_bytes())
    app.setStyle("Fusion")
    app.setFont(font())
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, name in (
        (roles.Window, ASH_1),
        (roles.WindowText, TEXT),
        (roles.Base, ASH_2),
        (roles.AlternateBase, ASH_1),
        (roles.Text, TEXT),
        (roles.Button, ASH_2),
        (roles.ButtonText, TEXT),
        (roles.Highlight, EMBER_DARK),
        (roles.HighlightedText, BRIGHT),
        (roles.ToolTipBase, ASH_3),
        (roles.ToolTipText, BRIGHT),
        (roles.PlaceholderText, DIM),
        (roles.Link, EMBER),
        (roles.Accent, EMBER),
    ):
        palette.setColor(role, QColor(name))
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(ASH_4))
    app.setPalette(palette)
    app.setStyleSheet(SHEET.replace("ICONS", str(Path(__file__).parent / "svg")))


SHEET = f"""
QWidget {{ font-size: 12px; }}
QToolTip {{ background: {ASH_3}; color: {BRIGHT}; border: 1px solid {ASH_4}; padding: 4px 6px; }}
QMainWindow, QMainWindow::separator {{ background: {ASH_0}; }}
QMainWindow::separator {{ width: 3px; height: 3px; }}
QMainWindow::separator:hover {{ background: {ASH_4}; }}
QDockWidget {{ color: {DIM}; }}
QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: 3px; padding: 3px;
    color: {TEXT}; }}
QToolButton:hover {{ background: {ASH_3}; }}
QToolButton:focus, QPushButton:focus {{ border: 1px solid {EMBER}; }}
QToolButton:checked {{ background: {EMBER_DARK}; color: {BRIGHT}; }}
QToolButton::menu-indicator {{ image: none; }}
QPushButton {{ background: {ASH_2}; border: 1px solid {ASH_3}; border-radius: 3px; padding: 4px 10px;
    color: {TEXT}; }}
QPushButton:hover {{ background: {ASH_3}; }}
QPushButton:disabled {{ color: {ASH_4}; }}
QPushButton:default {{ border-color: {EMBER}; }}
QLineEdit, QComboBox, QPlainTextEdit {{
    background: {ASH_2}; border: 1px solid {ASH_3}; border-radius: 3px; padding: 2px 5px; color: {BRIGHT};
    selection-background-color: {EMBER_DARK};
}}
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus {{ border-color: {EMBER}; }}
QComboBox::drop-down {{ border: none; width: 16px; }}
QComboBox::down-arrow {{ image: url(ICONS/open.svg); width: 10px; height: 10px; }}
QComboBox QAbstractItemView, QMenu {{ background: {ASH_2}; border: 1px solid {ASH_4}; color: {TEXT};
    outline: none; }}
QComboBox QAbstractItemView::item {{ padding: 3px 6px; }}
QMenu::item {{ padding: 4px 22px 4px 14px; }}
QMenu::item:selected, QListWidget::item:selected {{ background: {EMBER_DARK}; color: {BRIGHT}; }}
QMenu::item:disabled {{ color: {ASH_4}; }}
QMenu::separator {{ height: 1px; background: {ASH_3}; margin: 3px 8px; }}
QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
QScrollBar::handle {{ background: {ASH_3}; border-radius: 3px; min-height: 24px; min-width: 24px;
    margin: 1px; }}
QScrollBar::handle:hover {{ background: {ASH_4}; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page
    {{ background: none; border: none; }}
QScrollArea {{ border: none; background: transparent; }}
QListWidget, QTreeWidget {{ background: {ASH_2}; border: 1px solid {ASH_4}; outline: none; }}
QListWidget:focus, QTreeWidget:focus {{ border-color: {EMBER}; }}
QTreeWidget::item {{ padding: 2px 2px; }}
QTreeWidget::item:selected {{ background: {EMBER_DARK}; color: {BRIGHT}; }}
QHeaderView::section {{ background: {ASH_1}; color: {DIM}; border: none; padding: 3px 6px; }}
QTabWidget::pane {{ border: 1px solid {ASH_3}; background: {ASH_1}; }}
QTabBar::tab {{ background: {ASH_0}; color: {DIM}; border: 1px solid {ASH_3}; padding: 4px 14px; }}
QTabBar::tab:selected {{ background: {ASH_1}; color: {BRIGHT}; border-bottom-color: {ASH_1}; }}
QTabBar:focus {{ color: {EMBER}; }}
QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
QListWidget::item {{ padding: 4px 8px; }}
QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {ASH_4}; border-radius: 3px;
    background: {ASH_2}; }}
QCheckBox::indicator:checked {{ background: {EMBER}; border-color: {EMBER}; image: url(ICONS/tick.svg); }}
QCheckBox:focus {{ color: {EMBER}; }}
QCheckBox::indicator:focus {{ border: 2px solid {BRIGHT}; }}
"""
