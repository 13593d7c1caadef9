"""What is kept beside the effect: layers of one's own, bundles taken in, pictures of the stage."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QMessageBox

from ...effect.errors import EffectError
from ...effect.storing.whole_files import write_whole
from ...files.bundle.keeping import keep_bundle
from ...files.library import Start, keep_layer, own_of_name
from ..stage.images import png_of
from .workplace import Workplace


def keep_in_library(w: Workplace) -> None:
    """Keep the selected layer as one's own; where one of its name is kept already, ask which of both
    stays.
    """
    layer = w.session.layer
    if layer is None:
        return
    there = own_of_name(layer.name)
    instead: Start | None = None
    if there is not None:
        answer = _ask_which_stays(w, layer.name)
        if answer is None:
            return
        instead = there if answer else None
    try:
        path = keep_layer(layer, w.session.effect, instead)
        w.session.said.emit(
            f"{layer.name} is in the library now, "
            f"{'in place of the one before' if instead else f'as {path}'}."
        )
    except EffectError as wrong:
        w.session.said.emit(f"Not kept. {wrong}")


def _ask_which_stays(w: Workplace, name: str) -> bool | None:
    """Ask what becomes of a kept layer of a name; return whether it is replaced, None to keep nothing."""
    box = QMessageBox(w.timeline.window())
    box.setWindowTitle("Keep the layer")
    box.setText(f"“{name}” is in your library already. Replace it, or keep both? A second one gets a number.")
    replace = box.addButton("Replace", QMessageBox.ButtonRole.DestructiveRole)
    both = box.addButton("Keep both", QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(both)
    box.setEscapeButton(box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole))
    box.exec()
    clicked = box.clickedButton()
    return clicked is replace if clicked in (replace, both) else None


def keep_from_bundle(w: Workplace) -> None:
    """Ask for a bundle, and bring its layers and textures into the libraries."""
    name, _ = QFileDialog.getOpenFileName(
        w.timeline.window(), "Keep what is in a bundle", "", "Bundles (bundle.json *.zip)"
    )
    if name:
        take_bundle(w, name)


def take_bundle(w: Workplace, file: str) -> None:
    """Bring a bundle's layers and textures into the libraries."""
    try:
        layers, textures = keep_bundle(file)
        counts = (
            f"{layers} layer{'' if layers == 1 else 's'} and {textures} texture{'' if textures == 1 else 's'}"
        )
        w.session.said.emit(f"{counts} of {Path(file).name} are in the library and on the shelf now.")
    except EffectError as wrong:
        w.session.said.emit(f"Not kept. {wrong}")


def save_picture(w: Workplace) -> None:
    """Save what the stage shows as a PNG."""
    name, _ = QFileDialog.getSaveFileName(
        w.stage, "Save a picture", f"{w.session.document.title}.png", "Pictures (*.png)"
    )
    if name:
        try:
            write_whole(name, png_of(w.stage.picture()))
            w.session.said.emit(f"Saved to {name}.")
        except EffectError as wrong:
            w.session.said.emit(f"Not saved. {wrong}")
