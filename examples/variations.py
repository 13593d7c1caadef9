"""Writes variations of an effect: each layer's rate by some factors, one file each.

python examples/variations.py FILE FOLDER [FACTOR …]
"""

import sys
from pathlib import Path

from pale_ember.effect import load_effect, save_effect
from pale_ember.effect.values.values import Fixed


def main(file: str, folder: str, *factors: str) -> None:
    effect = load_effect(file)
    for factor in map(float, factors or ("0.5", "2")):
        varied = effect
        for i, layer in enumerate(effect.layers):
            if isinstance(layer.emit.rate, Fixed):
                varied = varied.edit(f"layers[{i}].emit.rate", layer.emit.rate.number * factor)
        out = Path(folder) / f"{Path(file).stem} {factor:g}.ember"
        save_effect(varied, out)
        print(out)


if __name__ == "__main__":
    main(*sys.argv[1:])
