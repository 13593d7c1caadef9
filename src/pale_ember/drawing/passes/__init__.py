"""The steps from a moment to pixels, one file each."""
