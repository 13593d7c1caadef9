"""Edits of whole curves and of several keys; each gives new keys, and none moves what it should not."""

from __future__ import annotations

import heapq
from collections.abc import Collection

import numpy as np

from .curves import CLOSE, Key, Keys, with_key_at
from .stretches import CUBIC, HOLD, LINEAR, STEP, Knot, Stretch, keys_of, largest_difference, stretches_of

# Shares of life are kept to so many decimals, so that turning a curve round twice gives it back.
_DECIMALS = 12


def reversed_keys(keys: Keys) -> Keys:
    """Return the curve run backwards: its value at x is the old one at 1 - x, but at a jump itself.

    A held stretch holds its first value, so backwards it begins with a jump, for which a key is added;
    turning round once more takes that key away again.
    """
    keys = _without_idle_ends(keys)
    ways = stretches_of(keys)
    knots: list[Knot] = []
    back: list[Stretch] = []
    for i in range(len(keys) - 1, -1, -1):
        key = keys[i]
        wish = key.ease if key.ease == "free" else keys[i - 1].ease
        knots.append(Knot(round(1.0 - key.x, _DECIMALS), key.y, wish))
        if i == 0:
            break
        way, before = ways[i - 1], keys[i - 1]
        if way.kind == HOLD and before.y != key.y:
            back.append(Stretch(STEP))
            knots.append(Knot(round(1.0 - key.x, _DECIMALS), before.y, "hold"))
        back.append(Stretch(CUBIC, -way.arrive, -way.leave) if way.kind == CUBIC else way)
    return _without_idle_ends(keys_of(knots, back))


def _without_idle_ends(keys: Keys) -> Keys:
    """Return the keys without those that end a held stretch where another key jumps on."""
    kept = []
    for i, key in enumerate(keys):
        inside = 0 < i < len(keys) - 1
        if inside and keys[i - 1].ease == "hold" and keys[i - 1].y == key.y and keys[i + 1].x == key.x:
            continue
        kept.append(key)
    return tuple(kept)


def flipped(keys: Keys, around: float) -> Keys:
    """Return the curve upside down about a level."""
    return tuple(Key(k.x, 2 * around - k.y, k.ease, 0.0 - k.in_slope, 0.0 - k.out_slope) for k in keys)


def stretched(keys: Keys, start: float, stop: float) -> Keys:
    """Return the curve squeezed or widened so that 0…1 becomes start…stop; what falls outside is cut off.

    Raises
    ------
    ValueError
        If stop is not behind start.
    """
    width = stop - start
    if width <= 0.0:
        raise ValueError("a curve can't be stretched to no width")
    first, last = (0.0 - start) / width, (1.0 - start) / width
    if keys[0].x < first - CLOSE or keys[-1].x > last + CLOSE:
        for at in (first, last):
            if 0.0 <= at <= 1.0:
                keys = with_key_at(keys, at)[0]
        level = keys[-1] if keys[-1].x < first else keys[0]
        keys = tuple(k for k in _slopes_kept(keys) if first - CLOSE <= k.x <= last + CLOSE) or (level,)
    return tuple(
        Key(
            min(max(round(start + width * k.x, _DECIMALS), 0.0), 1.0),
            k.y,
            k.ease,
            k.in_slope / width,
            k.out_slope / width,
        )
        for k in keys
    )


def fitted(keys: Keys) -> Keys:
    """Return the curve stretched so that its first key stands at birth and its last at death."""
    first, last = keys[0].x, keys[-1].x
    if last - first < 1e-9:
        return keys
    width = 1.0 / (last - first)
    return stretched(keys, -first * width, (1.0 - first) * width)


def there_and_back(keys: Keys) -> Keys:
    """Return the curve in the first half, and its mirror image in the second."""
    there, back = stretched(keys, 0.0, 0.5), stretched(reversed_keys(keys), 0.5, 1.0)
    end, begin = there[-1], back[0]
    ways = [stretches_of(there), stretches_of(back)]
    knots = [Knot(k.x, k.y, k.ease) for k in (*there, *back)]
    if begin.x - end.x > CLOSE:
        between = [Stretch(LINEAR)]
    elif end.y == begin.y:
        # One key turns the curve round.
        between = []
        del knots[len(there)]
    else:
        between = [Stretch(STEP)]
    return keys_of(knots, [*ways[0], *between, *ways[1]])


def _slopes_kept(keys: Keys) -> Keys:
    """Return the same curve with free keys in place of smooth ones, so that neighbours no longer matter."""
    knots = [Knot(k.x, k.y, "free" if k.ease == "smooth" else k.ease) for k in keys]
    return keys_of(knots, stretches_of(keys))


def simplified(keys: Keys, tolerance: float) -> Keys:
    """Return the curve with as few keys as stay within a tolerance of it everywhere.

    Keys are taken away one after the other, always the one that is missed least, as long as the largest
    difference from the curve given stays within the tolerance; then free keys that may as well be smooth are.

    Parameters
    ----------
    tolerance : float
        In the curve's own unit.
    """
    # Their slopes are kept, so that taking one away changes nothing but the stretch that it stood in.
    left = list(_slopes_kept(_without_idle_ends(keys)))
    alive = [True] * len(left)
    before, after = list(range(-1, len(left) - 1)), list(range(1, len(left) + 1))

    def missed(i: int) -> float:
        a, b = before[i], after[i]
        if a < 0 or b >= len(left):
            return np.inf
        if left[b].x == left[i].x or left[a].x == left[i].x or not _same_way(left[a], left[i], left[b]):
            return np.inf
        return largest_difference(keys, (left[a], left[b]), left[a].x, left[b].x)

    queue = [(missed(i), i) for i in range(1, len(left) - 1)]
    heapq.heapify(queue)
    while queue:
        loss, i = heapq.heappop(queue)
        if loss > tolerance * 0.999:
            break
        if not alive[i] or loss != missed(i):
            continue
        alive[i] = False
        a, b = before[i], after[i]
        after[a], before[b] = b, a
        for j in (a, b):
            if 0 < j < len(left) - 1:
                heapq.heappush(queue, (missed(j), j))
    found = _shorn_ends(tuple(k for i, k in enumerate(left) if alive[i]))
    soft = tuple(
        k._replace(ease="smooth", in_slope=0.0, out_slope=0.0) if k.ease == "free" else k for k in found
    )
    if largest_difference(keys, soft) <= tolerance * 0.999:
        return soft
    return found if len(found) < len(keys) else keys


