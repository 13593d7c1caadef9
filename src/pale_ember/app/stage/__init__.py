"""The 3D view, and all that is drawn by its studio."""
