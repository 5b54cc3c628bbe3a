"""What the judgement says."""

from __future__ import annotations

from typing import Literal

from pydantic import ConfigDict, Field

from neatpatch.core.common.facts import Item
from neatpatch.core.common.records import Record

Decision = Literal[
    "stop_done",
    "defer",
    "reshoot",
    "clean_lens",
    "auto_clean",
    "air",
    "brush",
    "lift",
    "dry_swab",
    "wet_swab",
    "dry_followup",
    "corner_swab",
    "prepare",
    "service",
    "teardown",
    "retouch",
]
CautionCode = Literal[
    "gravity",
    "no_touch_nozzle",
    "stirred",
    "mirror_drop",
    "mirror_in_way",
    "full_power",
    "hold_rule",
    "own_risk",
    "guarantee",
    "provider_liability",
    "grit_scratch",
    "single_use",
    "fluid_excess",
    "right_width",
    "kit_fluid_only",
    "fluid_hazard",
    "light_pressure",
    "no_slide",
    "fresh_patch",
    "matched_gel",
    "drying_room",
    "shedding_surface",
    "keep_covered",
    "mirrored_position",
    "stray_light",
    "same_place_is_sensor",
    "retest_each_step",
    "wide_aperture_hides",
    "recheck_before_job",
    "contact_adds_risk",
    "lead_time",
    "propellant",
    "frostbite",
    "brush_clean",
    "hair_shed",
    "moisture",
    "more_fluid_worse",
    "streak_causes",
    "scratch_possible",
    "edges_pushed",
    "ribbon_first",
    "screw_groups",
    "flash_charge",
    "ask_modifier",
    "same_body_only",
    "cap_clean",
    "air_travel",
]

CONTACT: tuple[Decision, ...] = (
    "brush",
    "lift",
    "dry_swab",
    "wet_swab",
    "dry_followup",
    "corner_swab",
)
SWABS: tuple[Decision, ...] = ("dry_swab", "wet_swab", "dry_followup", "corner_swab")
OPENS: tuple[Decision, ...] = ("air", *CONTACT)
"""Steps for which the camera lies open."""


class Caution(Record):
    """Something to be careful of with the decision.

    ``importance``: 1 first. ``said_before``: a gate made sure of it, or an earlier rung said it.
    """

    code: CautionCode
    text: str
    importance: int
    said_before: bool


class Barred(Record):
    """Something that must not be done now, and why. ``always``: nor on any other day."""

    action: str
    code: str
    text: str
    always: bool = False


class Alternative(Record):
    """Another safe way, and who would choose it."""

    decision: Decision
    why: str


Question = Literal[
    "temperature_c",
    "humidity_percent",
    "camera_c",
    "moving_air",
    "surface",
    "room_clean",
    "power",
    "battery_percent",
    "mains",
    "mirror_up",
    "experience",
]
"""What a visit may be asked of its room, its power and its hands; named as its conditions are."""
Place = Literal["conditions", "camera", "kit"]
"""Where what bars the next step is put right."""


class Advice(Record):
    """The next move with its reasons. ``fix_in``: where what must be fixed first is entered.

    ``asks``: conditions of the visit that the next step needs to be told, in order; ``lacks``:
    things that would equip it. ``last_step``: the one of the reasons that tells what the step
    before did; a trail shows it already.
    """

    schema_: Literal["neatpatch.advise/1"] = Field("neatpatch.advise/1", alias="schema")
    decision: Decision
    title: str
    why: tuple[str, ...]
    cautions: tuple[Caution, ...]
    barred: tuple[Barred, ...]
    needs: tuple[str, ...]
    alternatives: tuple[Alternative, ...]
    fix_in: tuple[Place, ...] = ()
    asks: tuple[Question, ...] = ()
    lacks: tuple[Item, ...] = ()
    last_step: str = ""
    rule: str = ""

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )
