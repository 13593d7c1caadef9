"""Pale Ember: a bench for building and tuning layered 3D particle effects."""

VERSION = "0.1.0"
