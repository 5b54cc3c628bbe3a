"""From a measured shadow to the particle and the shadow's outer width.

The integrated loss of an opaque thing is its area whatever the blur, so the particle is the disc of
that area; the outer width adds the blur, as in `core.common.optics`. Limits: docs/method.md.
"""

from __future__ import annotations

import math

from neatpatch.core.common.optics import RAGGED
from neatpatch.core.common.records import Kind
from neatpatch.core.measure.depth_in_filter import inner_blur_px, is_inside_filter
from neatpatch.core.measure.loss_within import LossWithin
from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.stack_height import BlurFit, soft_px


def particle_px(m: RegionMeasures, kind: Kind, blur: BlurFit) -> float:
    """Diameter of the opaque disc that blocks as much light; for fibres their thickness."""
    if kind == "fibre":
        return m.loss_px2 / max(m.length_px, 1.0)
    if kind == "speck":
        own = own_blur_px(m, kind, blur)
        table = LossWithin.of(round(own, 2), blur.softness_px, blur.wave_px)
        return table.particle(m.loss_px2, math.sqrt(m.area_px / math.pi))
    return math.sqrt(4 / math.pi * m.loss_px2)


def outer_px(m: RegionMeasures, kind: Kind, blur: BlurFit) -> float:
    """Width of the whole shadow, blur included, along its longest extent."""
    if kind in ("fibre", "residue"):
        return m.length_px + blur.blur_px
    if kind == "droplet":
        return ring_px(m, blur) + blur.blur_px
    particle = particle_px(m, kind, blur)
    own = own_blur_px(m, kind, blur)
    if particle < 0.5 * own or m.snr < 30:
        return own + RAGGED * particle
    spread = soft_px(blur) ** 2 + own**2 / 16
    long, short = (math.sqrt(max(16 * (v - spread), (0.3 * particle) ** 2)) for v in m.variance)
    ratio = min(math.sqrt(long / short), 1.6)
    return own + particle * max(RAGGED, 1.06 * ratio)


def ring_px(m: RegionMeasures, blur: BlurFit) -> float:
    """Diameter of a droplet from the extent of its rim at 30 % of its depth."""
    inward = 0.25 * blur.blur_px
    return max(m.extent_px - inward, 0.5 * blur.blur_px)


def own_blur_px(m: RegionMeasures, kind: Kind, blur: BlurFit) -> float:
    """Blur of this one shadow: the frame's, except for soft blobs, which lie elsewhere, and
    specks inside the filter.
    """
    if kind == "speck" and is_inside_filter(m, blur):
        return inner_blur_px(m, blur)
    if kind != "soft":
        return blur.blur_px
    if m.depth > 0.9:
        return max(m.edge_px, blur.blur_px)
    return max(m.core_px if m.fill > 0.6 else m.edge_px, blur.blur_px)
