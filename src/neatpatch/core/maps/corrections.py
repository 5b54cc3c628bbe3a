"""A lens correction in the camera, found by the sensor's fingerprint alone.

A corrected picture's photosites lie elsewhere: farther out or in, by the square of the distance
from the middle, and all of them a little larger or smaller. The pattern then agrees nowhere as a
whole. It is sought in the middle first, where the correction does little beside its scale, then
farther out; what that leaves is measured tile by tile, and the field of the tiles gives the terms.
They are the first two radial ones of D. C. Brown, Photogramm. Eng. 32, 444 (1966).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.maps.fingerprint import (
    Fingerprint,
    Match,
    Values,
    agreement,
    expected_strength,
    match,
    nearest_peak,
    spectrum_of,
    turned,
)
from neatpatch.core.maps.placement import Points

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
_TILE, _TILE_REACH = 160, 5
"""Binned pixels: a tile's side, over which a correction moves all alike, and how far it may lie off
what was found so far."""
_TILE_STRENGTH = 30.0
"""Chance exceeds it in one tile of thirty thousand."""
_TILE_ERROR = 0.15
"""Binned pixels by which a tile of that strength is misplaced; a stronger one by less."""
_FEWEST_TILES, _TILE_ROUNDS = 5, 6
_MOST_MISFIT = 25.0
"""What one tile may count at most, so that a chance agreement decides nothing."""
_MET, _SLIGHTEST = 0.08, 1.0
"""Binned pixels: no tile lies farther off when a field is met; what moves none so far is none."""
_SECOND_PAYS = 15.0
"""What a second term must bring, as twice the logarithm of odds."""


@dataclass(frozen=True)
class Correction:
    """``there = scale * (1 + radial * rho^2 + second * rho^4) * here``, both about the middle.

    ``rho``: distance from the middle over half the sensor's diagonal.
    """

    scale: float
    radial: float
    second: float = 0.0

    def apply(self, off: Points, reach_px: float) -> Points:
        """Offsets (n, 2) from the middle, in pixels of a frame of that half diagonal."""
        far = (off**2).sum(axis=1, keepdims=True) / reach_px**2
        return np.asarray(self.scale * (1 + self.radial * far + self.second * far**2) * off)

    def growth(self, off: Points, reach_px: float) -> NDArray[np.float64]:
        """How much larger it draws what lies at these offsets (n): the root of the area's."""
        far = (off**2).sum(axis=1) / reach_px**2
        across = 1 + self.radial * far + self.second * far**2
        along = 1 + 3 * self.radial * far + 5 * self.second * far**2
        return np.asarray(self.scale * np.sqrt(across * along))

    def inverse(self) -> Correction:
        """Back again, but for terms of the sixth order."""
        return Correction(
            1 / self.scale,
            -self.radial / self.scale**2,
            (3 * self.radial**2 - self.second) / self.scale**4,
        )

    def then(self, after: Correction) -> Correction:
        """Itself, and another one on what it gave, but for terms of the sixth order."""
        wide = self.scale**2
        return Correction(
            self.scale * after.scale,
            self.radial + after.radial * wide,
            self.second + (after.second * wide + 3 * self.radial * after.radial) * wide,
        )


NO_CORRECTION = Correction(1.0, 0.0)


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
    seen = min(_MIDDLE, *here.shape) / math.sqrt(6) / _half_diagonal(here)
    for step in _STEPS:
        sample = _Sample.of(here, step)
        found = max(step.tries(found, seen), key=lambda c: sample.agreement(there, c))
        seen = step.rho * math.sqrt(0.6)
    found, undone = _by_tiles(here, there, found)
    flat = replace(own, values=np.round(undone).astype(np.int8))
    agreed = match(reference, flat, (turn,))
    if max(abs(v) for v in agreed.shift) > _REACH:
        return None
    tried = len(list(_middle_tries())) + sum(len(list(s.tries(found, seen))) for s in _STEPS)
    return replace(agreed, limit=agreed.limit + 2 * math.log(tried)), found


def slight_correction(reference: Fingerprint, own: Fingerprint, turn: int) -> Correction | None:
    """What moves a whole frame's places by a bin or more, though it agrees as it is; else None."""
    there, here = own.values.astype(np.float32), turned(reference, turn)
    if here.shape != there.shape:
        return None
    found, _ = _by_tiles(here, there, NO_CORRECTION)
    reach = _half_diagonal(here)
    out = np.linspace(0, reach, 20)[:, None] * np.array([[1.0, 0.0]])
    moved = np.abs(found.apply(out, reach) - out).max()
    return found if moved >= _SLIGHTEST else None


def _by_middle(here: Values, there: Values) -> Correction | None:
    """The correction under which the middles agree best; None where none is hopeful."""
    rows, columns = (_middle_of(n) for n in here.shape)
    offsets = _offsets(here.shape, rows, columns)
    size = [cv2.getOptimalDFTSize(n) for n in offsets[0].shape]
    known = spectrum_of(here[rows, columns], size)
    best: tuple[float, Correction | None] = (_HOPEFUL, None)
    for tried in _middle_tries():
        own = spectrum_of(_undone(there, offsets, tried), size)
        best = max(best, (agreement(known, own, size, _REACH), tried), key=lambda b: b[0])
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


def _half_diagonal(values: Values) -> float:
    return math.hypot(*values.shape) / 2


