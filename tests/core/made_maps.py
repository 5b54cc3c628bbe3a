"""Spot maps made by hand, for what works on maps and not on frames."""

from __future__ import annotations

from typing import Any

from neatpatch.core.common.records import FrameRecord, Optics, Spot, SpotMap
from neatpatch.core.measure.map_building import summarise

WIDTH, HEIGHT = 3000, 2000
SENSOR = (36.0, 24.0)
PITCH_UM = 12.0


def spot(name: str, x: float, y: float, **changes: Any) -> Spot:
    """A plain sharp speck; ``x`` and ``y`` in pixels."""
    known: dict[str, Any] = {
        "id": name,
        "x_px": x,
        "y_px": y,
        "x_mm": (x - (WIDTH - 1) / 2) * PITCH_UM / 1000,
        "y_mm": (y - (HEIGHT - 1) / 2) * PITCH_UM / 1000,
        "zone": "centre",
        "kind": "speck",
        "site": "sensor",
        "snr": 120.0,
        "depth": 0.3,
        "outer_px": 12.0,
        "outer_um": 144.0,
        "length_um": None,
        "particle_um": 60.0,
        "height_mm": 1.5,
        "shows_from_f": 8.0,
        "particle_px": 5.0,
        "blur_px": 6.0,
    }
    return Spot(**{**known, **changes})


def spot_map(*spots: Spot, fit: bool = True, **changes: Any) -> SpotMap:
    """A map of these spots at f/22."""
    known: dict[str, Any] = {
        "path": "frame.jpg",
        "sha256": "0" * 64,
        "format": "JPEG",
        "width_px": WIDTH,
        "height_px": HEIGHT,
        "orientation": 1,
        "f_number": 22.0,
        "iso": 100,
        "exposure_s": 1.0,
        "focal_length_mm": 85.0,
        "camera": "Fennick Judge D",
        "taken_at": None,
        "pitch_um": PITCH_UM,
        "sensor_mm": SENSOR,
    }
    record = FrameRecord(**{**known, **changes})
    return SpotMap(
        frames=(record,),
        fit=fit,
        checks=(),
        optics=Optics(
            height_mm=1.5, height_source="fitted", blur_um=67.56, blur_px=5.63, softness_px=0.8
        ),
        spots=spots,
        summary=summarise(spots, 16.0, record),
    )
