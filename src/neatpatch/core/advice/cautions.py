"""What to be careful of with each decision.

One row a caution: its words, the decisions it goes with, and when it applies there. Rows stand in
the order in which they matter: what today's facts bring, then how this step goes wrong, from the
first move to the last, then what is so every day.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.rules import rung
from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import CONTACT, OPENS, SWABS, Caution, CautionCode, Decision
from neatpatch.core.common.words import with_room

When = Callable[[Situation], bool]
_NO_ALCOHOL = ("alcohol_free", "pure_water")
_FLUID: tuple[Decision, ...] = ("wet_swab", "corner_swab")
_SWAB_WIDE: tuple[Decision, ...] = ("dry_swab", "wet_swab", "dry_followup")
_BY_PLACE: tuple[Decision, ...] = ("air", "brush", "lift", "corner_swab")


def _always(_s: Situation) -> bool:
    return True


def _never(_s: Situation) -> bool:
    return False


def _mirror(s: Situation) -> bool:
    return s.moving_mirror


def _any_mirror(s: Situation) -> bool:
    return s.camera.access in ("mirror", "fixed_mirror", None)


def _can(s: Situation) -> bool:
    return s.tools.has_named("gas_can") or s.schools.gas_can == "allowed"


def _with(step: Decision, *items: str) -> When:
    """Whether a step is done with one of these."""

    def holds(s: Situation) -> bool:
        tool = s.tools.tool_for(step)
        return tool is not None and tool.item in items

    return holds


def _width_known(s: Situation) -> bool:
    return any(s.tools.tool_for(step) is not None for step in _SWAB_WIDE)


@dataclass(frozen=True)
class CautionRow:
    """A caution and where it belongs. ``passed``: a gate has made sure of it already."""

    code: CautionCode
    text: str
    decisions: tuple[Decision, ...]
    when: When = _always
    passed: When = _never


TODAY: tuple[CautionRow, ...] = (
    CautionRow(
        "grit_scratch",
        "Grit was seen: nothing may slide over the glass.",
        ("auto_clean", "air", "lift", "prepare", "service"),
        when=lambda s: s.gritty,
    ),
    CautionRow(
        "scratch_possible",
        "A line that nothing moves may be a scratch: do not wipe it.",
        ("service", "defer"),
        when=lambda s: (
            s.saw("scratch_suspected") or s.turns.failed("wet_swab") or s.service_left_a_mark
        ),
    ),
    CautionRow(
        "flash_charge",
        "Do not open it yourself: its flash keeps a dangerous charge.",
        ("service", "defer"),
        when=lambda s: s.camera.access == "fixed_lens",
    ),
    CautionRow(
        "mirror_drop",
        "The mirror is still up: switch off to lower it, then cap the body.",
        ("stop_done", "defer", "service"),
        when=lambda s: s.camera.mirror_up is True,
    ),
    CautionRow(
        "guarantee",
        "Under warranty, or may be: contact by anyone else may end it.",
        (*CONTACT, "service", "defer", "teardown", "prepare"),
        when=lambda s: s.camera.under_guarantee is True,
    ),
    CautionRow(
        "ask_modifier",
        "A filter was taken out: ask who did it which layer is left.",
        (*CONTACT, "air", "service", "prepare"),
        when=lambda s: s.camera.filter_removed is True,
    ),
    CautionRow(
        "matched_gel",
        "Gel was left behind: it does not suit this coating, or is too old.",
        ("auto_clean", "air", "wet_swab", "service", "prepare"),
        when=lambda s: s.saw("gel_left"),
    ),
    CautionRow(
        "matched_gel",
        "A stick owned does not suit this coating, or that is not known.",
        ("prepare", "dry_swab", "wet_swab"),
        when=lambda s: any(k.matched_coating is not True for k in s.tools.owned("gel_stick")),
    ),
    CautionRow(
        "right_width",
        "A swab owned has the wrong width for this sensor.",
        ("prepare",),
        when=lambda s: s.tools.wrong_width("wet_swab") or s.tools.wrong_width("dry_swab"),
    ),
    CautionRow(
        "moisture",
        "Spit came from blowing by mouth: never again.",
        ("service", "defer"),
        when=lambda s: s.saw("saliva"),
    ),
    CautionRow(
        "moisture",
        "Dew settles on a cold sensor: keep the camera closed until it is warm.",
        ("prepare", "auto_clean"),
        when=lambda s: s.dewy,
    ),
    CautionRow(
        "moisture",
        "Damp air only lays dust for dry work; no fluid in it.",
        ("prepare", "lift", "dry_swab"),
        when=lambda s: s.dries_badly,
    ),
    CautionRow(
        "streak_causes",
        "Last time it streaked: fewer drops, a straight tip, a warm dry room.",
        ("wet_swab", "prepare", "service"),
        when=lambda s: any(d.result == "streaks" for d in s.turns.done),
    ),
    CautionRow(
        "more_fluid_worse",
        "If one swab did not do, it is the technique, not the number.",
        ("wet_swab", "corner_swab", "service"),
        when=lambda s: s.turns.times("wet_swab") > 0,
    ),
    CautionRow(
        "edges_pushed",
        "The stroke pushed dust to the edges; fetch it from there.",
        ("corner_swab", "prepare"),
        when=lambda s: s.pushed_to_edges,
    ),
    CautionRow(
        "contact_adds_risk",
        "A job is close: a touch that goes wrong now costs the job.",
        CONTACT,
        when=lambda s: s.facts.job_in_days is not None and s.facts.job_in_days <= 2,
    ),
    CautionRow(
        "single_use",
        "Bin the used swab now.",
        ("stop_done",),
        when=lambda s: any(d.step in SWABS for d in s.turns.done),
    ),
    CautionRow(
        "same_place_is_sensor",
        "Same place in every frame: the sensor. Moves with the target: the target.",
        ("reshoot", "clean_lens", "stop_done"),
        when=lambda s: not s.place_proved or s.lens_marks > 0,
    ),
    CautionRow(
        "wide_aperture_hides",
        "What is left would show at smaller apertures.",
        ("stop_done", "defer"),
        when=lambda s: s.total > 0,
    ),
    CautionRow(
        "retest_each_step",
        "Shoot it just like the frame before: same aperture, same recipe.",
        ("reshoot",),
        when=lambda s: s.frame is not None and bool(s.turns.done),
    ),
    CautionRow(
        "stray_light",
        "A lit loupe shows glints that are not dust. The frame decides.",
        ("stop_done", "defer", "reshoot", "clean_lens", *OPENS),
        when=lambda s: s.saw("loupe_glint"),
    ),
    CautionRow(
        "lead_time",
        "What is missing must arrive before the job.",
        ("prepare",),
        when=lambda s: s.facts.job_in_days is not None and bool(s.tools.missing(rung(s))),
    ),
    CautionRow(
        "lead_time",
        "Count what this takes against the days until the job.",
        ("prepare", "defer"),
        when=lambda s: s.facts.job_in_days is not None,
    ),
)
"""What this visit's facts bring."""
THIS_STEP: tuple[CautionRow, ...] = (
    CautionRow(
        "flash_charge",
        "The flash capacitor keeps a dangerous charge: battery out, hands off its board.",
        ("teardown",),
    ),
    CautionRow(
        "screw_groups",
        "Keep the three groups of screws apart and counted; threads differ.",
        ("teardown",),
    ),
    CautionRow(
        "ribbon_first", "Unlatch each ribbon cable before lifting what it holds.", ("teardown",)
    ),
    CautionRow(
        "own_risk",
        "Touching a sensor is at your own risk; the handbook goes first.",
        (*CONTACT, "teardown"),
    ),
    CautionRow(
        "full_power",
        "Power holds this sensor still: only with a full battery or on the mains.",
        CONTACT,
        when=lambda s: s.camera.hold_rule == "on" and not _mirror(s),
        passed=lambda s: s.full_power,
    ),
    CautionRow(
        "full_power",
        "Only with a full battery or on the mains.",
        OPENS,
        when=_mirror,
        passed=lambda s: s.full_power,
    ),
    CautionRow(
        "mirror_drop",
        "If the power fails, the mirror falls on whatever is inside.",
        OPENS,
        when=_mirror,
    ),
    CautionRow(
        "mirror_in_way",
        "What covers the sensor must be open first, by the camera's own menu.",
        ("prepare",),
        when=lambda s: s.sensor_covered and not _any_mirror(s),
    ),
    CautionRow(
        "mirror_in_way",
        "First lock the mirror up, from the camera's own menu or latch.",
        OPENS,
        when=lambda s: _any_mirror(s) and s.camera.mirror_up is not True,
    ),
    CautionRow(
        "hold_rule",
        "A stabilised sensor floats: hold it as the handbook says, or no contact.",
        CONTACT,
        when=lambda s: s.may_be_stabilised,
        passed=lambda s: not s.hold_unknown and not s.not_held,
    ),
    CautionRow(
        "hold_rule",
        "A stabilised sensor floats; air must not push it, and nothing touch it.",
        ("air",),
        when=lambda s: s.may_be_stabilised,
    ),
    CautionRow(
        "propellant",
        "Spray cans spit propellant that stays on the sensor.",
        ("air", "prepare"),
        when=_can,
    ),
    CautionRow(
        "frostbite",
        "The spray is cold enough to hurt skin and crack glass.",
        ("air", "prepare"),
        when=_can,
    ),
    CautionRow(
        "fluid_hazard",
        "The fluid burns, and some are poisonous: fresh air, no flame, gloves.",
        _FLUID,
        when=lambda s: s.tools.fluid not in _NO_ALCOHOL,
    ),
    CautionRow("fluid_hazard", "Read the fluid's label; keep it off skin and eyes.", _FLUID),
    CautionRow(
        "kit_fluid_only",
        "Only fluid made for sensors, best the kit's own.",
        _FLUID,
        when=_always,
        passed=lambda s: bool(s.tools.fluids),
    ),
    CautionRow(
        "drying_room",
        "At {room} and not damp, camera at room temperature, or it dries to marks.",
        (*_FLUID, "dry_followup"),
        when=_always,
        passed=lambda s: not s.dries_badly,
    ),
    CautionRow(
        "right_width",
        "What wipes is as wide as the sensor's short side; a wider one does not fit.",
        _SWAB_WIDE,
        when=lambda s: not _with("wet_swab", "sterile_pad")(s),
        passed=_width_known,
    ),
    CautionRow(
        "matched_gel",
        "The gel must suit this maker's coating; a wrong one stays behind.",
        ("lift",),
        when=_always,
        passed=lambda s: s.tools.lift_tool,
    ),
    CautionRow(
        "grit_scratch",
        "Air always before wiping: a grain under a tool scratches.",
        (*SWABS, "brush", "clean_lens"),
        when=_always,
        passed=lambda s: s.turns.air_done,
    ),
    CautionRow(
        "fluid_excess",
        "What fluid is left creeps between the filter layers: no more of it.",
        ("dry_followup",),
    ),
    CautionRow(
        "fluid_excess",
        "Too moist a wipe creeps between the filter layers: add no fluid.",
        ("wet_swab",),
        when=_with("wet_swab", "moist_wipe"),
    ),
    CautionRow(
        "fluid_excess",
        "A drop too many creeps between the filter layers; drops far from the camera.",
        _FLUID,
    ),
    CautionRow(
        "gravity",
        "Facing straight down, so that what comes loose falls out.",
        ("auto_clean", "air", "clean_lens"),
    ),
    CautionRow("no_touch_nozzle", "Keep the nozzle outside; it must never touch.", ("air",)),
    CautionRow(
        "stirred",
        "Blown facing up, dust is only stirred: same count, new places.",
        ("air",),
    ),
    CautionRow(
        "brush_clean",
        "Only a sensor brush, kept in its pouch, never touched with fingers.",
        ("brush",),
    ),
    CautionRow("no_slide", "Press straight down, lift straight up. Never slide.", ("lift",)),
    CautionRow("fresh_patch", "A fresh sticky patch after every dab.", ("lift",)),
    CautionRow("light_pressure", "Press lightly.", ("lift",)),
    CautionRow("light_pressure", "Only the hair tips touch.", ("brush",)),
    CautionRow(
        "light_pressure",
        "No pressure: only the pad's own weight.",
        ("wet_swab",),
        when=_with("wet_swab", "sterile_pad"),
    ),
    CautionRow(
        "light_pressure",
        "No pressure: only the pad's own weight.",
        ("dry_swab", "dry_followup"),
        when=_with("dry_swab", "sterile_pad"),
    ),
    CautionRow(
        "light_pressure",
        "Lightly: the tip must not bend; lightest of all on a floating sensor.",
        (*SWABS, "corner_swab"),
        when=lambda s: s.may_be_stabilised,
    ),
    CautionRow("light_pressure", "Lightly: the tip must not bend.", (*SWABS, "corner_swab")),
    CautionRow(
        "single_use",
        "A clean side of the pad for each place, then the bin.",
        ("wet_swab",),
        when=_with("wet_swab", "sterile_pad"),
    ),
    CautionRow(
        "single_use",
        "A clean side of the pad for each place, then the bin.",
        ("dry_swab", "dry_followup"),
        when=_with("dry_swab", "sterile_pad"),
    ),
    CautionRow(
        "single_use",
        "One wipe, once, then the bin: moist enough, and never wetted.",
        ("wet_swab",),
        when=_with("wet_swab", "moist_wipe"),
    ),
    CautionRow(
        "single_use", "One swab, once: two faces, then the bin. Never wet a used one.", SWABS
    ),
    CautionRow(
        "streak_causes",
        "Streaks come from too many drops, a bent tip, cold or damp air, or fluid left standing.",
        ("dry_followup",),
    ),
    CautionRow("more_fluid_worse", "More fluid makes more marks.", ("dry_followup",)),
    CautionRow("hair_shed", "Look for shed hairs in the next frame.", ("brush",)),
    CautionRow(
        "provider_liability",
        "Whoever services it answers for the result; ask for it in writing.",
        ("service",),
    ),
    CautionRow(
        "lead_time", "Allow for the days without the camera, and for delivery.", ("service",)
    ),
    CautionRow(
        "wide_aperture_hides", "Wide apertures hide dust: use f/16 or smaller.", ("reshoot",)
    ),
    CautionRow(
        "contact_adds_risk", "Every touch adds risk; leave it while it does no harm.", ("defer",)
    ),
    CautionRow(
        "same_body_only",
        "One map serves only frames of this body, between two cleanings.",
        ("retouch",),
    ),
    CautionRow(
        "keep_covered", "Cover it at once: cap or lens on.", ("stop_done", "defer", "service")
    ),
)
"""How a step goes wrong, from its first move to its last."""
EVERY_DAY: tuple[CautionRow, ...] = (
    CautionRow(
        "mirrored_position",
        "Facing the sensor, top and bottom are swapped: use the map's mount view.",
        _BY_PLACE,
    ),
    CautionRow(
        "keep_covered",
        "Covered, or facing down, whenever your hands are elsewhere.",
        (*OPENS, "prepare", "auto_clean"),
    ),
    CautionRow(
        "retest_each_step",
        "Shoot the same test frame again after every step.",
        (*OPENS, "auto_clean", "clean_lens"),
    ),
    CautionRow(
        "shedding_surface",
        "Work on a bare, wiped table; cloth sheds lint.",
        OPENS,
        when=_always,
        passed=lambda s: not s.room_unknown and not s.room_unfit,
    ),
    CautionRow(
        "stray_light",
        "A lit loupe shows glints that are not dust. The frame decides.",
        ("stop_done", "defer", "reshoot", "clean_lens", *OPENS),
        when=lambda s: s.tools.has_named("loupe"),
    ),
    CautionRow(
        "recheck_before_job",
        "Dust comes back: check again before the next job.",
        ("stop_done", "defer", "retouch"),
    ),
    CautionRow(
        "cap_clean",
        "Blow out the cap or cover before it goes on; its lint goes straight in.",
        ("stop_done", "air", "auto_clean"),
    ),
    CautionRow("moisture", "Never blow with the mouth: it leaves spit and damp.", ("air",)),
    CautionRow("air_travel", "Airlines limit such fluids; look it up before packing them.", _FLUID),
)
"""What is always so."""

