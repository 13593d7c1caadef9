"""The stage as it is drawn: its backdrop, its light, and how the picture is developed."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np

from ..effect.chapters.stage import Light, Prop, Stage
from ..effect.kinds import Backdrop
from ..effect.values.colors import hex_to_linear
from ..simulation.motion.prop_poses import standing
from ..textures.prepared import Prepared
from .backdrops import BACKDROPS

GLOW, GLOW_REACH, LIGHT = Stage().glow, Stage().glow_reach, Light()


@dataclass(frozen=True)
class Environment:
    """What surrounds particles in a picture.

    Attributes
    ----------
    backdrop : Backdrop or None
        None is nothing: the picture is clear where nothing is.
    grid : bool
        Whether the floor shows its metres.
    solid : bool
        Whether the floor hides what is below it, and catches the light of layers that shine.
    picture : Prepared or None
        Of the backdrop that is a picture.
    """

    backdrop: Backdrop | None
    grid: bool = True
    light: Light = LIGHT
    exposure: float = 0.0
    glow: float = GLOW
    glow_reach: float = GLOW_REACH
    solid: bool = False
    floor: bool = True
    figure: bool = False
    props: tuple[Prop, ...] = ()
    picture: Prepared | None = None

    @property
    def behind(self) -> tuple[object, ...]:
        """Return what the picture behind the particles depends on."""
        return (
            self.backdrop,
            self.grid,
            self.light,
            self.floor,
            self.solid,
            self.figure,
            self.props,
            self.picture,
        )


def environment_of(
    stage: Stage,
    grid: bool = True,
    bare: bool = False,
    picture: Prepared | None = None,
    clear: bool = False,
    clock: float = 0.0,
) -> Environment:
    """Return an effect's stage as it is drawn.

    Parameters
    ----------
    bare : bool
        Leaves the floor without body, and all that stands on it away: for pictures of particles alone.
    clear : bool
        Draws on nothing.
    clock : float
        The share of the effect's duration that has passed: where props stand that move.
    """
    return Environment(
        None if clear else stage.backdrop,
        grid and not bare,
        stage.light,
        stage.exposure,
        stage.glow,
        stage.glow_reach,
        stage.floor and not bare and not clear,
        stage.floor or bare,
        stage.figure and not bare and not clear,
        () if bare or clear else tuple(standing(prop, clock) for prop in stage.props),
        picture,
    )


def as_environment(what: Environment | Backdrop | None, grid: bool = True) -> Environment:
    """Return an environment; a backdrop alone stands for one with nothing on it."""
    return what if isinstance(what, Environment) else Environment(what, grid)


@dataclass(frozen=True)
class Lights:
    """Light on what is lit, linear: where the key light comes from, its colour, the sky's, the ground's."""

    key_from: tuple[float, ...]
    key: tuple[float, ...]
    sky: tuple[float, ...]
    ground: tuple[float, ...]


def lights_of(environment: Environment) -> Lights:
    """Return the light of an environment; without a backdrop that of a grey one."""
    return _lights(environment.backdrop or Backdrop.GREY, environment.light)


@functools.lru_cache(maxsize=32)
def _lights(backdrop: Backdrop, light: Light) -> Lights:
    colors = BACKDROPS[backdrop]
    yaw, pitch = np.radians(light.yaw), np.radians(light.pitch)
    source = np.array([np.cos(pitch) * np.sin(yaw), np.sin(pitch), np.cos(pitch) * np.cos(yaw)])
    key = hex_to_linear(colors.key) * hex_to_linear(light.color) * (colors.key_strength * light.strength)
    sky, bounce = (
        hex_to_linear(each) * (colors.sky_strength * light.sky) for each in (colors.sky, colors.bounce)
    )
    return Lights(*(tuple(float(x) for x in part) for part in (source, key, sky, bounce)))
