"""Builds for tests, as the file has them."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from pale_ember.effect.storing.storage import parse_effect
from pale_ember.effect.textures import Texture
from pale_ember.textures.making.build import Making, make


def texture(
    *steps: dict[str, Any],
    size: int = 32,
    frames: int = 0,
    seed: int = 1,
    build: dict[str, Any] | None = None,
    **entry: Any,
) -> Texture:
    """Return a texture of some steps; ``build`` are further fields of its build."""
    data = {
        "format": "pale-ember/effect",
        "version": 3,
        "textures": [
            {
                "name": "t",
                "frames": frames,
                "build": {"size": size, "seed": seed, "steps": list(steps), **(build or {})},
                **entry,
            }
        ],
    }
    return parse_effect(json.dumps(data)).textures[0]


def light(*steps: dict[str, Any], **how: Any) -> np.ndarray:
    """Return what the first frame covers."""
    return make(texture(*steps, **how)).pixels[0, :, :, 3]


def with_files(entry: Texture, files: dict[str, Any]) -> Any:
    """Return the pictures of a build whose steps bring pictures in."""
    return make(entry, how=Making(files=files))
