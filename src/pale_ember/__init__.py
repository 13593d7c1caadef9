"""Pale Ember: a bench for building and tuning layered 3D particle effects."""

__version__ = "0.1.0"
