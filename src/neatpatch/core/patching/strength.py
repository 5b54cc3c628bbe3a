"""How strong one shadow is in one picture, and where exactly it lies.

The log light around it is regressed on the predicted shadow and its displacements, with weights of
Student's t for heavy tails, held near what the map predicts. It is done twice: by the steps from
pixel to pixel, which see through a busy subject, and by the levels over a bent ground, which an
even one needs, where compression has flattened the steps. What each finds where no shadow is tells
how far it may be trusted. Sources: iteratively reweighted least squares, Holland & Welsch, Commun.
Stat. 6, 813 (1977); K. L. Lange, R. J. A. Little & J. M. G. Taylor, J. Am. Stat. Assoc. 84, 881
(1989).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask
from neatpatch.core.pictures.shadow_evidence import shadow_steps, window_of
from neatpatch.core.pictures.silhouettes import placed

Plane = NDArray[np.float32]

_FREEDOM = 3.0
"""Degrees of freedom of the steps' distribution: natural pictures show 2 to 5."""
_LEAST_STEP = 1.5e-3
_FEWEST_VALUES = 24
"""Steps or levels, for up to nine terms; fewer explain themselves."""
_UNLIKE = 0.15
"""Share of a shadow's own steps by which its predicted shape may be wrong: before an even sky that
is more than the grain, and must not pass for the subject."""
_ROUNDS = 5
_PLACEBOS = 8
_PLACEBO_REACH = 1.1
"""Distance of the places without a shadow, in sides of its window."""
_MARGIN = 0.4
"""Of its surroundings a shadow's window takes so much more, as a share of its half side."""
_LEAST_SHOWN = 0.4
"""Share of a shadow's window that must be neither black nor clipped nor outside."""
_SEEN_SPREADS = 4.0
"""Spreads by which a shadow must show to tell its own place: less lets the subject move it."""
_FREE_STRENGTH, _ANY_GROUND = 0.5, 20.0
"""Prior of the regression where no shadow is: wide, but not endless."""


@dataclass(frozen=True, kw_only=True)
class StrengthPrior:
    """What is known before the picture is asked: spreads of strength (share) and place (px)."""

    strength: float
    place_px: float


@dataclass(frozen=True, kw_only=True)
class Strength:
    """A shadow's strength, as a share of the predicted loss, and its place beside the expected one.

    ``spread``: standard deviation of the strength. ``own``, ``own_spread``: what the picture alone
    says. ``place_spread_px``: of the place.
    """

    strength: float
    spread: float
    dx: float
    dy: float
    place_spread_px: float
    own: float
    own_spread: float


Values = NDArray[np.float64]


@dataclass(frozen=True)
class _Problem:
    """Values (n) to be explained by a design (k, n): shadow, two displacements, the ground."""

    values: Values
    design: Values


@dataclass(frozen=True)
class _Question:
    """A way to ask a picture: the whole design (k, n), the values of a window's tones, and which of
    them a mask lets pass.
    """

    design: Values
    values: Callable[[Plane], Values]
    passing: Callable[[Mask], NDArray[np.bool_]]

    def problem(self, tone: Plane, usable: Mask) -> _Problem:
        values, good = self.values(tone), self.passing(usable)
        if good.all():
            return _Problem(values, self.design)
        return _Problem(values[good], self.design[:, good])


