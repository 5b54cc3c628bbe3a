"""A picture as patching sees it, and how the map's shadows should look in it.

Which blur a picture shows follows from its aperture and the height of the stack, as the map tells
them; its clearest specks correct both.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common import optics
from neatpatch.core.common.filters import Mask
from neatpatch.core.common.frame import Image
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.patching.strength import Strength, StrengthPrior, misfit
from neatpatch.core.pictures.map_location import MapLocation
from neatpatch.core.pictures.silhouettes import ShadowOptics, half_width, shadow_of

Plane = NDArray[np.float32]

WORKING_BLUR_PX = 5.0
"""The pupil's projection is some such pixels wide where places and strengths are fitted."""
_SOFTNESS_PX = 0.8
SEEN_DEPTH = 0.004
"""Shadows paler than this are below a step of 8-bit tones, and are left."""
PREDICTION = {"speck": 0.08, "fibre": 0.15, "droplet": 0.25, "residue": 0.2, "soft": 0.3}
"""Spread of the predicted strengths, measured with `make bench`."""
_WIDENINGS = tuple(round(0.7 * 1.06**k, 4) for k in range(13))
_WIDENING, _WIDENING_SURE = 0.25, 0.06
"""How much the blur usually differs from the predicted one (logarithm), the stack's height assumed
and fitted."""
_AS_FORETOLD = 6
"""The widening nearest to none, from which the likeliest is walked to: most are near it."""
_TELL_BLUR, _MOST_MISFIT = 10, 1e4
"""Specks asked, and the most one may say."""


@dataclass(frozen=True, kw_only=True)
class Subject:
    """A picture as the plan sees it: linear light in working pixels of ``step`` pixels each.

    ``shape``: height and width of the picture itself. ``close``: its light around a pixel (x, y),
    a square of so many pixels to each side, where each pixel is so many of its own across, and
    where that is in the picture; None where it tells nothing.
    """

    light: Image
    step: int
    shape: tuple[int, int]
    f_number: float
    close: Callable[[tuple[int, int], int, int], tuple[Image, Mask]] | None = None


@dataclass(frozen=True)
class FittedShadow:
    """One shadow as fitted: its place in working pixels; ``gone``: the picture denies it."""

    spot: Spot
    at: tuple[float, float]
    fit: Strength
    widen: float
    gone: bool = False

    def on_pixels(self, finer: float) -> tuple[tuple[int, int], tuple[float, float]]:
        """The nearest of pixels so many times finer, and how far it lies beside that."""
        x, y = ((v + 0.5) * finer - 0.5 for v in self.at)
        return (round(x), round(y)), (x - round(x), y - round(y))


def working_step(spot_map: SpotMap, picture_shape: tuple[int, int], f_number: float) -> int:
    """How many pixels of a picture make a working pixel: 1 where shadows are small."""
    wide = max(spot_map.frames[0].width_px, spot_map.frames[0].height_px)
    look = usual_optics(spot_map, f_number, max(picture_shape) / wide)
    return max(1, int(look.blur / WORKING_BLUR_PX))


def patchable(spot_map: SpotMap) -> tuple[Spot, ...]:
    """The spots of a map that lie on the sensor, or may."""
    return tuple(s for s in spot_map.spots if s.site in ("sensor", "unsure"))


def usual_optics(spot_map: SpotMap, f_number: float, zoom: float) -> ShadowOptics:
    frame = spot_map.frames[0]
    assert frame.f_number is not None
    assert spot_map.optics.blur_px is not None
    pitch = frame.pitch_um
    return ShadowOptics(
        blur=spot_map.optics.blur_px
        * optics.true_stop(frame.f_number)
        / optics.true_stop(f_number)
        * zoom,
        softness=max((spot_map.optics.softness_px or _SOFTNESS_PX) * zoom, 0.4),
        wave=optics.wave_um(f_number) / pitch * zoom if pitch else 0.0,
        zoom=zoom,
    )


def optics_of(
    spot: Spot, spot_map: SpotMap, subject: Subject, zoom: float, widen: float = 1.0
) -> tuple[ShadowOptics, ShadowOptics]:
    """How the map's frame sees a spot, and how the picture does in pixels of ``zoom``.

    ``widen``: what the stack's height must be multiplied by, as the picture shows it.
    """
    own_f = spot_map.frames[0].f_number
    assert own_f is not None
    own, there = usual_optics(spot_map, own_f, 1.0), usual_optics(spot_map, subject.f_number, zoom)
    if spot.blur_px and spot_map.optics.blur_px:
        ratio = spot.blur_px / spot_map.optics.blur_px
        own, there = replace(own, blur=own.blur * ratio), replace(there, blur=there.blur * ratio)
    return replace(own, blur=own.blur * widen), replace(there, blur=there.blur * widen)


def fitted_widening(
    spot_map: SpotMap, subject: Subject, location: MapLocation, shown: tuple[Plane, Mask]
) -> float:
    """By how much the blur differs from the predicted one, from the clearest specks; 1 without any.

    The height of the stack may have been assumed, and a lens's engraved aperture be off.
    """
    sure = spot_map.optics.height_source != "assumed"
    usual = _WIDENING_SURE if sure else _WIDENING
    specks = [s for s in patchable(spot_map) if s.kind == "speck"]
    specks.sort(key=lambda s: -s.depth * s.outer_px)
    chosen = specks[:_TELL_BLUR]
    if not chosen:
        return 1.0
    expected = StrengthPrior(strength=PREDICTION["speck"], place_px=max(location.spread_px, 0.5))
    zoom = location.alignment.placement.zoom

    @lru_cache
    def cost(number: int) -> float:
        widen = _WIDENINGS[number]
        total = float((np.log(widen) / usual) ** 2)
        for spot in chosen:
            place = location.alignment.apply(np.array([[spot.x_px, spot.y_px]]))[0]
            own, there = optics_of(spot, spot_map, subject, zoom, widen)
            # The same window for all, so that the figures can be compared.
            widest = optics_of(spot, spot_map, subject, zoom, _WIDENINGS[-1])[1]
            loss = in_window(shadow_of(spot, own, there), half_width(spot, widest))
            found = misfit(*shown, (float(place[0]), float(place[1])), loss, expected)
            total += min(found, _MOST_MISFIT) if found is not None else 0.0
        return total

    best, last = -1, len(_WIDENINGS) - 1
    nearer = _AS_FORETOLD
    while nearer != best:
        best = nearer
        nearer = min((best, max(best - 1, 0), min(best + 1, last)), key=cost)
    return _WIDENINGS[best]


def in_window(loss: Plane, half: int) -> Plane:
    """A shadow in a larger square."""
    room = half - loss.shape[0] // 2
    return np.asarray(np.pad(loss, room), np.float32) if room > 0 else loss


def shown_shadow(spot: Spot, own: ShadowOptics, there: ShadowOptics) -> Plane | None:
    """A spot's predicted loss; None where it would not show at all."""
    if spot.kind == "speck" and optics.central_depth(spot.particle_px * there.zoom, there.blur) < (
        0.5 * SEEN_DEPTH
    ):
        return None
    loss = shadow_of(spot, own, there)
    return loss if float(loss.max()) >= SEEN_DEPTH else None
