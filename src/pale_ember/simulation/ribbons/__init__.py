"""Ribbons: which particles they join, and the bands of triangles that they are drawn as."""
