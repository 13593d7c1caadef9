"""What the fields ask of the rest of the window."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal


class Wishes(QObject):
    """One for all fields; the window listens."""

    lane = pyqtSignal(str)  # the whole path of a Value whose lane is wanted
    place = pyqtSignal(str, bool)  # the path of a list that is wanted, and whether it is of the layer
    bench = pyqtSignal(str)  # the name of a texture that is wanted on the bench; empty for a new one
    color = pyqtSignal(object, str)  # places in the effect whose colour is to be chosen, and their words
