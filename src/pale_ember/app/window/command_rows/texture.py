"""Commands of the menu Texture: the bench and what stands on it."""

from __future__ import annotations

from .. import editing
from ..commands import Command
from .questions import is_layer_there

TEXTURE = (
    Command(
        "bench",
        "Texture",
        "Bench",
        "N",
        "Put the selected layer's texture on the bench, or go back to the stage",
        lambda w: w.toggle_bench(),
        lambda w: w.bench.is_open or bool(w.session.effect.layers),
        lambda w: w.bench.is_open,
        "bench",
    ),
    Command(
        "shelf",
        "Texture",
        "Textures to start from …",
        "Ctrl+Shift+T",
        "Choose a ready-made texture, or one of your own",
        lambda w: w.open_shelf(),
        lambda w: w.bench.is_open or is_layer_there(w),
    ),
    Command(
        "new_texture",
        "Texture",
        "New texture",
        "Ctrl+Shift+N",
        "Let the selected layers wear a new texture, and make it on the bench",
        editing.new_texture,
        is_layer_there,
    ),
    Command(
        "pack",
        "Texture",
        "Pack masks …",
        "Ctrl+Shift+B",
        "Put masks into the channels of a new texture",
        lambda w: w.open_pack(),
    ),
    Command(
        "unpack",
        "Texture",
        "Unpack into masks",
        "Ctrl+Alt+K",
        "Give each packed channel a texture of its own",
        lambda w: w.bench.unpack(),
        lambda w: w.bench.texture is not None,
    ),
    Command(
        "halve",
        "Texture",
        "Halve the size",
        "Ctrl+Alt+H",
        "Make the frames the next smaller power of two",
        lambda w: w.bench.halve(),
        lambda w: w.bench.build is not None,
    ),
    Command(
        "to_build",
        "Texture",
        "Turn the file into a build",
        "Ctrl+Alt+O",
        "Cut the file's sheet apart: it becomes the first step of a build",
        lambda w: w.bench.turn_into_build(),
        lambda w: w.bench.texture is not None and w.bench.build is None,
    ),
    Command(
        "tiled",
        "Texture",
        "Show it tiled",
        "Y",
        "Let the picture on the bench go on at all its sides",
        lambda w: w.bench.look_at(tiled=not w.bench.tiled),
        lambda w: w.bench.is_open,
        lambda w: w.bench.tiled,
    ),
)
