"""A grid of pictures with names, to choose one from."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QListWidget, QListWidgetItem

from .moving_pictures import blank_icon


def picture_grid(picture: QSize, name: str) -> QListWidget:
    """Return an empty grid for pictures of a size."""
    grid = QListWidget()
    grid.setViewMode(QListWidget.ViewMode.IconMode)
    grid.setResizeMode(QListWidget.ResizeMode.Adjust)
    grid.setMovement(QListWidget.Movement.Static)
    grid.setIconSize(picture)
    grid.setGridSize(QSize(picture.width() + 14, picture.height() + 30))
    grid.setAccessibleName(name)
    return grid


def add_item(grid: QListWidget, name: str, own: bool, tip: str) -> None:
    """Add something to choose, dark until its picture is there."""
    item = QListWidgetItem(name + ("  (own)" if own else ""))
    item.setToolTip(tip)
    item.setIcon(blank_icon(grid.iconSize()))
    grid.addItem(item)
