"""The textures that come with Pale Ember: all are builds."""

from __future__ import annotations

import functools

from ..effect.steps.makers import Cloud
from ..effect.textures import Build, Texture
from .making.build import make
from .prepared import Prepared, prepared


@functools.lru_cache(maxsize=1)
def plain_cloud() -> Prepared:
    """Return the cloud that noises without a texture read."""
    texture = Texture(
        name="cloud", data=True, wrap=True, build=Build(size=128, steps=(Cloud(across=4, octaves=4),))
    )
    pictures = make(texture)
    assert pictures is not None
    return prepared(texture, pictures)
