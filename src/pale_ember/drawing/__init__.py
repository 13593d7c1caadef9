"""Particles to pixels."""

from .moment import DrawnLayer, Moment, moment_of

__all__ = ["DrawnLayer", "Moment", "moment_of"]
