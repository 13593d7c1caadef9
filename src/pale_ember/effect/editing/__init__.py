"""Edits of an effect that are more than one field: layers, links, textures, what is copied and pasted."""
