"""What to be careful of with each decision.

One row a caution: its words, the decisions it goes with, and when it applies there.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import CONTACT, OPENS, SWABS, Caution, CautionCode, Decision
from neatpatch.core.common.words import with_room

When = Callable[[Situation], bool]
_FLUID: tuple[Decision, ...] = ("wet_swab", "corner_swab")
_HANDS: tuple[Decision, ...] = ("air", "brush", "lift", "corner_swab")


def _always(_s: Situation) -> bool:
    return True


def _mirror(s: Situation) -> bool:
    return s.moving_mirror


def _any_mirror(s: Situation) -> bool:
    return s.camera.access in ("mirror", "fixed_mirror", None)


def _can(s: Situation) -> bool:
    return s.tools.has_named("gas_can") or s.schools.gas_can == "allowed"


@dataclass(frozen=True)
class CautionRow:
    """A caution and where it belongs."""

    code: CautionCode
    text: str
    decisions: tuple[Decision, ...]
    when: When = _always


CAUTIONS: tuple[CautionRow, ...] = (
    CautionRow(
        "gravity",
        "Keep the opening straight down, so that what comes loose falls out.",
        ("auto_clean", "air", "clean_lens"),
    ),
    CautionRow(
        "no_touch_nozzle", "Keep the nozzle outside the mount; it must never touch.", ("air",)
    ),
    CautionRow(
        "stirred",
        "Blown with the opening up, dust is only stirred: same count, new places.",
        ("air",),
    ),
    CautionRow(
        "mirror_drop", "If the power fails, the mirror falls on whatever is inside.", OPENS, _mirror
    ),
    CautionRow(
        "mirror_drop",
        "The mirror is still up: switch off to lower it, then cap the body.",
        ("stop_done", "defer", "service"),
        lambda s: s.camera.mirror_up is True,
    ),
    CautionRow(
        "mirror_in_way",
        "The mirror must be locked up first, from the camera's own menu or latch.",
        OPENS,
        lambda s: _any_mirror(s) and s.camera.mirror_up is not True,
    ),
    CautionRow("full_power", "Only with a full battery or on the mains.", OPENS, _mirror),
    CautionRow(
        "full_power",
        "Power holds this sensor still: only with a full battery or on the mains.",
        CONTACT,
        lambda s: s.camera.hold_rule == "on",
    ),
    CautionRow(
        "hold_rule",
        "A stabilised sensor floats. Hold it as this body's handbook says; not "
        "knowing means no contact.",
        OPENS,
        lambda s: s.may_be_stabilised,
    ),
    CautionRow(
        "own_risk",
        "Touching a sensor is at your own risk; the camera's handbook goes first.",
        (*CONTACT, "teardown"),
    ),
    CautionRow(
        "guarantee",
        "The body is under warranty, or may be: contact by anyone else may end it.",
        (*CONTACT, "service", "defer", "teardown", "prepare"),
        lambda s: s.camera.under_guarantee is True,
    ),
    CautionRow(
        "provider_liability",
        "Whoever services it answers for the result; ask for it in writing.",
        ("service",),
    ),
    CautionRow(
        "grit_scratch",
        "Air always before wiping: a grain under a tool scratches.",
        (*SWABS, "brush", "clean_lens"),
    ),
    CautionRow(
        "grit_scratch",
        "Grit was seen: nothing may slide over the glass.",
        ("auto_clean", "air", "lift", "prepare", "service"),
        lambda s: s.gritty,
    ),
    CautionRow(
        "single_use", "One swab, once: two faces, then the bin. Never wet a used one.", SWABS
    ),
    CautionRow(
        "single_use",
        "Bin the used swab now.",
        ("stop_done",),
        lambda s: any(d.step in SWABS for d in s.turns.done),
    ),
    CautionRow(
        "fluid_excess",
        "One to three drops, on the swab's edge, away from the camera. Excess "
        "creeps between the filter layers.",
        (*_FLUID, "dry_followup"),
    ),
    CautionRow(
        "right_width",
        "The swab is as wide as the sensor's short side; a wider one does not fit.",
        ("dry_swab", "wet_swab", "dry_followup"),
    ),
    CautionRow(
        "right_width",
        "A swab owned has the wrong width for this sensor.",
        ("prepare",),
        lambda s: s.tools.wrong_width("wet_swab") or s.tools.wrong_width("dry_swab"),
    ),
    CautionRow("kit_fluid_only", "Only fluid made for sensors, best the kit's own.", _FLUID),
    CautionRow(
        "fluid_hazard",
        "Alcohol fluids burn and some are poisonous: fresh air, no flame, gloves.",
        _FLUID,
    ),
    CautionRow("air_travel", "Airlines limit such fluids; look it up before packing them.", _FLUID),
    CautionRow(
        "light_pressure",
        "Lightly: the tip must not bend; lightest of all on a floating sensor.",
        (*CONTACT,),
    ),
    CautionRow("no_slide", "Press straight down and lift straight up. Never slide.", ("lift",)),
    CautionRow("fresh_patch", "A fresh sticky patch after every dab.", ("lift",)),
    CautionRow(
        "matched_gel",
        "The gel must suit this maker's coating; a wrong one stays behind.",
        ("lift",),
    ),
    CautionRow(
        "matched_gel",
        "A stick owned does not suit this coating, or it is not known to.",
        ("prepare", "dry_swab", "wet_swab"),
        lambda s: any(k.matched_coating is not True for k in s.tools.owned("gel_stick")),
    ),
    CautionRow(
        "matched_gel",
        "Gel was left behind: it does not suit this coating, or is too old.",
        ("auto_clean", "air", "wet_swab", "service", "prepare"),
        lambda s: s.saw("gel_left"),
    ),
    CautionRow(
        "drying_room",
        "At {room} and not damp, camera at room temperature, or it dries to marks.",
        (*_FLUID, "dry_followup"),
    ),
    CautionRow("shedding_surface", "Work on a bare, wiped table; cloth sheds lint.", OPENS),
    CautionRow(
        "keep_covered",
        "Cap on, or opening down, whenever your hands are elsewhere.",
        (*OPENS, "prepare", "auto_clean"),
    ),
    CautionRow(
        "keep_covered", "Put the cap or a lens on at once.", ("stop_done", "defer", "service")
    ),
    CautionRow(
        "mirrored_position",
        "Facing the mount, top and bottom are swapped against the picture: "
        "use the map's mount view.",
        (*_HANDS,),
    ),
    CautionRow(
        "stray_light",
        "A lit loupe shows glints that are not dust. The frame decides.",
        ("stop_done", "defer", "reshoot", "clean_lens", *OPENS),
        lambda s: s.saw("loupe_glint") or s.tools.has_named("loupe"),
    ),
    CautionRow(
        "same_place_is_sensor",
        "Same place in every frame: the sensor. Moves with the target: the target.",
        ("reshoot", "clean_lens", "stop_done"),
        lambda s: not s.place_proved or s.lens_marks > 0,
    ),
    CautionRow(
        "retest_each_step",
        "Shoot the same test frame again after every step.",
        (*OPENS, "auto_clean", "clean_lens"),
    ),
    CautionRow(
        "retest_each_step",
        "Shoot it just like the frame before: same aperture, same recipe.",
        ("reshoot",),
        lambda s: bool(s.turns.done),
    ),
    CautionRow(
        "wide_aperture_hides", "Wide apertures hide dust: use f/16 or smaller.", ("reshoot",)
    ),
    CautionRow(
        "wide_aperture_hides",
        "What is left would show at smaller apertures.",
        ("stop_done", "defer"),
        lambda s: s.total > 0,
    ),
    CautionRow(
        "recheck_before_job",
        "Dust comes back: check again before the next job.",
        ("stop_done", "defer", "retouch"),
    ),
    CautionRow(
        "contact_adds_risk", "Every touch adds risk; leave it while it does no harm.", ("defer",)
    ),
    CautionRow(
        "contact_adds_risk",
        "A job is close: a touch that goes wrong now costs the job.",
        CONTACT,
        lambda s: s.facts.job_in_days is not None and s.facts.job_in_days <= 2,
    ),
    CautionRow(
        "lead_time", "Allow for the days without the camera, and for delivery.", ("service",)
    ),
    CautionRow(
        "lead_time",
        "What is missing must arrive before the job.",
        ("prepare", "defer"),
        lambda s: s.facts.job_in_days is not None,
    ),
    CautionRow(
        "propellant",
        "Spray cans spit propellant that stays on the sensor.",
        ("air", "prepare"),
        _can,
    ),
    CautionRow(
        "frostbite",
        "The spray is cold enough to hurt skin and crack glass.",
        ("air", "prepare"),
        _can,
    ),
    CautionRow(
        "brush_clean",
        "Only a sensor brush, kept in its pouch, never touched with fingers.",
        ("brush",),
    ),
    CautionRow("hair_shed", "Look for shed hairs in the next frame.", ("brush",)),
    CautionRow("moisture", "Never blow with the mouth: it leaves spit and damp.", ("air",)),
    CautionRow(
        "moisture",
        "Spit came from blowing by mouth: never again.",
        ("service", "defer"),
        lambda s: s.saw("saliva"),
    ),
    CautionRow(
        "moisture",
        "Damp air only lays dust for dry work; no fluid in it.",
        ("prepare", "lift", "dry_swab"),
        lambda s: s.dries_badly,
    ),
    CautionRow("more_fluid_worse", "More fluid makes more marks.", ("dry_followup",)),
    CautionRow(
        "more_fluid_worse",
        "If one swab did not do, it is the technique, not the number.",
        ("wet_swab", "corner_swab", "service"),
        lambda s: s.turns.times("wet_swab") > 0,
    ),
    CautionRow(
        "streak_causes",
        "Streaks come from too many drops, a bent tip, cold or damp air, or fluid left standing.",
        ("dry_followup",),
    ),
    CautionRow(
        "streak_causes",
        "Last time it streaked: fewer drops, a straight tip, a warm dry room.",
        ("wet_swab", "prepare", "service"),
        lambda s: any(d.result == "streaks" for d in s.turns.done),
    ),
    CautionRow(
        "scratch_possible",
        "A line that nothing moves may be a scratch: do not wipe it again.",
        ("service", "defer"),
        lambda s: s.saw("scratch_suspected") or s.turns.failed("wet_swab") or s.service_left_a_mark,
    ),
    CautionRow(
        "edges_pushed",
        "The stroke pushed dust to edges and corners; fetch it from there.",
        ("corner_swab", "prepare"),
        lambda s: s.pushed_to_edges,
    ),
    CautionRow(
        "ribbon_first", "Unlatch each ribbon cable before lifting what it holds.", ("teardown",)
    ),
    CautionRow(
        "screw_groups",
        "Keep the three groups of screws apart and counted; threads differ.",
        ("teardown",),
    ),
    CautionRow(
        "flash_charge",
        "The flash capacitor keeps a dangerous charge: battery out, hands off "
        "its board, else a licensed repairer.",
        ("teardown",),
    ),
    CautionRow(
        "flash_charge",
        "Do not open it yourself: its flash keeps a dangerous charge.",
        ("service", "defer"),
        lambda s: s.camera.access == "fixed_lens",
    ),
    CautionRow(
        "ask_modifier",
        "A filter was taken out: ask who did it which layer is left.",
        (*CONTACT, "air", "service", "prepare"),
        lambda s: s.camera.filter_removed is True,
    ),
    CautionRow(
        "same_body_only",
        "One map serves only frames of this body, between two cleanings.",
        ("retouch",),
    ),
    CautionRow(
        "cap_clean",
        "Blow out the body cap before it goes on; its lint goes straight in.",
        ("stop_done", "air", "auto_clean"),
    ),
)


def cautions_for(
    s: Situation, decision: Decision, extra: tuple[CautionCode, ...] = ()
) -> tuple[Caution, ...]:
    """Every caution that applies to a decision, once each; ``extra`` come from shut gates."""
    by_code: dict[str, Caution] = {}
    for row in CAUTIONS:
        fits = decision in row.decisions and row.when(s)
        if row.code not in by_code and (fits or row.code in extra):
            by_code[row.code] = Caution(code=row.code, text=with_room(row.text))
    return tuple(sorted(by_code.values(), key=lambda c: c.code not in extra))