@dataclass(frozen=True)
class _Sample:
    """Rows of the reference out to some distance, that decide between corrections."""

    values: Values
    offsets: tuple[Values, Values]

    @classmethod
    def of(cls, here: Values, step: _Step) -> _Sample:
        far = step.rho * _half_diagonal(here)
        spans = [
            (max(0, round((n - 1) / 2 - far)), min(n, round((n + 1) / 2 + far))) for n in here.shape
        ]
        (top, bottom), (left, right) = spans
        every = max(1, round((bottom - top) * (right - left) / step.places))
        rows, columns = slice(top, bottom, every), slice(left, right)
        return cls(here[rows, columns], _offsets(here.shape, rows, columns))

    def agreement(self, there: Values, tried: Correction) -> float:
        """Correlation of the sampled places, as if the correction were the one tried."""
        own = _undone(there, self.offsets, tried)
        return float((self.values * own).sum() / max(np.sqrt(np.square(own).sum()), 1e-9))


def _by_tiles(here: Values, there: Values, found: Correction) -> tuple[Correction, Values]:
    """The correction that the field of the tiles tells, and the pattern with it undone.

    Begins with one found so far, which stays where too few tiles agree anywhere. Tiles farther out
    come into reach as those within are met.
    """
    everywhere = _offsets(here.shape)
    undone = there if found == NO_CORRECTION else _undone(there, everywhere, found)
    for _ in range(_TILE_ROUNDS):
        places, errors = _tiles_off(here, undone)
        if len(errors) < _FEWEST_TILES or np.abs(places[:, 1]).max() < _MET:
            break
        found = _refitted(found, places, errors, _half_diagonal(here))
        undone = _undone(there, everywhere, found)
    return found, undone


def _refitted(
    found: Correction, places: Points, errors: NDArray[np.float64], reach: float
) -> Correction:
    """The correction that moves tiles (n, 2, 2) by what was found and what they lie off now."""
    wanted = found.apply(places[:, 0] + places[:, 1], reach)
    first = _fitted(places[:, 0] / reach, wanted / reach, errors / reach, 1)
    second = _fitted(places[:, 0] / reach, wanted / reach, errors / reach, 2)
    return second[0] if second[1] + _SECOND_PAYS < first[1] else first[0]


def _tiles_off(here: Values, undone: Values) -> tuple[Points, NDArray[np.float64]]:
    """Middles of tiles from the frame's, and how far the pattern lies off there (n, 2, 2), in bins;
    errors (n) of the latter. Only tiles whose agreement is no chance.
    """
    size = [cv2.getOptimalDFTSize(_TILE)] * 2
    middle = (np.array(here.shape[::-1]) - 1) / 2
    found, errors = [], []
    for top, left in itertools.product(*(_starts(n) for n in here.shape)):
        window = np.s_[top : top + _TILE, left : left + _TILE]
        known, own = (spectrum_of(v[window], size) for v in (here, undone))
        strength, off = nearest_peak(known, own, size, _TILE_REACH)
        if strength >= _TILE_STRENGTH:
            found.append((np.array([left, top]) + (_TILE - 1) / 2 - middle, off))
            errors.append(_TILE_ERROR * math.sqrt(_TILE_STRENGTH / strength))
    return np.array(found, np.float64).reshape(-1, 2, 2), np.array(errors)


def _starts(size: int) -> NDArray[np.intp]:
    """First bins of tiles that cover a side, as few as do; none where it is shorter than one."""
    count = -(-size // _TILE) if size >= _TILE else 0
    return np.linspace(0, size - _TILE, count).astype(np.intp)


def _fitted(
    here: Points, there: Points, errors: NDArray[np.float64], terms: int
) -> tuple[Correction, float]:
    """A correction of so many radial terms, an axis moved aside allowed for, and its misfit.

    By least squares over offsets (n, 2) in half diagonals; each counts as its error allows.
    """
    far = (here**2).sum(axis=1, keepdims=True)
    columns = [here * far**power for power in range(terms + 1)]
    columns += [np.tile([1.0, 0.0], (len(here), 1)), np.tile([0.0, 1.0], (len(here), 1))]
    design = np.stack([c.ravel() for c in columns], axis=1) / np.repeat(errors, 2)[:, None]
    wanted = there.ravel() / np.repeat(errors, 2)
    model = np.linalg.lstsq(design, wanted, rcond=None)[0]
    rest = wanted - design @ model
    scale = float(model[0])
    bent = [float(v) / scale for v in model[1 : terms + 1]]
    return Correction(scale, *bent), float(np.minimum(rest**2, _MOST_MISFIT).sum())


def _offsets(
    shape: tuple[int, ...], rows: slice = slice(None), columns: slice = slice(None)
) -> tuple[Values, Values]:
    """Bins' distances from the middle, along x and along y."""
    y = np.arange(shape[0], dtype=np.float32)[rows] - np.float32((shape[0] - 1) / 2)
    x = np.arange(shape[1], dtype=np.float32)[columns] - np.float32((shape[1] - 1) / 2)
    across, down = np.meshgrid(x, y)
    return across, down


def _undone(there: Values, offsets: tuple[Values, Values], tried: Correction) -> Values:
    """What a corrected pattern would be without a correction, at these offsets."""
    height, width = there.shape
    x, y = offsets
    far = (x * x + y * y) * np.float32(1 / _half_diagonal(there) ** 2)
    bend = np.float32(tried.radial) + np.float32(tried.second) * far
    grow = np.float32(tried.scale) * (1 + far * bend)
    return np.asarray(
        cv2.remap(
            there,
            grow * x + np.float32((width - 1) / 2),
            grow * y + np.float32((height - 1) / 2),
            cv2.INTER_LINEAR,
        ),
        np.float32,
    )
