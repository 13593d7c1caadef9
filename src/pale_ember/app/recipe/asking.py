"""Asking for the file that a field names: a mesh, a picture, or several pictures."""

from __future__ import annotations

from PyQt6.QtWidgets import QFileDialog, QWidget

from ...effect.rules.fields import FieldKind
from ...simulation.meshes.reading import ENDINGS
from ...textures.reading import ENDINGS as PICTURE_ENDINGS
from .picture_files import in_sequence
from .row import Row
from .texture_choice import take_picture, take_pictures


def ask_for_file(row: Row, above: QWidget) -> None:
    """Ask for a file of a field's kind, and give it to the field.

    Parameters
    ----------
    row : Row
        The field's row.
    above : QWidget
        The widget that the dialog stands over.
    """
    kind = row.rule.kind
    pictures = f"Pictures ({' '.join(f'*{ending}' for ending in PICTURE_ENDINGS)})"
    if kind == FieldKind.MESH:
        meshes = f"Meshes ({' '.join(f'*{ending}' for ending in ENDINGS)})"
        name, _ = QFileDialog.getOpenFileName(above, "Choose a mesh", "", meshes)
        if name:
            row.edit(name)
    elif kind == FieldKind.PICTURES:
        names, _ = QFileDialog.getOpenFileNames(above, "Choose pictures", "", pictures)
        if names:
            take_pictures(row, sorted(names, key=in_sequence))
    else:
        name, _ = QFileDialog.getOpenFileName(above, "Choose a picture", "", pictures)
        if name:
            take_picture(row, name)
