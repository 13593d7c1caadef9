"""The bench: the window's instruments turned to a texture."""
