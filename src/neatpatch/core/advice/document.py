"""The judgement as a page to read: written from the tables, so that it cannot differ from them."""

from __future__ import annotations

import inspect

from neatpatch.core.advice import situation, streaks, turns
from neatpatch.core.advice.bars import NEVER, NOT_FOR_SENSORS, STEP_BARS
from neatpatch.core.advice.cautions import CAUTIONS
from neatpatch.core.advice.gates import GATES, WANTS
from neatpatch.core.advice.rules import RULES, RUNG_REASONS
from neatpatch.core.advice.streaks import CAUSES
from neatpatch.core.common.words import with_room
from neatpatch.core.plans import swab

_LIMITS = (
    "FULL_BATTERY_PERCENT",
    "OIL_EVERYWHERE",
    "MOST_LENS_TURNS",
    "YEARLY_MONTHS",
    "MANY",
    "ALIKE",
    "LEAST_F",
    "MOST_F",
)
_TURN_LIMITS = (
    "SHAKE_RUNS",
    "MOST_SHAKES",
    "MOST_AIR_TURNS",
    "MOST_HELPFUL_AIR",
    "MOST_STIRS",
    "MOST_WET_SWABS",
    "MOST_BAD_TURNS",
)
_STREAK_LIMITS = ("MOST_WAIT_S",)
_SWAB_LIMITS = ("CHAMBER_PLAY_MM", "MATCHED_UNDER_MM")


def judgement_text() -> str:
    """docs/judgement.md as a whole."""
    return "\n".join(
        [
            "# How the next move is decided",
            "",
            "Written from the rules in `neatpatch.core.advice` by `make judgement`; a test keeps "
            "it true. The first rule that holds decides. The camera's handbook, local rules and "
            "licensed repairers go before anything said here.",
            "",
            "## Rules, from first to last",
            "",
            "| rule | holds when | decision |",
            "|---|---|---|",
            *(f"| {r.name} | {r.reads or 'see below'} | {_decision(r.decision)} |" for r in RULES),
            "",
            "## Rungs",
            "",
            "| rung | why |",
            "|---|---|",
            *(f"| `{step}` | {why} |" for step, why in RUNG_REASONS.items()),
            "",
            "## Gates",
            "",
            "A shut gate turns the next rung into `prepare`.",
            "",
            "| gate | bars | why | how to open it |",
            "|---|---|---|---|",
            *(f"| {g.code} | {_steps(g.steps)} | {g.why} | {with_room(g.need)} |" for g in GATES),
            "",
            "## What a rung needs",
            "",
            "What is missing is named with its reason: used up, expired, of another width.",
            "",
            "| rung | you need |",
            "|---|---|",
            *(f"| `{step}` | {w.lay_out} |" for step, w in WANTS.items()),
            "",
            "## Reasons that bar contact",
            "",
            "| code | words |",
            "|---|---|",
            *(f"| {b.code} | {b.text} |" for b in STEP_BARS),
            *(f"| {action}: {code} | {text} |" for action, code, text in NEVER + NOT_FOR_SENSORS),
            "",
            "## Cautions",
            "",
            "| code | words | with |",
            "|---|---|---|",
            *(f"| {c.code} | {with_room(c.text)} | {_steps(c.decisions)} |" for c in CAUTIONS),
            "",
            "## Why it streaked",
            "",
            "Likeliest first; each from what was recorded of the step.",
            "",
            "| cause | holds when |",
            "|---|---|",
            *(f"| {c.name} | {c.reads} |" for c in CAUSES),
            "",
            "## Limits",
            "",
            "| name | value |",
            "|---|---|",
            *(f"| {name} | {getattr(situation, name):g} |" for name in _LIMITS),
            *(f"| {name} | {getattr(turns, name):g} |" for name in _TURN_LIMITS),
            *(f"| {name} | {getattr(streaks, name):g} |" for name in _STREAK_LIMITS),
            *(f"| {name} | {getattr(swab, name):g} |" for name in _SWAB_LIMITS),
            "",
        ]
    )


def _decision(decision: object) -> str:
    if isinstance(decision, str):
        return f"`{decision}`"
    name = getattr(decision, "__name__", "")
    doc = inspect.getdoc(decision) or name
    return doc.splitlines()[0]


def _steps(steps: tuple[str, ...]) -> str:
    return ", ".join(f"`{s}`" for s in steps)
