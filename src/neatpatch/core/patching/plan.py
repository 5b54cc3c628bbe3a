"""What to take out of one picture: each shadow's place, shape and strength, or why it is left.

Nothing is painted over where light is left: a shadow that lets a share of the light through is
divided out. A shadow that does not show, that the picture contradicts, or whose place or strength
is so unsure that dividing would not better the picture, is left and named.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common import optics
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.filters import Mask
from neatpatch.core.common.frame import Image
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.maps.alignment import Alignment
from neatpatch.core.maps.placement import Placement
from neatpatch.core.patching.strength import Expected, Strength, misfit, strength_of
from neatpatch.core.pictures.evidence import evidence_of, log_light, shadow_steps
from neatpatch.core.pictures.laying import Caster, Laid, cut_out, lay, placements, unlaid
from neatpatch.core.pictures.silhouettes import Look, half_width, placed, shadow_of

Plane = NDArray[np.float32]

WORKING_BLUR_PX = 5.0
"""The pupil's projection is some such pixels wide where places and strengths are fitted."""
_SOFTNESS_PX = 0.8
_SEEN_DEPTH = 0.004
"""Shadows paler than this are below a step of 8-bit tones, and are left."""
_PREDICTION = {"speck": 0.08, "fibre": 0.15, "droplet": 0.25, "residue": 0.2, "soft": 0.3}
"""Spread of the predicted strengths, measured with `make bench`."""
_WIDENINGS = tuple(round(0.7 * 1.06**k, 4) for k in range(13))
_WIDENING, _WIDENING_SURE = 0.25, 0.06
"""How much the blur usually differs from the foretold one (logarithm), the stack's height assumed
and fitted."""
_AS_FORETOLD = 6
"""The widening nearest to none, from which the likeliest is walked to: most are near it."""
_TELL_BLUR, _MOST_MISFIT = 10, 1e4
"""Specks asked, and the most one may say."""
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
class Mend:
    """One shadow to divide out: ``loss`` (0 to 1) with its upper left pixel in the picture."""

    id: str
    left: int
    top: int
    loss: Plane


@dataclass(frozen=True)
class _Fit:
    """One shadow as fitted: its place in working pixels; ``gone``: the picture denies it."""

    spot: Spot
    at: tuple[float, float]
    fit: Strength
    widen: float
    gone: bool = False


@dataclass(frozen=True)
class LeftAlone:
    """A spot not touched, and why."""

    id: str
    why: str


@dataclass(frozen=True, kw_only=True)
class PatchPlan:
    """All that will be done to one picture. ``alignment`` is in the picture's own pixels."""

    mends: tuple[Mend, ...]
    left: tuple[LeftAlone, ...]
    alignment: Alignment


@dataclass(frozen=True, kw_only=True)
class Subject:
    """A picture as the plan sees it: linear light in working pixels of ``step`` pixels each.

    ``shape``: height and width of the picture itself.
    """

    light: Image
    step: int
    shape: tuple[int, int]
    f_number: float


def working_step(spot_map: SpotMap, picture_shape: tuple[int, int], f_number: float) -> int:
    """How many pixels of a picture make a working pixel: 1 where shadows are small."""
    wide = max(spot_map.frames[0].width_px, spot_map.frames[0].height_px)
    look = _look(spot_map, f_number, max(picture_shape) / wide)
    return max(1, int(look.blur / WORKING_BLUR_PX))


def patchable(spot_map: SpotMap) -> tuple[Spot, ...]:
    """The spots of a map that lie on the sensor, or may."""
    return tuple(s for s in spot_map.spots if s.site in ("sensor", "unsure"))


def check_map(spot_map: SpotMap) -> None:
    """Refuse a map that cannot tell how its spots look elsewhere, with `BadArgumentError`."""
    if spot_map.frames[0].f_number is None or not spot_map.optics.blur_px:
        raise BadArgumentError(
            "The map's own aperture is unknown, so its shadows cannot be worked out for other "
            "pictures. Use a map of a frame whose file tells its aperture."
        )


def ways_to_lie(spot_map: SpotMap, subject: Subject) -> tuple[Placement, ...]:
    """Placements of the map on a whole picture, in working pixels."""
    frame = spot_map.frames[0]
    shape = (frame.height_px, frame.width_px)
    return tuple(on_working(p, subject) for p in placements(shape, subject.shape))


def on_working(placement: Placement, subject: Subject) -> Placement:
    """A placement on the picture as one on its working pixels."""
    small = subject.light.shape
    x, y = placement.shift_px
    return replace(
        placement,
        there=(small[0], small[1]),
        zoom=placement.zoom / subject.step,
        shift_px=(x / subject.step, y / subject.step),
    )


