"""All particles of an effect at all moments, as numbers for other programs."""
