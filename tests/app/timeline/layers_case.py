"""Four layers in the timeline of the real window."""

from PyQt6.QtCore import Qt

from ...building import effect_with
from ..case import WindowCase

CTRL, SHIFT, ALT, NONE = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.NoModifier,
)


class LayersCase(WindowCase):
    """Four layers, two of them with windows and bursts; nothing is drawn."""

    def first_effect(self):
        window = {"begin": 1, "length": 2}
        return effect_with(
            {
                "a": {"emit.rate": 10, "window": window, "emit.bursts": [{"at": 0.5}]},
                "b": {"emit.rate": 40, "window": window, "emit.bursts": [{"at": 1}]},
                "c": {"emit.rate": 7},
                "d": {},
            }
        )

    def setUp(self):
        super().setUp()
        self.window.stage.setUpdatesEnabled(False)
        self.rows = self.window.timeline.rows
        self.places = self.rows.places

    def ids(self):
        return [layer.id for layer in self.session.effect.layers]

    def layer(self, at):
        return self.session.effect.layers[at]

    def choose(self, *ids):
        self.session.select(ids[0])
        for one in ids[1:]:
            self.session.select(one, "also")

    def act(self, name):
        self.window.actions_by_name[name].trigger()
