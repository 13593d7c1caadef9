"""An effect as a bundle: all that a game needs, in a folder or a .zip, and back."""
