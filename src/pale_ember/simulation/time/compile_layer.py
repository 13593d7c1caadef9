"""Compiles a layer into its program: tables, shape, track, and the addresses of the kernels that it uses."""

from __future__ import annotations

import numpy as np

from ...effect.chapters.look import used_noises
from ...effect.chapters.motion import Flight
from ...effect.chapters.stage import Prop
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.kinds import Across, DrawnAs, EmitterShape, code_of
from ...effect.rules.edit import get
from ...effect.rules.paths import FieldPath
from ...effect.values.values import Fixed
from ..births.aiming import spawn
from ..births.moving_along import glitter, take_along
from ..births.schedule import Schedule
from ..births.shape_data import row_of, shape_of
from ..births.shapes import PLACES
from ..births.spawning import bear, receive
from ..contact.hits import touch
from ..contact.world import world_of
from ..kernels.compiling import Calls, Kernel, kernel
from ..layout import dependence, slots
from ..layout.instances import ALWAYS
from ..layout.program import (
    POSE,
    POSES,
    ROTATION,
    STRETCH,
    DrawingCodes,
    LayerProgram,
    Surroundings,
    Tables,
    Weather,
)
from ..layout.recording import DEATH, FLIGHT, new_log, record
from ..layout.rows import ExtraRows, extra_rows_of
from ..layout.signatures import NOTHING
from ..meshes.faces import mesh_faces
from ..motion.bows import Bow, bow_at_rest, bow_at_steps, missing_anchor, stands_on_things
from ..motion.force import forces_of, load_forces
from ..motion.forces import drag_and_wind
from ..motion.orbit import orbit
from ..motion.path import carried, pose, track_of
from ..motion.prop_motion import stand_props
from ..motion.pushing import glide, push
from ..motion.speeds import find_speeds
from ..motion.top_speed import move_limited
from ..motion.turbulence import stir
from ..values.dice import layer_key, property_key
from ..values.sampling import at_clock, values
from ..values.tables import highest
from .integration import advance

Fixed0 = Fixed(0.0)
load_forces()


class UnlinkedKernel(RuntimeError):
    """A kernel was called that the layer was not linked with: :func:`kernels_of` left it out."""


@kernel(NOTHING, cost=0.1)
def unlinked():
    """Stand at the address of kernels that a layer doesn't use.

    Whatever arguments it is called with stay unread: by Numba's calling convention the caller puts them away.
    """
    raise UnlinkedKernel("a kernel was called that this layer was not linked with")


def kernels_of(layer: Layer, wants: int = 0) -> dict[str, Kernel]:
    """Return the kernels that a layer's kernels call, by their names in ``Calls``; ``wants`` are the
    events asked of it.
    """
    flight, found = (
        layer.flight,
        {"values": values, "at_clock": at_clock, "drag": drag_and_wind, "spawn": spawn},
    )
    placing = PLACES[layer.birthplace.kind]
    if placing is not None:
        found["place"] = placing
    found |= {"bear": bear, "advance": advance}
    drifts = any(value != Fixed0 for value in flight.drift)
    forces = forces_of(flight)
    found |= {each.name: each for each in forces}
    if (
        not isinstance(flight.gravity, Fixed)
        or flight.pace != Fixed(1.0)
        or drifts
        or any(v != Fixed0 for v in (flight.wind, *flight.thrust))
        or forces
    ):
        found["push"] = push
    if drifts or flight.spin != Fixed0:
        found["glide"] = glide
    if dependence.along_speed([getattr(flight, name) for name in Flight.model_fields]):
        found["speeds"] = find_speeds
    if flight.turbulence != Fixed0:
        found["stir"] = stir
    if flight.orbit != Fixed0:
        found["orbit"] = orbit
    if flight.top_speed != Fixed0:
        found["limit"] = move_limited
    if layer.path:
        found |= {"pose": pose, "carried": carried, "take_along": take_along}
    if layer.birthplace.glitter or layer.birthplace.kind == EmitterShape.BOW:
        found["glitter"] = glitter
    if layer.contact.enabled:
        found |= {"contact": touch, "stand_props": stand_props}
    if layer.origin.parent:
        found["receive"] = receive
    if is_recorded(wants):
        found["record"] = record
    return found


