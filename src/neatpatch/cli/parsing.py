"""Values given on the command line, checked where they come in."""

from __future__ import annotations

import json as jsonlib
import re
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from neatpatch.core.common.errors import BadArgumentError, UnusableFrameError
from neatpatch.core.common.frame import Frame
from neatpatch.core.common.loss_field import LossField
from neatpatch.core.common.records import SpotMap
from neatpatch.core.measure.map_building import MapOptions, measure_map
from neatpatch.images.read import read_frame

_SIZE = re.compile(r"^\s*(\d+(?:\.\d+)?)\s*[xX×]\s*(\d+(?:\.\d+)?)\s*(?:mm)?\s*$")
_SENSOR_RANGE_MM = (3.0, 120.0)


def sensor_size(text: str | None) -> tuple[float, float] | None:
    """``23.5x15.6`` as (width, height) in millimetres; None stays None."""
    if text is None:
        return None
    return size_of("--sensor", text, *_SENSOR_RANGE_MM)


def size_of(name: str, text: str, low_mm: float, high_mm: float) -> tuple[float, float]:
    """``8x6`` as (width, height) in millimetres, each within the range."""
    match = _SIZE.match(text)
    if not match:
        raise BadArgumentError(
            f"{name} {text!r} is not a size. Give width x height in millimetres, like 23.5x15.6."
        )
    size = float(match[1]), float(match[2])
    if not all(low_mm <= side <= high_mm for side in size):
        raise BadArgumentError(
            f"{name} {text!r} is outside {low_mm:g} to {high_mm:g} mm a side. "
            "Give width x height in millimetres, like 23.5x15.6."
        )
    return size


def within(name: str, value: float | None, low: float, high: float, unit: str) -> float | None:
    """The value itself if it lies in the range; a clear error if not; None stays None."""
    if value is not None and not low <= value <= high:
        raise BadArgumentError(
            f"{name} {value:g} is outside {low:g} to {high:g} {unit}. Check the number."
        )
    return value


def read_map(path: Path, sensor_mm: tuple[float, float] | None = None) -> SpotMap:
    """A spot map from a JSON file, completed by the sensor's size, or a clear error."""
    from neatpatch.core.maps.map_import import import_map

    given = read_json(path)
    try:
        spot_map = import_map(given if isinstance(given, dict) else {}, sensor_mm)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadArgumentError(
            f"{path}: this is not a spot map ({where}: {first['msg'].lower()}). "
            "Write one with 'neatpatch map FRAME --json'."
        ) from error
    if not spot_map.frames:
        raise BadArgumentError(f"{path}: the map names no frame. Make it anew from its frame.")
    return spot_map


def read_json(path: Path) -> object:
    """What a JSON file holds; errors name the file."""
    if not path.is_file():
        raise BadArgumentError(f"{path}: there is no such file. Check the name.")
    try:
        return jsonlib.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise BadArgumentError(f"{path}: this is not JSON ({error}). Check the file.") from error


def read_frame_named(path: Path) -> Frame:
    """A frame; an error names the file."""
    try:
        return read_frame(path)
    except UnusableFrameError as error:
        raise UnusableFrameError(f"{path}: {error}") from error


@dataclass(frozen=True)
class GivenMap:
    """A map from a file; the frame it was measured from, and its loss, where a frame was given."""

    spot_map: SpotMap
    frame: Frame | None = None
    field: LossField | None = None


def as_map(path: Path, sensor_mm: tuple[float, float] | None) -> GivenMap:
    """A map from a map's JSON file, or measured from a frame."""
    if path.suffix.lower() == ".json":
        return GivenMap(read_map(path, sensor_mm))
    frame = read_frame_named(path)
    measured = measure_map(frame, MapOptions(sensor_mm=sensor_mm))
    return GivenMap(measured.spot_map, frame, measured.field)
