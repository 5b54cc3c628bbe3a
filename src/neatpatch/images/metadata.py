"""What a file tells about how the frame was taken, from its EXIF tags."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

_SENSOR_UNITS_MM: dict[float, float] = {2: 25.4, 3: 10.0, 4: 1.0, 5: 0.001}
_FIRST_YEAR = 1980
"""No digital camera is older; a clock that was never set says 1970 or less."""
_LARGEST_APEX = 16.0
_POSSIBLE: dict[str, tuple[float, float, str]] = {
    "f_number": (0.5, 256, "aperture"),
    "iso": (1, 10_000_000, "ISO"),
    "exposure_s": (1e-7, 1e6, "exposure time"),
    "focal_length_mm": (0.5, 20_000, "focal length"),
    "focal_length_35mm": (1, 20_000, "focal length"),
}
"""Least and largest values that a camera or a telescope can be set to, with room on both sides."""


def number(value: Any) -> float | None:
    """A finite, positive number out of an EXIF value, or None."""
    try:
        if isinstance(value, (tuple, list)):
            value = value[0]
        result = float(value)
    except (TypeError, ValueError, ZeroDivisionError, IndexError, OverflowError):
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


def serial_number(*given: Any) -> str:
    """The first serial number of the body that a file tells; empty where it tells none."""
    found = (text(str(g) if isinstance(g, int) else g) or "" for g in given)
    return next((f[:80] for f in found if f.strip("0 ")), "")


def camera_name(make: Any, model: Any) -> str | None:
    """Maker and model in one line, the maker not said twice."""
    maker, name = text(make), text(model)
    if maker and name and name.lower().startswith(maker.lower()):
        return name
    return " ".join(p for p in (maker, name) if p) or None


def iso_time(value: Any) -> str | None:
    """``2026:09:14 10:00:00`` as ``2026-09-14T10:00:00``; None when it is no such moment."""
    raw = text(value)
    if not raw or len(raw) < 19:
        return None
    try:
        moment = datetime.fromisoformat(f"{raw[:10].replace(':', '-')}T{raw[11:19]}")
    except ValueError:
        return None
    return moment.isoformat() if moment.year >= _FIRST_YEAR else None


@dataclass(frozen=True, kw_only=True)
class Exposure:
    """How a frame was exposed, as a file tells it in raw values; ``aperture_value`` is APEX."""

    f_number: Any = None
    aperture_value: Any = None
    iso: Any = None
    exposure_s: Any = None
    focal_length_mm: Any = None
    focal_length_35mm: Any = None


def exposure_facts(exposure: Exposure) -> tuple[dict[str, Any], tuple[str, ...]]:
    """Fields of `FrameFacts` out of what a file tells, and a note on what cannot be true in it.

    A value that no camera writes is left out: trouble in a file's notes never costs the picture.
    """
    given = {
        "f_number": number(exposure.f_number),
        "iso": number(exposure.iso),
        "exposure_s": number(exposure.exposure_s),
        "focal_length_mm": number(exposure.focal_length_mm),
        "focal_length_35mm": number(exposure.focal_length_35mm),
    }
    apex = number(exposure.aperture_value)
    if given["f_number"] is None and apex is not None:
        given["f_number"] = round(2 ** (apex / 2), 1) if apex <= _LARGEST_APEX else math.inf
    facts: dict[str, Any] = {}
    impossible = []
    for name, value in given.items():
        low, high, words = _POSSIBLE[name]
        true = value is not None and low <= value <= high
        facts[name] = value if true else None
        if value is not None and not true:
            impossible.append(words)
    facts["iso"] = int(facts["iso"]) if facts["iso"] else None
    if not impossible:
        return facts, ()
    return facts, (f"the file tells an impossible {' and '.join(impossible)}, which was left out",)


def facts_from_tags(
    tags: Mapping[int, Any], exif: Mapping[int, Any]
) -> tuple[dict[str, Any], tuple[str, ...]]:
    """Fields of `FrameFacts` from the main image's tags and its EXIF directory, and notes."""

    def tag(key: int) -> Any:
        return exif.get(key, tags.get(key))

    found, notes = exposure_facts(
        Exposure(
            f_number=tag(33437),
            aperture_value=tag(37378),
            iso=tag(34855),
            exposure_s=tag(33434),
            focal_length_mm=tag(37386),
            focal_length_35mm=tag(41989),
        )
    )
    orientation = number(tags.get(274))
    return {
        **found,
        "camera": camera_name(tags.get(271), tags.get(272)),
        "serial": serial_number(tag(42033), tag(50735)),
        "taken_at": iso_time(tag(36867)) or iso_time(tags.get(306)),
        "orientation": int(orientation) if orientation and 1 <= orientation <= 8 else 1,
        "software": text(tags.get(305)),
    }, notes


def sensor_from_tags(
    exif: Mapping[int, Any], width_px: int, height_px: int
) -> tuple[float, float] | None:
    """Sensor size in mm from the focal-plane resolution, where the file gives it.

    Only trusted when the picture still has the size the camera wrote (EXIF pixel dimensions).
    """
    unit = _SENSOR_UNITS_MM.get(number(exif.get(41488)) or 0)
    across, down = number(exif.get(41486)), number(exif.get(41487))
    stored = number(exif.get(40962)), number(exif.get(40963))
    if unit is None or across is None or down is None:
        return None
    if None not in stored and stored != (width_px, height_px):
        return None
    size = (width_px * unit / across, height_px * unit / down)
    return size if 3 < size[0] < 120 and 3 < size[1] < 120 else None
