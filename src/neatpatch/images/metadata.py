"""What a file tells about how the frame was taken, from its EXIF tags."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

_SENSOR_UNITS_MM = {2: 25.4, 3: 10.0, 4: 1.0, 5: 0.001}


def number(value: Any) -> float | None:
    """A finite, positive number out of an EXIF value, or None."""
    try:
        if isinstance(value, (tuple, list)):
            value = value[0]
        result = float(value)
    except (TypeError, ValueError, ZeroDivisionError, IndexError):
        return None
    return result if math.isfinite(result) and result > 0 else None


def text(value: Any) -> str | None:
    """Clean text out of an EXIF value, or None if nothing is left."""
    if isinstance(value, bytes):
        value = value.decode("utf-8", "replace")
    if not isinstance(value, str):
        return None
    cleaned = "".join(c for c in value if c.isprintable()).strip()
    return cleaned[:120] or None


def camera_name(make: Any, model: Any) -> str | None:
    """Maker and model in one line, the maker not said twice."""
    maker, name = text(make), text(model)
    if maker and name and name.lower().startswith(maker.lower()):
        return name
    return " ".join(p for p in (maker, name) if p) or None


def iso_time(value: Any) -> str | None:
    """``2026:09:14 10:00:00`` as ``2026-09-14T10:00:00``; None when it is not a time."""
    raw = text(value)
    if not raw or len(raw) < 19 or not raw[:4].isdigit():
        return None
    return f"{raw[:10].replace(':', '-')}T{raw[11:19]}"


def facts_from_tags(tags: Mapping[int, Any], exif: Mapping[int, Any]) -> dict[str, Any]:
    """Fields of `FrameFacts` from the main image's tags and its EXIF directory."""

    def tag(key: int) -> Any:
        return exif.get(key, tags.get(key))

    f_number = number(tag(33437))
    aperture_value = number(tag(37378))
    if f_number is None and aperture_value is not None:
        f_number = round(2 ** (aperture_value / 2), 1)
    iso = number(tag(34855))
    orientation = number(tags.get(274))
    return {
        "f_number": f_number,
        "iso": int(iso) if iso else None,
        "exposure_s": number(tag(33434)),
        "focal_length_mm": number(tag(37386)),
        "focal_length_35mm": number(tag(41989)),
        "camera": camera_name(tags.get(271), tags.get(272)),
        "taken_at": iso_time(tag(36867)) or iso_time(tags.get(306)),
        "orientation": int(orientation) if orientation and 1 <= orientation <= 8 else 1,
        "software": text(tags.get(305)),
    }


def sensor_from_tags(
    exif: Mapping[int, Any], width_px: int, height_px: int
) -> tuple[float, float] | None:
    """Sensor size in mm from the focal-plane resolution, where the file gives it.

    Only trusted when the picture still has the size the camera wrote (EXIF pixel dimensions).
    """
    unit = _SENSOR_UNITS_MM.get(int(number(exif.get(41488)) or 0))
    across, down = number(exif.get(41486)), number(exif.get(41487))
    stored = number(exif.get(40962)), number(exif.get(40963))
    if unit is None or across is None or down is None:
        return None
    if None not in stored and stored != (width_px, height_px):
        return None
    size = (width_px * unit / across, height_px * unit / down)
    return size if 3 < size[0] < 120 and 3 < size[1] < 120 else None
