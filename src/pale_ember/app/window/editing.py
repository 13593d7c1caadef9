"""What commands do that depends on where the focus is: copying, pasting, adding parts, giving up."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QInputDialog

from ...effect.editing.snippets import keys_text, layers_text, parse_keys, parse_layers, snippet_kind
from ...effect.editing.texture_moves import without_unused_textures, worn_by
from ...effect.errors import EffectError
from ...effect.rules.fields import FieldKind
from ...effect.steps.pictures import Picture
from ...effect.textures import MOST_FRAMES
from ..recipe.field_row import FieldRow
from ..recipe.part_list import PartList
from ..recipe.picture_files import in_sequence
from ..recipe.texture_box import TextureBox
from ..recipe.texture_choice import take_picture
from ..session.clipboard import clipboard_picture, clipboard_text, copy_field, pasted_field, put_text
from ..strip.key_clip import held_runs, paste_runs
from ..strip.lane import Lane
from ..strip.lane_menu import open_lane_menu
from ..widgets.along_axis import HEAD
from .workplace import Workplace


def copy(w: Workplace) -> None:
    """Copy the held keys, the lane or field in focus, or the selected layers, as the file's JSON."""
    if not _copy_within(w):
        session = w.session
        chosen = [session.effect.layer(layer_id) for layer_id in session.chosen]
        put_text(layers_text(chosen, worn_by(session.effect, chosen)))
        session.said.emit(f"{chosen[0].name if len(chosen) == 1 else f'{len(chosen)} layers'} copied.")


def _copy_within(w: Workplace) -> bool:
    """Copy the held keys, or the lane or field in focus; return whether there was one."""
    session, lane, row = w.session, w.strip_in_view.lane_in_focus(), w.recipe_in_view.row_in_focus()
    if lane is not None and w.strip_in_view.selection.held:
        put_text(keys_text(held_runs(w.strip_in_view.selection)))
        count = len(w.strip_in_view.selection.held)
        session.said.emit(f"{count} key{'' if count == 1 else 's'} copied.")
    elif lane is not None:
        copy_field(lane.rule, lane.value)
        session.said.emit(f"{lane.rule.label} is copied.")
    elif row is not None:
        row.copy()
    else:
        return False
    return True


def cut(w: Workplace) -> None:
    """Copy, and delete what was copied; a field is only copied."""
    lane = w.strip_in_view.lane_in_focus()
    copy(w)
    if lane is not None and w.strip_in_view.selection.held:
        w.strip_in_view.selection.delete()
    elif lane is None and w.recipe_in_view.row_in_focus() is None:
        w.session.layers.remove()


def copy_on_bench(w: Workplace) -> None:
    """Copy the held keys, the lane or field in focus, or the step in view."""
    if not _copy_within(w):
        w.bench.copy()


def cut_on_bench(w: Workplace) -> None:
    """Copy, and delete what was copied; a field is only copied."""
    strip = w.strip_in_view
    lane = strip.lane_in_focus()
    copy_on_bench(w)
    if lane is not None and strip.selection.held:
        strip.selection.delete()
    elif lane is None and w.recipe_in_view.row_in_focus() is None:
        w.bench.remove()


def paste_on_bench(w: Workplace) -> None:
    """Paste keys, a field, steps, or a picture as a step that brings it in."""
    kind, lane, row = (
        snippet_kind(clipboard_text()),
        w.strip_in_view.lane_in_focus(),
        w.recipe_in_view.row_in_focus(),
    )
    if kind == "steps":
        w.bench.paste()
    elif not kind and (file := _pasted_picture(w)):
        bring_in(w, [file])
    elif kind in ("keys", "field"):
        _paste_into(w, kind, lane, row)
    else:
        w.session.said.emit(
            "There is nothing for the bench on the clipboard. Ctrl+C copies steps, keys or a field."
        )


