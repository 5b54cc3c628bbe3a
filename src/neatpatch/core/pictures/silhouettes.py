"""The shadow of a mapped spot as another aperture, size or exit pupil draws it.

A spot's silhouette is drawn from its record and spread by the pupil's projection and the softness
of photosites; behind specks light bends, too. What a map measured stays: the light that an opaque
speck stops does not change with the aperture; the depth of long, pale and ring-shaped things is
held to the depth measured at the map's own aperture. Source: docs/method.md, sections 6 and 9.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import fft

from neatpatch.core.common.diffraction import shadow_spectrum
from neatpatch.core.common.filters import smoothed
from neatpatch.core.common.records import Spot
from neatpatch.core.pictures.pupil import Blades, pupil

Plane = NDArray[np.float32]

_ACROSS_SHARE = 0.87
"""Width across a disc's projection at half its loss, as a share of its diameter."""
_FRINGES = 1.0
"""Of the width over which light spreads: so far beyond its geometry a shadow is drawn."""
_MOST_GIVEN_BACK = -0.5
"""Of the light: no shadow is brighter around it, and a patch takes no more away."""
_RIM_SHOWS = 2.0
"""Widths of the blur that a droplet must have before its rim is drawn."""
_KEPT_HALF_PX = 60
"""Larger shadows are few, and would take more memory than drawing them takes time."""
_LARGEST_HALF_PX = 600


@dataclass(frozen=True, kw_only=True)
class ShadowOptics:
    """How a picture sees the dust. Lengths in the picture's pixels.

    ``blur``: diameter of the pupil's projection ``h / N``. ``softness``: standard deviation of
    lens and photosite. ``wave``: λN, which times the blur says how far
    light spreads behind a particle. ``zoom``: picture pixels to a pixel of the map. ``blades``:
    of the opening, in the map's turn; round where untold.
    """

    blur: float
    softness: float
    wave: float
    zoom: float = 1.0
    blades: Blades | None = None

    @property
    def soft(self) -> float:
        """Standard deviation of all that is not the pupil's projection."""
        return math.hypot(self.softness, 0.29)

    @property
    def spread_sq(self) -> float:
        """Wavelength times height: the square of the width over which light spreads."""
        return self.wave * self.blur


def half_width(spot: Spot, look: ShadowOptics) -> int:
    """Pixels from the middle of a spot's shadow to beyond its border."""
    own = max(spot.outer_px - (spot.blur_px or 0.0), spot.particle_px, 0.0) * look.zoom
    reach = (own + look.blur) / 2 + 2.5 * look.soft + _FRINGES * math.sqrt(look.spread_sq) + 2
    return min(math.ceil(reach), _LARGEST_HALF_PX)


def shadow_of(spot: Spot, own: ShadowOptics, there: ShadowOptics, turn: int = 0) -> Plane:
    """Loss of light (0 to 1) of a spot, square, centred; ``own``: the look of the map's frame.

    ``turn``: quarter turns of the array from the map's frame to the picture. The result is kept for
    other pictures, and cannot be written to.
    """
    half = half_width(spot, there)
    drawn = _kept if half <= _KEPT_HALF_PX else _drawn
    return np.asarray(np.rot90(drawn(spot, own, there, half), turn), np.float32)


def _drawn(spot: Spot, own: ShadowOptics, there: ShadowOptics, half: int) -> Plane:
    if _as_disc(spot, own):
        loss = _behind_disc(half, max(spot.particle_px, 0.2) * there.zoom, there)
    else:
        loss = _spread(_silhouette(spot, own, there.zoom, half), there)
        loss = loss * np.float32(_measured_share(spot, own))
    loss = np.clip(loss, _MOST_GIVEN_BACK, 1)
    loss.flags.writeable = False
    return loss


_kept = lru_cache(maxsize=1024)(_drawn)
"""Pictures of one camera at one aperture see the same shadows: each is drawn once."""


def _as_disc(spot: Spot, own: ShadowOptics) -> bool:
    """Whether the light a spot stops says all that is known of its shape: a droplet hardly wider
    than the blur shows no rim.
    """
    small = spot.outer_px - own.blur < _RIM_SHOWS * own.blur
    return spot.kind == "speck" or (spot.kind == "droplet" and small)


def _measured_share(spot: Spot, own: ShadowOptics) -> float:
    """What the drawn silhouette must be multiplied by to be as deep as measured in the map."""
    drawn = float(_spread(_silhouette(spot, own, 1.0, half_width(spot, own)), own).max())
    return min(spot.depth / drawn, 3.0) if drawn > 1e-6 else 0.0


