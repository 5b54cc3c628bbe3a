"""What is known of a visit. Every field may be missing; unknown ones are refused by name."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic.config import JsonDict

from neatpatch.core.common.records import Day, Flag, Given, Kind, Number, Whole

Access = Literal["mirror", "fixed_mirror", "mirrorless", "fixed_lens", "digital_back"]
Power = Literal["on", "off", "battery_out"]
FrameSite = Literal["sensor", "rear_lens", "front_lens", "scene", "unsure"]
Where = Literal["spread", "edges", "middle", "single"]
Experience = Literal["novice", "practised", "expert"]
Observed = Literal[
    "metal_crumbs",
    "grit",
    "saliva",
    "loupe_glint",
    "scratch_suspected",
    "gel_left",
    "tip_bent",
    "fluid_stood",
]
Step = Literal[
    "clean_lens",
    "auto_clean",
    "air",
    "brush",
    "lift",
    "dry_swab",
    "wet_swab",
    "dry_followup",
    "corner_swab",
    "service",
    "teardown",
]
Result = Literal["no_change", "fewer", "cleared", "stirred", "streaks", "worse", "unknown"]
Item = Literal[
    "bulb_blower",
    "electric_blower",
    "gas_can",
    "charged_brush",
    "lens_brush",
    "gel_stick",
    "silicone_pad",
    "dry_swab",
    "wet_swab",
    "corner_swab",
    "sterile_pad",
    "moist_wipe",
    "fluid",
    "lens_wipe",
    "cloth",
    "carbon_pen",
    "tweezers",
    "cloth_wand",
    "loupe",
    "cross_driver_0",
    "screw_tray",
    "lint_free_bud",
]
ContactSchool = Literal["lift", "dry_swab", "wet_swab", "dry_wet_dry"]
Count = Field(default=None, ge=0, le=1_000_000)


class CameraFacts(Given):
    """The body. ``hold_rule``: what its handbook says holds a stabilised sensor; None: unknown.

    ``temperature_c``: of the camera itself, as it comes in from the cold. ``closes_when_off``: a
    shutter or screen covers the sensor when it is switched off. ``contact_allowed_by_modifier``:
    the answer of whoever took the filter out.
    """

    access: Access | None = None
    sensor_mm: tuple[Number, Number] | None = None
    stabilised: Flag | None = None
    hold_rule: Power | None = None
    closes_when_off: Flag | None = None
    filter_removed: Flag | None = None
    contact_allowed_by_modifier: Flag | None = None
    self_clean: Flag | None = None
    under_guarantee: Flag | None = None
    power: Power | None = None
    battery_percent: Number | None = Field(default=None, ge=0, le=100)
    mains: Flag | None = None
    mirror_up: Flag | None = None
    temperature_c: Number | None = Field(default=None, ge=-40, le=60)

    @model_validator(mode="after")
    def _sensor_is_real(self) -> CameraFacts:
        if self.sensor_mm is not None and min(self.sensor_mm) <= 0:
            raise ValueError("sensor_mm must be two lengths above zero, in millimetres")
        return self


class SpotFacts(Given):
    """``relevant``: how many show at the apertures worked at."""

    total: Whole | None = Count
    relevant: Whole | None = Count
    by_kind: dict[Kind, Whole] = Field(default_factory=dict)


class ChangeFacts(Given):
    """The last comparison."""

    gone: Whole = 0
    stayed: Whole = 0
    moved: Whole = 0
    new: Whole = 0


class FrameFactsGiven(Given):
    """The newest test frame.

    ``site_proved``: two or more frames, the camera moved between them, agree on the place.
    ``lens_marks``: how many of its spots are soft shadows of the lens. ``inside_filter``: how many
    visible ones lie between the filter's layers; ``spots.relevant`` leaves them out.
    ``unexplained``: it has nothing in common with the frame before it, no step lies between, and
    the user has not said why.
    """

    fit: Flag | None = None
    f_number: Number | None = None
    comparable: Flag | None = None
    spots: SpotFacts = SpotFacts()
    site: FrameSite | None = None
    site_proved: Flag | None = None
    unexplained: Flag | None = None
    lens_marks: Whole | None = Count
    inside_filter: Whole | None = Count
    where: Where | None = None
    change: ChangeFacts | None = None


class WorkFacts(Given):
    """The apertures its owner works at."""

    apertures: tuple[Number, ...] = ()


class DoneStep(Given):
    """One step of this visit and how its retest came out."""

    step: Step
    tested: Flag | None = None
    result: Result | None = None
    runs: Whole | None = Count
    opening: Literal["down", "up"] | None = None
    drops: Number | None = Count
    tip_bent: Flag | None = None
    temperature_c: Number | None = None
    humidity_percent: Number | None = None
    waited_s: Number | None = None
    width_mm: Number | None = None
    tool: str | None = None
    item: str | None = None
    fluid: str | None = None
    swabs: Whole | None = Count
    dabs: Whole | None = Count
    puffs: Whole | None = Count
    strokes: Whole | None = Count
    note: str | None = None


_SIDES_SCHEMA: JsonDict = {"items": {"type": "number", "minimum": 0.5, "maximum": 60}}
"""What the check below asks of two sides, for those who read the description."""


class KitItem(Given):
    """One thing owned. ``matched_coating``: the stick suits this maker's coating; ``for_sensor``:
    it was made for sensors; ``suits_body``: by its owner's own entry; ``best_before``: its last
    good day; ``focus_mm``: how far below its foot a loupe focuses, least and most.
    ``drops``: the maker's own number for one of them. ``quantity``:
    pieces, millilitres of a fluid, fresh cloths of a wand.
    """

    item: Item
    kind: str | None = None
    kit_own: Flag | None = None
    width_mm: Number | None = Field(default=None, gt=0, le=200)
    quantity: Number | None = Count
    fresh_patches: Whole | None = Count
    matched_coating: Flag | None = None
    filtered: Flag | None = None
    inverted: Flag | None = None
    clean: Flag | None = None
    used: Flag | None = None
    sealed: Flag | None = None
    expired: Flag | None = None
    best_before: Day | None = None
    charged: Flag | None = None
    tip_mm: tuple[Number, Number] | None = Field(default=None, json_schema_extra=_SIDES_SCHEMA)
    for_sensor: Flag | None = None
    suits_body: Flag | None = None
    patches_per_sheet: Whole | None = Field(default=None, ge=1, le=1000)
    focus_mm: tuple[Number, Number] | None = None
    drops: Whole | None = Field(default=None, ge=1, le=10)

    @model_validator(mode="after")
    def _focus_is_a_range(self) -> KitItem:
        if self.focus_mm is not None and not 0 < self.focus_mm[0] <= self.focus_mm[1] <= 500:
            raise ValueError("focus_mm must be two growing lengths up to 500 mm, like 40 and 46")
        return self

    @model_validator(mode="after")
    def _tip_is_real(self) -> KitItem:
        if self.tip_mm is not None and not all(0.5 <= side <= 60 for side in self.tip_mm):
            raise ValueError("tip_mm must be two lengths of 0.5 to 60 mm")
        return self


class RoomFacts(Given):
    """Where it is done."""

    temperature_c: Number | None = Field(default=None, ge=-40, le=60)
    humidity_percent: Number | None = Field(default=None, ge=0, le=100)
    moving_air: Flag | None = None
    surface: Literal["bare", "fabric"] | None = None
    clean: Flag | None = None


class OperatorFacts(Given):
    """Who does it, and what they would like to do next."""

    experience: Experience | None = None
    asks_for: str | None = None


class Schools(Given):
    """Choices between the ways people argue about; None takes the default."""

    act_on: Literal["visible", "work_affected"] | None = None
    check: Literal["evidence", "calendar_service"] | None = None
    air: Literal["soft_first", "strong", "skip"] | None = None
    gas_can: Literal["never", "allowed"] | None = None
    brush: Literal["never", "charged", "clean_lens_brush"] | None = None
    contact_order: tuple[ContactSchool | Literal["brush"], ...] | None = None
    lift_area: Literal["spots", "whole"] | None = None
    stroke: Literal["same_way", "return_other_face", "across_and_back", "circles"] | None = None
    swab_width: Literal["matched", "narrower_ok"] | None = None
    fluid: Literal["by_stain", "alcohol_free", "kit_only"] | None = None
    contact_by: Literal["self", "send_out"] | None = None
    damp_air: Literal["never", "dry_work_only"] | None = None
    pressure: Literal["barely", "pencil", "moderate"] | None = None
    faces_wetted: Literal["one", "both"] | None = None
    second_swab_dry: Flag | None = None
    pad_on_finger: Flag | None = None
    edges_by_face: Flag | None = None
    files_first: Flag | None = None

    @property
    def narrower_ok(self) -> bool:
        """Whether a swab narrower than the sensor will do: in lanes, or with a face for each."""
        return self.swab_width == "narrower_ok" or self.edges_by_face is True


class ServiceFacts(Given):
    """The owner's own service."""

    turnaround_days: Number | None = Count
    membership_includes_clean: Flag | None = None
    months_since_service: Number | None = Count


class Facts(Given):
    """All that the judgement looks at. ``planned_presses``: of the lift, planned on a map."""

    camera: CameraFacts = CameraFacts()
    frame: FrameFactsGiven | None = None
    observed: tuple[Observed, ...] = ()
    work: WorkFacts = WorkFacts()
    done: tuple[DoneStep, ...] = ()
    kit: tuple[KitItem, ...] = ()
    room: RoomFacts = RoomFacts()
    operator: OperatorFacts = OperatorFacts()
    schools: Schools = Schools()
    job_in_days: Number | None = Field(default=None, ge=0, le=100_000)
    service: ServiceFacts = ServiceFacts()
    photos_waiting: Whole | None = Count
    planned_presses: Whole | None = Count
