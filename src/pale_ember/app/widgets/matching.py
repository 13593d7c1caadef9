"""How well what is typed fits what can be found: names first, then other words for it, then its help."""

from __future__ import annotations

import re

_LEAST_INSIDE, _IN_NAME = 3, 70


def score(typed: str, title: str, also: str = "", around: str = "", help: str = "", choices: str = "") -> int:
    """Return how well all typed words fit; 0 if one of them doesn't fit at all.

    Parameters
    ----------
    also : str
        Other words for the same.
    around : str
        Where it stands, such as its chapter.
    choices : str
        What can be chosen in it.
    """
    words = re.findall(r"[^\s·…]+", typed.lower())
    title = title.lower()
    if not words:
        return 1
    total = 0
    for word in words:
        best = 0
        if title == word:
            best = 120
        elif title.startswith(word):
            best = 100
        else:
            # Of the other words, the first is the one that is most meant.
            best = max(
                best,
                _among(word, title) * 70,
                _among(word, also.lower()) * 50,
                also.lower().startswith(word) * 60,
            )
            best = max(
                best,
                _among(word, around.lower()) * 30,
                _among(word, choices) * 28,
                (word in choices.split()) * 55,
                _among(word, help.lower()) * 15,
            )
            if not best and len(word) >= _LEAST_INSIDE:
                best = (
                    12 if word in title else 6 if word in also.lower() else 4 if word in help.lower() else 0
                )
        if not best:
            return 0
        if best >= _IN_NAME and word in title:
            # The more of a name it is, the better.
            best += 9 * len(word) // len(title)
        total += best
    # The whole of what is typed, as it is, goes before its words in another order.
    return total + (20 if typed.strip().lower() in title else 0)


def _among(word: str, text: str) -> int:
    """Return whether one of a text's words begins so."""
    return int(any(one.startswith(word) for one in re.findall(r"[\w×°/²-]+", text)))
