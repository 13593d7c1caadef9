"""Effects in which layers follow others."""

from pale_ember.effect import Effect
from pale_ember.effect.effect import Layer


def chain_of(parent, *children, **whole):
    """Return an effect of a parent and follow-ups, each of the one before it."""
    effect = Effect(
        layers=tuple(Layer(id=f"l{i}", name=f"l{i}") for i in range(1 + len(children))),
        duration=20.0,
        loop=False,
    )
    for path, value in whole.items():
        effect = effect.edit(path.replace("__", "."), value)
    for i, fields in enumerate((parent, *children)):
        if i:
            effect = effect.edit(f"layers[{i}].origin.parent", f"l{i - 1}")
        for path, value in fields.items():
            effect = effect.edit(f"layers[{i}].{path}", value)
    return effect


RAIN = {
    "emit.rate": 200,
    "birthplace.kind": "box",
    "birthplace.extents": [4, 0, 4],
    "place.position": [0, 2, 0],
    "launch.speed": 0,
    "launch.push": [1, -3, 0.5],
    "flight.gravity": 1,
    "launch.lifetime": 3,
    "contact.enabled": True,
    "contact.on_hit": "vanish",
}


STILL = {"launch.speed": 0, "launch.lifetime": 60, "emit.cap": 200_000}
