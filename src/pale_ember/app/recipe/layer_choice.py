"""A choice among the other layers of the effect."""

from __future__ import annotations

from collections.abc import Callable

from ..session.session import Session
from ..widgets.controls import Combo


class LayerChoice(Combo):
    """Lists the layers besides the selected ones by name; ``chosen`` is called with the id of the one
    that is taken.
    """

    def __init__(self, label: str, help: str, chosen: Callable[[str], object]) -> None:
        super().__init__()
        self.setAccessibleName(label)
        self.setToolTip(help)
        # Long names of layers don't make the recipe wider.
        self.setSizeAdjustPolicy(Combo.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(5)
        self.activated.connect(lambda _: chosen(self.currentData()))

    gone = "a layer that is gone"

    def names(self, session: Session) -> list[tuple[str, str]]:
        """Return what can be chosen: what it is called, and what the field then has."""
        return [
            ("none", ""),
            *((layer.name, layer.id) for layer in session.effect.layers if layer.id not in session.chosen),
        ]

    def show_layer(self, session: Session, layer_id: str) -> None:
        """List the layers that there are now, and show the one of an id."""
        names = self.names(session)
        if layer_id not in [key for _, key in names]:
            names.append((self.gone, layer_id))
        if [(self.itemText(i), self.itemData(i)) for i in range(self.count())] != names:
            self.clear()
            for name, key in names:
                self.addItem(name, key)
        self.setCurrentIndex([key for _, key in names].index(layer_id))
