"""The sides of the lens's opening, told from the rims of a picture's clearest shadows.

A shadow is its speck spread by the opening. What is left of the light around a speck when its round
shadow is taken out is laid over the same of all others, each seen through its own speck, and shows
where the opening reaches farther out than a circle and where less. That is compared with openings
of five to seven sides in any turn, and believed where the specks agree. Sources: matched filter,
Turin 1960; weights of Student's t as in `strength`; Fisher's F of 2 and 2 k - 2 degrees of freedom.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask
from neatpatch.core.common.records import SpotMap
from neatpatch.core.patching.fitting import (
    FittedShadow,
    Subject,
    in_window,
    optics_of,
    usual_optics,
)
from neatpatch.core.pictures.map_location import MapLocation
from neatpatch.core.pictures.pupil import Blades, pupil
from neatpatch.core.pictures.silhouettes import ShadowOptics, half_width, placed, shadow_of

Plane = NDArray[np.float32]

LEAST_BLUR_PX, _ENOUGH_BLUR_PX = 9.0, 12.0
"""Smaller openings than the first have rims too coarse to tell sides by, and sides too small to
matter; so many times the second are asked in pixels so many times larger."""
_COUNTS = (5, 6, 7)
"""More are rounder than can be told: eight sides stay within 4 % of a circle, and pixels have four
corners themselves."""
_FEWEST, _MOST_CHANCE = 4, 1e-3
"""Specks that must speak, and how often round openings may pass for others, for each count."""
_STRAIGHT = 0.25, 1.5
"""Below the first it is round; above the second, as no sides are, the subject says it."""
_FREEDOM, _LEAST_SPREAD, _UNLIKE = 3.0, 1e-3, 0.05
"""Spread of tones rounded flat, and share of a shadow by which its shape may be wrong: before an
even sky that is more than the grain, and must not be taken for the subject."""
_DARKEST = 1e-3
"""Ground that light is divided by at least."""
_ROUNDS, _GROUND = 2, 6
"""Of weights, more of which tell no more; and terms of a bent ground."""
_LEAST_SHOWN = 0.9
"""Share of a rim that must lie in the picture: sides cut off look like sides."""
_ASKED, _CLEAR = 20, 2.0
"""Specks asked, whose shadow must show by so many of its spreads."""
_AROUND = 0.3
"""Ground around a shadow, as a share of the opening's width."""
_POINT_PX = 0.01
"""An opening that spreads nothing."""


@dataclass(frozen=True)
class Rim:
    """Around one speck, square and in the map's turn: linear light, where it may be used, its
    round shadow's loss, and the loss before the opening spreads it.
    """

    light: Plane
    usable: Mask
    loss: Plane
    sharp: Plane


def blades_in_picture(
    spot_map: SpotMap, subject: Subject, location: MapLocation, fitted: Sequence[FittedShadow]
) -> Blades | None:
    """The opening's blades as a picture's fitted specks show them, in the map's turn; None where it
    looks round or cannot be told.
    """
    whole = location.alignment.placement.zoom * subject.step
    step = max(1, int(usual_optics(spot_map, subject.f_number, whole).blur / _ENOUGH_BLUR_PX))
    blur = usual_optics(spot_map, subject.f_number, whole / step).blur
    clear = [f for f in fitted if f.spot.kind == "speck" and f.fit.own > _CLEAR * f.fit.own_spread]
    if subject.close is None or not clear or blur < LEAST_BLUR_PX:
        return None
    clear.sort(key=lambda f: -f.spot.depth * f.spot.outer_px)
    rims = [_rim(spot_map, subject, location, f, step) for f in clear[:_ASKED]]
    return fitted_blades(rims, blur * clear[0].widen)


def _rim(
    spot_map: SpotMap, subject: Subject, location: MapLocation, fit: FittedShadow, step: int
) -> Rim:
    assert subject.close is not None
    placement, finer = location.alignment.placement, subject.step / step
    own, there = optics_of(fit.spot, spot_map, subject, placement.zoom * finer, fit.widen)
    half = half_width(fit.spot, there) + max(3, math.ceil(_AROUND * there.blur))
    at, between = fit.on_pixels(finer)
    shadows = (
        placed(shadow_of(fit.spot, own, look, placement.turn), *between)
        * np.float32(fit.fit.strength)
        for look in (there, _through_a_point(there))
    )
    light, usable = subject.close(at, half, step)
    loss, sharp = shadows
    parts = (light, usable, in_window(loss, half), sharp)
    return Rim(*(np.ascontiguousarray(np.rot90(part, -placement.turn)) for part in parts))


def _through_a_point(look: ShadowOptics) -> ShadowOptics:
    """The same light, bent as far, through an opening that spreads nothing."""
    return replace(look, blur=_POINT_PX, wave=look.spread_sq / _POINT_PX)


def fitted_blades(rims: Sequence[Rim], blur_px: float) -> Blades | None:
    """The opening's blades as the rims show them; None where it looks round or cannot be told.

    ``blur_px``: the opening's diameter. Rims must be wider than that.
    """
    left = [(rest, rim) for rim in rims if (rest := _left_over(rim)) is not None]
    if blur_px < LEAST_BLUR_PX or len(left) < _FEWEST:
        return None
    seen = [_through_speck(*one, pupil(blur_px).shape[0]) for one in left]
    found = {
        n: _agreed([_match(n, *one, blur_px) for one in zip(seen, left, strict=True)])
        for n in _COUNTS
    }
    best = min(_COUNTS, key=lambda n: found[n].chance)
    straight, turn = abs(found[best].mean), math.degrees(np.angle(found[best].mean)) / best
    if found[best].chance > _MOST_CHANCE or not _STRAIGHT[0] < straight < _STRAIGHT[1]:
        return None
    return Blades(best, float(round(turn)), min(1.0, round(straight, 1)))


