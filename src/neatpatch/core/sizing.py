"""From a measured shadow to the particle, and to the apertures at which anyone would notice it."""

from __future__ import annotations

import math

from neatpatch.core import optics
from neatpatch.core.measuring import Measured
from neatpatch.core.records import Kind
from neatpatch.core.stack_height import Blur

_RAGGED = 1.1
"""A dust particle's longest extent over the diameter of the disc of its area, typically."""
_THIRD_STOPS = tuple(2 ** (k / 6) for k in range(3, 33))


def particle_px(m: Measured, kind: Kind) -> float:
    """Diameter of the opaque disc that blocks as much light; for fibres their thickness."""
    if kind == "fibre":
        return m.loss_px2 / max(m.length_px, 1.0)
    return math.sqrt(4 / math.pi * m.loss_px2)


def outer_px(m: Measured, kind: Kind, blur: Blur) -> float:
    """Width of the whole shadow, blur included, along its longest extent."""
    if kind in ("fibre", "residue"):
        return m.length_px + blur.blur_px
    if kind == "droplet":
        return ring_px(m, blur) + blur.blur_px
    particle = particle_px(m, kind)
    own = own_blur_px(m, kind, blur)
    if particle < 0.5 * own or m.snr < 30:
        return own + _RAGGED * particle
    spread = blur.softness_px**2 + own**2 / 16
    long, short = (math.sqrt(max(16 * (v - spread), (0.3 * particle) ** 2)) for v in m.variance)
    ratio = min(math.sqrt(long / short), 1.6)
    return own + particle * max(_RAGGED, 1.06 * ratio)


def ring_px(m: Measured, blur: Blur) -> float:
    """Diameter of a droplet from the extent of its rim at 30 % of its depth."""
    inward = 0.25 * blur.blur_px
    return max(m.extent_px - inward, 0.5 * blur.blur_px)


def own_blur_px(m: Measured, kind: Kind, blur: Blur) -> float:
    """Blur of this one shadow: the frame's, except for soft blobs, which lie elsewhere."""
    if kind != "soft":
        return blur.blur_px
    if m.depth > 0.9:
        return max(m.edge_px, blur.blur_px)
    return max(m.core_px if m.fill > 0.6 else m.edge_px, blur.blur_px)


def depth_at(
    m: Measured, kind: Kind, blur: Blur, blur_there: float, softness_there: float
) -> float:
    """Largest share of light lost at another blur (pixels), scaled to what was measured here."""
    own = own_blur_px(m, kind, blur)
    here = _shape_depth(m, kind, own, blur.softness_px, blur)
    there = _shape_depth(m, kind, blur_there * own / blur.blur_px, softness_there, blur)
    if here <= 0:
        return 0.0
    return min(1.0, m.depth * there / here)


def _shape_depth(m: Measured, kind: Kind, own: float, softness: float, blur: Blur) -> float:
    particle = particle_px(m, kind)
    wide = math.hypot(own, 2.5 * softness)
    if kind == "fibre":
        return min(1.0, 4 * particle / (math.pi * wide))
    if kind == "residue":
        across = max(m.fwhm_px**2 - (0.87 * blur.blur_px) ** 2, (0.3 * m.fwhm_px) ** 2)
        return 1.0 / math.hypot(math.sqrt(across), 0.87 * wide)
    if kind == "droplet":
        return _ring_depth(ring_px(m, blur), m.loss_px2, own, softness)
    return optics.predicted_depth(particle, 1.0, own, softness)


def _ring_depth(ring: float, loss: float, own: float, softness: float) -> float:
    """A rim of a fifth of the diameter carries the loss; blurred, it spreads over rim and disc."""
    rim = 0.2 * ring
    across = math.hypot(rim, 0.87 * math.hypot(own, 2.5 * softness))
    as_rim = loss / (math.pi * ring * across)
    as_disc = loss / (math.pi / 4 * (ring**2 + own**2))
    return max(as_rim, as_disc) if across < 0.7 * ring else as_disc * 1.3


def shows_from(
    m: Measured, kind: Kind, blur: Blur, f_number: float | None, pitch_um: float | None,
    sensor_width_mm: float | None,
) -> float | None:  # fmt: skip
    """Smallest f-number, in third stops from f/1.4 to f/40, at which the spot would be noticed.

    Noticed: its depth there reaches `optics.needed_depth` for its outer width there. None when it
    is not noticed at any, or when the frame's own aperture is unknown.
    """
    if f_number is None:
        return None
    pitch = pitch_um or 1.0
    body = outer_px(m, kind, blur) - own_blur_px(m, kind, blur)
    for n in _THIRD_STOPS:
        there = blur.blur_px * f_number / n
        softness = blur.softness_px
        outer_um = (body + own_blur_px(m, kind, blur) * f_number / n) * pitch
        if depth_at(m, kind, blur, there, softness) >= optics.needed_depth(
            outer_um, sensor_width_mm if pitch_um else None
        ):
            return nominal_stop(n)
    return None


_NOMINAL = (
    1.4, 1.6, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.5, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0, 10.0,
    11.0, 13.0, 14.0, 16.0, 18.0, 20.0, 22.0, 25.0, 29.0, 32.0, 36.0, 40.0,
)  # fmt: skip


def nominal_stop(n: float) -> float:
    """The engraved f-number nearest to ``n``."""
    return min(_NOMINAL, key=lambda v: abs(math.log(v / n)))
