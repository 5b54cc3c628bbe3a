"""A map that was written elsewhere: what its fields imply, filled in.

The fields of the contract tell everything once the pixel pitch is known: millimetres from pixels,
the blur from height and aperture (``b = h / N``), the particle in pixels from micrometres. Without
a pitch the blur follows from the specks themselves: a width of ``d + b`` and a depth of ``(d/b)^2``
give ``b = width / (1 + sqrt(depth))`` (geometrical shadow, see `core.common.optics`), the root
times the raggedness there, as widths are measured.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from statistics import median
from typing import Any

from neatpatch.core.common import optics
from neatpatch.core.common.records import FrameRecord, Optics, Spot, SpotMap
from neatpatch.core.common.scale import from_centre_mm, oriented_sensor, pitch_um
from neatpatch.core.common.zones import zone_of

_PLAIN_DEPTH = 0.8
"""Up to this depth a speck is surely narrower than its blur."""


def import_map(given: Mapping[str, Any], sensor_mm: tuple[float, float] | None = None) -> SpotMap:
    """A map from parsed JSON: further fields are left aside, missing working values filled in.

    ``sensor_mm``: for a map that knows no sizes. Raises pydantic's `ValidationError` for what is
    no map. A complete map comes back as it is, but for zones in other words.
    """
    spot_map = SpotMap.model_validate(_with_zones(given), extra="ignore")
    if not spot_map.frames:
        return spot_map
    frame = _sized(spot_map.frames[0], sensor_mm)
    optics_ = _optics(spot_map.optics, frame, spot_map.spots)
    return spot_map.model_copy(
        update={
            "frames": (frame, *spot_map.frames[1:]),
            "optics": optics_,
            "spots": tuple(_spot(s, frame, optics_) for s in spot_map.spots),
        }
    )


def _with_zones(given: Mapping[str, Any]) -> Mapping[str, Any]:
    """The map with its spots' zones in our words, whatever theirs are."""
    try:
        frame = given["frames"][0]
        width, height = frame["width_px"], frame["height_px"]
        spots = [
            {**s, "zone": zone_of(s["x_px"], s["y_px"], width, height)} for s in given["spots"]
        ]
    except (KeyError, IndexError, TypeError, ValueError, ZeroDivisionError):
        return given
    return {**given, "spots": spots}


def _sized(frame: FrameRecord, sensor_mm: tuple[float, float] | None) -> FrameRecord:
    """The frame with pitch and sensor size, each from the other; upright frames have it upright."""
    sides = frame.sensor_mm or sensor_mm
    pitch = frame.pitch_um
    if pitch is not None:
        known = frame.width_px * pitch / 1000, frame.height_px * pitch / 1000
        return frame if frame.sensor_mm else frame.model_copy(update={"sensor_mm": known})
    if sides is None:
        return frame
    sensor = oriented_sensor(sides, frame.width_px, frame.height_px)
    pitch = round(pitch_um(sensor, frame.width_px), 4)
    return frame.model_copy(update={"sensor_mm": sensor, "pitch_um": pitch})


def _optics(known: Optics, frame: FrameRecord, spots: tuple[Spot, ...]) -> Optics:
    if known.blur_px is not None:
        return known
    wide = known.blur_um
    if wide is None and known.height_mm is not None and frame.f_number:
        wide = optics.blur_um(known.height_mm, frame.f_number)
    if wide is not None and frame.pitch_um:
        blur = wide / frame.pitch_um
    else:
        plain = [s for s in spots if s.kind == "speck" and 0 < s.depth < _PLAIN_DEPTH]
        if not plain:
            return known
        blur = median(s.outer_px / (1 + optics.RAGGED * math.sqrt(s.depth)) for s in plain)
    return known.model_copy(update={"blur_px": round(blur, 3), "blur_um": wide})


def _spot(s: Spot, frame: FrameRecord, optics_: Optics) -> Spot:
    blur = s.blur_px or _own_blur_px(s, frame, optics_)
    particle = s.particle_px or _particle_px(s, frame, blur)
    changes: dict[str, object] = {
        "blur_px": blur,
        "particle_px": particle,
        "width_px": s.width_px or _across_px(s, particle, blur),
    }
    if frame.pitch_um is not None:
        if s.x_mm is None or s.y_mm is None:
            changes["x_mm"] = from_centre_mm(s.x_px, frame.width_px, frame.pitch_um)
            changes["y_mm"] = from_centre_mm(s.y_px, frame.height_px, frame.pitch_um)
        if s.outer_um is None:
            changes["outer_um"] = round(s.outer_px * frame.pitch_um, 2)
    return s.model_copy(update=changes)


def _own_blur_px(s: Spot, frame: FrameRecord, optics_: Optics) -> float | None:
    if s.kind == "soft" and s.height_mm and frame.f_number and frame.pitch_um:
        return round(optics.blur_um(s.height_mm, frame.f_number) / frame.pitch_um, 3)
    return optics_.blur_px


def _particle_px(s: Spot, frame: FrameRecord, blur: float | None) -> float:
    """From micrometres, else from the depth, else from the width alone."""
    if s.particle_um is not None and frame.pitch_um:
        return round(s.particle_um / frame.pitch_um, 4)
    share = math.sqrt(max(s.depth, 0.0))
    if s.kind == "fibre":
        return round(math.pi / 4 * s.depth * (blur or s.outer_px), 4)
    return round(share * (blur or s.outer_px / (1 + share)), 4)


def _across_px(s: Spot, particle: float, blur: float | None) -> float | None:
    """Width of a thread, or of a smear, across its length, from what it takes of the light."""
    if s.kind == "fibre":
        return round(math.hypot(0.87 * (blur or 0.0), particle), 1)
    if s.kind != "residue":
        return None
    length = max(s.outer_px - (blur or 0.0), 1.0)
    across = math.pi / 4 * particle**2 / (max(s.depth, 1e-3) * length)
    return round(max(across, 0.87 * (blur or 0.0)), 1)
