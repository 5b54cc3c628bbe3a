"""Where one frame lies on another by the constellation of its marks, and whether that is chance.

Differences of place vote for a shift, for each quarter turn and zoom that the frames allow; pairs
of pairs vote for the zoom itself. What is found must agree better than strangers would by chance.
Sources: voting for a similarity, D. H. Ballard, Pattern Recognit. 13, 111 (1981),
https://doi.org/10.1016/0031-3203(81)90009-1; agreements of strangers are counted as a Poisson
process, the trials multiplied in (Bonferroni).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from neatpatch.core.compare.alignment import (
    REACH_SHARE,
    SIMILAR_LOSS,
    Alignment,
    Marks,
    align,
    align_without_lens,
    similar_losses,
    similar_pairs,
)
from neatpatch.core.sensor.placement import (
    Placement,
    alike_in_shape,
    as_they_are,
    centre_of,
    turned,
)

_STRONGEST = 100
"""Marks that vote for a shift: enough to be found where two thirds changed."""
_STRONGEST_PAIRED = 24
"""Marks whose pairs vote for a zoom: their number grows as the fourth power."""
_CELL_PX = 16.0
"""Of the votes for a shift: exit pupils spread them by some pixels."""
_CELL_NUMBER = np.array([1, 1 << 20])
"""Makes one number of a cell's column and row."""
_NEAR_PX, _NEAR_SHARE = 4.0, 0.004
"""Marks of frames that lie as they are come to lie so near: places, and exit pupils by radius."""
_AGREED_PX = 3.0
"""Distance within which marks agree after the alignment."""
_CHANCE = 1e-3
"""Strangers may agree so well in one of a thousand comparisons."""
_SPENT = 2
"""Agreeing pairs that the fitted scale and shift use up."""
_ZOOMS = (0.3, 1.0 / 0.3)
"""Pictures made smaller than this show no dust; the inverse for the other order."""
_SCALES = 10
"""Scales apart by more than a mark's error that the exit pupil may give, tried in one."""
_TURNS_AND_ZOOMS, _ALL_ZOOMS = 8, 200
"""Four turns by two zooms are tried at each place; where any zoom is, so many more of them."""
_ZOOM_STEP = 0.01
"""In the logarithm: pairs tell a zoom within a hundredth."""
_LEAST_BASE_PX = 20.0
"""Nearer pairs tell no zoom."""
_FEWEST_PAIRS = 3
"""Two pairs agree by chance all too often."""
_ANGLE_TOLERANCE = 0.01
"""Radians within which a pair's direction agrees with a quarter turn."""
_SAME_SHAPE = 0.02
"""Sides of one picture, rounded; more takes crops for whole pictures."""


@dataclass(frozen=True)
class SpotAlignment:
    """An alignment, and the chance that strangers agree as well."""

    alignment: Alignment
    chance: float

    @property
    def proven(self) -> bool:
        return self.chance < _CHANCE


def align_by_spots(
    here: Marks, there: Marks, shapes: tuple[tuple[int, int], tuple[int, int]]
) -> SpotAlignment:
    """The best alignment of two frames of these shapes (height, width).

    Frames that lie as they are need the least proof. Without any marks nothing is proven.
    """
    straight = as_they_are(*shapes)
    best = SpotAlignment(Alignment(placement=straight), 1.0)
    if not here.count or not there.count:
        return best
    if alike_in_shape(*shapes, _SAME_SHAPE):
        best = _as_it_is(here, there, straight)
        if best.proven:
            return best
    tries = _tries(shapes[0], shapes[1], here, there)
    for placement, trials in tries:
        found = _voted(here, there, placement, trials)
        if found.chance < best.chance:
            best = found
    if best.proven:
        return replace(best, alignment=align(here, there, best.alignment.placement))
    return best


def _as_it_is(here: Marks, there: Marks, placement: Placement) -> SpotAlignment:
    """Frames taken alike: near agreement at once, without any search, or after a small one."""
    found = align(here, there, placement)
    plain = replace(found, scale=1.0, shift_px=(0.0, 0.0), radial=0.0)
    reach = _NEAR_PX + _NEAR_SHARE * placement.reach_px
    at_once = _chance(here, there, plain, reach, trials=1.0, spent=0)
    trials = (2 * REACH_SHARE * max(placement.there) / _AGREED_PX) ** 2 * _SCALES
    fitted = _chance(here, there, found, _AGREED_PX, trials=trials, spent=_SPENT)
    return SpotAlignment(found, min(at_once, fitted))


def _tries(
    here_shape: tuple[int, int], there_shape: tuple[int, int], here: Marks, there: Marks
) -> Iterator[tuple[Placement, float]]:
    """Turns and zooms worth a vote, with the number of places that a shift is searched for
    among.
    """
    area = float(there_shape[0] * there_shape[1])
    places = area / _AGREED_PX**2
    for turn in range(4):
        side = here_shape[turn % 2 == 0]
        zooms = {1.0, there_shape[1] / side}
        for zoom in sorted(zooms):
            if _ZOOMS[0] < zoom < _ZOOMS[1]:
                yield (
                    Placement(here=here_shape, there=there_shape, turn=turn, zoom=zoom),
                    places * _TURNS_AND_ZOOMS,
                )
    for turn, zoom in _paired_zooms(here, there, here_shape):
        yield (
            Placement(here=here_shape, there=there_shape, turn=turn, zoom=zoom),
            places * _TURNS_AND_ZOOMS * _ALL_ZOOMS,
        )


