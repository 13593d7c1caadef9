"""A coarse version of a build that takes long, to be looked at while the whole one is made."""

from __future__ import annotations

from ..effect.steps.flow import Flow
from ..effect.textures import Texture

# Pixels of all frames together that are made in a wink: of plain steps, and of a flow.
QUICK, QUICK_FLOW = 1 << 17, 1 << 16
LEAST = 24


def coarser(texture: Texture) -> Texture | None:
    """Return a texture whose build is made quickly; None if the whole one is, or if it is no build."""
    build = texture.build
    if texture.file or build is None:
        return None
    flows = any(isinstance(step, Flow) and step.on for step in build.steps)
    most = QUICK_FLOW if flows else QUICK
    if texture.made * build.size**2 <= most:
        return None
    size = max(int((most / texture.made) ** 0.5) // 4 * 4, LEAST)
    return (
        None
        if size >= build.size
        else texture.model_copy(update={"build": build.model_copy(update={"size": size})})
    )


def shrunk(texture: Texture, side: int, frames: int) -> Texture:
    """Return a texture whose build is made small and with few frames, for a small picture of it."""
    build = texture.build
    if texture.file or build is None:
        return texture
    kept = build.kept(texture.made)
    order = kept[:: max(-(-len(kept) // frames), 1)]
    small = build.model_copy(update={"size": min(build.size, side), "order": order})
    return texture.model_copy(update={"build": small})
