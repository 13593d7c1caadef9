"""Gas on a grid: density, heat and velocity, carried along without divergence."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float32]


@njit(cache=True, nogil=True)
def _carry(out, field, u, v, dt):  # type: ignore[no-untyped-def]
    """Write a field as it is after being carried along; all round at the borders."""
    high, wide = field.shape
    for row in range(high):
        for column in range(wide):
            x = column - dt * u[row, column]
            y = row - dt * v[row, column]
            x0, y0 = math.floor(x), math.floor(y)
            fx, fy = np.float32(x - x0), np.float32(y - y0)
            a, b = int(x0) % wide, (int(x0) + 1) % wide
            c, d = int(y0) % high, (int(y0) + 1) % high
            top = field[c, a] + (field[c, b] - field[c, a]) * fx
            low = field[d, a] + (field[d, b] - field[d, a]) * fx
            out[row, column] = top + (low - top) * fy


@njit(cache=True, nogil=True)
def _sharpen(out, forth, back, field, u, v, dt):  # type: ignore[no-untyped-def]
    """Undo half of what going forth and back lost, without passing what was around."""
    high, wide = field.shape
    for row in range(high):
        for column in range(wide):
            x = column - dt * u[row, column]
            y = row - dt * v[row, column]
            x0, y0 = math.floor(x), math.floor(y)
            a, b = x0 % wide, (x0 + 1) % wide
            c, d = y0 % high, (y0 + 1) % high
            p, q, r, s = field[c, a], field[c, b], field[d, a], field[d, b]
            low = min(p, q, r, s)
            most = max(p, q, r, s)
            mended = forth[row, column] + np.float32(0.5) * (field[row, column] - back[row, column])
            out[row, column] = min(max(mended, low), most)


class Gas:
    """Gas on a square grid that goes around at its borders; lengths are cells.

    Parameters
    ----------
    size : int
        Cells each way.
    """

    def __init__(self, size: int) -> None:
        self.size = size
        self.u, self.v, self.smoke, self.heat = (np.zeros((size, size), np.float32) for _ in range(4))
        # The same for all the air, in rows a second.
        self.draft = np.float32(0.0)
        kx = (np.fft.rfftfreq(size) * 2.0 * np.pi).astype(np.float32)[None, :]
        ky = (np.fft.fftfreq(size) * 2.0 * np.pi).astype(np.float32)[:, None]
        # Differences to both sides have this response; a Nyquist wave has none, so it is left out.
        self._kx, self._ky = np.sin(kx) + 0 * ky, np.sin(ky) + 0 * kx
        self._square = self._kx**2 + self._ky**2
        self._free = self._square < 1e-9
        self._inverse = np.where(self._free, 0.0, 1.0 / np.where(self._free, 1.0, self._square)).astype(
            np.float32
        )
        self._spare = [np.empty((size, size), np.float32) for _ in range(3)]

    def divergence(self) -> Floats:
        """Return the velocity's divergence by differences to both sides, 1/s."""
        du = (np.roll(self.u, -1, 1) - np.roll(self.u, 1, 1)) / 2
        return (du + (np.roll(self.v, -1, 0) - np.roll(self.v, 1, 0)) / 2).astype(np.float32)

    def project(self, source: Floats | None = None) -> None:
        """Remove the velocity's divergence, except for what sources ask for, 1/s."""
        u, v = np.fft.rfft2(self.u), np.fft.rfft2(self.v)
        gathers = 1j * (self._kx * u + self._ky * v)
        if source is not None:
            gathers -= np.fft.rfft2(source)
        pressure = -gathers * self._inverse
        u -= 1j * self._kx * pressure
        v -= 1j * self._ky * pressure
        u[self._free] = 0.0
        v[self._free] = 0.0
        self.u = np.fft.irfft2(u, s=self.u.shape).astype(np.float32)
        self.v = np.fft.irfft2(v, s=self.v.shape).astype(np.float32)

    def carry(self, dt: float) -> None:
        """Carry velocity, smoke and heat along over a time, s; no smoke is lost or gained on the way."""
        u, v = self.u, self.v + self.draft
        before = float(self.smoke.sum())
        moved = [
            self._carried(field, u, v, dt, sharp)
            for field, sharp in ((u, True), (v, True), (self.smoke, True), (self.heat, True))
        ]
        self.u, self.v, self.smoke, self.heat = moved
        after = float(self.smoke.sum())
        if after > 1e-6:
            self.smoke *= np.float32(before / after)

    def _carried(self, field: Floats, u: Floats, v: Floats, dt: float, sharp: bool) -> Floats:
        forth, back, out = self._spare[0], self._spare[1], np.empty_like(field)
        _carry(forth, field, u, v, np.float32(dt))
        if not sharp:
            return forth.copy()
        _carry(back, forth, u, v, np.float32(-dt))
        _sharpen(out, forth, back, field, u, v, np.float32(dt))
        return out

    def curl_up(self, strength: float, dt: float) -> None:
        """Keep small whirls alive: a push round each, towards its middle."""
        if strength <= 0.0:
            return
        whirl = (
            np.roll(self.v, -1, 1) - np.roll(self.v, 1, 1) - np.roll(self.u, -1, 0) + np.roll(self.u, 1, 0)
        ) / 2
        size = np.abs(whirl)
        gx = (np.roll(size, -1, 1) - np.roll(size, 1, 1)) / 2
        gy = (np.roll(size, -1, 0) - np.roll(size, 1, 0)) / 2
        long = np.sqrt(gx * gx + gy * gy) + np.float32(1e-5)
        self.u += np.float32(dt * strength) * (gy / long) * whirl
        self.v -= np.float32(dt * strength) * (gx / long) * whirl
