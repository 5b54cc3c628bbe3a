"""Marks found in everyday pictures as a map, for those who never shot a test frame."""

from __future__ import annotations

import math

from neatpatch.core.arrivals.records import Arrivals
from neatpatch.core.common.optics import ASSUMED_HEIGHT_MM, blur_um
from neatpatch.core.common.records import FrameRecord, Optics, Spot, SpotMap, Summary
from neatpatch.core.common.zones import zone_of

_USUAL_WIDTH_MM = 28.0


def marks_as_map(found: Arrivals) -> SpotMap:
    """A spot map of all the marks; a picture that denies one is left alone there.

    All are taken for specks on the sensor whose particles follow from depth and blur. Without the
    sensor's size, one between the common formats is assumed.
    """
    width_mm = max(found.sensor_mm) if found.sensor_mm else _USUAL_WIDTH_MM
    pitch = width_mm * 1000 / max(found.width_px, found.height_px, 1)
    f_number = found.f_number or 16.0
    blur_px = blur_um(ASSUMED_HEIGHT_MM, f_number) / pitch
    spots = tuple(
        Spot(
            id=s.id,
            x_px=s.x_px,
            y_px=s.y_px,
            x_mm=None,
            y_mm=None,
            zone=zone_of(s.x_px, s.y_px, max(found.width_px, 1), max(found.height_px, 1)),
            kind="speck",
            site="sensor",
            snr=20.0,
            depth=s.depth,
            outer_px=s.outer_px,
            outer_um=None,
            length_um=None,
            particle_um=None,
            height_mm=None,
            shows_from_f=None,
            particle_px=blur_px * math.sqrt(min(s.depth, 1.0)),
        )
        for s in found.spots
    )
    frame = FrameRecord(
        path="",
        sha256="",
        format="",
        width_px=max(found.width_px, 1),
        height_px=max(found.height_px, 1),
        orientation=1,
        f_number=f_number,
        iso=None,
        exposure_s=None,
        focal_length_mm=None,
        camera=found.camera,
        taken_at=None,
        pitch_um=pitch,
        sensor_mm=found.sensor_mm,
    )
    return SpotMap(
        frames=(frame,),
        fit=True,
        checks=(),
        optics=Optics(
            height_mm=ASSUMED_HEIGHT_MM,
            height_source="assumed",
            blur_um=blur_um(ASSUMED_HEIGHT_MM, f_number),
            blur_px=blur_px,
        ),
        spots=spots,
        summary=Summary(
            count=len(spots), relevant=len(spots), by_kind={"speck": len(spots)}, covered_ppm=0.0
        ),
    )