def bring_in(w: Workplace, files: list[str]) -> None:
    """Add a step that brings picture files in."""
    for file in files:
        w.session.choose_picture(file)
    bench = w.bench
    if bench.build is None:
        bench.turn_into_build()
    if bench.build is not None:
        at = bench.index + 1
        step = Picture(files=tuple(sorted(files, key=in_sequence)))
        many, texture = len(files), bench.texture
        said = f"Bring in {many} pictures" if many > 1 else "Bring in a picture"
        if many > 1 and texture is not None and texture.made < 2 and not bench.steps:
            # A sequence on an empty bench: each picture gets its frame.
            bench.index = 0
            w.session.edit_many(
                [(bench.path("build.steps"), (step,)), (bench.path("frames"), min(many, MOST_FRAMES))], said
            )
        else:
            bench.give((*bench.steps[:at], step, *bench.steps[at:]), said, at)


def paste(w: Workplace) -> None:
    """Paste what is on the clipboard where it fits."""
    session, text = w.session, clipboard_text()
    kind, lane, row = snippet_kind(text), w.strip_in_view.lane_in_focus(), w.recipe_in_view.row_in_focus()
    if not kind and _paste_picture(w):
        return
    try:
        if kind in ("layers", "effect"):
            pasted = parse_layers(text)
            layers = pasted.layers
            said = layers[0].name if len(layers) == 1 else f"{len(layers)} layers"
            session.layers.add_many(layers, f"Paste {said}", worn_by(pasted, layers))
        elif kind == "chapter":
            w.clip.paste()
        elif kind in ("keys", "field"):
            _paste_into(w, kind, lane, row)
        elif kind == "steps":
            session.said.emit(
                "Steps of a texture are on the clipboard. Put a texture on the bench (N), then paste."
            )
        else:
            session.said.emit(
                "There is nothing of an effect on the clipboard. Ctrl+C copies layers, keys or a field."
            )
    except EffectError as wrong:
        session.said.emit(f"Not pasted. {wrong.sentence}")


def _paste_into(w: Workplace, kind: str, lane: Lane | None, row: FieldRow | None) -> None:
    """Paste keys or a field where the focus is."""
    session = w.session
    try:
        if kind == "keys":
            _paste_keys(w, lane, clipboard_text())
        elif lane is not None:
            session.edit_chosen([(lane.path, pasted_field(lane.rule))], f"Paste {lane.rule.label.lower()}")
        elif row is not None:
            row.paste()
        else:
            session.said.emit(
                "A field is on the clipboard. Click into the field or lane that it is for, then paste."
            )
    except EffectError as wrong:
        session.said.emit(f"Not pasted. {wrong.sentence}")


def _paste_keys(w: Workplace, lane: Lane | None, text: str) -> None:
    if lane is None:
        w.session.said.emit("Keys are on the clipboard. Click on the lane that they are for, then paste.")
        return
    at = w.session.cursor if w.session.cursor_shown else None
    if not paste_runs(w.strip_in_view.selection, parse_keys(text), lane, at):
        w.session.said.emit("These keys don't fit here: only a curve takes keys, and only a gradient stops.")


def with_field(w: Workplace, what: str) -> None:
    """Copy, paste or reset the field that has the focus."""
    row = w.recipe_in_view.row_in_focus()
    if row is None:
        w.session.said.emit("No field has the focus; click into one first.")
    elif what == "reset":
        row.reset()
    elif what == "copy":
        row.copy()
    else:
        row.paste()


def find_field(w: Workplace) -> None:
    """Give the focus to the line that finds fields."""
    w.panels.show("recipe")
    w.recipe_in_view.search.setFocus(Qt.FocusReason.ShortcutFocusReason)
    w.recipe_in_view.search.selectAll()


def show_chapter(w: Workplace, index: int) -> None:
    w.panels.show("recipe")
    w.recipe.show_chapter(index)


def add_part(w: Workplace, chapter: str, at: str) -> None:
    """Add a burst or a path key to the selected layers and show it."""
    page = w.recipe.chapters[chapter]
    show_chapter(w, list(w.recipe.chapters).index(chapter))
    parts = page.lists[at]
    if isinstance(parts, PartList):
        parts.add_part()
    page.ensureWidgetVisible(parts)


def texture_box(w: Workplace) -> TextureBox:
    """Return the fields of the texture that the selected layer wears."""
    box = w.recipe.chapters["Look"].lists["textures"]
    assert isinstance(box, TextureBox)
    return box