@dataclass(frozen=True)
class _Agreed:
    """What specks say together of a count: how straight its sides are and how turned, as one
    complex number, and the probability that specks before a round opening say as much by chance.
    """

    mean: complex
    chance: float


def _agreed(likenesses: Sequence[tuple[complex, float]]) -> _Agreed:
    """Their likeness and its information together. A speck's own outline is an error like noise,
    and shows by how they differ; so none counts for much more than the middle one.
    """
    energy = np.array([e for _, e in likenesses])
    each = np.array([z for z, _ in likenesses]) / energy
    weight = energy / (1 + energy / np.median(energy))
    weight /= weight.sum()
    mean = complex((weight * each).sum())
    others = 1 / float(np.square(weight).sum()) - 1
    spread = float((np.square(weight) * np.square(np.abs(each - mean))).sum()) * (1 + 1 / others)
    return _Agreed(mean, (1 + abs(mean) ** 2 / max(spread, 1e-12) / others) ** -others)


@dataclass(frozen=True)
class _Rest:
    """Share of the light left over, and the weight of each pixel."""

    share: Plane
    weight: Plane


def _left_over(rim: Rim) -> _Rest | None:
    """What is left of a rim without its ground and its round shadow, as that lies best: a little
    stronger, wider or beside its place.
    """
    if float(rim.usable.mean()) < _LEAST_SHOWN:
        return None
    through, light, usable = 1 - rim.loss.ravel(), rim.light.ravel(), rim.usable.ravel()
    terms = np.concatenate([_ground(rim.light.shape) * through, _leeway(rim.loss) * light.mean()])
    rest, spread, unlike = light, 1.0, _UNLIKE * float(rim.loss.max())
    weight: NDArray[Any] = np.asarray(usable, np.float32)
    for _ in range(_ROUNDS):
        weighted = terms * weight
        model = np.linalg.lstsq(weighted @ terms.T, weighted @ light, rcond=None)[0]
        ground = model[:_GROUND] @ terms[:_GROUND] / through
        rest = (light - model @ terms) / np.maximum(ground, _DARKEST)
        spread = math.hypot(1.4826 * float(np.median(np.abs(rest))), _LEAST_SPREAD, unlike)
        weight = usable * (_FREEDOM + 1) / (_FREEDOM + np.square(rest / spread))
    shape = rim.light.shape
    return _Rest(
        np.asarray(rest.reshape(shape), np.float32),
        np.asarray((weight / spread**2).reshape(shape), np.float32),
    )


@lru_cache(maxsize=64)
def _ground(shape: tuple[int, ...]) -> Plane:
    y, x = np.indices(shape, np.float32) / (shape[0] / 2) - 1
    terms = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y])
    return np.asarray(terms.reshape(_GROUND, -1), np.float32)


def _leeway(loss: Plane) -> Plane:
    """What a shadow takes more where it is stronger, lies farther on either axis, or is wider."""
    down, across = np.gradient(loss)
    y, x = np.indices(loss.shape, np.float32) - loss.shape[0] // 2
    terms = np.stack([loss, across, down, x * across + y * down])
    return np.asarray(terms.reshape(len(terms), -1), np.float32)


def _through_speck(rest: _Rest, rim: Rim, side: int) -> Plane:
    """How well a point of light at each place of the opening would explain what is left over."""
    seen: Any = cv2.filter2D(
        -rest.share * rest.weight, -1, rim.sharp, borderType=cv2.BORDER_CONSTANT
    )
    return _middle(seen, side)


def _match(
    count: int, seen: Plane, one: tuple[_Rest, Rim], blur_px: float
) -> tuple[complex, float]:
    """Likeness to an opening of so many sides, as it is turned, and that of one with itself."""
    even, odd = (_sides(count, turn, blur_px) for turn in (0.0, 90 / count))
    rest, rim = one
    shown = cv2.filter2D(_as_wide(even, rim.sharp), -1, rim.sharp)
    energy = float((np.square(shown) * _as_wide_weight(rest.weight, shown.shape[0])).sum())
    return complex(float((seen * even).sum()), float((seen * odd).sum())), max(energy, 1e-9)


def _sides(count: int, turn_deg: float, blur_px: float) -> Plane:
    """What so many sides alone add to an opening and take from it: turned by half a side, they do
    the contrary, and how sharp a rim is or how wide the opening does not matter.
    """
    one, other = (
        pupil(blur_px, Blades(count, turn)) for turn in (turn_deg, turn_deg + 180 / count)
    )
    return np.asarray((one - other) / 2, np.float32)


def _middle(plane: NDArray[np.floating], side: int) -> Plane:
    edge = (plane.shape[0] - side) // 2
    return np.asarray(plane[edge : edge + side, edge : edge + side], np.float32)


def _as_wide(plane: Plane, sharp: Plane) -> Plane:
    return np.asarray(np.pad(plane, sharp.shape[0] // 2), np.float32)


def _as_wide_weight(weight: Plane, side: int) -> Plane:
    room = max(0, (side - weight.shape[0] + 1) // 2)
    return _middle(np.pad(weight, room), side)
