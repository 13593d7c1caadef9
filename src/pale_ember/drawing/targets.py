"""Framebuffers for light: linear, in half floats."""

from __future__ import annotations

from typing import Any

import moderngl


def light_target(ctx: Any, width: int, height: int, depth: bool = False) -> Any:
    """Return a framebuffer for linear light that is read softly between its pixels; with a depth texture
    if asked.
    """
    texture = ctx.texture((width, height), 4, dtype="f2")
    texture.filter = moderngl.LINEAR, moderngl.LINEAR
    texture.repeat_x = texture.repeat_y = False
    return ctx.framebuffer([texture], ctx.depth_texture((width, height)) if depth else None)


def smooth_target(ctx: Any, width: int, height: int, samples: int = 4) -> Any:
    """Return a framebuffer for linear light with a depth, several samples for each pixel; it is to be
    copied to be read.
    """
    texture = ctx.texture((width, height), 4, dtype="f2", samples=samples)
    return ctx.framebuffer([texture], ctx.depth_texture((width, height), samples=samples))


def release(*things: Any) -> None:
    """Give back framebuffers with what they hold, buffers, arrays; None is passed over."""
    for thing in things:
        if thing is None:
            continue
        for attached in (*getattr(thing, "color_attachments", ()), getattr(thing, "depth_attachment", None)):
            if attached is not None:
                attached.release()
        thing.release()
