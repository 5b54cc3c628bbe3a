"""Which camera a frame is of: by its sensor's own pattern, then by what its file says."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from neatpatch.core.common.records import FrameRecord, Record, SpotMap
from neatpatch.core.visit.body import Body

Known = Literal["sensor", "serial", "name", "visit"]
USUAL_FORMATS_MM: tuple[tuple[float, float], ...] = (
    (53.4, 40.0),
    (43.8, 32.9),
    (36.0, 24.0),
    (23.5, 15.6),
    (22.3, 14.9),
    (17.3, 13.0),
    (13.2, 8.8),
    (6.2, 4.6),
)
_FULL_FRAME_DIAGONAL_MM = 43.267
_SAME_SHAPE = 0.03
_SAME_FACTOR = 0.06


class Clues(Record):
    """What a file tells of its camera beside the name: its serial number, and the focal length
    that would give the same view at 36 × 24 mm.
    """

    serial: str = ""
    equivalent_mm: float | None = None


@dataclass(frozen=True)
class Candidate:
    """A body that a frame may be of; ``same``: what the sensor's pattern says, None untold.

    ``waits``: it has an open visit.
    """

    body_id: int
    body: Body
    same: bool | None = None
    waits: bool = False


@dataclass(frozen=True)
class Recognised:
    """The body a frame is of, and by what it is known."""

    body_id: int
    by: Known


def recognise(
    candidates: Sequence[Candidate], record: FrameRecord, clues: Clues
) -> Recognised | None:
    """The one body that a frame is of; None where none is, or more than one may be.

    The sensor's own pattern comes first and is never overruled. A serial number is taken where
    the names do not contradict it. A name alone is taken where one body only has it and neither
    its serial number nor the shape of its sensor speaks against it. Last comes the one body with
    an open visit whose name in files is not known yet.
    """
    serial = clues.serial
    for c in candidates:
        if c.same:
            return Recognised(c.body_id, "sensor")
    possible = [c for c in candidates if c.same is None]
    named = [
        c
        for c in possible
        if plain_name(c.body.camera_name or "") == plain_name(record.camera or "")
    ]
    if serial:
        own = [
            c for c in possible if c.body.serial and plain_name(c.body.serial) == plain_name(serial)
        ]
        own = [c for c in own if c in named or not (c.body.camera_name and record.camera)]
        if len(own) == 1:
            return Recognised(own[0].body_id, "serial")
    fitting = [c for c in named if record.camera and not _other_serial(c.body, serial)]
    alike = [c for c in fitting if same_shape(c.body, record)]
    if len(alike) == 1:
        return Recognised(alike[0].body_id, "name")
    new = [c for c in possible if c.waits and not c.body.camera_name]
    new = [c for c in new if same_shape(c.body, record) and not _other_serial(c.body, serial)]
    return Recognised(new[0].body_id, "visit") if len(new) == 1 and not fitting else None


def plain_name(text: str) -> str:
    """A camera's name or serial number as it is compared: letters and figures alone."""
    return "".join(ch for ch in text.casefold() if ch.isalnum())


def _other_serial(body: Body, serial: str) -> bool:
    return bool(serial and body.serial) and plain_name(body.serial) != plain_name(serial)


def same_shape(body: Body, record: FrameRecord) -> bool:
    """Whether a frame has the proportions of a body's sensor."""
    return (
        abs(_shape(record.width_px, record.height_px) / _shape(*body.sensor_mm) - 1) < _SAME_SHAPE
    )


def _shape(a: float, b: float) -> float:
    return max(a, b) / min(a, b)


def guessed_sensor_mm(record: FrameRecord, clues: Clues) -> tuple[float, float] | None:
    """The usual format that a frame's sensor seems to have; None where its file gives no clue.

    From the size noted in the file; else from the focal length beside its 35 mm equivalent, whose
    ratio is that of the diagonals.
    """
    if record.sensor_mm is not None:
        wide = max(record.sensor_mm)
        return next((f for f in USUAL_FORMATS_MM if abs(f[0] / wide - 1) < 0.02), record.sensor_mm)
    if not record.focal_length_mm or not clues.equivalent_mm:
        return None
    factor = clues.equivalent_mm / record.focal_length_mm
    own = _shape(record.width_px, record.height_px)
    alike = [f for f in USUAL_FORMATS_MM if abs(_shape(*f) / own - 1) < _SAME_SHAPE]
    near = min(alike, key=lambda f: abs(_factor(f) / factor - 1), default=None)
    return near if near and abs(_factor(near) / factor - 1) < _SAME_FACTOR else None


def _factor(size_mm: tuple[float, float]) -> float:
    return _FULL_FRAME_DIAGONAL_MM / math.hypot(*size_mm)


def size_doubt(body: Body, maps: Sequence[SpotMap]) -> str:
    """Why the sensor size entered for a body cannot be right, by its own frames; else empty."""
    shapes = {round(_shape(m.frames[0].width_px, m.frames[0].height_px), 2) for m in maps}
    entered = _shape(*body.sensor_mm)
    if not shapes or any(abs(s / entered - 1) < _SAME_SHAPE for s in shapes):
        return ""
    width, height = body.sensor_mm
    return (
        f"The size entered, {width:g} × {height:g} mm, is {entered:.2f} times as long as high, but "
        f"its frames are {min(shapes):.2f} times. Check the sensor's size: lengths depend on it."
    )
