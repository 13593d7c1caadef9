"""What an effect is: frozen models, values, curves, colours, edits, files, schema."""

from .chapters.stage import Camera, Stage
from .effect import Effect, Layer, new_id
from .errors import EffectError
from .rules.edit import get, parse_path
from .storing.storage import effect_text, load_effect, parse_effect, save_effect

__all__ = [
    "Camera",
    "Effect",
    "EffectError",
    "Layer",
    "Stage",
    "effect_text",
    "get",
    "load_effect",
    "new_id",
    "parse_effect",
    "parse_path",
    "save_effect",
]
