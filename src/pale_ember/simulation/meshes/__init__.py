"""Triangle meshes: read from files, to be born on, and to be drawn."""
