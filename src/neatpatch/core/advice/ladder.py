"""Which rung of the ladder comes next, whether or not it may be climbed yet."""

from __future__ import annotations

from neatpatch.core.advice.gates import closed_gates
from neatpatch.core.advice.situation import Situation
from neatpatch.core.advice.turns import MOST_AIR_TURNS, MOST_HELPFUL_AIR
from neatpatch.core.common.decisions import Decision

_DRY_ORDER: tuple[str, ...] = ("lift", "dry_swab", "wet_swab")
_STEPS: dict[str, Decision] = {
    "brush": "brush",
    "lift": "lift",
    "dry_swab": "dry_swab",
    "wet_swab": "wet_swab",
}
_MOST_TIMES = {"brush": 1, "lift": 3, "dry_swab": 2, "wet_swab": 2, "corner_swab": 2}
SLIDES: tuple[Decision, ...] = ("brush", "dry_swab", "wet_swab", "dry_followup", "corner_swab")
"""Steps that move something across the glass, and drag grit with it."""


def next_rung(s: Situation) -> Decision | None:
    """The least risky step that has not failed yet; None when all have been tried.

    Among contact steps the first one that the kit and the room allow, else the first one the kit
    allows, else one that is owned in part, else the first one wanted.
    """
    if shake_left(s):
        return "auto_clean"
    if _wants_air(s):
        return "air"
    if _wants_drying(s):
        return None if s.gritty else "dry_followup"
    wanted = contact_candidates(s)
    if _wants_corners(s):
        wanted = ["corner_swab", *(step for step in wanted if step == "lift")]
    equipped = [step for step in wanted if s.tools.equipped(step)]
    ready = [step for step in equipped if not closed_gates(s, step)]
    begun = [step for step in wanted if s.tools.begun(step)]
    if wanted[:1] == ["corner_swab"]:
        begun = []
    return next(iter([*ready, *equipped, *begun, *wanted]), None)


def shake_left(s: Situation) -> bool:
    """The camera can shake its sensor, and has not done so properly before anything touched it."""
    return s.camera.self_clean is True and not s.turns.shake_done and not s.turns.contact_made


def air_skipped(s: Situation) -> bool:
    """The chosen school leaves air out; grit and what was just shed are blown off all the same."""
    return s.schools.air == "skip" and not s.gritty and not s.shed


def _wants_air(s: Situation) -> bool:
    if air_skipped(s):
        return False
    turns = s.turns
    if not turns.air_done or (s.shed and s.tools.blower):
        return True
    if turns.air_helps and len(turns.good_air) < MOST_HELPFUL_AIR:
        return True
    used = any(d.item == "electric_blower" for d in turns.good_air)
    strong = used or (s.schools.air == "strong" and not s.gritty)
    return (
        s.tools.strong_blower
        and not strong
        and not turns.contact_made
        and len(turns.good_air) < MOST_AIR_TURNS
    )


def _wants_drying(s: Situation) -> bool:
    last = s.turns.last
    wetted = last is not None and last.step in ("wet_swab", "corner_swab")
    third = (
        s.tools.dry_wet_dry
        and last is not None
        and last.step == "wet_swab"
        and not s.pushed_to_edges
    )
    return s.turns.streaked or (wetted and s.saw("fluid_stood")) or third


def _wants_corners(s: Situation) -> bool:
    tried = s.turns.times("corner_swab") >= _MOST_TIMES["corner_swab"]
    return s.pushed_to_edges and not s.gritty and not tried and not s.turns.failed("corner_swab")


def contact_candidates(s: Situation) -> list[Decision]:
    """Contact steps that make sense for this dirt and have not failed, in the school's order."""
    if s.stain != "dust" or s.saw("gel_left"):
        order: list[str] = ["wet_swab"]
    else:
        order = list(s.schools.contact_order or _DRY_ORDER)
        order = order if "brush" in order else ["brush", *order]
        order = [name for name in order if name != "brush" or s.tools.brush]
    steps: list[Decision] = []
    for name in order:
        for step in _expanded(s, name):
            if step not in steps and _still_open(s, step):
                steps.append(step)
    return steps


def open_steps(s: Situation) -> list[Decision]:
    """Contact steps of any school that have not failed, the gentlest first."""
    return [step for step in _STEPS.values() if _still_open(s, step)]


def _expanded(s: Situation, name: str) -> tuple[Decision, ...]:
    """The steps of a school; dry, wet, dry goes in that order and leaves none out."""
    if name == "dry_wet_dry":
        return ("wet_swab",) if s.turns.times("dry_swab") else ("dry_swab",)
    return (_STEPS[name],)


def _still_open(s: Situation, step: Decision) -> bool:
    if s.gritty and step in SLIDES:
        return False
    if s.turns.times(step) >= _MOST_TIMES[step]:
        return False
    if step == "lift" and not s.dry_spots:
        return False
    if step in ("brush", "dry_swab") and s.would_smear:
        return False
    if step == "wet_swab":
        return not s.turns.wet_failed or _another_fluid(s)
    return not s.turns.failed(step)


def _another_fluid(s: Situation) -> bool:
    """After a wet swab that did not help: the right fluid, where that was not the one used, or
    where it streaked once and a dry follow-up was tried.

    A streak that a dry follow-up left is given to a service, unless that fluid is owned.
    """
    if not s.turns.failed_fluids:
        return s.turns.streak_followed and bool(s.tools.fluids)
    if s.tools.fluids:
        return True
    return s.tools.a_better_fluid_is_known and not s.turns.streak_followed
