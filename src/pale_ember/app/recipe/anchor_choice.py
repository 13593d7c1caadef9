"""A choice of what an end of a bow stands on."""

from __future__ import annotations

from ..session.session import Session
from .layer_choice import LayerChoice


class AnchorChoice(LayerChoice):
    """Lists the stage's props and the layers besides the selected ones."""

    def names(self, session: Session) -> list[tuple[str, str]]:
        layers = [
            (layer.name, f"layer:{layer.id}")
            for layer in session.effect.layers
            if layer.id not in session.chosen
        ]
        props = dict.fromkeys(prop.name for prop in session.effect.stage.props)
        return [("nothing", ""), *((name, f"prop:{name}") for name in props), *layers]

    gone = "a thing that is gone"
