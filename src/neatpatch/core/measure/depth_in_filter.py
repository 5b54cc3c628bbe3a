"""Narrow shadows: photosites that are dead, and dust on a surface inside the filter.

Dust on the glass shares one blur. A shadow hardly wider than a photosite is none. Between the two
lies what sits deeper, between the layers of the filter: its blur is that of its own, smaller
height. Limits are set on frames of dust at 0.45 of the outer height: its shadows are 0.39 to 0.53
blurs wide, those of dust on the glass 0.66 or more, dead photosites up to 0.26.
"""

from __future__ import annotations

import math

import numpy as np

from neatpatch.core.common import optics
from neatpatch.core.measure.loss_within import LossWithin
from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.stack_height import BlurFit

_DEFECT_PX, _DEFECT = 2.2, 0.35
"""Width of a dead photosite after interpolation, and in blurs."""
_NARROW = 0.6
"""In blurs: dust on the glass throws no narrower shadow."""
_SURE_SNR = 12.0
"""Fainter narrow marks are noise as often as dust."""
_SOLID_FILL, _SOLID_MIDDLE = 0.7, 0.7
"""Parts of droplets and of clusters are narrow, too, but no discs."""
_AROUND = 0.75
"""In blurs: so far from its middle another thing's shadow may not begin."""
_MOST_BRIGHT = -0.3
"""Times its depth: light given back around a shadow is a seventh of it at most."""
_TRIED = tuple(0.3 + 0.025 * n for n in range(14))
"""Blurs of an inner surface, as shares of the outer one's."""


def is_pixel_defect(m: RegionMeasures, blur: BlurFit) -> bool:
    """Narrower than any shadow at this blur can be: a dead photosite, not dust."""
    if m.core_px < max(_DEFECT_PX, _DEFECT * blur.blur_px):
        return True
    return m.core_px < _NARROW * blur.blur_px and m.snr < _SURE_SNR


def is_inside_filter(m: RegionMeasures, blur: BlurFit) -> bool:
    """Whether a speck's shadow is too narrow for the outer glass, and is no dead photosite."""
    return (
        blur.source != "assumed"
        and m.core_px < _NARROW * blur.blur_px
        and m.fill > _SOLID_FILL
        and m.hollow > _SOLID_MIDDLE
        and _stands_apart(m, blur)
        and not is_pixel_defect(m, blur)
    )


def _stands_apart(m: RegionMeasures, blur: BlurFit) -> bool:
    """Whether even light was seen all round it. Within a droplet's rim none was, and rings are
    zero; beside a brightening half of another shadow looks narrow.
    """
    near = m.profile[: int(_AROUND * blur.blur_px / m.profile_step_px)]
    return near.size > 0 and bool(np.all((near != 0.0) & (near > _MOST_BRIGHT * m.depth)))


def inner_blur_px(m: RegionMeasures, blur: BlurFit) -> float:
    """Blur in pixels of a speck inside the filter: the one under which its loss makes its depth."""
    radius = math.sqrt(m.area_px / math.pi)

    def off(share: float) -> float:
        own = share * blur.blur_px
        table = LossWithin.of(round(own, 2), blur.softness_px, blur.wave_px)
        particle = table.particle(m.loss_px2, radius)
        depth = optics.predicted_depth(particle, own, blur.softness_px, blur.wave_px)
        return abs(math.log(max(depth, 1e-6) / m.depth))

    return min(_TRIED, key=off) * blur.blur_px