def _voted(here: Marks, there: Marks, placement: Placement, trials: float) -> SpotAlignment:
    """The shift with most votes, aligned and judged."""
    a, b = _strongest(here, _STRONGEST), _strongest(there, _STRONGEST)
    i, j = np.nonzero(similar_losses(a.losses * placement.zoom**2, b.losses))
    shifts = b.places[j] - placement.apply(a.places)[i]
    best = SpotAlignment(Alignment(placement=placement), 1.0)
    if len(shifts) < _SPENT:
        return best
    for offset in (0.0, _CELL_PX / 2):
        cells = np.floor((shifts + offset) / _CELL_PX).astype(np.int64) @ _CELL_NUMBER
        numbers, counts = np.unique(cells, return_counts=True)
        top = int(np.argmax(counts))
        if counts[top] < _SPENT:
            continue
        mine = cells == numbers[top]
        shift = np.median(shifts[mine], axis=0)
        moved = replace(placement, shift_px=(float(shift[0]), float(shift[1])))
        found = align_without_lens(here, there, moved)
        chance = _chance(here, there, found, _AGREED_PX, trials=trials, spent=_SPENT)
        if chance < best.chance:
            best = SpotAlignment(found, chance)
    return best


def _strongest(marks: Marks, count: int) -> Marks:
    order = np.argsort(-marks.losses)[:count]
    return Marks(places=marks.places[order], losses=np.maximum(marks.losses[order], 1e-6))


def _paired_zooms(
    here: Marks, there: Marks, here_shape: tuple[int, int]
) -> Iterator[tuple[int, float]]:
    """Zooms that most pairs of pairs agree on, with their turn: for crops made smaller as well."""
    a, b = _strongest(here, _STRONGEST_PAIRED), _strongest(there, _STRONGEST_PAIRED)
    if min(a.count, b.count) < _FEWEST_PAIRS:
        return
    i, j = np.triu_indices(a.count, 1)
    k, m = (v.ravel() for v in np.meshgrid(np.arange(b.count), np.arange(b.count)))
    k, m = k[k != m], m[k != m]
    there_base = b.places[m] - b.places[k]
    there_far = np.hypot(*there_base.T)
    centre = centre_of(here_shape)
    for turn in range(4):
        at = turned(a.places - centre, turn)
        base = at[j] - at[i]
        far = np.hypot(*base.T)
        zoom = there_far[None] / np.maximum(far[:, None], 1e-6)
        cosine = (base @ there_base.T) / np.maximum(far[:, None] * there_far[None], 1e-6)
        ratio = np.log(b.losses[k][None] / a.losses[i][:, None]) - 2 * np.log(zoom)
        other = np.log(b.losses[m][None] / a.losses[j][:, None]) - 2 * np.log(zoom)
        good = (cosine > math.cos(_ANGLE_TOLERANCE)) & (zoom > _ZOOMS[0]) & (zoom < _ZOOMS[1])
        good &= (np.abs(ratio) < math.log(SIMILAR_LOSS)) & (np.abs(other) < math.log(SIMILAR_LOSS))
        good &= far[:, None] > _LEAST_BASE_PX
        logs = np.log(zoom[good])
        if logs.size < _FEWEST_PAIRS:
            continue
        cells = np.round(logs / _ZOOM_STEP).astype(np.int64)
        values, counts = np.unique(cells, return_counts=True)
        top = values[int(np.argmax(counts))]
        if counts.max() >= _FEWEST_PAIRS:
            yield turn, float(np.exp(np.median(logs[np.abs(cells - top) <= 1])))


def _chance(
    here: Marks, there: Marks, found: Alignment, reach_px: float, *, trials: float, spent: int
) -> float:
    """Probability that strangers scattered over the frame agree as well somewhere among
    ``trials``.
    """
    agreed, expected = _agreement(here, there, found, reach_px)
    left = agreed - spent
    if left <= 0:
        return 1.0
    return min(1.0, trials * _poisson_tail(left, expected))


def _agreement(here: Marks, there: Marks, found: Alignment, reach_px: float) -> tuple[int, float]:
    """Marks of the second frame that meet one alike, and how many would by chance."""
    height, width = found.placement.there
    at = found.apply(here.places)
    inside = (at >= 0).all(axis=1) & (at[:, 0] < width) & (at[:, 1] < height)
    if not inside.any():
        return 0, 0.0
    mine = Marks(places=at[inside], losses=here.losses[inside] * found.placement.zoom**2)
    still = Placement(here=(height, width), there=(height, width))
    pairs = similar_pairs(mine, there, Alignment(placement=still), reach_px)
    pairs_alike = int(np.count_nonzero(similar_losses(mine.losses, there.losses)))
    agreed = min(len(np.unique(pairs[:, 0])), len(np.unique(pairs[:, 1]))) if len(pairs) else 0
    return agreed, pairs_alike * math.pi * reach_px**2 / (height * width)


def _poisson_tail(count: int, mean: float) -> float:
    """Probability of ``count`` or more where ``mean`` are expected; an upper bound far out."""
    if count <= mean:
        return 1.0
    first = math.exp(count * math.log(max(mean, 1e-300)) - mean - math.lgamma(count + 1))
    return min(1.0, first / (1 - mean / (count + 1)))
