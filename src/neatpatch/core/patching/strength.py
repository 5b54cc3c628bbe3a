"""How strong one shadow is in one picture, and where exactly it lies.

The steps of the picture's log light around it are regressed on those of the predicted shadow and
of its displacements, with weights of Student's t for their heavy tails, held near what the map
predicts. What the picture itself says is weighed by how much the same regression finds where no
shadow is. Sources: iteratively reweighted least squares, Holland & Welsch, Commun. Stat. 6, 813
(1977); K. L. Lange, R. J. A. Little & J. M. G. Taylor, J. Am. Stat. Assoc. 84, 881 (1989).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask
from neatpatch.core.pictures.evidence import shadow_steps, steps_of, window_of
from neatpatch.core.pictures.silhouettes import placed

Plane = NDArray[np.float32]

_FREEDOM = 3.0
"""Degrees of freedom of the steps' distribution: natural pictures show 2 to 5."""
_LEAST_STEP = 1.5e-3
_ROUNDS = 5
_PLACEBOS = 8
_PLACEBO_REACH = 1.1
"""Distance of the places without a shadow, in sides of its window."""
_LEAST_SHOWN = 0.4
"""Share of a shadow's window that must be neither black nor clipped nor outside."""
_FREE_STRENGTH = 0.5
"""Prior of the regression where no shadow is: wide, but not endless."""


@dataclass(frozen=True, kw_only=True)
class Expected:
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


def strength_of(
    tone: Plane, usable: Mask, at: tuple[float, float], loss: Plane, expected: Expected
) -> Strength | None:
    """Fit one shadow (``loss``: square, centred) at a place (x, y) of the log light.

    None where too little of the picture around can show it.
    """
    half = loss.shape[0] // 2
    x, y = round(at[0]), round(at[1])
    window = _cut(tone, usable, (x, y), half)
    if window is None:
        return None
    shape = shadow_steps(placed(loss, at[0] - x, at[1] - y))
    fit = _regression(*window, shape, expected)
    if fit is None:
        return None
    model, spreads = fit
    free = Expected(strength=_FREE_STRENGTH, place_px=expected.place_px)
    own_fit = _regression(*window, shape, free)
    assert own_fit is not None
    own, formal = float(own_fit[0][0]), float(own_fit[1][0])
    around = _placebos(tone, usable, (x, y), shape, free)
    own_spread = max(formal, around or formal)
    strength, spread = _together(1.0, expected.strength, own, own_spread)
    shift = np.clip(model[1:] / max(strength, 0.2), -3 * expected.place_px, 3 * expected.place_px)
    doubt = min(1.0, own_spread / max(expected.strength, 1e-6))
    keep = 1 / (1 + doubt**2)
    return Strength(
        strength=strength,
        spread=spread,
        dx=float(shift[0]) * keep,
        dy=float(shift[1]) * keep,
        place_spread_px=max(float(spreads[1]), expected.place_px * (1 - keep)),
        own=own,
        own_spread=own_spread,
    )


def _together(a: float, spread_a: float, b: float, spread_b: float) -> tuple[float, float]:
    """Two estimates weighed by their spreads, and the spread of the result."""
    wa, wb = spread_a**-2, max(spread_b, 1e-6) ** -2
    return (a * wa + b * wb) / (wa + wb), 1 / math.sqrt(wa + wb)


def _cut(tone: Plane, usable: Mask, at: tuple[int, int], half: int) -> tuple[Plane, Mask] | None:
    """The square around a place; None where hardly any of it can show a shadow."""
    shows = window_of(usable, at, half)
    return (window_of(tone, at, half), shows) if float(shows.mean()) > _LEAST_SHOWN else None


def _regression(
    tone: Plane, usable: Mask, shape: Plane, expected: Expected, rounds: int = _ROUNDS
) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """Strength and displacements (times strength), with their spreads."""
    columns = [shape, *(-g for g in np.gradient(shape)[::-1])]
    good = usable[:, :-1] & usable[:, 1:], usable[:-1] & usable[1:]
    steps = _stacked(tone, good)
    design = np.stack([-_stacked(np.asarray(c, np.float32), good) for c in columns], axis=1)
    if len(steps) < 24 or not np.any(design[:, 0]):
        return None
    spreads = np.array([expected.strength, expected.place_px, expected.place_px])
    prior = np.diag(spreads**-2.0)
    middle = np.array([1.0 if expected.strength < _FREE_STRENGTH else 0.0, 0.0, 0.0])
    model = middle
    inverse = np.diag(spreads**2.0)
    for _ in range(rounds):
        rest = steps - design @ model
        scale = max(1.4826 * float(np.median(np.abs(rest))), _LEAST_STEP)
        weight = (_FREEDOM + 1) / (_FREEDOM + (rest / scale) ** 2) / scale**2
        weighted = design * weight[:, None]
        inverse = np.linalg.inv(weighted.T @ design + prior)
        model = inverse @ (weighted.T @ steps + prior @ middle)
    return model, np.sqrt(np.diag(inverse))


def _stacked(plane: Plane, good: tuple[Mask, Mask]) -> NDArray[np.float64]:
    across, down = steps_of(plane)
    return np.concatenate([across[:, :-1][good[0]], down[:-1][good[1]]]).astype(np.float64)


def _placebos(
    tone: Plane, usable: Mask, at: tuple[int, int], shape: Plane, free: Expected
) -> float | None:
    """Root mean square of the strengths found around, where there is no such shadow."""
    half = shape.shape[0] // 2
    reach = _PLACEBO_REACH * (2 * half + 1)
    found = []
    for k in range(_PLACEBOS):
        angle = 2 * math.pi * k / _PLACEBOS
        there = round(at[0] + reach * math.cos(angle)), round(at[1] + reach * math.sin(angle))
        window = _cut(tone, usable, there, half)
        fit = _regression(*window, shape, free, rounds=2) if window else None
        if fit is not None:
            found.append(abs(float(fit[0][0])))
    if len(found) < 3:
        return None
    return 1.4826 * float(np.median(found))