def wear(w: Workplace) -> None:
    """Ask for a picture file for the selected layers."""
    w.recipe.go_to("look.texture")
    w.recipe.chapters["Look"].rows["look.texture"].parts.browse()


def new_texture(w: Workplace) -> None:
    """Let the selected layers wear a new texture, and put it on the bench."""
    name = w.bench.begin()
    if name:
        w.bench.open(name)


def wears_file(w: Workplace) -> bool:
    """Return whether the selected layer wears a picture file."""
    layer = w.session.layer
    texture = None if layer is None else w.session.effect.texture(layer.look.texture)
    return texture is not None and bool(texture.file)


def find_sheet(w: Workplace) -> None:
    """Find the layout of the selected layer's texture."""
    show_chapter(w, list(w.recipe.chapters).index("Look"))
    texture_box(w).find_layout()


def remove_unused(w: Workplace) -> None:
    """Take textures that no layer wears out of the effect."""
    session = w.session
    kept = without_unused_textures(session.effect)
    gone = len(session.effect.textures) - len(kept.textures)
    if not gone:
        session.said.emit("Every texture is worn by a layer.")
        return
    session.apply(kept, "Remove unused textures")
    session.said.emit(f"{gone} texture{'' if gone == 1 else 's'} removed.")


def _pasted_picture(w: Workplace) -> str:
    """Return the picture on the clipboard as a file; empty if there is none, or it can't be written."""
    session = w.session
    home = None if session.document.path is None else session.document.path.parent
    try:
        return clipboard_picture(home)
    except EffectError as wrong:
        session.said.emit(f"Not pasted. {wrong.sentence}")
        return ""


def _paste_picture(w: Workplace) -> bool:
    """Let the selected layers, or the field in focus, wear the picture on the clipboard; return whether
    there is one.
    """
    session = w.session
    file = _pasted_picture(w)
    if not file:
        return False
    if session.layer is None:
        session.said.emit("Add a layer first; then it can wear the picture.")
        return True
    row = w.recipe.row_in_focus()
    if row is None or row.rule.kind not in (FieldKind.TEXTURE, FieldKind.PICTURE):
        w.recipe.go_to("look.texture")
        row = w.recipe.chapters["Look"].rows["look.texture"]
    take_picture(row, file)
    return True


def give_up(w: Workplace) -> None:
    """Let go of what is held, the nearest first."""
    session = w.session
    if w.picking.picker is not None:
        # The artist has left the picker: the colour is kept.
        w.picking.close()
    elif w.stage.stroke.waits:
        w.stage.stroke.end()
    elif session.takes_long and session.moment_number > 0 and not session.playing:
        session.stop_on_the_way()
    elif w.panels.stage_alone:
        w.toggle_stage_alone()
    elif session.textures.state.working:
        session.textures.stop()
        session.said.emit(f"“{session.textures.state.working}” is not made. The next edit takes it up again.")
    elif w.strip_in_view.selection.held:
        w.strip_in_view.selection.let_go()
    elif w.bench.is_open and w.frame_strip.film.held:
        w.frame_strip.film.let_go()
    elif session.picked is not None:
        session.pick(None)
    elif w.bench.is_open:
        w.bench.close()


def ask_group(w: Workplace) -> None:
    """Ask for the group of the selected layers."""
    layer = w.session.layer
    if layer is not None:
        text = layer.group or "Group"
        name, taken = QInputDialog.getText(
            w.timeline.window(), "Group layers", "Name of the group:", text=text
        )
        if taken:
            w.session.layers.group(name.strip())


def open_lane_list(w: Workplace) -> None:
    """Open the list of properties that may have a lane."""
    menu = w.strip.lane_menu()
    menu.popup(w.strip.mapToGlobal(w.strip.rect().topRight()) - QPoint(menu.sizeHint().width(), 0))


def open_menu_of_lane(w: Workplace) -> None:
    """Open the menu of the lane that has the focus, or of the first one."""
    strip = w.strip_in_view
    lane = strip.lane_in_focus() or next(iter(strip.lanes.values()), None)
    if lane is not None:
        open_lane_menu(lane, lane.mapToGlobal(QPoint(HEAD, lane.height() // 2)))
