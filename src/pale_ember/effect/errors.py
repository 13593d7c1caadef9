"""The one error that a wrong effect, path or file gives: a place and a reason in plain words."""

from __future__ import annotations

import difflib
from collections.abc import Iterable


class EffectError(ValueError):
    """What is wrong with an effect, and where.

    Parameters
    ----------
    place : str
        Path to the wrong part, such as ``layers[2].launch.lifetime``, or a file and line.
    reason : str
        One sentence that says what is wrong and how to mend it.
    """

    def __init__(self, place: str, reason: str) -> None:
        super().__init__(f"{place}: {reason}" if place else reason)
        self.place = place
        self.reason = reason

    @property
    def sentence(self) -> str:
        """Return the reason as a sentence that stands alone."""
        return self.reason[:1].upper() + self.reason[1:]


class WrongUse(EffectError):
    """What a command was asked for can't be meant; nothing was begun."""


def shown(raw: object, longest: int = 40) -> str:
    """Return a short one-line picture of a wrong value, for use in a sentence."""
    if isinstance(raw, dict):
        return f"an object with {len(raw)} entries"
    if isinstance(raw, list | tuple):
        return f"a list of {len(raw)}"
    if isinstance(raw, int) and not isinstance(raw, bool) and abs(raw) >= 10**longest:
        return "a number with very many digits"
    text = (
        {True: "true", False: "false", None: "null"}.get(raw)
        if raw is None or raw is True or raw is False
        else repr(raw)
    )
    text = "".join(c if c.isprintable() else "?" for c in str(text))
    return text if len(text) <= longest else text[: longest - 1] + "…"


def nearest(word: str, known: Iterable[str]) -> str:
    """Return a phrase that names the nearest known word, or the known words if few are near."""
    words = list(known)
    near = difflib.get_close_matches(word[:80], words, n=1, cutoff=0.5)
    return f"did you mean “{near[0]}”?" if near else f"known are {', '.join(words)}."
