"""The system's clipboard: what is copied is written as in the file, so that it goes into other windows
and editors too.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QBuffer, QIODevice
from PyQt6.QtWidgets import QApplication

from ...effect.editing.snippets import FIELD
from ...effect.errors import EffectError
from ...effect.rules.fields import Rule
from ...effect.rules.reading import read_field
from ...effect.storing.storage import field_data
from ...effect.storing.whole_files import write_whole
from ...files.autosave import state_folder
from ...files.library import file_for
from ...textures.reading import ENDINGS

NONE = "there is no field on the clipboard; copy one from its menu."
MOST_TEXT = 64 << 20


def clipboard_text() -> str:
    """Return the text on the clipboard."""
    clipboard = QApplication.clipboard()
    text = clipboard.text() if clipboard is not None else ""
    return text if len(text) <= MOST_TEXT else ""


def clipboard_picture(home: Path | None) -> str:
    """Return a picture on the clipboard as a file: the file that was copied, or a new one that holds what
    was.

    Parameters
    ----------
    home : Path or None
        The effect's folder; a new file goes there, or else where the window's own files are kept.

    Raises
    ------
    EffectError
        If it can't be written.
    """
    clipboard = QApplication.clipboard()
    mime = None if clipboard is None else clipboard.mimeData()
    if mime is None:
        return ""
    files = [url.toLocalFile() for url in mime.urls()] if mime.hasUrls() else []
    pictures = [file for file in files if Path(file).suffix.lower() in ENDINGS]
    if pictures:
        return pictures[0]
    image = clipboard.image() if clipboard is not None and mime.hasImage() else None
    if image is None or image.isNull():
        return ""
    path = file_for(home or state_folder() / "pasted", "pasted", ".png", "pasted")
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(data, "PNG")
    write_whole(path, data.data().data())
    return str(path)


def put_text(text: str) -> None:
    """Put a text on the clipboard."""
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)


def copy_field(rule: Rule, value: Any) -> None:
    """Put a field's value on the clipboard."""
    data = {"format": FIELD, "label": rule.label, "kind": rule.kind, "value": field_data(value, None)}
    put_text(json.dumps(data, ensure_ascii=False))


def pasted_field(rule: Rule) -> Any:
    """Return the value on the clipboard as a field takes it.

    A curve along an axis that the field doesn't have runs along the field's first one.

    Raises
    ------
    EffectError
        If there is none, or it doesn't fit the field.
    """
    try:
        data = json.loads(clipboard_text())
        if data["format"] != FIELD:
            raise ValueError
        label, kind, value = str(data["label"])[:60], data["kind"], data["value"]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise EffectError("clipboard", NONE) from None
    if kind != rule.kind and {kind, rule.kind} != {"value", "number"}:
        raise EffectError("clipboard", f"{label} on the clipboard is of another kind than {rule.label}.")
    return read_field(rule, _fitted(value, rule))


def _fitted(data: Any, rule: Rule) -> Any:
    if isinstance(data, list):
        return [_fitted(part, rule) for part in data]
    if isinstance(data, dict) and data.get("along") is not None and data["along"] not in rule.along:
        return {**data, "along": rule.along[0]} if rule.along else data
    return data