def lay_on(
    spot_map: SpotMap,
    subject: Subject,
    tries: Sequence[Placement],
    usual: Alignment | None = None,
) -> Laid:
    """How the map lies on the picture, in working pixels.

    Where hardly a shadow should show by itself, all must speak clearly together: in a night sky the
    dark between stars passes for faint ones.
    """
    casters = _casters(spot_map, subject, tries[0].zoom)
    laid = lay(evidence_of(subject.light), casters, tries, usual)
    told = laid.should >= _FEWEST_AGREE or laid.said >= _SAID_BY_FAINT
    return laid if told else unlaid(tries[0], usual)


def seek_cut_out(spot_map: SpotMap, subject: Subject) -> Placement | None:
    """Where a picture was cut out of the whole, not resized, told by its shadows.

    In working pixels; None where chance may have laid it.
    """
    frame = spot_map.frames[0]
    zoom = 1.0 / subject.step
    casters = _casters(spot_map, subject, zoom)
    shape = frame.height_px, frame.width_px
    evidence = evidence_of(subject.light)
    place = cut_out(evidence, casters, shape, zoom)
    if place is None:
        return None
    laid = lay(evidence, casters, (place,))
    agreed = laid.found >= _FEWEST_AGREE and laid.found >= _SHARE_AGREES * laid.should
    return place if agreed else None


def _casters(spot_map: SpotMap, subject: Subject, zoom: float) -> list[Caster]:
    casters = []
    for spot in patchable(spot_map):
        loss = _shadow(spot, *_looks(spot, spot_map, subject, zoom))
        if loss is not None:
            casters.append(Caster(place=(spot.x_px, spot.y_px), shape=shadow_steps(loss)))
    return casters


def plan_patch(
    spot_map: SpotMap, subject: Subject, laid: Laid, veto: frozenset[str] = frozenset()
) -> PatchPlan:
    """Decide for every spot of the map; ``laid`` comes from `lay_on`, ``veto`` from the owner."""
    tone, usable = log_light(subject.light)
    tone = tone.copy()
    widen = _fitted_widening(spot_map, subject, laid, (tone, usable))
    fitted: list[_Fit] = []
    left: list[LeftAlone] = []
    for spot in sorted(patchable(spot_map), key=lambda s: -s.depth * s.outer_px):
        place = laid.alignment.apply(np.array([[spot.x_px, spot.y_px]]))[0]
        at = float(place[0]), float(place[1])
        own, there = _looks(spot, spot_map, subject, laid.alignment.placement.zoom, widen)
        loss = _shadow(spot, own, there)
        if loss is None or spot.id in veto or not _inside(at, tone.shape):
            why = NOT_SEEN if loss is None else VETOED if spot.id in veto else OUTSIDE
            left.append(LeftAlone(spot.id, why))
            continue
        loss = np.ascontiguousarray(np.rot90(loss, laid.alignment.placement.turn))
        far = float(np.hypot(*(place - laid.alignment.placement.pole)))
        expected = Expected(
            strength=_PREDICTION[spot.kind],
            place_px=float(np.hypot(laid.spread_px, laid.spread_share * far)),
        )
        fit = strength_of(tone, usable, at, loss, expected)
        why = _why_left(fit, loss, spot)
        if fit is None or why:
            left.append(LeftAlone(spot.id, why or DARK))
            if fit is not None and why == NOT_THERE:
                fitted.append(_Fit(spot, at, fit, widen, gone=True))
            continue
        exact = at[0] + fit.dx, at[1] + fit.dy
        _take_out(tone, exact, np.clip(loss * fit.strength, 0, 0.98))
        fitted.append(_Fit(spot, exact, fit, widen))
    unsure = _not_believed(fitted)
    left += [LeftAlone(f.spot.id, NOT_THERE) for f in unsure]
    kept = [f for f in fitted if not f.gone and f not in unsure]
    order = {s.id: i for i, s in enumerate(spot_map.spots)}
    mends = [_mend(spot_map, subject, laid, f) for f in kept]
    return PatchPlan(
        mends=tuple(sorted(mends, key=lambda m: order[m.id])),
        left=tuple(sorted(left, key=lambda n: order[n.id])),
        alignment=in_picture(laid.alignment, subject),
    )


def _not_believed(fitted: Sequence[_Fit]) -> list[_Fit]:
    """Shadows that only the map speaks for, in a picture that denies most others it could show."""
    telling = [f for f in fitted if f.fit.own_spread < _TELLS]
    gone = sum(f.gone for f in telling)
    if len(telling) < _FEW or gone < _MOST_GONE * len(telling):
        return []
    return [f for f in fitted if not f.gone and f.fit.own - f.fit.own_spread < _GONE]


def in_picture(alignment: Alignment, subject: Subject) -> Alignment:
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


