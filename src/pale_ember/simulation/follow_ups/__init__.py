"""Births that follow the events of another layer's particles."""
