"""Rules that read an effect and say what is wrong."""