def is_recorded(wants: int) -> bool:
    """Return whether events are asked of a layer that are found in each step of each particle."""
    return bool(wants & (DEATH | FLIGHT))


def calls_of(layer: Layer, wants: int = 0) -> Calls:
    """Return the addresses of the kernels that a layer uses, compiled if they weren't; others lead to an
    error.
    """
    used = kernels_of(layer, wants)
    forces = np.array([each.address for each in forces_of(layer.flight)], np.int64)
    names = (name for name in Calls._fields if name != "forces")
    return Calls(**{name: used.get(name, unlinked).address for name in names}, forces=forces)


def program_of(
    effect: Effect, layer: Layer, schedule: Schedule, tables: Tables
) -> tuple[LayerProgram, list[Prop], EffectError | None]:
    """Return a layer's program, the props in it, and what keeps it from being simulated as it is meant,
    such as a missing mesh.
    """
    dice = layer_key(effect.seed, layer.id)
    corners, problem = np.zeros((0, 3, 3)), None
    if layer.birthplace.kind == EmitterShape.MESH:
        try:
            corners = mesh_faces(layer.birthplace.mesh)
        except EffectError as wrong:
            problem = wrong
    track, around, poses = track_of(layer), _surroundings(layer, dice), np.zeros((POSES, POSE))
    for each in poses:
        each[:ROTATION], each[ROTATION:STRETCH], each[STRETCH] = track.centre, track.rotation.reshape(-1), 1.0
    around.centre[:], around.rotation[:], around.axis[:] = track.centre, track.rotation, track.rotation[:, 1]
    world, props, unmet = world_of(effect, layer, tables)
    problem = problem or unmet or missing_anchor(effect, layer)
    made = LayerProgram(
        clock=schedule.clock_bundle,
        follow=bool(layer.flight.follow),
        tables=tables,
        shape=shape_of(
            layer.birthplace,
            layer.place.scale,
            dice,
            corners,
            _bow_of(effect, layer),
            row_of(layer.birthplace, layer.look),
        ),
        track=track,
        weather=_weather(effect, layer, schedule),
        around=around,
        form=np.zeros(slots.COUNT, np.int32),
        ends=np.zeros((slots.COUNT, 2), np.float32),
        poses=poses,
        extra_rows=_extra_rows(effect, layer),
        world=world,
        log=new_log(0, 0),
        calls=calls_of(layer),
        drawn=drawing_codes_of(effect, layer),
        has_contact=layer.contact.enabled,
        is_recorded=False,
    )
    return made, props, problem


def _weather(effect: Effect, layer: Layer, schedule: Schedule) -> Weather:
    stage = effect.stage
    return Weather(
        wind=np.array(stage.wind, np.float64),
        gust=float(stage.gust),
        gust_period=float(stage.gust_period),
        churn=float(layer.flight.churn),
        repeats=bool(schedule.repeats),
    )


def _extra_rows(effect: Effect, layer: Layer) -> ExtraRows:
    return extra_rows_of(
        way=dependence.needs_way(layer),
        contact=layer.contact.enabled,
        flight=dependence.needs_flight(effect, layer),
        taken=dependence.takes(layer),
        row=dependence.needs_row(layer),
        owner=dependence.joins_parents(layer),
        laid=dependence.needs_laid(layer),
    )


def drawing_codes_of(effect: Effect, layer: Layer) -> DrawingCodes:
    """Return what a layer's particles are drawn as."""
    look = layer.look
    return DrawingCodes(
        draw=code_of(look.draw),
        across=code_of(look.ribbon.across),
        stand=code_of(look.mesh.stand),
        random_values=property_key(layer_key(effect.seed, layer.id), "look.mesh/lots"),
    )


def _bow_of(effect: Effect, layer: Layer) -> Bow:
    """Return a layer's bow; one that stands on things is filled in for the steps that are simulated."""
    if not stands_on_things(effect, layer):
        return bow_at_rest(layer.birthplace, layer.place.scale)
    return bow_at_steps(effect, layer, 0, 1)


