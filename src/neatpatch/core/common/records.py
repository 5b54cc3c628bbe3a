"""The records that leave the core: the same models the command line and the web API return."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from datetime import date
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import (
    AllowInfNan,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    Strict,
    WithJsonSchema,
    model_validator,
)

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
    "top left",
    "top",
    "top right",
    "left",
    "centre",
    "right",
    "bottom left",
    "bottom",
    "bottom right",
]


Number = Annotated[float, Strict(), AllowInfNan(False)]
"""A finite number as it was given: never made out of true, false or text."""
Whole = Annotated[int, Strict()]
Flag = Annotated[bool, Strict()]
RowId = Annotated[int, Strict(), Field(ge=1, le=2**53 - 1)]
"""The number of something kept; a page's script can hold it exactly."""
_MOST_EXACT = 2**53
"""Beyond it a floating-point number stands for several whole ones."""
_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")
_FIRST_YEAR, _LAST_YEAR = 1900, 2200


def _day(value: Any) -> date:
    if isinstance(value, str) and _DAY.fullmatch(value):
        try:
            value = date.fromisoformat(value)
        except ValueError:
            raise ValueError("there is no such day; give year-month-day") from None
    if type(value) is not date:
        raise ValueError("give a day as year-month-day, like 2026-05-31")
    if not _FIRST_YEAR <= value.year <= _LAST_YEAR:
        raise ValueError(f"give a year from {_FIRST_YEAR} to {_LAST_YEAR}")
    return value


Day = Annotated[
    date,
    BeforeValidator(_day),
    WithJsonSchema(
        {"type": "string", "format": "date", "pattern": r"^(19\d\d|2(0\d\d|1\d\d|200))-\d\d-\d\d$"}
    ),
]
"""A day of the calendar, given as ``2026-05-31``."""


class Record(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Given(Record):
    """A record that comes from outside; what cannot be kept or shown is taken out of its texts.

    JSON knows one kind of number: 9.0 is as whole as 9.
    """

    @model_validator(mode="before")
    @classmethod
    def _texts_can_be_kept(cls, value: Any) -> Any:
        if isinstance(value, dict):
            return {name: _kept(given) for name, given in value.items()}
        return value


def _kept(value: Any) -> Any:
    if isinstance(value, str):
        return plain_text(value)
    if type(value) is float:
        return int(value) if value.is_integer() and abs(value) < _MOST_EXACT else value
    if isinstance(value, list | tuple) and any(isinstance(v, str | float) for v in value):
        return type(value)(_kept(v) for v in value)
    if isinstance(value, dict) and all(isinstance(v, float | int) for v in value.values()):
        return {name: _kept(number) for name, number in value.items()}
    return value


def plain_text(text: str) -> str:
    """A text without control characters (line breaks and tabs stay) and half characters."""
    if text.isprintable():
        return text
    return "".join(c for c in text if c in "\n\r\t" or unicodedata.category(c) not in ("Cc", "Cs"))


class FrameRecord(Record):
    """Facts of one frame. Lengths in the unit their name ends with; None where unknown."""

    path: str
    sha256: str
    format: str
    width_px: int = Field(ge=1, le=1_000_000)
    height_px: int = Field(ge=1, le=1_000_000)
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
    """One physical thing. Pixels are of the stored array, millimetres from the sensor's centre.

    ``course_px``: points along the middle of a fibre or smear from end to end, from its place.
    ``inside_filter``: too sharp for the outer glass, so on a surface between the filter's layers;
    nothing that touches the outside reaches it.
    """

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
    course_px: tuple[tuple[float, float], ...] | None = None
    particle_px: float = 0.0
    blur_px: float | None = None
    inside_filter: bool = False


def on_outer_glass(spots: Iterable[Spot]) -> list[Spot]:
    """Spots that a tool can reach: on the sensor's outer glass, or not told from it."""
    return [s for s in spots if s.site in ("sensor", "unsure") and not s.inside_filter]


class Summary(Record):
    """Counts over the sensor spots; ``covered_ppm`` is the share of the frame they shade.

    ``relevant`` is None where it cannot be worked out: the frame has no aperture recorded.
    """

    count: int
    relevant: int | None
    by_kind: dict[Kind, int]
    covered_ppm: float


class SpotMap(Record):
    """What lies on the sensor, measured from one frame or a series.

    ``moved``: whether the camera moved between all frames of a series, which alone proves a place;
    None for one frame, and where it cannot be measured.
    """

    schema_: Literal["neatpatch.map/1"] = Field("neatpatch.map/1", alias="schema")
    frames: tuple[FrameRecord, ...]
    fit: bool
    checks: tuple[Check, ...]
    optics: Optics
    spots: tuple[Spot, ...]
    summary: Summary
    moved: bool | None = None

    @cached_property
    def showing(self) -> tuple[tuple[float, Spot], ...]:
        """Spots that are, or may be, on the sensor, each with the aperture it shows from."""
        return tuple(
            (f, s)
            for s in self.spots
            if (f := s.shows_from_f) is not None and s.site in ("sensor", "unsure")
        )

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )
