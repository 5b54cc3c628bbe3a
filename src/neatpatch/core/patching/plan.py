"""What to take out of one picture: each shadow's place, shape and strength, or why it is left.

Nothing is painted over where light is left: a shadow that lets a share of the light through is
divided out. A shadow that does not show, that the picture contradicts, or whose place or strength
is so unsure that dividing would not better the picture, is left and named.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.patching.aperture import blades_in_picture
from neatpatch.core.patching.fitting import (
    PREDICTION,
    SEEN_DEPTH,
    FittedShadow,
    Subject,
    fitted_widening,
    optics_of,
    patchable,
    shown_shadow,
)
from neatpatch.core.patching.strength import Strength, StrengthPrior, strength_of
from neatpatch.core.pictures.map_location import (
    MapLocation,
    ShadowTemplate,
    locate_crop,
    locate_map,
    placements,
    unlocated,
)
from neatpatch.core.pictures.pupil import Blades
from neatpatch.core.pictures.shadow_evidence import evidence_of, log_light, shadow_steps
from neatpatch.core.pictures.silhouettes import half_width, placed, shadow_of
from neatpatch.core.sensor.placement import Placement

Plane = NDArray[np.float32]

_GONE, _SURE = 0.35, 2.5
"""A shadow is not there when its own strength is below this by so many of its spreads."""
_TELLS, _FEW, _MOST_GONE = 0.3, 4, 0.6
"""A picture tells of a shadow when its spread is below the first; where it denies more than the
last share of those it tells of, the others need its own word."""
_FEWEST_AGREE, _SHARE_AGREES = 3, 0.4
"""Shadows that must show one by one: where they laid a cut-out together, for one dark thing may
match them all at once, and before a few lay the map on a picture."""
_SAID_BY_FAINT = 45.0
"""Log odds that lay it all the same: night skies and gravel reach 34, faint shadows alone 57."""
_LEAST_GAIN = 0.25
"""Share of a shadow's energy that must be expected to go."""

NOT_SEEN = "not visible at this aperture"
OUTSIDE = "outside of this picture"
NOT_THERE = "its shadow is not in this picture"
NO_GAIN = "its place or strength cannot be told here, so dividing might make it worse"
VETOED = "left as you asked"
DARK = "too dark or too bright around it to tell"


@dataclass(frozen=True, kw_only=True)
class ShadowPatch:
    """One shadow to divide out: ``loss`` (0 to 1) with its upper left pixel in the picture."""

    id: str
    left: int
    top: int
    loss: Plane


@dataclass(frozen=True)
class LeftSpotPlan:
    """A spot not touched, and why."""

    id: str
    why: str


@dataclass(frozen=True, kw_only=True)
class PatchPlan:
    """All that will be done to one picture. ``alignment`` is in the picture's own pixels."""

    patches: tuple[ShadowPatch, ...]
    left: tuple[LeftSpotPlan, ...]
    alignment: Alignment


def check_map(spot_map: SpotMap) -> None:
    """Refuse a map that cannot tell how its spots look elsewhere, with `BadArgumentError`."""
    if spot_map.frames[0].f_number is None or not spot_map.optics.blur_px:
        raise BadArgumentError(
            "The map's own aperture is unknown, so its shadows cannot be worked out for other "
            "pictures. Use a map of a frame whose file tells its aperture."
        )


def candidate_placements(spot_map: SpotMap, subject: Subject) -> tuple[Placement, ...]:
    """Placements of the map on a whole picture, in working pixels."""
    frame = spot_map.frames[0]
    shape = (frame.height_px, frame.width_px)
    return tuple(to_working_pixels(p, subject) for p in placements(shape, subject.shape))


def to_working_pixels(placement: Placement, subject: Subject) -> Placement:
    """A placement on the picture as one on its working pixels."""
    small = subject.light.shape
    x, y = placement.shift_px
    return replace(
        placement,
        there=(small[0], small[1]),
        zoom=placement.zoom / subject.step,
        shift_px=(x / subject.step, y / subject.step),
    )


