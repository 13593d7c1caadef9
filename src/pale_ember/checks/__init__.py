"""Rules that read an effect and say what is wrong."""

from .findings import findings

__all__ = ["findings"]
