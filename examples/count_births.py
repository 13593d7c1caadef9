"""Prints for each layer of an effect how many particles are alive, second by second.

python examples/count_births.py FILE [SECONDS]
"""

import sys

from pale_ember.effect import load_effect
from pale_ember.simulation import Simulation


def main(file: str, seconds: int = 4) -> None:
    effect = load_effect(file)
    sim = Simulation(effect)
    for second in range(seconds + 1):
        sim.seek(second)
        alive = [f"{layer.name}: {sim.counts(layer.id)['alive']}" for layer in effect.layers if layer.enabled]
        print(f"{second} s  {', '.join(alive)}")


if __name__ == "__main__":
    main(sys.argv[1], *map(int, sys.argv[2:3]))
