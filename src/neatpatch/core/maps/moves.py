"""Who moved: a spot that went and a new one like it are one particle only where the odds say so.

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
from neatpatch.core.maps.placement import Points

Floats = NDArray[np.float64]
_MOVES = 0.5
"""Share of the loose things that left their place and stay on the sensor, before anything is known.
A start: what these frames themselves say soon weighs more."""
_USUAL_MOVE, _ANYWHERE = 0.09, 0.03
"""Moves end within a tenth of the sensor's diagonal; a few go anywhere."""
_STRANGERS_WIDTH = 0.35
"""Kernel that smooths the sizes of strangers, in logarithms."""
_SENSOR_SHARE = 0.46
"""Area of a sensor of three by two over the square of its diagonal."""
_ROUNDS = 6
"""After which the probabilities change by less than a hundredth."""
_MOST_MOVE = 0.8
"""Of what left its place; more would marry whatever is left."""
_LEAST_STRANGERS = 0.3
"""New spots to be expected even where all that came could have moved."""
_DARK = 0.8
"""A thing nearly as wide as the blur is as dark as can be: from there its loss tells its size."""
_AGREES = 3.5
"""Errors by which one thing's depth, and its loss, may differ at most."""
_LEAST_SNR = 12.0
"""Fainter things have no size to be known by."""
MOVED, MAY_HAVE_MOVED = 0.9, 0.5
"""Probability from which a pair is called moved, and from which it is remarked."""


@dataclass(frozen=True)
class _Feature:
    """What a thing is known by, with the spread of its logarithm in two frames: at its best, and
    over the signal to noise (measured on 180 simulated specks that moved).
    """

    value: Callable[[Spot], float]
    error: float
    faint_error: float


@dataclass(frozen=True)
class Pair:
    """A spot that went and one that came, with the probability that they are one thing."""

    gone: int
    new: int
    probability: float


def moved_pairs(
    gone: Sequence[Spot], new: Sequence[Spot], places: tuple[Points, Points], diagonal_px: float
) -> list[Pair]:
    """Pairs more likely one thing than not, by probability. ``places``: both in one frame's pixels.

    Only specks and fibres move: what dried on stays. Empty lists give an empty list.
    """
    if not gone or not new:
        return []
    probability = _probabilities(gone, new, places, diagonal_px)
    if not (probability >= MAY_HAVE_MOVED).any():
        return []
    from scipy.optimize import linear_sum_assignment  # slow to load, and a server starts often

    rows, columns = linear_sum_assignment(-probability)
    pairs = [
        Pair(int(i), int(j), float(probability[i, j]))
        for i, j in zip(rows, columns, strict=True)
        if probability[i, j] >= MAY_HAVE_MOVED
    ]
    return sorted(pairs, key=lambda p: -p.probability)


def _probabilities(
    gone: Sequence[Spot], new: Sequence[Spot], places: tuple[Points, Points], diagonal_px: float
) -> Floats:
    """Probability (n, m) that each new spot is the one that went, and no stranger or other one.

    How many of the new ones are strangers, and how many of the others moved, is learned from these
    spots themselves by expectation and maximisation: A. P. Dempster, N. M. Laird & D. B. Rubin,
    J. R. Stat. Soc. B 39, 1 (1977).
    """
    far = np.hypot(*(places[0][:, None] - places[1][None]).transpose(2, 0, 1))
    usual, area = _USUAL_MOVE * diagonal_px, _SENSOR_SHARE * diagonal_px**2
    within = 1 / (1 + (far / usual) ** 6) / (1.21 * math.pi * usual**2)
    near = ((1 - _ANYWHERE) * within + _ANYWHERE / area) * area
    by_depth, by_loss = _compared(gone, new, _DEPTH), _compared(gone, new, _LOSS)
    telling = np.minimum.outer(*(np.array([s.depth for s in spots]) for spots in (gone, new)))
    possible = _can_be_one(gone, new) & by_depth.agrees & by_loss.agrees
    stranger = np.ones(len(new))
    moves = _MOVES
    probability = np.zeros(possible.shape)
    for _ in range(_ROUNDS):
        likeness = np.where(
            telling < _DARK, by_depth.likeness(stranger), by_loss.likeness(stranger)
        )
        odds = moves * near * likeness
        odds = np.where(possible, odds, 0.0)
        rest = odds.sum(axis=1, keepdims=True) + odds.sum(axis=0, keepdims=True) - odds
        probability = odds / (1 - moves + rest)
        stranger = np.clip(1 - probability.sum(axis=0), 0.0, 1.0)
        moves = min(_MOST_MOVE, (probability.sum() + 1) / (len(gone) + 1 / _MOVES))
    return np.asarray(probability)


@dataclass(frozen=True)
class _Compared:
    """How well one measure agrees (n, m), and how strangers are spread over it (m, m)."""

    likelihood: Floats
    agrees: NDArray[np.bool_]
    others: Floats
    usual: Floats

    def likeness(self, stranger: Floats) -> Floats:
        """How much likelier the same thing measures so (n, m) than any stranger on the sensor.

        ``stranger``: probability of each new spot (m) that it is one.
        """
        return np.asarray(self.likelihood / (self.others @ stranger + self.usual)[None])


def _compared(gone: Sequence[Spot], new: Sequence[Spot], by: _Feature) -> _Compared:
    was, now = (np.log([max(by.value(s), 1e-6) for s in spots]) for spots in (gone, new))
    faint = np.hypot.outer(*(1 / np.maximum([s.snr for s in v], 1.0) for v in (gone, new)))
    error = np.hypot(by.error, by.faint_error * faint)
    off = was[:, None] - now[None]
    others = _normal(now[:, None] - now[None], _STRANGERS_WIDTH)
    np.fill_diagonal(others, 0.0)
    everyone = np.concatenate([was, now])
    usual = _normal(now[:, None] - everyone[None], _STRANGERS_WIDTH).mean(axis=1)
    return _Compared(
        _normal(off, error), np.abs(off) < _AGREES * error, others, usual * _LEAST_STRANGERS
    )


def _normal(off: Floats, spread: Floats | float) -> Floats:
    return np.asarray(np.exp(-((off / spread) ** 2) / 2) / (spread * math.sqrt(2 * math.pi)))


def _can_be_one(gone: Sequence[Spot], new: Sequence[Spot]) -> NDArray[np.bool_]:
    def loose(s: Spot) -> str:
        return s.kind if s.kind in ("speck", "fibre") and s.snr >= _LEAST_SNR else ""

    was, now = (np.array([loose(s) for s in spots]) for spots in (gone, new))
    return np.asarray((was[:, None] == now[None]) & (was[:, None] != ""))


_DEPTH = _Feature(lambda s: s.depth, 0.02, 1.2)


def loss_px2(spot: Spot) -> float:
    """Integrated loss in square pixels, from the particle's size."""
    if spot.kind == "fibre":
        return spot.particle_px * max(spot.outer_px - (spot.blur_px or 0.0), 1.0)
    return math.pi / 4 * spot.particle_px**2


_LOSS = _Feature(loss_px2, 0.025, 5.5)
