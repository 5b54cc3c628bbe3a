"""The same dust at another aperture: how deep, how wide, and whether anyone would notice.

Source: the shadow of a disc under a pupil's disc, in `core.common.optics`; docs/method.md.
"""

from __future__ import annotations

import math
from typing import Literal

from pydantic import ConfigDict, Field

from neatpatch.core.common import optics
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import FrameRecord, Optics, Record, Spot, SpotMap

LEAST_F, MOST_F = 0.7, 90.0
_SOFTNESS_PX = 0.8
"""Softness of lens and demosaicing where it cannot be fitted; it matters for narrow blurs only."""
_PHOTOSITE_PX = 0.5
"""A shadow at another aperture is no softer than photosites make it; what was fitted here holds
what is ragged, too."""
_SMALL = 0.7
"""In blurs: of smaller specks the light they take says more than the depth of so narrow a peak,
from two stops away on alone."""
_RIM_HOLDS, _RIM_FADES = 1.0, 1.0
"""Doublings of the f-number over which a droplet's measured rim still tells its depth, and over
which the light it takes in all comes to tell it alone."""
_RIM_WIDTH = 0.15
"""Of a droplet's diameter: how wide its rim is, which carries its loss."""
_DEEPER = 2.6
"""Times its geometry: no shadow is deeper by light that bends round a particle."""
_THIRD_STOPS = tuple(2 ** (k / 6) for k in range(3, 33))
_NOMINAL = (
    1.4,
    1.6,
    1.8,
    2.0,
    2.2,
    2.5,
    2.8,
    3.2,
    3.5,
    4.0,
    4.5,
    5.0,
    5.6,
    6.3,
    7.1,
    8.0,
    9.0,
    10.0,
    11.0,
    13.0,
    14.0,
    16.0,
    18.0,
    20.0,
    22.0,
    25.0,
    29.0,
    32.0,
    36.0,
    40.0,
)
"""Apertures as dials name them, in thirds of stops."""


class PredictedSpot(Record):
    """One spot at the other aperture; ``depth`` 0 to 1, ``outer_px`` in the map's pixels."""

    id: str
    depth: float
    outer_px: float
    noticed: bool


class Prediction(Record):
    """A map as it would look at another aperture."""

    schema_: Literal["neatpatch.predict/1"] = Field("neatpatch.predict/1", alias="schema")
    f_number: float
    spots: tuple[PredictedSpot, ...]

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


def predict(spot_map: SpotMap, f_number: float) -> Prediction:
    """Predict every spot of a map at another aperture.

    Raises `BadArgumentError` when the aperture is impossible or the map's own is unknown.
    """
    if not LEAST_F <= f_number <= MOST_F:
        raise BadArgumentError(
            f"f/{f_number:g} is outside f/{LEAST_F:g} to f/{MOST_F:g}. Check the number."
        )
    frame = spot_map.frames[0]
    if frame.f_number is None or spot_map.optics.blur_px is None:
        raise BadArgumentError(
            "The map's own aperture is unknown, so it cannot be worked out for another one. "
            "Use a frame whose file tells its aperture."
        )
    scene = _Scene(frame, spot_map.optics, f_number)
    return Prediction(
        f_number=f_number, spots=tuple(scene.spot(s) for s in spot_map.spots if s.site != "scene")
    )


