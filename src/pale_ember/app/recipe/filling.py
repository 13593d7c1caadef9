"""The controls of one field, filled with what the selected layers hold there."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.rules.fields import FieldKind, Rule
from ..session.session import Session
from ..widgets.controls import Check, Combo, Line, Notes
from ..widgets.number_box import NumberBox
from ..widgets.swatch import Preview, Swatch
from .contents import any_content, check_state, contents_of
from .layer_choice import LayerChoice
from .picture_files import frames_text, said_files
from .texture_choice import TextureChoice


def fill(controls: list[Any], values: list[Any], rule: Rule, session: Session, of_mixed_forms: bool) -> None:
    """Fill controls; what isn't the same in all layers is said to be mixed.

    Parameters
    ----------
    controls : list
        Those of a field that show something, in their order.
    values : list
        What the field holds in each selected layer.
    of_mixed_forms : bool
        Whether the values are of different forms, so that one control stands for all.
    """
    if of_mixed_forms:
        contents, mixed = [any_content(values[0])], [True]
    else:
        all_contents = [contents_of(value, rule.kind) for value in values]
        contents = all_contents[0]
        mixed = [any(other[i] != content for other in all_contents) for i, content in enumerate(contents)]
    for part, content, differs in zip(controls, contents, mixed, strict=False):
        if isinstance(part, NumberBox):
            part.show_number(float(content), differs and len(values) > 1)
        elif isinstance(part, Swatch):
            part.show_color(content, differs)
        elif isinstance(part, Preview):
            part.show_value(content, differs)
        elif isinstance(part, Check):
            part.setTristate(differs)
            part.setCheckState(check_state(bool(content), differs))
        elif isinstance(part, LayerChoice):
            part.show_layer(session, str(content))
        elif isinstance(part, TextureChoice):
            part.show_name(str(content), differs)
        elif isinstance(part, Combo):
            _fill_combo(part, rule, str(content), differs)
        elif isinstance(part, Notes | Line):
            _fill_text(part, rule, content, differs)


def _fill_text(part: Notes | Line, rule: Rule, content: Any, differs: bool) -> None:
    """Fill a text, unless one is half typed there."""
    if isinstance(part, Notes):
        if not (part.hasFocus() and part.half_typed) and part.toPlainText() != ("" if differs else content):
            part.setPlainText("" if differs else str(content))
            part.set_typed(False)
        part.setPlaceholderText("mixed" if differs else "")
    elif rule.kind == FieldKind.PICTURES:
        part.setText(said_files(content))
        part.setToolTip("\n".join([rule.help, *content[:12]]))
    elif not (part.hasFocus() and part.isModified()):
        words = frames_text(content) if rule.kind == FieldKind.FRAMES else str(content)
        part.setPlaceholderText("mixed" if differs else "all" if rule.kind == FieldKind.FRAMES else "")
        if part.text() != ("" if differs else words):
            part.setText("" if differs else words)
            part.setCursorPosition(0)
        part.setModified(False)


def _fill_combo(box: Combo, rule: Rule, word: str, differs: bool) -> None:
    """Fill a choice with what can be chosen now, and choose what the field has."""
    box.setPlaceholderText("mixed")
    if differs:
        box.setCurrentIndex(-1)
        return
    if rule.kind == FieldKind.MESH:
        # A file is called by its name; the whole path is in the tooltip.
        while box.count() > len(SHIPPED_MESHES):
            box.removeItem(len(SHIPPED_MESHES))
        box.setToolTip(rule.help if word in SHIPPED_MESHES else word)
        if word not in SHIPPED_MESHES:
            box.addItem(Path(word).name or "none", word)
            box.setCurrentIndex(len(SHIPPED_MESHES))
            return
    box.setCurrentText(word)
