"""Prints the highest particle of each layer at a moment, and how fast it goes.

python examples/highest.py FILE [SECONDS]
"""

import sys

import numpy as np

from pale_ember.effect import load_effect
from pale_ember.simulation import Simulation


def main(file: str, seconds: float = 1.0) -> None:
    effect = load_effect(file)
    sim = Simulation(effect)
    sim.seek(seconds)
    for layer in effect.layers:
        particles = sim.particles(layer.id)
        if len(particles):
            top = int(np.argmax(particles.position[:, 1]))
            speed = float(np.linalg.norm(particles.velocity[top]))
            print(
                f"{layer.name}: {particles.position[top, 1]:.2f} m, {speed:.2f} m/s, age "
                f"{particles.age[top]:.2f}"
            )


if __name__ == "__main__":
    main(sys.argv[1], *map(float, sys.argv[2:3]))