def _look(spot_map: SpotMap, f_number: float, zoom: float) -> Look:
    frame = spot_map.frames[0]
    assert frame.f_number is not None
    assert spot_map.optics.blur_px is not None
    pitch = frame.pitch_um
    return Look(
        blur=spot_map.optics.blur_px * frame.f_number / f_number * zoom,
        softness=max((spot_map.optics.softness_px or _SOFTNESS_PX) * zoom, 0.4),
        airy=optics.airy_um(f_number) / pitch * zoom if pitch else 0.0,
        zoom=zoom,
    )


def _looks(
    spot: Spot, spot_map: SpotMap, subject: Subject, zoom: float, widen: float = 1.0
) -> tuple[Look, Look]:
    """How the map's frame sees a spot, and how the picture does in pixels of ``zoom``.

    ``widen``: what the stack's height must be multiplied by, as the picture shows it.
    """
    own_f = spot_map.frames[0].f_number
    assert own_f is not None
    own, there = _look(spot_map, own_f, 1.0), _look(spot_map, subject.f_number, zoom)
    if spot.blur_px and spot_map.optics.blur_px:
        ratio = spot.blur_px / spot_map.optics.blur_px
        own, there = replace(own, blur=own.blur * ratio), replace(there, blur=there.blur * ratio)
    return replace(own, blur=own.blur * widen), replace(there, blur=there.blur * widen)


def _fitted_widening(
    spot_map: SpotMap, subject: Subject, laid: Laid, shown: tuple[Plane, Mask]
) -> float:
    """By how much the blur differs from the foretold one, from the clearest specks; 1 without any.

    The height of the stack may have been assumed, and a lens's engraved aperture be off.
    """
    sure = spot_map.optics.height_source != "assumed"
    usual = _WIDENING_SURE if sure else _WIDENING
    specks = [s for s in patchable(spot_map) if s.kind == "speck"]
    specks.sort(key=lambda s: -s.depth * s.outer_px)
    chosen = specks[:_TELL_BLUR]
    if not chosen:
        return 1.0
    expected = Expected(strength=_PREDICTION["speck"], place_px=max(laid.spread_px, 0.5))
    zoom = laid.alignment.placement.zoom

    @lru_cache
    def cost(number: int) -> float:
        widen = _WIDENINGS[number]
        total = float((np.log(widen) / usual) ** 2)
        for spot in chosen:
            place = laid.alignment.apply(np.array([[spot.x_px, spot.y_px]]))[0]
            own, there = _looks(spot, spot_map, subject, zoom, widen)
            # The same window for all, so that the figures can be compared.
            widest = _looks(spot, spot_map, subject, zoom, _WIDENINGS[-1])[1]
            loss = _in_window(shadow_of(spot, own, there), half_width(spot, widest))
            found = misfit(*shown, (float(place[0]), float(place[1])), loss, expected)
            total += min(found, _MOST_MISFIT) if found is not None else 0.0
        return total

    best, last = -1, len(_WIDENINGS) - 1
    nearer = _AS_FORETOLD
    while nearer != best:
        best = nearer
        nearer = min((best, max(best - 1, 0), min(best + 1, last)), key=cost)
    return _WIDENINGS[best]


def _in_window(loss: Plane, half: int) -> Plane:
    """A shadow in a larger square."""
    room = half - loss.shape[0] // 2
    return np.asarray(np.pad(loss, room), np.float32) if room > 0 else loss


def _shadow(spot: Spot, own: Look, there: Look) -> Plane | None:
    """A spot's predicted loss; None where it would not show at all."""
    if spot.kind == "speck" and optics.central_depth(spot.particle_px * there.zoom, there.blur) < (
        0.5 * _SEEN_DEPTH
    ):
        return None
    loss = shadow_of(spot, own, there)
    return loss if float(loss.max()) >= _SEEN_DEPTH else None


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


def _take_out(tone: Plane, at: tuple[float, float], loss: Plane) -> None:
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


def _mend(spot_map: SpotMap, subject: Subject, laid: Laid, fit: _Fit) -> Mend:
    """The shadow in the picture's own pixels."""
    spot, step, at, strength = fit.spot, subject.step, fit.at, fit.fit.strength
    zoom = laid.alignment.placement.zoom * step
    own, there = _looks(spot, spot_map, subject, zoom, fit.widen)
    loss = shadow_of(spot, own, there, laid.alignment.placement.turn) * np.float32(strength)
    half = half_width(spot, there)
    full = tuple((v + 0.5) * step - 0.5 for v in at)
    x, y = round(full[0]), round(full[1])
    loss = placed(np.clip(loss, 0, 1), full[0] - x, full[1] - y)
    loss[loss < _SEEN_DEPTH / 2] = 0
    return Mend(id=spot.id, left=x - half, top=y - half, loss=loss)
