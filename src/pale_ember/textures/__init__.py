"""Images: to be generated, sliced, packed, loaded and compressed."""
