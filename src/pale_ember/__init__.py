"""Pale Ember: a bench for building and tuning layered 3D particle effects."""
