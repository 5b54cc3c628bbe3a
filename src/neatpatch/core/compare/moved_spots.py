"""Who moved: a removed spot and a new one like it are one particle only where the odds say so.

For every pair, the chance that a moved particle of that size comes to lie there is held against the
chance that a stranger of that size does: size within its measured error, and distance, against how
many strangers of that size lie on as much of the sensor. All pairs are decided at once.
Sources: identity from odds, I. P. Fellegi & A. B. Sunter, J. Am. Stat. Assoc. 64, 1183 (1969),
https://doi.org/10.1080/01621459.1969.10501049; assignment, H. W. Kuhn, Naval Res. Logist. Q. 2, 83
(1955), https://doi.org/10.1002/nav.3800020109, as in scipy.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.records import Spot
from neatpatch.core.sensor.placement import Points

Floats = NDArray[np.float64]
_MOVES = 0.5
"""Share of the loose things that left their place and stay on the sensor. Learned from the frames,
it would be smaller after a good rung, and the few that did move would be missed."""
_LONGEST_MOVE_MM, _FALLS_OFF = 3.0, 16
"""A rung blows or wipes things on by tenths of a millimetre to this; longer moves soon are rare."""
_SHORTEST_MOVE_MM = 0.6
"""Nearer than this all places are as likely."""
_ANYWHERE = 0.0005
"""A few go anywhere."""
_STRANGERS_WIDTH = 0.9
"""Kernel that smooths the sizes of all that went and came, in logarithms."""
_SENSOR_SHARE = 0.46
"""Area of a sensor of three by two over the square of its diagonal."""
_ROUNDS = 8
"""After which the probabilities change by less than a hundredth."""
_LEAST_STRANGERS = 3.0
"""New spots to be expected even where all that came could have moved."""
DARK = 0.7
"""A thing nearly as wide as the blur is as dark as can be: from there its loss tells its size."""
_UNLIKE_OF_ONE_LOSS, _UNLIKE_MOST, _UNLIKE_LEAST = 0.7, 0.08, 0.01
"""Spread of the logarithm of depth between dark things of one loss, over the light they let by; at
most and at least. Their outlines differ, and one that moved keeps its own."""
_AGREES = 4.5
"""Errors by which one thing's depth, and its loss, may differ at most."""
_LEAST_SNR = 6.0
"""Fainter things have no size to be known by."""
MOVED, MAY_HAVE_MOVED = 0.9, 0.5
"""Probability from which a new spot is called moved, and from which a pair is remarked."""
_FROM_THERE = 0.75
"""Probability from which it is told whence: two of one size may have gone. More leaves the half of
those out that have a twin; less takes the wrong twin too often (swept on 1,500 moves)."""


@dataclass(frozen=True)
class _Feature:
    """What a thing is known by, with the spread of its logarithm in two frames: at its best, over
    the signal to noise, and over the value itself (measured on 1,200 simulated specks that moved).
    """

    value: Callable[[Spot], float]
    error: float
    faint_error: float
    least_error: float


@dataclass(frozen=True)
class Pair:
    """A removed spot and a new one, with the probability that they are one thing, and that
    the one that came moved, from there or elsewhere.
    """

    gone: int
    new: int
    probability: float
    of_any: float

    @property
    def moved(self) -> bool:
        """Whether it is sure enough to be called so."""
        return self.of_any >= MOVED and self.probability >= _FROM_THERE


def moved_pairs(
    gone: Sequence[Spot], new: Sequence[Spot], places: tuple[Points, Points], diagonal_mm: float
) -> list[Pair]:
    """Pairs more likely one thing than not, by probability. ``places``: both in millimetres.

    Only specks and fibres move: what dried on stays. Empty lists give an empty list.
    """
    if not gone or not new:
        return []
    probability = _probabilities(gone, new, places, diagonal_mm)
    if not (probability >= MAY_HAVE_MOVED).any():
        return []
    from scipy.optimize import linear_sum_assignment  # slow to load, and a server starts often

    rows, columns = linear_sum_assignment(-probability)
    of_any = probability.sum(axis=0)
    pairs = [
        Pair(int(i), int(j), float(probability[i, j]), float(of_any[j]))
        for i, j in zip(rows, columns, strict=True)
        if probability[i, j] >= MAY_HAVE_MOVED
    ]
    return sorted(pairs, key=lambda p: -p.probability)