def locate_in_picture(
    spot_map: SpotMap,
    subject: Subject,
    tries: Sequence[Placement],
    usual: Alignment | None = None,
) -> MapLocation:
    """How the map lies on the picture, in working pixels.

    Where hardly a shadow should show by itself, all must speak clearly together: in a night sky the
    dark between stars passes for faint ones.
    """
    templates = _templates(spot_map, subject, tries[0].zoom)
    location = locate_map(evidence_of(subject.light), templates, tries, usual)
    enough = location.expected >= _FEWEST_AGREE or location.log_odds >= _SAID_BY_FAINT
    return location if enough else unlocated(tries[0], usual)


def find_crop(spot_map: SpotMap, subject: Subject) -> Placement | None:
    """Where a picture was cut out of the whole, not resized, told by its shadows.

    In working pixels; None where chance may have laid it.
    """
    frame = spot_map.frames[0]
    zoom = 1.0 / subject.step
    templates = _templates(spot_map, subject, zoom)
    shape = frame.height_px, frame.width_px
    evidence = evidence_of(subject.light)
    place = locate_crop(evidence, templates, shape, zoom)
    if place is None:
        return None
    location = locate_map(evidence, templates, (place,))
    agreed = location.found >= _FEWEST_AGREE and location.found >= _SHARE_AGREES * location.expected
    return place if agreed else None


def _templates(spot_map: SpotMap, subject: Subject, zoom: float) -> list[ShadowTemplate]:
    templates = []
    for spot in patchable(spot_map):
        loss = shown_shadow(spot, *optics_of(spot, spot_map, subject, zoom))
        if loss is not None:
            templates.append(ShadowTemplate(place=(spot.x_px, spot.y_px), shape=shadow_steps(loss)))
    return templates


def plan_patch(
    spot_map: SpotMap, subject: Subject, location: MapLocation, veto: frozenset[str] = frozenset()
) -> PatchPlan:
    """Decide for every spot of the map; ``location`` comes from `locate_in_picture`, ``veto`` from
    the owner.
    """
    tone, usable = log_light(subject.light)
    tone = tone.copy()
    widen = fitted_widening(spot_map, subject, location, (tone, usable))
    fitted: list[FittedShadow] = []
    left: list[LeftSpotPlan] = []
    for spot in sorted(patchable(spot_map), key=lambda s: -s.depth * s.outer_px):
        place = location.alignment.apply(np.array([[spot.x_px, spot.y_px]]))[0]
        at = float(place[0]), float(place[1])
        own, there = optics_of(spot, spot_map, subject, location.alignment.placement.zoom, widen)
        loss = shown_shadow(spot, own, there)
        if loss is None or spot.id in veto or not _inside(at, tone.shape):
            why = NOT_SEEN if loss is None else VETOED if spot.id in veto else OUTSIDE
            left.append(LeftSpotPlan(spot.id, why))
            continue
        loss = np.ascontiguousarray(np.rot90(loss, location.alignment.placement.turn))
        far = float(np.hypot(*(place - location.alignment.placement.pole)))
        expected = StrengthPrior(
            strength=PREDICTION[spot.kind],
            place_px=float(np.hypot(location.spread_px, location.spread_share * far)),
        )
        fit = strength_of(tone, usable, at, loss, expected)
        why = _why_left(fit, loss, spot)
        if fit is None or why:
            left.append(LeftSpotPlan(spot.id, why or DARK))
            if fit is not None and why == NOT_THERE:
                fitted.append(FittedShadow(spot, at, fit, widen, gone=True))
            continue
        exact = at[0] + fit.dx, at[1] + fit.dy
        _add_back(tone, exact, np.clip(loss * fit.strength, 0, 0.98))
        fitted.append(FittedShadow(spot, exact, fit, widen))
    unsure = _denied_by_picture(fitted)
    left += [LeftSpotPlan(f.spot.id, NOT_THERE) for f in unsure]
    kept = [f for f in fitted if not f.gone and f not in unsure]
    order = {s.id: i for i, s in enumerate(spot_map.spots)}
    blades = blades_in_picture(spot_map, subject, location, kept)
    patches = [_patch_of(spot_map, subject, location, f, blades) for f in kept]
    return PatchPlan(
        patches=tuple(sorted(patches, key=lambda m: order[m.id])),
        left=tuple(sorted(left, key=lambda n: order[n.id])),
        alignment=to_picture_pixels(location.alignment, subject),
    )