def _silhouette(spot: Spot, own: ShadowOptics, zoom: float, half: int) -> Plane:
    """The thing itself, in picture pixels, before any blur."""
    bare = max(spot.outer_px - own.blur, 1.0) * zoom
    if spot.kind == "fibre":
        long = max(bare, 2 * spot.particle_px * zoom)
        return _band(half, _course(spot, long, zoom), spot.particle_px * zoom)
    if spot.kind == "residue":
        across = spot.width_px or spot.outer_px / 3
        wide = math.sqrt(max(across**2 - (_ACROSS_SHARE * own.blur) ** 2, (0.3 * across) ** 2))
        return _band(half, _course(spot, bare, zoom), wide * zoom)
    return _ring(half, bare)


def _axes(half: int) -> tuple[Plane, Plane]:
    axis = np.arange(-half, half + 1, dtype=np.float32)
    x, y = np.meshgrid(axis, axis)
    return x, y


def _behind_disc(half: int, diameter: float, look: ShadowOptics) -> Plane:
    """Loss of light behind an opaque disc, light that bends round it included."""
    opening = pupil(look.blur, look.blades)
    middle = opening.shape[0] // 2
    size = fft.next_fast_len(2 * half + 1 + opening.shape[0], real=True)
    down, along = fft.fftfreq(size)[:, None], fft.rfftfreq(size)[None, :]
    k = np.sqrt(down**2 + along**2)
    spectrum = shadow_spectrum(diameter, k.ravel(), look.spread_sq).reshape(k.shape)
    spectrum *= math.pi / 4 * diameter**2 * np.exp(-2 * (math.pi * look.soft * k) ** 2)
    source = np.zeros((size, size))
    source[: opening.shape[0], : opening.shape[1]] = opening
    # The disc's own middle lies at the first cell, the pupil's at its own: so does the shadow's.
    loss = fft.irfft2(spectrum * fft.rfft2(source), (size, size))
    shift = half - middle
    return np.asarray(
        np.roll(loss, (shift, shift), (0, 1))[: 2 * half + 1, : 2 * half + 1], np.float32
    )


def _ring(half: int, diameter: float) -> Plane:
    x, y = _axes(half)
    r = np.hypot(x, y) / max(diameter / 2, 0.5)
    return np.asarray(np.exp(-(((r - 0.8) / 0.15) ** 2)) * (r < 1.2), np.float32)


def _course(spot: Spot, long: float, zoom: float) -> Plane:
    """Points along the middle of a long thing, (n, 2), from its place; straight where untold."""
    if spot.course_px:
        return np.asarray(spot.course_px, np.float32) * np.float32(zoom)
    angle = math.radians(spot.angle_deg or 0.0)
    end = long / 2 * np.array([math.cos(angle), math.sin(angle)])
    return np.asarray([-end, end], np.float32)


def _band(half: int, course: Plane, width: float) -> Plane:
    """A band along a course; thin ones keep their area by being paler."""
    x, y = _axes(half)
    drawn = max(width, 1.0)
    band = np.zeros_like(x)
    for (x0, y0), (x1, y1) in pairwise(course):
        long = max(math.hypot(x1 - x0, y1 - y0), 1e-6)
        ux, uy = (x1 - x0) / long, (y1 - y0) / long
        along = np.abs((x - x0) * ux + (y - y0) * uy - long / 2)
        across = np.abs(-(x - x0) * uy + (y - y0) * ux)
        piece = np.clip((drawn - 2 * across + 1) / 2, 0, 1)
        band = np.maximum(band, piece * np.clip((long - 2 * along + 1) / 2, 0, 1))
    return np.asarray(band * (width / drawn), np.float32)


def _spread(silhouette: Plane, look: ShadowOptics) -> Plane:
    opening = cv2.flip(pupil(look.blur, look.blades), -1)  # the filter is a correlation
    wide = cv2.filter2D(silhouette, -1, opening, borderType=cv2.BORDER_CONSTANT)
    return smoothed(np.asarray(wide, np.float32), look.soft)


def placed(loss: Plane, dx: float, dy: float) -> Plane:
    """A shadow moved by less than a pixel or so, nothing coming in from outside."""
    move = np.array([[1, 0, dx], [0, 1, dy]], np.float32)
    moved = cv2.warpAffine(loss, move, loss.shape[::-1], flags=cv2.INTER_LINEAR)
    return np.asarray(moved, np.float32)
