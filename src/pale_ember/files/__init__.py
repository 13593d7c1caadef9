"""Open, save, pack, export, bake."""
