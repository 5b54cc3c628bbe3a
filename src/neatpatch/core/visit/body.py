"""A body and the conditions of a visit, as told by people."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, WithJsonSchema, model_validator

from neatpatch.core.common.facts import (
    Access,
    Experience,
    Observed,
    Power,
    Schools,
)
from neatpatch.core.common.records import (
    Day,
    Flag,
    Given,
    Number,
    SpotMap,
    Whole,
)
from neatpatch.core.sensor.registration import Registration

_SIDE = {"type": "number", "minimum": 3, "maximum": 120}
_SENSOR_SCHEMA = {"type": "array", "prefixItems": [_SIDE, _SIDE], "minItems": 2, "maxItems": 2}
_APERTURES_SCHEMA = {
    "type": "array",
    "items": {"type": "number", "minimum": 0.7, "maximum": 64},
    "minItems": 1,
}
"""What the checks below ask of them, for those who read the description."""


class Body(Given):
    """A camera body as its owner describes it; pitch and stack height are learned from frames.

    ``lockup_minutes``: how long a full battery holds the mirror up, by the owner's own note.
    ``chamber_mm``: distance of the chamber's walls across a swab. The lens is the one its test
    frames are shot with. ``no_guarantee``: it is known that none runs; with neither that nor a day
    it is not known. ``modifier_allows``: the answer of whoever took the filter out. The notes are
    the owner's own words for the way through the menus or to the latch.
    """

    name: str = Field(min_length=1, max_length=80)
    camera_name: str | None = Field(default=None, max_length=120)
    access: Access = "mirrorless"
    sensor_mm: Annotated[tuple[Number, Number], WithJsonSchema(_SENSOR_SCHEMA)]
    stabilised: Flag | None = None
    hold_rule: Power | None = None
    hold_note: str = Field(default="", max_length=400)
    self_clean: Flag = False
    closes_when_off: Flag | None = None
    filter_removed: Flag = False
    modifier_allows: Flag | None = None
    serial: str = Field(default="", max_length=80)
    shake_note: str = Field(default="", max_length=400)
    cleaning_note: str = Field(default="", max_length=400)
    latch_note: str = Field(default="", max_length=400)
    no_guarantee: Flag = False
    serviced_on: Day | None = None
    guarantee_until: Day | None = None
    flange_mm: Number | None = Field(default=None, gt=0, le=400)
    works_at: Annotated[tuple[Number, ...], WithJsonSchema(_APERTURES_SCHEMA)] = (8.0, 16.0)
    lockup_note: str = Field(default="", max_length=400)
    lockup_minutes: Number | None = Field(default=None, gt=0, le=600)
    chamber_mm: Number | None = Field(default=None, gt=0, le=300)
    lens_focal_mm: Number | None = Field(default=None, ge=4, le=2000)
    lens_smallest_f: Number | None = Field(default=None, ge=1, le=128)
    pitch_um: Number | None = None
    stack_mm: Number | None = None

    @model_validator(mode="after")
    def _sizes_are_real(self) -> Body:
        if not all(3 <= side <= 120 for side in self.sensor_mm):
            raise ValueError("the sensor's sides must be 3 to 120 mm long")
        if self.chamber_mm is not None and self.chamber_mm < min(self.sensor_mm):
            raise ValueError("the chamber cannot be narrower than the sensor's short side")
        if not self.works_at or not all(0.7 <= n <= 64 for n in self.works_at):
            raise ValueError("give at least one working aperture between f/0.7 and f/64")
        return self

    def under_guarantee(self, on: date) -> bool | None:
        """Whether the warranty runs on a day; None where it is not known."""
        if self.guarantee_until is not None:
            return self.guarantee_until >= on
        return False if self.no_guarantee else None

    def months_since_service(self, on: date) -> float | None:
        """Whole months since it came back from a service; None where no service is known."""
        if self.serviced_on is None:
            return None
        months = (on.year - self.serviced_on.year) * 12 + on.month - self.serviced_on.month
        return float(max(0, months - (on.day < self.serviced_on.day)))

    @property
    def may_float(self) -> bool:
        """A stabilised sensor moves under a tool; one that is not known to be fixed may."""
        return self.stabilised is not False and self.access != "digital_back"

    @property
    def smallest_worked(self) -> float:
        """The smallest opening worked at: what shows there matters."""
        return max(self.works_at)


class VisitConditions(Given):
    """What cannot be known from frames: why now, the room, power, hands, the next job.

    ``shot_at_f``: aperture of test frames whose files do not tell it.
    """

    why_now: str = Field(default="", max_length=400)
    temperature_c: Number | None = Field(default=None, ge=-40, le=60)
    humidity_percent: Number | None = Field(default=None, ge=0, le=100)
    camera_c: Number | None = Field(default=None, ge=-40, le=60)
    moving_air: Flag | None = None
    surface: Literal["bare", "fabric"] | None = None
    room_clean: Flag | None = None
    power: Power | None = None
    battery_percent: Number | None = Field(default=None, ge=0, le=100)
    mains: Flag | None = None
    mirror_up: Flag | None = None
    shot_at_f: Number | None = Field(default=None, ge=1, le=128)
    experience: Experience | None = None
    asks_for: str | None = Field(default=None, max_length=40)
    job_on: Day | None = None
    photos_waiting: Whole | None = Field(default=None, ge=0, le=1_000_000)
    observed: tuple[Observed, ...] = ()
    schools: Schools = Schools()


def mismatches(
    body: Body, spot_map: SpotMap, registration: Registration | None = None
) -> tuple[str, ...]:
    """Why a frame may not be this body's; empty when nothing speaks against it.

    What the sensor's own pattern ``registration`` comes before names and sizes in files.
    """
    frame = spot_map.frames[0]
    reasons = []
    if registration is not None and registration.same:
        return ()
    if registration is not None and registration.same is False:
        reasons.append(
            "It comes from another sensor: the photosites' own pattern is not this body's "
            f"(agreement {registration.strength:.0f}, a match needs {registration.limit:.0f})."
        )
    if body.camera_name and frame.camera and frame.camera != body.camera_name:
        reasons.append(f"The file says {frame.camera}, this camera is {body.camera_name}.")
    shape = max(frame.width_px, frame.height_px) / min(frame.width_px, frame.height_px)
    own = max(body.sensor_mm) / min(body.sensor_mm)
    if abs(shape / own - 1) > 0.03:
        reasons.append(
            f"The picture is {shape:.2f} times as long as high, the sensor {own:.2f} times."
        )
    if body.pitch_um and frame.pitch_um and abs(frame.pitch_um / body.pitch_um - 1) > 0.02:
        reasons.append(
            f"Its pixels would be {frame.pitch_um:.2f} µm wide, those of this body are "
            f"{body.pitch_um:.2f} µm."
        )
    return tuple(reasons)
