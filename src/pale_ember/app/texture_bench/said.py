"""Steps and builds in a few words."""

from __future__ import annotations

from ...effect.editing.build_moves import named
from ...effect.rules.fields import FieldKind
from ...effect.steps import Maker, Step
from ...effect.steps.drawn import Strokes
from ...effect.steps.finishers import Color, Pack
from ...effect.steps.flow import Flow
from ...effect.steps.pictures import Picture
from ...effect.textures import Texture
from ...effect.values.values import Fixed, Spread, Value
from ..recipe.picture_files import said_files
from ..widgets.arithmetic import shown

MOST = 4
# Fields that don't tell what a step does.
QUIET = ("on", "seed", "strength", "blend")


def amount(value: Value) -> str:
    """Return a Value in a word or two."""
    if isinstance(value, Fixed):
        return shown(value.number, 2)
    if isinstance(value, Spread):
        return f"{shown(value.low, 2)}–{shown(value.high, 2)}"
    return "along the frames"


def step_words(step: Step) -> str:
    """Return what a step does besides its name: what it has away from its defaults."""
    words: list[str] = []
    if isinstance(step, Picture):
        words.append(said_files(step.files))
    elif isinstance(step, Strokes):
        words.append(f"{len(step.strokes)} stroke{'' if len(step.strokes) == 1 else 's'}")
    elif isinstance(step, Pack):
        words.append(f"into {step.channel}")
    elif isinstance(step, Color):
        words.append(f"{len(step.gradient)} colours")
    elif isinstance(step, Flow):
        words.append(f"{step.kind}, {shown(step.seconds, 2)} s")
    done = {"kind", "seconds", "files", "channel", "gradient"} if words else set()
    for name, rule in type(step).rules().items():
        value = getattr(step, name)
        if name in QUIET or name in done or value == type(step).default_of(name):
            continue
        if rule.kind == FieldKind.VALUE:
            words.append(f"{rule.label.lower()} {amount(value)}")
        elif rule.kind in (FieldKind.NUMBER, FieldKind.INTEGER):
            words.append(f"{rule.label.lower()} {shown(float(value), rule.digits)}")
        elif rule.kind == FieldKind.FLAG:
            words.append(rule.label.lower() if value else f"not {rule.label.lower()}")
        elif rule.kind == FieldKind.CHOICE:
            words.append(str(value))
        if len(words) >= MOST:
            break
    if isinstance(step, Flow):
        for noun, parts in (("source", step.sources), ("obstacle", step.obstacles)):
            if parts:
                words.append(
                    f"{len(parts)} "
                    f"{noun}{'' if len(parts) == 1 else 's'}{' more' if noun == 'source' else ''}"
                )
    if isinstance(step, Maker) and step.blend != Maker.default_of("blend"):
        words.append(f"{step.blend}")
    if step.strength != Fixed(1.0):
        words.append(
            f"at {amount(step.strength)}"
            if isinstance(step.strength, Fixed | Spread)
            else "strength along the frames"
        )
    return ", ".join(words)


def build_words(texture: Texture) -> list[tuple[int, str]]:
    """Return a build as pieces of a sentence, each with the step that it speaks of; -1 for none."""
    build = texture.build
    if texture.file or build is None:
        return [
            (-1, "A picture file. Its first step brings it in once it is turned into a build: add any step.")
        ]
    frames = texture.count
    what = (
        f"A sheet of {frames} frames of {build.size} pixels"
        if frames > 1
        else f"A picture of {build.size} pixels"
    )
    if not build.steps:
        return [(-1, f"{what}, with nothing on it yet.")]
    pieces = [(-1, f"{what}: ")]
    for i, step in enumerate(build.steps):
        words = step_words(step)
        said = named(step).lower() + (f" ({words})" if words and len(words) < 48 else "")
        pieces.append((i, said if step.on else f"{said}, off"))
        pieces.append((-1, "; " if i < len(build.steps) - 1 else "."))
    return pieces
