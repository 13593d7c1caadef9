"""What an effect does over time."""

from .simulation import Particles, Simulation

__all__ = ["Particles", "Simulation"]
