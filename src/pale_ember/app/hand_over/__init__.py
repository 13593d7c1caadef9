"""What leaves the bench: the panel that hands over, and how textures come out of compression."""
