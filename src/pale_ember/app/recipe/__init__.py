"""A layer's fields and its sentence."""