def _same_way(a: Key, i: Key, b: Key) -> bool:
    """Return whether the stretches before and behind a key are of one kind, so that one can take their
    place.
    """
    return (a.ease == i.ease or {a.ease, i.ease} <= {"free", "smooth"}) and (
        a.ease != "free" or b.ease in ("free", "smooth")
    )


def _shorn_ends(keys: Keys) -> Keys:
    """Return the keys without first and last ones that their neighbours' level says already."""
    while len(keys) > 1 and keys[0].y == keys[1].y and _is_level(keys[0], keys[1]):
        keys = keys[1:]
    while len(keys) > 1 and keys[-1].y == keys[-2].y and _is_level(keys[-2], keys[-1]):
        keys = keys[:-1]
    return keys


def _is_level(a: Key, b: Key) -> bool:
    return all(
        way.kind in (HOLD, LINEAR, STEP) or way.leave == way.arrive == 0.0 for way in stretches_of((a, b))
    )


def moved(keys: Keys, chosen: Collection[int], right: float, up: float) -> Keys:
    """Return the curve with some keys moved; they go no further than to their neighbours, and inside 0…1."""
    right = min(max(right, -room(keys, chosen)[0]), room(keys, chosen)[1])
    return tuple(
        k._replace(x=min(max(round(k.x + right, _DECIMALS), 0.0), 1.0), y=k.y + up) if i in chosen else k
        for i, k in enumerate(keys)
    )


def room(keys: Keys, chosen: Collection[int]) -> tuple[float, float]:
    """Return how far some keys can go left and right together before one meets a neighbour that stays."""
    left = right = 1.0
    for i in chosen:
        if i - 1 not in chosen:
            left = min(left, keys[i].x - (keys[i - 1].x if i > 0 else 0.0))
        if i + 1 not in chosen:
            right = min(right, (keys[i + 1].x if i + 1 < len(keys) else 1.0) - keys[i].x)
    return max(left, 0.0), max(right, 0.0)


def scaled(keys: Keys, chosen: Collection[int], about: tuple[float, float], wide: float, high: float) -> Keys:
    """Return the curve with some keys scaled about a place; they stay between the neighbours that stay.

    Parameters
    ----------
    wide, high : float
        Factors of x and y; ``wide`` must be above 0.
    """
    found = list(keys)
    steeper = high / max(wide, 1e-9)
    for i in sorted(chosen):
        key = keys[i]
        low = next((keys[j].x for j in range(i - 1, -1, -1) if j not in chosen), 0.0)
        top = next((keys[j].x for j in range(i + 1, len(keys)) if j not in chosen), 1.0)
        x = min(max(about[0] + (key.x - about[0]) * wide, low), top)
        y = about[1] + (key.y - about[1]) * high
        found[i] = Key(round(x, _DECIMALS), y, key.ease, key.in_slope * steeper, key.out_slope * steeper)
    return tuple(found)


def smoothed(keys: Keys, chosen: Collection[int]) -> Keys:
    """Return the curve with some keys drawn half-way to the line between their neighbours, and smooth."""
    found = list(keys)
    for i in chosen:
        key = keys[i]
        y = key.y
        if 0 < i < len(keys) - 1 and keys[i + 1].x > keys[i - 1].x:
            share = (key.x - keys[i - 1].x) / (keys[i + 1].x - keys[i - 1].x)
            y = (key.y + keys[i - 1].y + share * (keys[i + 1].y - keys[i - 1].y)) / 2
        found[i] = Key(key.x, y)
    return tuple(found)


def with_ease(keys: Keys, chosen: Collection[int], ease: str) -> Keys:
    """Return the curve with another ease at some keys; a key that becomes free keeps the slopes that it
    has.
    """
    ways = stretches_of(keys)
    found = list(keys)
    for i in chosen:
        key = keys[i]
        if ease != "free":
            found[i] = Key(key.x, key.y, ease)
        elif key.ease != "free":
            arrive, leave = _slope(keys, ways, i - 1, True), _slope(keys, ways, i, False)
            # At an end of the curve, or beside a step, both sides have the slope of the one stretch that
            # there is.
            arrive = leave if arrive is None else arrive
            leave = arrive if leave is None else leave
            found[i] = Key(key.x, key.y, "free", arrive or 0.0, leave or 0.0)
    return tuple(found)


def _slope(keys: Keys, ways: list[Stretch], at: int, end: bool) -> float | None:
    """Return the slope at the start or end of a stretch; None where there is no stretch."""
    if not 0 <= at < len(ways) or ways[at].kind == STEP:
        return None
    way = ways[at]
    if way.kind == CUBIC:
        return way.arrive if end else way.leave
    if way.kind == LINEAR:
        return (keys[at + 1].y - keys[at].y) / (keys[at + 1].x - keys[at].x)
    return 0.0
