"""Random numbers that stay: each is a hash of the seed, the layer, the particle and the property, and of
nothing else.
"""

from __future__ import annotations

import hashlib

import numpy as np
from numba import njit, uint32
from numpy.typing import ArrayLike, NDArray

# Turns the upper 24 bits of a draw into [0, 1), exactly, in float32.
UNIT = np.float32(2.0**-24)


@njit(nogil=True, inline="always")
def mix(h):
    """Return a well-mixed 32-bit hash of a 32-bit number (Wellons' two-round multiply-xorshift)."""
    # Numba widens what isn't narrowed again at once, and wide products are slow.
    h = uint32(h)
    h = uint32(h ^ uint32(h >> uint32(16)))
    h = uint32(h * uint32(0x7FEB352D))
    h = uint32(h ^ uint32(h >> uint32(15)))
    h = uint32(h * uint32(0x846CA68B))
    return uint32(h ^ uint32(h >> uint32(16)))


def mixed(h: NDArray[np.uint32]) -> NDArray[np.uint32]:
    """Return :func:`mix` of an array, in plain NumPy."""
    h = h ^ (h >> np.uint32(16))
    h = h * np.uint32(0x7FEB352D)
    h = h ^ (h >> np.uint32(15))
    h = h * np.uint32(0x846CA68B)
    return h ^ (h >> np.uint32(16))


def wrapped(n: ArrayLike) -> NDArray[np.uint32]:
    """Return whole numbers, negative ones too, as what is left of them in 32 bits."""
    return (np.asarray(n, dtype=np.int64) & 0xFFFFFFFF).astype(np.uint32)


def layer_key(seed: int, layer_id: str) -> int:
    """Return the 32-bit key of a layer's dice."""
    digest = hashlib.blake2s(f"{seed}/{layer_id}".encode(), digest_size=4).digest()
    return int.from_bytes(digest, "little")


def property_key(layer: int, salt: str) -> int:
    """Return the 32-bit key of one property's dice in a layer; ``salt`` is the property's path."""
    digest = hashlib.blake2s(f"{layer}/{salt}".encode(), digest_size=4).digest()
    return int.from_bytes(digest, "little")


def random_share(key: int, serial: NDArray[np.uint32] | np.uint32 | int) -> NDArray[np.float32]:
    """Return draws in [0, 1) of particles; the kernels' own draws, in plain NumPy.

    Parameters
    ----------
    key : int
        From :func:`property_key`.
    serial : int or array of uint32, shape (n,)

    Returns
    -------
    ndarray of float32, shape (n,)
    """
    h = mixed(np.atleast_1d(np.asarray(serial, dtype=np.uint32)) + np.uint32(key))
    return (h >> np.uint32(8)).astype(np.float32) * UNIT
