"""Effects in which particles meet things."""

from pale_ember.effect import Effect
from pale_ember.effect.effect import Layer

G = 9.81


def effect_of(**edits):
    """Return one layer with contact, born in one burst at rest."""
    effect = Effect(layers=(Layer(id="a", name="a"),), duration=20.0, loop=False)
    fields = {
        "emit.rate": 0,
        "emit.bursts": [{"at": 0, "count": 1}],
        "launch.lifetime": 3600,
        "launch.speed": 0,
        "contact.enabled": True,
    }
    for path, value in (fields | edits).items():
        inside = path.startswith(("stage.", "step_rate", "duration", "loop"))
        effect = effect.edit(path if inside else f"layers[0].{path}", value)
    return effect


def wall(kind, **more):
    return {"kind": kind, **({"mesh": "box"} if kind == "mesh" else {}), **more}
