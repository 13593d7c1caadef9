"""The layers over time."""
