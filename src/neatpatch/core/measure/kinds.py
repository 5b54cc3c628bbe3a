"""What a shadow is: told by shape, solidity and the softness of its edge against the blur.

Every rule compares with what the shadow model predicts at this frame's blur, so that it holds at
any aperture, pixel pitch and stack height. See docs/method.md for each limit.
"""

from __future__ import annotations

import math

from neatpatch.core.common.records import Kind, Site
from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.spread import too_spread
from neatpatch.core.measure.stack_height import BlurFit, soft_px

_LONG = 2.2
"""Lower takes rough specks for fibres, higher takes short fibres for specks (bench: kinds)."""
_LONG_FILL = 0.4
"""Curled fibres fill less of their disc, rough specks more (bench: kinds)."""
_THREAD_WIDTH = 1.25
"""A thread is as wide as the blur; wider long things are smears."""
_RING_HOLLOW = 0.6
"""A droplet's middle is brighter than its ring. More takes noisy specks for droplets."""
_SOFT_EDGE = 2.4
"""In blurs: an edge softer than twice its own blur is not on the sensor; less accuses specks."""
_UNSURE_EDGE = 1.5
"""Between this and the soft edge the place is unsure; below it is the sensor's."""
_WIDE_CORE = 2.6
"""In blurs: narrower things have no edge to judge by."""
_SOLID = 0.45
"""A solid thing wider than the blur takes most of the light; a smear takes less."""
_FILM_DEPTH = 0.12
"""Films of fluid take 2 to 6 % of the light, twice that where two lie on each other; more is no
film."""
_FILM_OF_DEPTH, _FILM_WIDTH = 0.055, 3.0
"""Films and smears take 2 to 5.5 % of the light over many blurs; droplets and their rims more."""
_TELLING_SNR = 20.0
"""Below, edges are too noisy to tell by; higher leaves faint lens dust untold."""
_SURELY_WIDE = 1.5
"""Times the blur: a thing with a wider core is larger than the blur, so its solidity shows."""
_LONG_AT_BORDER = 4.0
"""A disc cut by the border looks longer than it is."""


def kind_of(m: RegionMeasures, blur: BlurFit) -> Kind:
    """Kind of one measured region.

    What stops much light has an edge as wide as the blur; only thin films fade gently.
    """
    if m.is_thread:
        return "fibre"
    if m.depth > _FILM_DEPTH and is_soft_edged(m, blur):
        return "soft"
    if is_long(m, blur):
        return _long_kind(m, blur)
    if is_soft_edged(m, blur):
        return "soft"
    if m.depth < _FILM_OF_DEPTH and m.core_px > _FILM_WIDTH * blur.blur_px:
        return "residue"
    if m.hollow < _RING_HOLLOW and m.core_px > 1.05 * blur.blur_px:
        return "droplet"
    if m.snr > _TELLING_SNR and too_spread(m, blur.blur_px, soft_px(blur)):
        return "droplet"
    if m.core_px > _SURELY_WIDE * blur.blur_px and opacity(m, blur) < _SOLID:
        return "droplet" if m.fill > 0.55 else "residue"
    return "speck"


def is_soft_edged(m: RegionMeasures, blur: BlurFit) -> bool:
    """Whether a thing wide enough to have an edge has a softer one than the blur h / N makes."""
    return m.core_px > _WIDE_CORE * blur.blur_px and m.edge_px > edge_limit_px(blur, _SOFT_EDGE)


def edge_limit_px(blur: BlurFit, times: float) -> float:
    """Edge widths beyond this are too soft for the sensor's own height."""
    return times * math.hypot(blur.blur_px, 2.5 * soft_px(blur))


def is_long(m: RegionMeasures, blur: BlurFit) -> bool:
    """Whether the shadow is much longer than wide, bent or not."""
    width = model_width_px(blur)
    if m.elongation > (_LONG_AT_BORDER if m.at_border else _LONG) and m.extent_px > 1.8 * width:
        return True
    return not m.at_border and m.fill < _LONG_FILL and m.extent_px > 3 * width


def _long_kind(m: RegionMeasures, blur: BlurFit) -> Kind:
    """A thread is no wider than the blur makes it, or as dark as its width says; smears are not."""
    width = model_width_px(blur)
    if m.fwhm_px < _THREAD_WIDTH * width:
        per_length = m.loss_px2 / max(m.length_px, 1.0)
        expected = 4 * per_length / (math.pi * math.hypot(blur.blur_px, soft_px(blur)))
        return "fibre" if m.depth > 0.6 * min(expected, 1.0) and m.depth > 0.02 else "residue"
    solid = m.loss_px2 / max(m.length_px * m.fwhm_px, 1.0)
    return "fibre" if solid > 0.5 else "residue"


def model_width_px(blur: BlurFit) -> float:
    """Full width at half loss of a thin thread's shadow: 0.87 of the disc, plus softness."""
    return math.hypot(0.87 * blur.blur_px, 2.355 * soft_px(blur))


def opacity(m: RegionMeasures, blur: BlurFit) -> float:
    """Share of light stopped inside the shadow's own half-depth outline (1 for a solid thing)."""
    silhouette = max(m.extent_px - 0.35 * blur.blur_px, 1.0)
    return m.loss_px2 / (math.pi / 4 * silhouette**2)


def site_of(m: RegionMeasures, kind: Kind, blur: BlurFit) -> Site:
    """Where it lies, as far as one frame can tell. Series and comparisons know better."""
    if kind == "soft":
        return "lens"
    if kind in ("droplet", "fibre", "residue"):
        return "sensor"
    if m.core_px > 1.8 * blur.blur_px and m.edge_px > edge_limit_px(blur, _UNSURE_EDGE):
        return "unsure"
    return "sensor"
