"""The one Qt application, as it is for people, for pictures and for measurements."""

from __future__ import annotations

import sys

from PyQt6.QtWidgets import QApplication

from ..widgets import theme
from .tidying import Tidying

# A thread that makes textures lets Python go and takes it again a hundred times; the window holds it no
# longer than this, s.
SWITCH = 0.001


def new_application() -> QApplication:
    """Return the application, dressed."""
    app = QApplication(sys.argv[:1])
    app.setApplicationName("pale-ember")
    app.setApplicationDisplayName("Pale Ember")
    theme.dress(app)
    sys.setswitchinterval(SWITCH)
    Tidying(app)
    return app
