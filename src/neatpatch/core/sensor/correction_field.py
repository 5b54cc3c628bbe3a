"""The field of a lens correction, measured tile by tile on the sensor's pattern.

Within a tile a correction moves all alike: where two patterns agree there tells how far. The shifts
of all tiles, each weighed by its strength, give the correction's terms; undone with those, tiles
farther out come into reach.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.sensor.fingerprint import Values, nearest_peak, spectrum_of
from neatpatch.core.sensor.lens_correction import NO_CORRECTION, Correction
from neatpatch.core.sensor.placement import Points

_TILE, _TILE_REACH = 160, 5
"""Binned pixels: a tile's side, over which a correction moves all alike, and how far it may lie off
what was found so far."""
_TILE_STRENGTH = 30.0
"""Chance exceeds it in one tile of thirty thousand."""
_TILE_ERROR = 0.15
"""Binned pixels by which a tile of that strength is misplaced; a stronger one by less."""
_FEWEST_TILES, _TILE_ROUNDS = 5, 6
"""Fewer may agree by chance; each round brings tiles into reach that lie farther off than five
bins, and the strongest corrections need four."""
_MOST_MISFIT = 25.0
"""What one tile may count at most, so that a chance agreement decides nothing."""
_MET = 0.08
"""Binned pixels: no tile lies farther off when a field is met."""
_USUAL_TERM, _USUAL_SHIFT = 0.03, 3.0
"""Spreads of the terms and of the axis' shift (bins) before any tile is asked: tiles of one corner
alone must not tell of all others."""
_SECOND_PAYS = 15.0
"""What a second term must bring, as twice the logarithm of odds."""


@dataclass(frozen=True)
class CorrectionField:
    """A correction, the pattern with it undone, and the middles of the tiles (n, 2) that agreed, in
    bins from the frame's.
    """

    correction: Correction
    undone: Values
    places: Points

    @property
    def moved(self) -> float:
        """How far a tile was moved at most, in bins; 0 where none agreed."""
        moved = self.correction.apply(self.places, half_diagonal(self.undone)) - self.places
        return float(np.abs(moved).max(initial=0.0))


def correction_field_of(here: Values, there: Values, found: Correction) -> CorrectionField:
    """What the tiles of two patterns of one shape tell, beginning with a correction found so far.

    That stays where too few tiles agree anywhere. Tiles farther out come into reach as those within
    are met.
    """
    everywhere = offsets_in(here.shape)
    undone = there if found == NO_CORRECTION else undone_pattern(there, everywhere, found)
    places, errors = _tiles_off(here, undone)
    for _ in range(_TILE_ROUNDS):
        if len(errors) < _FEWEST_TILES or np.abs(places[:, 1]).max() < _MET:
            break
        found = _refitted(found, places, errors, half_diagonal(here))
        undone = undone_pattern(there, everywhere, found)
        places, errors = _tiles_off(here, undone)
    return CorrectionField(found, undone, places[:, 0])


def _refitted(
    found: Correction, places: Points, errors: NDArray[np.float64], reach: float
) -> Correction:
    """The correction that moves tiles (n, 2, 2) by what was found and what they lie off now."""
    wanted = found.apply(places[:, 0] + places[:, 1], reach)
    first, second = (_fitted(places[:, 0], wanted, errors, reach, terms) for terms in (1, 2))
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
    here: Points, there: Points, errors: NDArray[np.float64], reach: float, terms: int
) -> tuple[Correction, float]:
    """A correction of so many radial terms, an axis moved aside allowed for, and its misfit.

    By least squares over offsets (n, 2) in bins; each counts as its error (n) allows.
    """
    here, there, errors = here / reach, there / reach, errors / reach
    far = (here**2).sum(axis=1, keepdims=True)
    columns = [here * far**power for power in range(terms + 1)]
    columns += [np.tile([1.0, 0.0], (len(here), 1)), np.tile([0.0, 1.0], (len(here), 1))]
    design = np.stack([c.ravel() for c in columns], axis=1) / np.repeat(errors, 2)[:, None]
    wanted = there.ravel() / np.repeat(errors, 2)
    usual = np.array([_USUAL_TERM] * (terms + 1) + [_USUAL_SHIFT / reach] * 2)
    middle = np.eye(1, len(usual))[0] / usual
    model = np.linalg.lstsq(
        np.vstack([design, np.diag(1 / usual)]), np.append(wanted, middle), rcond=None
    )[0]
    rest = wanted - design @ model
    scale = float(model[0])
    bent = [float(v) / scale for v in model[1 : terms + 1]]
    return Correction(scale, *bent), float(np.minimum(rest**2, _MOST_MISFIT).sum())


def offsets_in(
    shape: tuple[int, ...], rows: slice = slice(None), columns: slice = slice(None)
) -> tuple[Values, Values]:
    """Bins' distances from the middle, along x and along y."""
    y = np.arange(shape[0], dtype=np.float32)[rows] - np.float32((shape[0] - 1) / 2)
    x = np.arange(shape[1], dtype=np.float32)[columns] - np.float32((shape[1] - 1) / 2)
    across, down = np.meshgrid(x, y)
    return across, down


def undone_pattern(there: Values, offsets: tuple[Values, Values], tried: Correction) -> Values:
    """What a corrected pattern would be without a correction, at these offsets."""
    height, width = there.shape
    x, y = offsets
    far = (x * x + y * y) * np.float32(1 / half_diagonal(there) ** 2)
    grow = tried.outward(far)
    return np.asarray(
        cv2.remap(
            there,
            grow * x + np.float32((width - 1) / 2),
            grow * y + np.float32((height - 1) / 2),
            cv2.INTER_LINEAR,
        ),
        np.float32,
    )


def half_diagonal(values: Values) -> float:
    """Bins from a pattern's middle to its corner."""
    return math.hypot(*values.shape) / 2
