"""Builds to pictures: the steps, and what they are made of."""
