"""From the pixels of a stored picture to micrometres and millimetres on its sensor."""

from __future__ import annotations

Size = tuple[float, float]


def oriented_sensor(sensor_mm: Size, width_px: int, height_px: int) -> Size:
    """Sensor size in mm as (width, height), its long side along the stored array's long side."""
    long, short = max(sensor_mm), min(sensor_mm)
    return (long, short) if width_px >= height_px else (short, long)


def pitch_um(sensor_mm: Size, width_px: int) -> float:
    """Pixel pitch in micrometres: the oriented sensor's width over the stored pixels."""
    return sensor_mm[0] * 1000.0 / width_px


def from_centre_mm(at_px: float, size_px: int, pitch: float) -> float:
    """A place along one axis in mm from the sensor's centre; ``pitch`` in micrometres."""
    return round((at_px - (size_px - 1) / 2) * pitch / 1000.0, 4)
