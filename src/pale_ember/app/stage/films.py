"""Filmstrips, drawn by the stage's own renderer."""

from __future__ import annotations

from typing import Any

from PyQt6.QtGui import QImage

from ...drawing.filmstrip import MARGIN
from ...drawing.moment import worn
from ...effect.effect import Layer
from .images import as_image
from .stage import Stage


def film_of(
    stage: Stage, rows: list[Any], scale: float, size: tuple[int, int], layer: Layer, hasty: bool = False
) -> list[QImage]:
    """Return filmstrips, one for each array of instances, from the stage's own side; see
    :func:`draw_filmstrip`.

    Hasty ones are drawn where neighbours' glow may reach, which is quicker.
    """
    if not stage.can_draw():
        return []
    camera, environment = stage.session.camera, stage.session.environment(bare=True)
    wears = worn(layer, stage.session.textures.state.ready)
    hasty = hasty and stage.studio.is_software
    margin, use = (0, "hasty film") if hasty else (MARGIN, "film")
    return [
        as_image(
            stage.studio.film_pixels(
                frames,
                camera,
                scale,
                size,
                layer.look,
                environment,
                margin,
                f"{use} {i}",
                wears,
                draft=hasty,
            )
        )
        for i, frames in enumerate(rows)
    ]
