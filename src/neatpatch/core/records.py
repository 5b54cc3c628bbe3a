"""The records that leave the core: the same models the command line and the web API return."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Kind = Literal["speck", "fibre", "droplet", "residue", "soft"]
Site = Literal["sensor", "lens", "scene", "unsure"]
Level = Literal["ok", "note", "retake"]
CheckCode = Literal[
    "aperture_too_wide",
    "aperture_unknown",
    "too_bright",
    "too_dark",
    "grainy",
    "uneven",
    "target_in_focus",
    "wide_lens",
    "processed",
    "compressed",
    "sensor_size_unknown",
    "too_few_pixels",
]
FluidKind = Literal["mild", "oil_dissolving", "fast_drying", "alcohol_free", "pure_water"]
Zone = Literal[
    "top left", "top", "top right", "left", "centre", "right",
    "bottom left", "bottom", "bottom right",
]  # fmt: skip


class Record(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class FrameRecord(Record):
    """Facts of one frame. Lengths in the unit their name ends with; None where unknown."""

    path: str
    sha256: str
    format: str
    width_px: int
    height_px: int
    orientation: int = Field(ge=1, le=8)
    f_number: float | None
    iso: int | None
    exposure_s: float | None
    focal_length_mm: float | None
    camera: str | None
    taken_at: str | None
    pitch_um: float | None
    sensor_mm: tuple[float, float] | None = None
    notes: tuple[str, ...] = ()


class Check(Record):
    """One test of a frame's fitness, with what was measured, the limit, and a remedy."""

    code: CheckCode
    level: Level
    measured: float | None
    limit: float | None
    message: str
    remedy: str


class Optics(Record):
    """Stack height above the photosites and the blur diameter it gives at this frame's aperture.

    ``softness_px``: standard deviation of lens and pixel blur.
    """

    height_mm: float | None
    height_source: Literal["fitted", "given", "assumed"]
    blur_um: float | None
    blur_px: float | None = None
    softness_px: float | None = None


class Spot(Record):
    """One physical thing. Pixels are of the stored array, millimetres from the sensor's centre."""

    id: str
    x_px: float
    y_px: float
    x_mm: float | None
    y_mm: float | None
    zone: Zone
    kind: Kind
    site: Site
    snr: float
    depth: float
    outer_px: float
    outer_um: float | None
    length_um: float | None
    particle_um: float | None
    height_mm: float | None
    shows_from_f: float | None
    seen_in: int = 1
    angle_deg: float | None = None
    width_px: float | None = None
    particle_px: float = 0.0
    blur_px: float | None = None


class Summary(Record):
    """Counts over the sensor spots; ``covered_ppm`` is the share of the frame they shade."""

    count: int
    relevant: int
    by_kind: dict[Kind, int]
    covered_ppm: float


class SpotMap(Record):
    """What lies on the sensor, measured from one frame or a series."""

    schema_: Literal["neatpatch.map/1"] = Field("neatpatch.map/1", alias="schema")
    frames: tuple[FrameRecord, ...]
    fit: bool
    checks: tuple[Check, ...]
    optics: Optics
    spots: tuple[Spot, ...]
    summary: Summary

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )
