"""Why a swab streaked: what was recorded of it, held against what leaves streaks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.situation import Situation
from neatpatch.core.advice.tools import FLUID_RANKS
from neatpatch.core.common.facts import DoneStep
from neatpatch.core.common.words import temperatures
from neatpatch.core.plans.drying import GOOD_C, GOOD_PERCENT
from neatpatch.core.plans.swab import PLAN_TOOLS, Drops, drops_for

MOST_WAIT_S = 20
"""Drops even out in some ten seconds; an edge that waits longer dries before the stroke."""


@dataclass(frozen=True)
class Cause:
    """``holds`` for a step and its situation; ``words`` say what was recorded and what to do."""

    name: str
    holds: Callable[[Situation, DoneStep], bool]
    words: Callable[[DoneStep], str]
    reads: str


def _drops(d: DoneStep) -> Drops:
    """What the tool of a step takes; a swab where that was not recorded."""
    known = {str(item): tool for item, tool in PLAN_TOOLS.items()}
    return drops_for(known.get(d.item or "", "swab"))


def _too_many_drops(s: Situation, d: DoneStep) -> bool:
    """More than the tool takes, or than its maker names for the one owned."""
    own = [k.drops for k in s.facts.kit if k.drops is not None and k.item == (d.item or d.step)]
    return d.drops is not None and d.drops > max([_drops(d).most, *own])


def _cold_or_damp(_s: Situation, d: DoneStep) -> bool:
    t, h = d.temperature_c, d.humidity_percent
    cold = t is not None and not GOOD_C[0] <= t <= GOOD_C[1]
    return cold or (h is not None and h > GOOD_PERCENT)


def _air_words(d: DoneStep) -> str:
    parts = []
    if d.temperature_c is not None:
        parts.append(temperatures(d.temperature_c))
    if d.humidity_percent is not None:
        parts.append(f"{d.humidity_percent:g} %")
    return f"the air ({', '.join(parts)}): fluid dries unevenly in it."


def _wrong_fluid(s: Situation, d: DoneStep) -> bool:
    return bool(d.fluid) and FLUID_RANKS[s.stain].get(d.fluid or "", 0) == 0


def _several_wet(s: Situation, d: DoneStep) -> bool:
    before = s.turns.done[: s.turns.done.index(d)]
    return bool(before) and before[-1].step == "wet_swab" and d.step == "wet_swab"


CAUSES: tuple[Cause, ...] = (
    Cause(
        "drops",
        _too_many_drops,
        lambda d: f"{d.drops:g} drops: {_drops(d).most} at most, {_drops(d).usual} as a rule.",
        "more drops than the tool takes: three on a swab, five a side on a cloth wand",
    ),
    Cause(
        "tip",
        lambda s, d: d.tip_bent is True or s.saw("tip_bent"),
        lambda _d: "the bent tip: pressed that hard, it squeezes fluid out behind it.",
        "the tip was bent",
    ),
    Cause(
        "wait",
        lambda s, d: s.saw("fluid_stood") or (d.waited_s or 0) > MOST_WAIT_S,
        lambda _d: "the wait: fluid that stands dries along its edge. Stroke within seconds.",
        "fluid stood, or the stroke came more than twenty seconds after the drops",
    ),
    Cause("air", _cold_or_damp, _air_words, "below 18 °C, above 28 °C, or damper than 60 %"),
    Cause(
        "row",
        _several_wet,
        lambda _d: "wet swabs in a row: let it dry, or dry it, between them.",
        "the step before was a wet swab, too",
    ),
    Cause(
        "fluid",
        _wrong_fluid,
        lambda d: f"the fluid: {(d.fluid or '').replace('_', '-')} does not suit what is there.",
        "the fluid does not suit what is left",
    ),
    Cause(
        "not_kit_own",
        lambda s, d: any(k.kind == d.fluid and k.kit_own is False for k in s.facts.kit if d.fluid),
        lambda _d: "the fluid: it is not the kit's own.",
        "the fluid is not the kit's own",
    ),
)
"""Likeliest first, by how directly each puts standing fluid onto the glass."""


def streak_causes(s: Situation) -> list[str]:
    """Why the last streak came, one sentence a cause, the likeliest first.

    Empty where nothing streaked, or nothing recorded tells why.
    """
    marks = [d for d in s.turns.done if d.result == "streaks"]
    if not marks:
        return []
    d = marks[-1]
    found = [cause.words(d) for cause in CAUSES if cause.holds(s, d)]
    leads = ["It streaked most likely from", *["Perhaps also from"] * len(found)]
    return [f"{lead} {words}" for lead, words in zip(leads, found, strict=False)]