def _denied_by_picture(fitted: Sequence[FittedShadow]) -> list[FittedShadow]:
    """Shadows that only the map speaks for, in a picture that denies most others it could show."""
    telling = [f for f in fitted if f.fit.own_spread < _TELLS]
    gone = sum(f.gone for f in telling)
    if len(telling) < _FEW or gone < _MOST_GONE * len(telling):
        return []
    return [f for f in fitted if not f.gone and f.fit.own - f.fit.own_spread < _GONE]


def to_picture_pixels(alignment: Alignment, subject: Subject) -> Alignment:
    """An alignment on working pixels as one on the picture's own."""
    step = subject.step
    placement = alignment.placement
    x, y = placement.shift_px
    return replace(
        alignment,
        placement=replace(
            placement,
            there=subject.shape,
            zoom=placement.zoom * step,
            shift_px=(x * step, y * step),
        ),
        shift_px=(alignment.shift_px[0] * step, alignment.shift_px[1] * step),
        residual_px=alignment.residual_px * step,
    )


def _inside(at: tuple[float, float], shape: tuple[int, ...]) -> bool:
    return bool(0 <= at[0] < shape[1] and 0 <= at[1] < shape[0])


def _why_left(fit: Strength | None, loss: Plane, spot: Spot) -> str:
    """Why a shadow must be left; empty where it may be divided out."""
    if fit is None:
        return DARK
    if fit.own + _SURE * fit.own_spread < _GONE:
        return NOT_THERE
    if spot.site == "unsure" and fit.own - fit.own_spread < _GONE:
        return NOT_THERE
    across, down = np.gradient(loss * np.float32(fit.strength))
    moved = float((np.square(across) + np.square(down)).sum()) * fit.place_spread_px**2
    energy = float(np.square(loss).sum())
    wrong = energy * fit.spread**2 + moved
    had = energy * (fit.strength**2 + fit.spread**2)
    return NO_GAIN if wrong > (1 - _LEAST_GAIN) * had else ""


def _add_back(tone: Plane, at: tuple[float, float], loss: Plane) -> None:
    """Give the log light back what a shadow took, so that neighbours are fitted without it."""
    half = loss.shape[0] // 2
    x, y = round(at[0]), round(at[1])
    shape = shadow_steps(placed(loss, at[0] - x, at[1] - y))
    top, left = max(0, y - half), max(0, x - half)
    bottom, right = min(tone.shape[0], y + half + 1), min(tone.shape[1], x + half + 1)
    if top < bottom and left < right:
        tone[top:bottom, left:right] += shape[
            top - y + half : bottom - y + half, left - x + half : right - x + half
        ]


def _patch_of(
    spot_map: SpotMap,
    subject: Subject,
    location: MapLocation,
    fit: FittedShadow,
    blades: Blades | None,
) -> ShadowPatch:
    """The shadow in the picture's own pixels."""
    placement = location.alignment.placement
    own, there = optics_of(fit.spot, spot_map, subject, placement.zoom * subject.step, fit.widen)
    there = replace(there, blades=blades)
    loss = shadow_of(fit.spot, own, there, placement.turn) * np.float32(fit.fit.strength)
    half = half_width(fit.spot, there)
    (x, y), between = fit.on_pixels(subject.step)
    loss = placed(np.clip(loss, 0, 1), *between)
    loss[loss < SEEN_DEPTH / 2] = 0
    return ShadowPatch(id=fit.spot.id, left=x - half, top=y - half, loss=loss)
