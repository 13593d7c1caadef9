"""The numbered places in which a layer's Values reach the kernels."""

from __future__ import annotations

from typing import NamedTuple

# Drawn or read at birth.
LIFETIME, SPEED, PUSH_X, PUSH_Y, PUSH_Z, ANGLE, CARRY = range(7)
# Read at each step.
GRAVITY, DRAG, WIND, THRUST_X, THRUST_Y, THRUST_Z, DRIFT_X, DRIFT_Y, DRIFT_Z = range(7, 16)
PULL, SWIRL, ORBIT, TURBULENCE, PACE, TOP_SPEED, SPIN = range(16, 23)
# Read at each hit.
BOUNCE, FRICTION = range(23, 25)
# Read when a moment is drawn; those before GROW keep to the particle's birth.
SIZE, ASPECT, TINT_R, TINT_G, TINT_B, FRAME_RATE = range(25, 31)
GROW, OPACITY, INTENSITY, COLOR_R, COLOR_G, COLOR_B = range(31, 37)
WIDEN, FRAME, MIX, STREAK, ERODE, BEND, SHIMMER = range(37, 44)
STRETCH_X, STRETCH_Y, STRETCH_Z, RIM = range(44, 48)
COUNT = 48

# Forms of a slot: level, spread, one of several numbers, then curve and band along life, along clock, along speed.
CONSTANT, SPREAD, ONE_OF, LIFE_CURVE, LIFE_BAND, CLOCK_CURVE, CLOCK_BAND, SPEED_CURVE, SPEED_BAND = range(9)


class Slot(NamedTuple):
    """Where a slot's Value stands in a layer, the factor to the kernels' units, and what scales with the layer."""

    path: str
    factor: float = 1.0
    scaled: bool = False


DEGREE = 0.017453292519943295

SLOTS: dict[int, Slot] = {
    LIFETIME: Slot("launch.lifetime"),
    SPEED: Slot("launch.speed", scaled=True),
    PUSH_X: Slot("launch.push.x", scaled=True),
    PUSH_Y: Slot("launch.push.y", scaled=True),
    PUSH_Z: Slot("launch.push.z", scaled=True),
    ANGLE: Slot("launch.angle", DEGREE),
    CARRY: Slot("launch.carry"),
    GRAVITY: Slot("flight.gravity"),
    DRAG: Slot("flight.drag"),
    WIND: Slot("flight.wind"),
    THRUST_X: Slot("flight.thrust.x", scaled=True),
    THRUST_Y: Slot("flight.thrust.y", scaled=True),
    THRUST_Z: Slot("flight.thrust.z", scaled=True),
    DRIFT_X: Slot("flight.drift.x", scaled=True),
    DRIFT_Y: Slot("flight.drift.y", scaled=True),
    DRIFT_Z: Slot("flight.drift.z", scaled=True),
    PULL: Slot("flight.pull", scaled=True),
    SWIRL: Slot("flight.swirl", scaled=True),
    ORBIT: Slot("flight.orbit", DEGREE),
    TURBULENCE: Slot("flight.turbulence", scaled=True),
    PACE: Slot("flight.pace"),
    TOP_SPEED: Slot("flight.top_speed", scaled=True),
    SPIN: Slot("flight.spin", DEGREE),
    BOUNCE: Slot("contact.bounce"),
    FRICTION: Slot("contact.friction"),
    SIZE: Slot("launch.size", scaled=True),
    ASPECT: Slot("launch.aspect"),
    FRAME_RATE: Slot("look.frame_rate"),
    GROW: Slot("look.grow"),
    OPACITY: Slot("look.opacity"),
    INTENSITY: Slot("look.intensity"),
    WIDEN: Slot("look.widen"),
    FRAME: Slot("look.frame"),
    MIX: Slot("look.mix"),
    STREAK: Slot("look.streak"),
    ERODE: Slot("look.erode.amount"),
    BEND: Slot("look.bend.amount"),
    SHIMMER: Slot("look.shimmer.amount"),
    STRETCH_X: Slot("look.mesh.stretch.x"),
    STRETCH_Y: Slot("look.mesh.stretch.y"),
    STRETCH_Z: Slot("look.mesh.stretch.z"),
    RIM: Slot("look.mesh.rim"),
}

COLOR_SLOTS: dict[int, str] = {TINT_R: "look.tint", COLOR_R: "look.color"}

# Whether a slot is in metres, and so grows with the layer along its path.
LENGTHS = tuple(slot in SLOTS and SLOTS[slot].scaled for slot in range(COUNT))

# What decides a layer's motion; the rest is read only when a moment is drawn.
MOTION_SLOTS = range(LIFETIME, FRICTION + 1)
BIRTH_SLOTS = range(LIFETIME, CARRY + 1)
FLIGHT_SLOTS = range(GRAVITY, SPIN + 1)
LOOK_SLOTS = range(SIZE, COUNT)
# What is summed up step by step over a life.
SUMMED = frozenset(FLIGHT_SLOTS) - {TOP_SPEED}
