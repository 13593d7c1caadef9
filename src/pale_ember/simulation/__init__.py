"""What an effect does over time."""

from . import kernel_cache

kernel_cache.settle()

from .simulation import Particles, Simulation  # noqa: E402

__all__ = ["Particles", "Simulation"]