def _probabilities(
    gone: Sequence[Spot], new: Sequence[Spot], places: tuple[Points, Points], diagonal_mm: float
) -> Floats:
    """Probability (n, m) that each new spot is the one that went, and no stranger or other one.

    How many of the new ones are strangers is learned from these spots themselves by expectation and
    maximisation: A. P. Dempster, N. M. Laird & D. B. Rubin, J. R. Stat. Soc. B 39, 1 (1977).
    """
    far = np.hypot(*(places[0][:, None] - places[1][None]).transpose(2, 0, 1))
    near = _nearness(far) * _SENSOR_SHARE * diagonal_mm**2 + _ANYWHERE
    by_depth, by_loss = _compared(gone, new, _DEPTH), _compared(gone, new, _LOSS)
    telling = np.minimum.outer(*(np.array([s.depth for s in spots]) for spots in (gone, new)))
    of_dark = by_loss.likeness * _outline_likeness(gone, new)
    likeness = np.where(telling < DARK, by_depth.likeness, of_dark)
    possible = _can_be_one(gone, new) & by_depth.agrees & by_loss.agrees
    evidence = np.where(possible, near * likeness, 0.0)
    stranger = np.ones(len(new))
    probability = np.zeros(evidence.shape)
    for _ in range(_ROUNDS):
        odds = _MOVES * evidence / (stranger.sum() - stranger + _LEAST_STRANGERS)
        rest = odds.sum(axis=1, keepdims=True) + odds.sum(axis=0, keepdims=True) - odds
        probability = odds / (1 - _MOVES + rest)
        stranger = np.clip(1 - probability.sum(axis=0), 0.0, 1.0)
    return np.asarray(probability)


def _nearness(far_mm: Floats) -> Floats:
    """Chance per square millimetre that a moved thing comes to lie so far away, in any direction.

    All lengths up to the usual longest are equally likely.
    """
    turn = math.pi / _FALLS_OFF
    usual = _LONGEST_MOVE_MM * turn / math.sin(turn)
    lengths = (1 - _ANYWHERE) / (1 + (far_mm / _LONGEST_MOVE_MM) ** _FALLS_OFF) / usual
    return np.asarray(lengths / (2 * math.pi * np.maximum(far_mm, _SHORTEST_MOVE_MM)))


@dataclass(frozen=True)
class _Compared:
    """How much likelier one thing measures so (n, m) than a stranger; whether it may at all."""

    likeness: Floats
    agrees: NDArray[np.bool_]


def _compared(gone: Sequence[Spot], new: Sequence[Spot], by: _Feature) -> _Compared:
    was, now = _logs(gone, by), _logs(new, by)
    error = _error(gone, new, by)
    off = was[:, None] - now[None]
    everyone = np.concatenate([was, now])
    usual = _normal(now[:, None] - everyone[None], _STRANGERS_WIDTH).mean(axis=1)
    return _Compared(_normal(off, error) / usual[None], np.abs(off) < _AGREES * error)


def _outline_likeness(gone: Sequence[Spot], new: Sequence[Spot]) -> Floats:
    """How much likelier one dark thing has these depths (n, m) than two of the same loss have."""
    was, now = _logs(gone, _DARK_DEPTH), _logs(new, _DARK_DEPTH)
    error = _error(gone, new, _DARK_DEPTH)
    light = 1 - np.exp(np.maximum.outer(was, now))
    unlike = np.clip(_UNLIKE_OF_ONE_LOSS * light, _UNLIKE_LEAST, _UNLIKE_MOST)
    off = np.minimum(np.abs(was[:, None] - now[None]), _AGREES * error)
    return np.asarray(_normal(off, error) / _normal(off, np.hypot(error, unlike)))


def _logs(spots: Sequence[Spot], by: _Feature) -> Floats:
    return np.asarray(np.log([max(by.value(s), 1e-6) for s in spots]), np.float64)


def _error(gone: Sequence[Spot], new: Sequence[Spot], by: _Feature) -> Floats:
    """Spread of the difference of two logarithms (n, m) if both are of one thing."""
    faint = np.hypot.outer(*(1 / np.maximum([s.snr for s in v], 1.0) for v in (gone, new)))
    small = by.least_error * np.exp(-np.minimum.outer(_logs(gone, by), _logs(new, by)))
    return np.asarray(np.sqrt(by.error**2 + (by.faint_error * faint) ** 2 + small**2))


def _normal(off: Floats, spread: Floats | float) -> Floats:
    return np.asarray(np.exp(-((off / spread) ** 2) / 2) / (spread * math.sqrt(2 * math.pi)))


def _can_be_one(gone: Sequence[Spot], new: Sequence[Spot]) -> NDArray[np.bool_]:
    def loose(s: Spot) -> str:
        return s.kind if s.kind in ("speck", "fibre") and s.snr >= _LEAST_SNR else ""

    was, now = (np.array([loose(s) for s in spots]) for spots in (gone, new))
    return np.asarray((was[:, None] == now[None]) & (was[:, None] != ""))


_DEPTH = _Feature(lambda s: s.depth, 0.015, 1.1, 0.0025)
_DARK_DEPTH = _Feature(lambda s: s.depth, 0.01, 1.1, 0.0)


def loss_px2(spot: Spot) -> float:
    """Integrated loss in square pixels, from the particle's size."""
    if spot.kind == "fibre":
        return spot.particle_px * max(spot.outer_px - (spot.blur_px or 0.0), 1.0)
    return math.pi / 4 * spot.particle_px**2


_LOSS = _Feature(loss_px2, 0.02, 5.0, 0.0)
