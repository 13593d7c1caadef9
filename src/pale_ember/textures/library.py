"""The textures that come with Pale Ember: all are builds, kept as text like any effect's."""

from __future__ import annotations

import functools
from importlib import resources

from ..effect.storing.storage import parse_effect
from ..effect.textures import Texture


@functools.cache
def shipped_textures() -> tuple[Texture, ...]:
    """Return them, in the order in which they are offered."""
    return parse_effect((resources.files(__package__) / "shipped.ember").read_bytes()).textures