class _Scene:
    """Blurs of a frame here and at another aperture, in pixels."""

    def __init__(self, frame: FrameRecord, optics_: Optics, f_number: float) -> None:
        assert frame.f_number is not None
        self._ratio = optics.true_stop(frame.f_number) / optics.true_stop(f_number)
        apart = abs(math.log2(self._ratio))
        self._far = min(apart, 1.0)
        self._rim_gone = min(max(apart - _RIM_HOLDS, 0.0) / _RIM_FADES, 1.0)
        self._blur = optics_.blur_px or 1.0
        self._softness = optics_.softness_px or _SOFTNESS_PX
        self._pitch = frame.pitch_um
        self._width_mm = frame.sensor_mm[0] if frame.sensor_mm else None
        pitch = frame.pitch_um
        self._wave_here, self._wave_there = (
            (optics.wave_um(n) / pitch if pitch else 0.0) for n in (frame.f_number, f_number)
        )

    def here(self, spot: Spot) -> float:
        """Relative depth at the frame's own aperture."""
        return _depth(spot, spot.blur_px or self._blur, self._softness, self._wave_here)

    def spot(self, spot: Spot) -> PredictedSpot:
        """Predict one spot."""
        depth, outer = self.shadow(spot, self.here(spot))
        return PredictedSpot(
            id=spot.id,
            depth=round(depth, 6),
            outer_px=round(outer, 2),
            noticed=self.noticed(depth, outer),
        )

    def noticed(self, depth: float, outer_px: float) -> bool:
        """Whether a shadow of this depth and width would be noticed."""
        return is_noticed(depth, outer_px, self._pitch, self._width_mm)

    def may_be_noticed(self, spot: Spot, here: float) -> bool:
        """Told without its profile: a blurred speck is no deeper than its share of the blur."""
        if spot.kind in ("fibre", "residue", "droplet") or here <= 0:
            return True
        blur = (spot.blur_px or self._blur) * self._ratio
        most = optics.central_depth(spot.particle_px, max(blur, spot.particle_px))
        deepest = _DEEPER * most * max(1.0, spot.depth / here)
        return self.noticed(min(1.0, deepest), spot.outer_px + blur)

    def shadow(self, spot: Spot, here: float) -> tuple[float, float]:
        """Depth and outer width (pixels) of one spot; ``here``: its relative depth as shot."""
        own = spot.blur_px or self._blur
        softness = self._softness
        if spot.kind == "speck":
            softness += self._far * (_PHOTOSITE_PX - softness)
        there = _depth(spot, own * self._ratio, softness, self._wave_there)
        depth = min(1.0, self._share(spot, here) * there)
        outer = max(spot.outer_px - own, 0.0) + own * self._ratio
        return depth, outer

    def _share(self, spot: Spot, here: float) -> float:
        """What a relative depth is worth: as deep as this spot was measured, where that tells."""
        if here <= 0:
            return 0.0
        small = spot.particle_px < _SMALL * (spot.blur_px or self._blur)
        telling = 1.0
        if spot.kind == "speck" and small:
            telling = 1 - self._far
        elif spot.kind == "droplet":
            telling = 1 - self._rim_gone
        return float((spot.depth / here) ** telling)


class Stops:
    """A frame's spots at all third stops from f/1.4 to f/40."""

    def __init__(self, optics_: Optics, frame: FrameRecord) -> None:
        known = frame.f_number is not None and optics_.blur_px is not None
        self._own = _Scene(frame, optics_, frame.f_number) if known and frame.f_number else None
        self._scenes = [_Scene(frame, optics_, n) for n in _THIRD_STOPS] if known else []

    def shows_from(self, spot: Spot) -> float | None:
        """Smallest f-number at which a spot would be noticed.

        Whole stops are tried first, then the thirds below the first that shows it.
        None when it is not noticed at any of them, or when the frame's own aperture is unknown.
        """
        if self._own is None:
            return None
        here = self._own.here(spot)

        def noticed(stop: int) -> bool:
            scene = self._scenes[stop]
            return scene.may_be_noticed(spot, here) and scene.noticed(*scene.shadow(spot, here))

        last = len(_THIRD_STOPS)
        whole = next((i for i in range(0, last, 3) if noticed(i)), last)
        found = next((i for i in range(max(0, whole - 2), whole) if noticed(i)), whole)
        return _ENGRAVED[found] if found < last else None


def nominal_stop(n: float) -> float:
    """The engraved f-number nearest to ``n``."""
    return min(_NOMINAL, key=lambda v: abs(math.log(v / n)))


_ENGRAVED = tuple(nominal_stop(n) for n in _THIRD_STOPS)


def is_noticed(
    depth: float, outer_px: float, pitch_um: float | None, sensor_width_mm: float | None
) -> bool:
    """Whether a shadow of this depth and width would be noticed; see `optics.needed_depth`."""
    if pitch_um is None or sensor_width_mm is None:
        return depth >= optics.NOTICED_DEPTH
    return depth >= optics.needed_depth(outer_px * pitch_um, sensor_width_mm)


def _depth(spot: Spot, blur: float, softness: float, wave: float) -> float:
    """Relative depth of a shadow's shape at a blur; only ratios of it are used."""
    wide = math.hypot(blur, 2.5 * softness, wave)
    across = spot.width_px or 1.0
    if spot.kind == "fibre":
        long = max(spot.outer_px - (spot.blur_px or blur), spot.particle_px)
        return min(1.0, 4 * spot.particle_px * min(long, wide) / (math.pi * wide**2))
    if spot.kind == "residue":
        own = spot.blur_px or blur
        bare = math.sqrt(max(across**2 - (0.87 * own) ** 2, (0.3 * across) ** 2))
        return 1.0 / math.hypot(bare, 0.87 * wide)
    if spot.kind == "droplet":
        ring = max(spot.outer_px - (spot.blur_px or blur), 1.0)
        return ring_depth(ring, spot.particle_px, blur, softness)
    return optics.predicted_depth(spot.particle_px, blur, softness, wave)


def ring_depth(ring_px: float, particle_px: float, blur: float, softness: float) -> float:
    """Depth of a droplet's rim, which carries all of its loss, at a blur."""
    loss = math.pi / 4 * particle_px**2
    inner = (1 - 2 * _RIM_WIDTH) * ring_px
    return loss * optics.unit_ring_peak(ring_px, inner, blur, softness)
