"""How heavy an effect is before it is simulated: what it may take of memory and time, by its own numbers
alone.
"""

from __future__ import annotations

import os

from ...effect.chapters.motion import Flight
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.rules.paths import FieldPath
from ..births.schedule import Schedule
from ..layout.instances import instance_type
from ..layout.rows import ROWS
from ..values.tables import bake
from .compile_layer import longest_life

# Of the machine's memory, what particles may take; and how many bytes each does, state, instance and number.
SHARE = 0.6
BYTES = 4 * ROWS + instance_type(("angle", "color", "opacity", "intensity")).itemsize + 4
# About what a particle takes in a step, a birth, and a step of a layer itself, s: a slow machine's.
PARTICLE, BIRTH, STEP = 50e-9, 500e-9, 20e-6
# What a particle takes besides for each octave of eddies, and where it glitters. What forces take is said by
# their fields.
OCTAVE, GLITTER = 40e-9, 150e-9
# And where it comes near floor, props or a mesh in a step.
NEAR = 400e-9
# And what the births of a loop take, for each of their sources.
LOOP = 200e-6
# What is slower than this for a second of the effect is said to be heavy, s.
HEAVY = 5.0


def memory() -> int:
    """Return the machine's memory, bytes."""
    try:
        return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    except (ValueError, OSError):
        return 8 << 30


def most_alive(effect: Effect) -> list[int]:
    """Return for each layer a number that its living particles don't exceed."""
    return [
        int(min(layer.emit.cap, _uncapped(effect, layer))) if layer.enabled else 0 for layer in effect.layers
    ]


def _uncapped(effect: Effect, layer: Layer) -> float:
    """Return how many particles of a layer would be alive at most without a cap; of a follow-up nobody
    knows.
    """
    if layer.origin.parent:
        return float(layer.emit.cap)
    longest = longest_life(bake(layer, effect.seed, effect.stage.gravity)) + 2.0 / effect.step_rate
    return float(Schedule(effect, layer).most_within(longest))


def needed_cap(effect: Effect, index: int, each_second: float | None = None) -> int:
    """Return a cap at which a layer refuses no birth, as far as a cap may go.

    Of a follow-up nobody knows that from the effect alone; ``each_second`` is how many births it is asked
    for.
    """
    layer = effect.layers[index]
    if layer.origin.parent and each_second is not None:
        longest = longest_life(bake(layer, effect.seed, effect.stage.gravity)) + 2.0 / effect.step_rate
        needed = max(1.25 * each_second * longest, 1.1 * layer.emit.cap)
    else:
        needed = _uncapped(effect, layer)
    return int(min(rounded_up(needed + 1), type(layer.emit).rules()["cap"].hard[1]))


def may_refuse(effect: Effect, layer: Layer) -> bool:
    """Return whether a layer's own births may come to more than its cap."""
    return layer.enabled and not layer.origin.parent and _uncapped(effect, layer) > layer.emit.cap


def rounded_up(number: float) -> int:
    """Return a whole number of two figures, so that it can be read, that is not below another."""
    whole = max(int(number), 1)
    step = 10 ** max(len(str(whole)) - 2, 0)
    return -(-whole // step) * step


def too_large(effect: Effect) -> EffectError | None:
    """Return what makes an effect take more memory than there is; None if it fits."""
    return refusal_of(most_alive(effect))


def refusal_of(alive: list[int]) -> EffectError | None:
    """Return why so many particles alive in each layer are too many for the machine's memory; None if
    they aren't.
    """
    room = SHARE * memory()
    if sum(alive) * BYTES <= room:
        return None
    at = max(range(len(alive)), key=lambda i: alive[i])
    said = f"{sum(alive):,} particles in all layers together would take {sum(alive) * BYTES / 2**30:.0f} GB"
    return EffectError(
        FieldPath.of_layer(at, "emit.cap"),
        f"{said}, and {room / 2**30:.0f} GB may be taken; lower the caps of the largest layers.",
    )


def _births(effect: Effect, index: int, seconds: float) -> float:
    """Return about how many particles a layer is given in some seconds; what a full cap refuses takes no
    time.
    """
    layer = effect.layers[index]
    if not layer.enabled:
        return 0.0
    if layer.origin.parent:
        most = min(layer.emit.cap, layer.origin.limit) * seconds * effect.step_rate
        return float(min(most, layer.emit.cap * max(seconds, 1.0) * 4.0))
    schedule = Schedule(effect, layer)
    each_step = min(layer.emit.cap, schedule.most_within(1.0 / effect.step_rate))
    return float(min(each_step * seconds * effect.step_rate, schedule.most_within(seconds)))


def _each_step(layer: Layer) -> float:
    """Return about what a step takes for a particle of a layer, s."""
    flight = layer.flight
    used = {
        name: rule
        for name, rule in Flight.rules().items()
        if getattr(flight, name) != Flight.default_of(name)
    }
    # Forces share most of their work: the heaviest one counts.
    forces = max((rule.cost for rule in used.values()), default=0.0)
    stirred = flight.octaves * OCTAVE if "turbulence" in used else 0.0
    return PARTICLE + forces + stirred + layer.birthplace.glitter * GLITTER + layer.contact.enabled * NEAR


def _present(effect: Effect, index: int, most: int, seconds: float) -> float:
    """Return how many particles of a layer are alive at most, on the mean over some seconds from its
    beginning.
    """
    if most == 0:
        return 0.0
    if effect.layers[index].origin.parent:
        return float(most)
    schedule = Schedule(effect, effect.layers[index])
    return sum(min(most, schedule.most_within(seconds * (i + 0.5) / 4)) for i in range(4)) / 4


def slowness(effect: Effect, seconds: float = 1.0) -> EffectError | None:
    """Return what makes some seconds of an effect slow to simulate, warm-up included; None if nothing
    does.
    """
    steps = (seconds + effect.warm_up) * effect.step_rate
    alive = most_alive(effect)
    whole = seconds + effect.warm_up
    each = [
        steps * (_present(effect, i, count, whole) * _each_step(effect.layers[i]) + STEP)
        + _births(effect, i, whole) * BIRTH
        for i, count in enumerate(alive)
    ]
    loops = (seconds + effect.warm_up) / effect.duration if effect.loop else 1.0
    sources = sum(2 + len(layer.emit.bursts) for layer in effect.layers if layer.enabled)
    if sum(each) + loops * sources * LOOP <= HEAVY * max(seconds, 1.0):
        return None
    if loops * sources * LOOP > sum(each):
        said = f"this is heavy: {loops:,.0f} loops of {effect.duration:g} s, warm-up included"
        return EffectError("duration", f"{said}; make loops longer or warm-up shorter.")
    at = max(range(len(each)), key=lambda i: each[i])
    layer = effect.layers[at]
    why = f"up to {alive[at]:,} particles alive in “{layer.name[:40]}”"
    if effect.warm_up > 10.0 * seconds and steps * STEP * len(alive) > 1.0:
        why += f", and {effect.warm_up:g} s of warm-up"
    return EffectError(
        FieldPath.of_layer(at, "emit"), f"this is heavy: {why}; lower its cap, rate or lifetime."
    )
