"""What leaves the bench: wishes of a game, the works that fulfil them, and many of them at once."""
