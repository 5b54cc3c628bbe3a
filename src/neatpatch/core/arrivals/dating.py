"""When a mark appeared and disappeared, from each picture's score.

Each picture's score and the score it should have with the mark there give the log odds of present
against absent. The stretch of time whose log odds sum to the most is when it was there (the
largest sum over a run: J. Bentley, Commun. ACM 27, 865, 1984); its ends are dated by the pictures
that could have shown it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]

_SEES = 3.0
"""Foretold standard deviations from which a picture could have shown the mark."""
_MOST_ODDS = 7.0
"""Log odds one scene may give: things of the scene hide a mark, or look like one."""
_MOST_WANTED, _MOST_TOLD = 9.0, 11.9
"""Standard deviations: more than the first is never needed, more than the second not kept."""
_SIZE_STEP = 1.6
_SIZES = tuple(0.25 * _SIZE_STEP**k for k in range(12))
"""Effects tried, in units of the reference speck's: specks of 10 to 150 micrometres."""


@dataclass(frozen=True)
class PictureScore:
    """One picture's word on one mark: score and predicted score of the reference speck.

    ``voice``: 1 over the number of pictures of its scene.
    """

    z: float
    q: float
    voice: float


@dataclass(frozen=True, kw_only=True)
class MarkDates:
    """A mark's stay, as numbers of pictures in order of time; None where no picture tells.

    ``best``: those that show it, the clearest first. ``size``: its effect in units of the
    reference speck's. ``odds``: log odds that it was there at all; ``edges``: probability that
    both ends are told rightly. ``scenes``: how many different ones show it.
    """

    size: float
    odds: float
    edges: float
    seen: tuple[int, ...]
    best: tuple[int, ...]
    could_see: tuple[int, ...]
    scenes: float
    last_without: int | None
    first_with: int
    last_with: int
    first_without_again: int | None


def date_mark(words: Sequence[PictureScore]) -> MarkDates | None:
    """Date one mark from all pictures in order of time; None where it never shows."""
    z = np.array([w.z for w in words])
    q = np.array([w.q for w in words])
    voice = np.array([w.voice for w in words])
    size = max(_SIZES, key=lambda s: _best_run(_odds(z, q * s, voice))[2])
    start, end, _ = _best_run(_odds(z, q * size, voice))
    nearer = _size(z[start : end + 1], q[start : end + 1], voice[start : end + 1])
    size = float(np.clip(nearer, size / _SIZE_STEP, size * _SIZE_STEP))
    wanted = np.minimum(q * size, _MOST_WANTED)
    odds = _odds(z, q * size, voice)
    start, end, total = _best_run(odds)
    sees = wanted >= _SEES
    shows = sees & (z > wanted / 2)
    inside = np.flatnonzero(shows[start : end + 1]) + start
    if not len(inside):
        return None
    first, last = int(inside[0]), int(inside[-1])
    absent = sees & ~shows
    before, after = np.flatnonzero(absent[:first]), np.flatnonzero(absent[last + 1 :]) + last + 1
    return MarkDates(
        size=size,
        odds=total,
        edges=_sure_of_edges(odds, first, last, sees),
        seen=tuple(int(i) for i in inside),
        best=tuple(int(i) for i in inside[np.argsort(-q[inside])]),
        could_see=tuple(int(i) for i in np.flatnonzero(sees)),
        scenes=float(voice[inside].sum()),
        last_without=int(before[-1]) if len(before) else None,
        first_with=first,
        last_with=last,
        first_without_again=int(after[0]) if len(after) else None,
    )


def _odds(z: Values, wanted: Values, voice: Values) -> Values:
    bounded = np.minimum(wanted, _MOST_WANTED)
    score = np.clip(z, -_MOST_WANTED, 1.5 * _MOST_WANTED)
    score = np.minimum(score, 1.5 * bounded)
    return np.asarray(np.clip(score * bounded - bounded**2 / 2, -_MOST_ODDS, _MOST_ODDS) * voice)


def _best_run(odds: Values) -> tuple[int, int, float]:
    """First and last of the run with the largest sum, and that sum."""
    best, start, end = -math.inf, 0, 0
    total, began = 0.0, 0
    for i, value in enumerate(odds):
        if total <= 0:
            total, began = 0.0, i
        total += float(value)
        if total > best:
            best, start, end = total, began, i
    return start, end, best


def _size(z: Values, q: Values, voice: Values) -> float:
    """Effect in units of the reference speck's: a weighted median of the ratios."""
    good = (q > 0.3) & (z < _MOST_TOLD)
    if not good.any():
        return 0.0
    ratio, weight = z[good] / q[good], np.square(np.minimum(q[good], _MOST_WANTED)) * voice[good]
    order = np.argsort(ratio)
    total = np.cumsum(weight[order])
    return float(ratio[order][int(np.searchsorted(total, total[-1] / 2))])


def _sure_of_edges(odds: Values, first: int, last: int, sees: NDArray[np.bool_]) -> float:
    """Chance that neither end lies at another picture that could have shown it."""
    sure = 1.0
    for edge, step in ((first, -1), (last, 1)):
        inside = 1 / (1 + math.exp(-min(float(odds[edge]), 30.0)))
        at = edge + step
        while 0 <= at < len(odds) and not sees[at]:
            at += step
        outside = 1.0
        if 0 <= at < len(odds):
            outside = 1 / (1 + math.exp(max(float(odds[at]), -30.0)))
        sure *= inside * outside
    return sure
