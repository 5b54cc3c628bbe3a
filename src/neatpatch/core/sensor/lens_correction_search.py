"""A lens correction in the camera, found by the sensor's fingerprint alone.

A corrected picture's photosites lie elsewhere: farther out or in, by the square of the distance
from the middle, and all of them a little larger or smaller. The pattern then agrees nowhere as a
whole. It is searched for in the middle first, where the correction does little beside its scale,
then farther out; what that leaves is measured tile by tile.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.sensor.correction_field import (
    correction_field_of,
    half_diagonal,
    offsets_in,
    undone_pattern,
)
from neatpatch.core.sensor.fingerprint import (
    Fingerprint,
    Match,
    Values,
    expected_strength,
    match,
    nearest_peak,
    spectrum_of,
    turned,
)
from neatpatch.core.sensor.lens_correction import NO_CORRECTION, Correction

_MIDDLE = 640
"""Binned pixels to a side of the middle: of the smallest frames nearly all, of the largest an
eighth, which still tells a pattern of two tenths of a percent."""
_RADIALS = (-0.03, -0.01, 0.01, 0.03)
"""Terms tried in the middle, where another hundredth moves nothing by a bin."""
_MOST_SCALE, _SCALE_STEP = 0.045, 0.003
"""Scales tried: a step moves the middle's border by half a bin at most from the one between."""
_FILLED_OUT = 0.006
"""A corrected picture is filled out again, so that its scale makes up for a part of the term."""
_REACH = 4
"""Binned pixels by which the middle may lie off: handling of the lens's axis, and rounding."""
_HOPEFUL = 25.0
"""Strength of the middle from which the rest is looked at: chance exceeds it once in ninety."""
_SURE = 4.0
"""Times that strength the middle must be expected to reach before its silence is proof."""
_SLIGHTEST = 0.75
"""Binned pixels: what moves no tile so far is no correction, but how well tiles are placed."""


@dataclass(frozen=True)
class _Step:
    """One look farther out: ``rho`` it reaches, ranges and steps of the term and the scale.

    ``places``: binned pixels that decide.
    """

    rho: float
    radial: tuple[float, float]
    scale: tuple[float, float]
    places: int

    def tries(self, start: Correction, seen_rho: float) -> Iterator[Correction]:
        """Terms around the present one; what is known well, its effect at ``seen_rho``, stays."""
        known = start.scale * (1 + start.radial * seen_rho**2)
        for radial in start.radial + _around(*self.radial):
            base = known / (1 + radial * seen_rho**2)
            for scale in base + _around(*self.scale):
                yield Correction(float(scale), float(radial))


_STEPS = (
    _Step(0.6, (0.03, 0.005), (0.0015, 0.00075), 150_000),
    _Step(1.0, (0.006, 0.001), (0.0012, 0.0004), 150_000),
)
"""Each covers what the one before it leaves open, in steps of half a bin at its border."""


def can_show(reference: Fingerprint, own: Fingerprint) -> tuple[bool, bool]:
    """Whether a corrected frame of one sensor could be told by its middle; whether it must be."""
    side = min(_MIDDLE, *reference.values.shape)
    of_middle = expected_strength(reference, own) * side**2 / reference.values.size
    return of_middle >= _HOPEFUL, of_middle >= _SURE * _HOPEFUL


def match_corrected(
    reference: Fingerprint, own: Fingerprint, turn: int
) -> tuple[Match, Correction] | None:
    """How a whole frame agrees with a reference of the same bins when its correction is undone.

    None where the middle gives no hope, or the shapes differ. The limit allows for all that was
    tried.
    """
    there = own.values.astype(np.float32)
    here = turned(reference, turn)
    if here.shape != there.shape:
        return None
    found = _by_middle(here, there)
    if found is None:
        return None
    seen = min(_MIDDLE, *here.shape) / math.sqrt(6) / half_diagonal(here)
    for step in _STEPS:
        sample = _Sample.of(here, step)
        found = max(step.tries(found, seen), key=lambda c: sample.agreement(there, c))
        seen = step.rho * math.sqrt(0.6)
    field = correction_field_of(here, there, found)
    flat = replace(own, values=np.round(field.undone).astype(np.int8))
    agreed = match(reference, flat, (turn,))
    if max(abs(v) for v in agreed.shift) > _REACH:
        return None
    tried = len(list(_middle_tries())) + sum(len(list(s.tries(found, seen))) for s in _STEPS)
    return replace(agreed, limit=agreed.limit + 2 * math.log(tried)), field.correction


def slight_correction(reference: Fingerprint, own: Fingerprint, turn: int) -> Correction | None:
    """What moves a whole frame's places by most of a bin, though it agrees as it is; else None."""
    there, here = own.values.astype(np.float32), turned(reference, turn)
    if here.shape != there.shape:
        return None
    field = correction_field_of(here, there, NO_CORRECTION)
    return field.correction if field.moved >= _SLIGHTEST else None


def _by_middle(here: Values, there: Values) -> Correction | None:
    """The correction under which the middles agree best; None where none is hopeful."""
    rows, columns = (_middle_of(n) for n in here.shape)
    offsets = offsets_in(here.shape, rows, columns)
    size = [cv2.getOptimalDFTSize(n) for n in offsets[0].shape]
    known = spectrum_of(here[rows, columns], size)
    best: tuple[float, Correction | None] = (_HOPEFUL, None)
    for tried in _middle_tries():
        own = spectrum_of(undone_pattern(there, offsets, tried), size)
        strength, _ = nearest_peak(known, own, size, _REACH)
        best = max(best, (strength, tried), key=lambda b: b[0])
    return best[1]


def _middle_tries() -> Iterator[Correction]:
    for radial in _RADIALS:
        for scale in 1 + _around(_MOST_SCALE, _SCALE_STEP):
            if abs(scale - 1 + radial / 2) <= abs(radial) / 2 + _FILLED_OUT:
                yield Correction(float(scale), radial)


def _middle_of(size: int) -> slice:
    side = min(size, _MIDDLE)
    return slice((size - side) // 2, (size - side) // 2 + side)


def _around(reach: float, step: float) -> NDArray[np.float64]:
    count = round(reach / step)
    return np.arange(-count, count + 1, dtype=np.float64) * step


@dataclass(frozen=True)
class _Sample:
    """Rows of the reference out to some distance, that decide between corrections."""

    values: Values
    offsets: tuple[Values, Values]

    @classmethod
    def of(cls, here: Values, step: _Step) -> _Sample:
        far = step.rho * half_diagonal(here)
        spans = [
            (max(0, round((n - 1) / 2 - far)), min(n, round((n + 1) / 2 + far))) for n in here.shape
        ]
        (top, bottom), (left, right) = spans
        every = max(1, round((bottom - top) * (right - left) / step.places))
        rows, columns = slice(top, bottom, every), slice(left, right)
        return cls(here[rows, columns], offsets_in(here.shape, rows, columns))

    def agreement(self, there: Values, tried: Correction) -> float:
        """Correlation of the sampled places, as if the correction were the one tried."""
        own = undone_pattern(there, self.offsets, tried)
        return float((self.values * own).sum() / max(np.sqrt(np.square(own).sum()), 1e-9))
