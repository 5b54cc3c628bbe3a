"""Which rung of the ladder comes next, whether or not it may be climbed yet."""

from __future__ import annotations

from neatpatch.core.advice.situation import MOST_AIR_TURNS, Situation
from neatpatch.core.common.decisions import Decision

_DRY_ORDER: tuple[str, ...] = ("lift", "dry_swab", "wet_swab")
_MOST_TIMES = {"brush": 1, "lift": 3, "dry_swab": 2, "wet_swab": 2}
_TOOLS: dict[Decision, tuple[str, ...]] = {
    "brush": ("charged_brush",),
    "lift": ("gel_stick", "silicone_pad"),
    "dry_swab": ("dry_swab",),
    "wet_swab": ("wet_swab", "moist_wipe"),
}
SLIDES: tuple[Decision, ...] = ("brush", "dry_swab", "wet_swab", "dry_followup", "corner_swab")
"""Steps that move something across the glass, and drag grit with it."""


def next_rung(s: Situation) -> Decision | None:
    """The least risky step that has not failed yet; None when all have been tried.

    Among contact steps the first one the kit allows, else one whose tool is there but not all that
    goes with it, else the first one wanted.
    """
    if s.camera.self_clean is True and not s.times("auto_clean") and not s.contact_made:
        return "auto_clean"
    if not s.air_done:
        return "air"
    if _wants_drying(s) and not s.gritty:
        return "dry_followup"
    if s.pushed_to_edges and not s.gritty:
        return "corner_swab"
    if _wants_more_air(s):
        return "air"
    wanted = contact_candidates(s)
    equipped = [step for step in wanted if s.equipped(step)]
    begun = [step for step in wanted if any(s.has_named(tool) for tool in _TOOLS[step])]
    return next(iter([*equipped, *begun, *wanted]), None)


def _wants_drying(s: Situation) -> bool:
    standing = s.saw("fluid_stood") and s.last is not None and s.last.step != "dry_followup"
    third = (
        "dry_wet_dry" in (s.schools.contact_order or ())
        and s.last is not None
        and s.last.step == "wet_swab"
        and not s.pushed_to_edges
    )
    return s.streaked or standing or third


def _wants_more_air(s: Situation) -> bool:
    helped = s.last is not None and s.last.step == "air" and s.last.result == "fewer"
    stronger = s.gritty and s.strong_blower and not s.contact_made
    return (helped or stronger) and s.good_air_turns < MOST_AIR_TURNS


def contact_candidates(s: Situation) -> list[Decision]:
    """Contact steps that make sense for this dirt and have not failed, in the school's order."""
    if s.stain != "dust" or s.saw("gel_left"):
        order: list[str] = ["wet_swab"]
    else:
        order = list(s.schools.contact_order or _DRY_ORDER)
        if s.brush:
            order.insert(0, "brush")
    steps: list[Decision] = []
    for name in order:
        for step in _expanded(name):
            if step not in steps and _still_open(s, step):
                steps.append(step)
    return steps


def _expanded(name: str) -> tuple[Decision, ...]:
    known: dict[str, tuple[Decision, ...]] = {
        "dry_wet_dry": ("dry_swab", "wet_swab"),
        "lift": ("lift",),
        "brush": ("brush",),
        "dry_swab": ("dry_swab",),
        "wet_swab": ("wet_swab",),
    }
    return known[name]


def _still_open(s: Situation, step: Decision) -> bool:
    if s.gritty and step in SLIDES:
        return False
    return not s.failed(step) and s.times(step) < _MOST_TIMES[step]