def with_bow(program: LayerProgram, effect: Effect, layer: Layer, first: int, steps: int) -> LayerProgram:
    """Return a program whose bow is known for some steps at least."""
    shape = program.shape
    if not shape.moves:
        return program
    since = int(shape.at[1])
    if since <= first and first + steps < since + len(shape.bow):
        return program
    bow = bow_at_steps(effect, layer, first, steps)
    return program._replace(
        shape=shape._replace(bow=bow.points, even=bow.even, at=np.array([0, first], np.int64))
    )


def _surroundings(layer: Layer, dice: int) -> Surroundings:
    """Return the memory for what surrounds the particles in a step."""
    flight, scale = layer.flight, layer.place.scale
    return Surroundings(
        rotation=np.zeros((3, 3), np.float32),
        centre=np.zeros(3, np.float32),
        axis=np.zeros(3, np.float32),
        stretch=np.ones(1, np.float32),
        breeze=np.zeros(3, np.float32),
        slid=np.zeros((2, 3)),
        eddy=float(flight.eddy * scale),
        octaves=int(flight.octaves),
        salt=property_key(dice, "flight.turbulence/eddies"),
        speed_range=float(flight.speed_range * scale),
        sides=property_key(dice, "flight.swirl/side"),
    )


def carried_fields(layer: Layer, tables: Tables) -> tuple[tuple[str, ...], dict[str, tuple[float, ...]]]:
    """Return the fields that a layer's instances carry, and the value of each that all its particles
    share.
    """
    levels = tables.form == slots.CONSTANT

    def level(*some: int) -> tuple[float, ...] | None:
        return tuple(float(tables.ends[slot, 0]) for slot in some) if levels[list(some)].all() else None

    shared: dict[str, tuple[float, ...] | None] = {
        name: level(*range(straight.slot, straight.slot + straight.parts))
        for name, straight in slots.STRAIGHT.items()
        if _counts(layer, straight)
    }
    if layer.flight.spin == Fixed0:
        shared["angle"] = level(slots.ANGLE)
    if dependence.takes(layer):
        shared["color"] = None
    tint, color = (
        level(slots.TINT_R, slots.TINT_G, slots.TINT_B),
        level(slots.COLOR_R, slots.COLOR_G, slots.COLOR_B),
    )
    if tint is not None and color is not None and not dependence.takes(layer):
        # As the kernel multiplies them.
        shared["color"] = tuple(
            float(np.float32(a) * np.float32(b)) for a, b in zip(tint, color, strict=True)
        )
    look, noises = layer.look, used_noises(layer.look)
    if look.texture:
        still = levels[slots.FRAME] and levels[slots.FRAME_RATE] and tables.ends[slots.FRAME_RATE, 0] == 0.0
        shared["frame"] = level(slots.FRAME) if still else None
    if dependence.needs_way(layer):
        shared["way"] = None
    if look.draw != DrawnAs.RIBBON:
        if noises or (look.texture and 0.0 < look.mirror < 1.0):
            shared["dice"] = None
        if any(noise.pan != (0.0, 0.0) for noise in noises.values()):
            shared["lived"] = None
    if look.draw == DrawnAs.RIBBON:
        # A band isn't turned by its points.
        shared["angle"] = (0.0,)
        if look.ribbon.across in (Across.AXIS, Across.LINE):
            shared["across"] = None
        if dependence.needs_laid(layer):
            shared["laid"] = None
    if look.draw == DrawnAs.MESH:
        shared |= {"angle": (0.0,), "turn": None, "lot": None}
    fixed = {name: value for name, value in shared.items() if value is not None}
    carried = dict.fromkeys(("angle", "color", *shared))
    return (*ALWAYS, *(name for name in carried if name not in fixed)), fixed


def _counts(layer: Layer, straight: slots.Straight) -> bool:
    """Return whether a field that has a column counts for how a layer is drawn."""
    rule = straight.rule
    drawn = not rule.draws or layer.look.draw in rule.draws
    return drawn and rule.counts_in(get(layer, FieldPath(straight.path).owner))


def longest_life(tables: Tables) -> float:
    """Return the longest lifetime that a table can give, s."""
    return highest(tables, slots.LIFETIME)