CAUTIONS = (*TODAY, *THIS_STEP, *EVERY_DAY)


def cautions_for(
    s: Situation, decision: Decision, extra: tuple[CautionCode, ...] = ()
) -> tuple[Caution, ...]:
    """Every caution that applies to a decision, once each, by importance.

    ``extra``: codes that come from shut gates; they lead. What was said before comes last.
    """
    rows: dict[CautionCode, CautionRow] = {}
    for row in (*_fitting(s, decision), *_from_gates(s, extra)):
        rows.setdefault(row.code, row)
    said = {code for code, row in rows.items() if code not in extra and _said_before(s, row)}
    place = {id(row): n for n, row in enumerate(CAUTIONS)}
    ordered = sorted(
        rows.values(), key=lambda r: (r.code in said, r.code not in extra, place[id(r)])
    )
    return tuple(
        Caution(code=r.code, text=with_room(r.text), importance=n, said_before=r.code in said)
        for n, r in enumerate(ordered, 1)
    )


def _fitting(s: Situation, decision: str) -> list[CautionRow]:
    return [row for row in CAUTIONS if decision in row.decisions and row.when(s)]


def _from_gates(s: Situation, codes: tuple[CautionCode, ...]) -> list[CautionRow]:
    """Rows of these codes, those that hold today first."""
    named = [row for row in CAUTIONS if row.code in codes]
    return sorted(named, key=lambda row: not row.when(s))


def _said_before(s: Situation, row: CautionRow) -> bool:
    """A gate made sure of it, or an earlier rung of this visit said it; never what is new today."""
    if row in TODAY:
        return False
    return row.passed(s) or any(d.step in row.decisions for d in s.turns.done)
