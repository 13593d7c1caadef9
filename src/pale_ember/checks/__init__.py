"""Rules that read an effect and say what is wrong."""

from .problems import find_problems

__all__ = ["find_problems"]