def strength_of(
    tone: Plane, usable: Mask, at: tuple[float, float], loss: Plane, expected: StrengthPrior
) -> Strength | None:
    """Fit one shadow (``loss``: square, centred) at a place (x, y) of the log light.

    None where too little of the picture around can show it.
    """
    place = round(at[0]), round(at[1])
    shape = _shape_at(loss, at)
    window = _cut(tone, usable, place, shape.shape[0] // 2)
    if window is None:
        return None
    free = StrengthPrior(strength=_FREE_STRENGTH, place_px=expected.place_px)
    found: list[tuple[float, float, _Question]] = []
    for way in (_by_steps(shape), _by_levels(shape)):
        fit = _solved(way.problem(*window), free)
        if fit is not None:
            around = _placebo_spread(way, (tone, usable), place, shape.shape[0] // 2, free)
            found.append((float(fit[0][0]), max(float(fit[1][0]), around or 0.0), way))
    if not found:
        return None
    own, own_spread = found[0][:2]
    for other, spread, _ in found[1:]:
        own, own_spread = _together(own, own_spread, other, spread)
    better = min(found, key=lambda f: f[1])[2]
    solved = _solved(better.problem(*window), expected)
    assert solved is not None
    return _strength(own, own_spread, *solved, expected)


def _strength(
    own: float,
    own_spread: float,
    model: NDArray[np.float64],
    spreads: NDArray[np.float64],
    expected: StrengthPrior,
) -> Strength:
    """What picture and map say together; the place moves as far as the picture can tell it."""
    strength, spread = _together(1.0, expected.strength, own, own_spread)
    most = 3 * expected.place_px
    shift = np.clip(model[1:3] / max(strength, 0.2), -most, most)
    doubt = min(1.0, own_spread / max(expected.strength, 1e-6))
    seen = min(max(own / (_SEEN_SPREADS * own_spread), 0.0), 1.0)
    keep = seen / (1 + doubt**2)
    return Strength(
        strength=strength,
        spread=spread,
        dx=float(shift[0]) * keep,
        dy=float(shift[1]) * keep,
        place_spread_px=max(float(spreads[1]), expected.place_px * (1 - keep)),
        own=own,
        own_spread=own_spread,
    )


def misfit(
    tone: Plane, usable: Mask, at: tuple[float, float], loss: Plane, expected: StrengthPrior
) -> float | None:
    """How badly a shadow of this shape fits at its best strength: minus twice the log likelihood.

    Comparable between shapes at one place only; None where the picture cannot tell.
    """
    shape = _shape_at(loss, at)
    window = _cut(tone, usable, (round(at[0]), round(at[1])), shape.shape[0] // 2)
    if window is None:
        return None
    free = StrengthPrior(strength=_FREE_STRENGTH, place_px=expected.place_px)
    costs = []
    for way in (_by_steps(shape), _by_levels(shape)):
        problem = way.problem(*window)
        solved = _solved(problem, free)
        if solved is None:
            return None
        rest = problem.values - solved[0] @ problem.design
        spread = _spread(problem.values - _middle(problem.values))
        costs.append((_FREEDOM + 1) * np.log1p(rest**2 / (_FREEDOM * spread**2)).sum())
    return float(np.mean(costs))


def _together(a: float, spread_a: float, b: float, spread_b: float) -> tuple[float, float]:
    """Two estimates weighed by their spreads, and the spread of the result."""
    wa, wb = max(spread_a, 1e-6) ** -2, max(spread_b, 1e-6) ** -2
    return (a * wa + b * wb) / (wa + wb), 1 / math.sqrt(wa + wb)


def _shape_at(loss: Plane, at: tuple[float, float]) -> Plane:
    """A shadow in the log light, moved between pixels, with some of its surroundings."""
    half = loss.shape[0] // 2
    room = max(3, round(_MARGIN * half))
    moved = placed(loss, at[0] - round(at[0]), at[1] - round(at[1]))
    return np.asarray(np.pad(shadow_steps(moved), room), np.float32)


def _cut(tone: Plane, usable: Mask, at: tuple[int, int], half: int) -> tuple[Plane, Mask] | None:
    """The square around a place; None where hardly any of it can show a shadow."""
    shows = window_of(usable, at, half)
    return (window_of(tone, at, half), shows) if float(shows.mean()) > _LEAST_SHOWN else None


def _columns(shape: Plane) -> list[Plane]:
    """What a shadow, and each of its displacements, adds to the log light."""
    return [-shape, *(np.asarray(g, np.float32) for g in np.gradient(shape)[::-1])]


def _by_steps(shape: Plane) -> _Question:
    return _Question(np.stack([_steps(c) for c in _columns(shape)]), _steps, _both_usable)


def _steps(plane: Plane) -> Values:
    across, down = plane[:, 1:] - plane[:, :-1], plane[1:] - plane[:-1]
    return np.concatenate([across.ravel(), down.ravel()]).astype(np.float64)


def _both_usable(usable: Mask) -> NDArray[np.bool_]:
    across, down = usable[:, 1:] & usable[:, :-1], usable[1:] & usable[:-1]
    return np.concatenate([across.ravel(), down.ravel()])


def _by_levels(shape: Plane) -> _Question:
    y, x = np.indices(shape.shape) / (shape.shape[0] / 2) - 1
    ground = [np.ones_like(x), x, y, x * x, x * y, y * y]
    return _Question(np.stack([_levels(c) for c in (*_columns(shape), *ground)]), _levels, np.ravel)


def _levels(plane: NDArray[np.floating]) -> Values:
    return plane.ravel().astype(np.float64)


def _spread(rest: Values) -> Values:
    """Robust standard deviation of the last axis about zero."""
    return np.asarray(np.maximum(1.4826 * _middle(np.abs(rest)), _LEAST_STEP), np.float64)


def _middle(values: Values) -> Values:
    """The median of the last axis, the upper one of two, kept as an axis of one: by a partition
    alone, as it is asked for very often.
    """
    half = values.shape[-1] // 2
    return np.asarray(np.partition(values, half)[..., half : half + 1])


def _solved(
    problem: _Problem, expected: StrengthPrior
) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """Strength, displacements (times strength) and ground, with their spreads."""
    values, design = problem.values, problem.design
    if not _tells(values, design):
        return None
    spreads, middle = _prior(len(design), expected)
    prior = np.diag(spreads**-2.0)
    unlike = np.square(_UNLIKE * design[0])
    weight: Values = np.full(len(values), _spread(values - _middle(values)) ** -2.0, np.float64)
    model, inverse = middle, np.diag(spreads**2.0)
    for _ in range(_ROUNDS):
        weighted = design * weight
        inverse = np.asarray(np.linalg.inv(weighted @ design.T + prior), np.float64)
        model = inverse @ (weighted @ values + prior @ middle)
        rest = values - model @ design
        variance = _spread(rest) ** 2 + unlike
        weight = (_FREEDOM + 1) / (_FREEDOM + rest**2 / variance) / variance
    return model, np.sqrt(np.diag(inverse))


def _placebo_spread(
    way: _Question, shown: tuple[Plane, Mask], at: tuple[int, int], half: int, free: StrengthPrior
) -> float | None:
    """Robust size of the strengths found around, where there is no such shadow."""
    reach = _PLACEBO_REACH * (2 * half + 1)
    whole: list[Values] = []
    found: list[float] = []
    for k in range(_PLACEBOS):
        angle = 2 * math.pi * k / _PLACEBOS
        there = round(at[0] + reach * math.cos(angle)), round(at[1] + reach * math.sin(angle))
        window = _cut(*shown, there, half)
        if window is None:
            continue
        problem = way.problem(*window)
        if problem.design is way.design:
            whole.append(problem.values)
        else:
            found += _roughly_solved(problem.values[None], problem.design, free)
    if whole:
        found += _roughly_solved(np.stack(whole), way.design, free)
    return 1.4826 * float(np.median(np.abs(found))) if len(found) >= 3 else None


def _roughly_solved(values: Values, design: Values, free: StrengthPrior) -> list[float]:
    """Strengths of one shadow at several places (p, n) at once, by two rounds of `_solved`."""
    if not _tells(values[0], design):
        return []
    spreads, _ = _prior(len(design), free)
    prior = np.diag(spreads**-2.0)
    even = _spread(values - _middle(values)) ** -2.0
    model = _solved_each(even[..., None] * (design @ design.T) + prior, even * (values @ design.T))
    rest = values - model @ design
    variance = _spread(rest) ** 2 + np.square(_UNLIKE * design[0])
    weighted = design * ((_FREEDOM + 1) / (_FREEDOM + rest**2 / variance) / variance)[:, None, :]
    model = _solved_each(weighted @ design.T + prior, (weighted @ values[..., None])[..., 0])
    return [float(v) for v in model[:, 0]]


def _solved_each(normal: Values, wanted: Values) -> Values:
    """Models (p, k) of several normal equations (p, k, k) at once."""
    return np.asarray(np.linalg.solve(normal, wanted[..., None])[..., 0], np.float64)


def _tells(values: Values, design: Values) -> bool:
    """Whether there is enough to tell a shadow by, and any of it in the window."""
    return len(values) >= _FEWEST_VALUES and bool(np.any(design[0]))


def _prior(count: int, expected: StrengthPrior) -> tuple[Values, Values]:
    """Spreads and middles of the terms before the picture is asked."""
    spreads, middle = np.full(count, _ANY_GROUND), np.zeros(count)
    spreads[:3] = expected.strength, expected.place_px, expected.place_px
    middle[0] = 1.0 if expected.strength < _FREE_STRENGTH else 0.0
    return spreads, middle
