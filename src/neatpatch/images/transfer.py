"""From stored tone to linear light.

Dust takes the same fraction from every primary, so only the tone curve of a profile matters, not
its primaries. Curves follow ICC.1:2022, 10.6 (curveType) and 10.18 (parametricCurveType); a file
without a profile is taken as sRGB, IEC 61966-2-1.
"""

from __future__ import annotations

import struct

import numpy as np
from numpy.typing import NDArray

Curve = NDArray[np.float32]


def srgb_curve(levels: int) -> Curve:
    """Linear light (0 to 1) for each of ``levels`` stored values."""
    v = np.linspace(0.0, 1.0, levels)
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4).astype(np.float32)


def curve_for(profile: bytes | None, levels: int) -> Curve:
    """Tone curve of an embedded profile; sRGB when there is none or it cannot be understood."""
    if profile:
        try:
            with np.errstate(all="ignore"):
                curve = _profile_curve(profile, levels)
        except (struct.error, ValueError, IndexError, ArithmeticError):
            curve = None
        if curve is not None and np.all(np.isfinite(curve)) and curve[-1] > curve[0]:
            return curve
    return srgb_curve(levels)


def _profile_curve(profile: bytes, levels: int) -> Curve | None:
    (count,) = struct.unpack_from(">I", profile, 128)
    for i in range(min(count, 100)):
        signature, offset, size = struct.unpack_from(">4sII", profile, 132 + 12 * i)
        if signature in (b"gTRC", b"kTRC"):
            return _parse_curve(profile[offset : offset + size], levels)
    return None


def _parse_curve(tag: bytes, levels: int) -> Curve | None:
    v = np.linspace(0.0, 1.0, levels)
    if tag[:4] == b"curv":
        (n,) = struct.unpack_from(">I", tag, 8)
        if n == 0:
            return v.astype(np.float32)
        table: NDArray[np.float64] = np.frombuffer(tag, ">u2", count=n, offset=12).astype(
            np.float64
        )
        if n == 1:
            return np.asarray(v ** (float(table[0]) / 256.0), np.float32)
        return np.interp(v, np.linspace(0, 1, n), table / 65535.0).astype(np.float32)
    if tag[:4] == b"para":
        return _parametric(tag, v)
    return None


def _parametric(tag: bytes, v: NDArray[np.float64]) -> Curve | None:
    (kind,) = struct.unpack_from(">H", tag, 8)
    if kind > 4:
        return None
    n = (1, 3, 4, 5, 7)[kind]
    p = [x / 65536.0 for x in struct.unpack_from(f">{n}i", tag, 12)]
    g = p[0]
    a, b = (p[1], p[2]) if n > 1 else (1.0, 0.0)
    power: NDArray[np.float64] = np.maximum(a * v + b, 0.0) ** g
    if kind == 0:
        return np.asarray(power, np.float32)
    if kind in (1, 2):
        c = p[3] if kind == 2 else 0.0
        return np.where(v >= -b / a, power + c, c).astype(np.float32)
    c, d = p[3], p[4]
    e, f = (p[5], p[6]) if kind == 4 else (0.0, 0.0)
    return np.where(v >= d, power + e, c * v + f).astype(np.float32)
