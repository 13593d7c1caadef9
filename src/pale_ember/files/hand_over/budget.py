"""What of an effect's figures is more than a game allows."""

from __future__ import annotations

from typing import Any

from ...effect.effect import Effect
from ..product_options import Budget


def over_budget(effect: Effect, figures: dict[str, Any], budget: Budget) -> list[str]:
    """Return a sentence for each limit that an effect passes."""
    found = []
    if budget.alive and figures["peak"] > budget.alive:
        most = max(figures["layers"], key=lambda row: row["peak"])
        found.append(
            f"{figures['peak']:,} particles are alive at once, {budget.alive:,} are allowed; most are "
            f"of “{most['name']}” ({most['peak']:,})."
        )
    born = sum(row["born_per_second"] for row in figures["layers"])
    if budget.born and born > budget.born:
        most = max(figures["layers"], key=lambda row: row["born_per_second"])
        found.append(
            f"{born:,.0f} are born each second, {budget.born:,.0f} are allowed; most are of "
            f"“{most['name']}” ({most['born_per_second']:,.0f})."
        )
    memory = figures["texture_memory"] / 2**20
    if budget.texture_memory and memory > budget.texture_memory:
        found.append(
            f"textures take {memory:.1f} MB, {budget.texture_memory:g} MB are allowed; halve the "
            "largest of them."
        )
    enabled = sum(layer.enabled for layer in effect.layers)
    if budget.layers and enabled > budget.layers:
        found.append(
            f"{enabled} layers are enabled, {budget.layers} are allowed; put what looks alike into one."
        )
    return found
