"""What a step of a visit is guided by: its body, plan and kit, and what was done already."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import pairwise

from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import OPENS, Decision
from neatpatch.core.guide.guidance import Length
from neatpatch.core.guide.instruction import Setting
from neatpatch.core.guide.opening import recipe_words
from neatpatch.core.maps.mount_view import Aim, Pose
from neatpatch.core.plans.power import PowerPlan, plan_power
from neatpatch.core.plans.swab import Hand
from neatpatch.core.visit.trail import TrailFrame
from neatpatch.services.visits.loaded_visit import LoadedVisit

STAYS_CLEAN = timedelta(hours=1)
"""Hands, table and cap are made ready once an hour: sooner nags, later lets dust settle."""


def guide_setting(
    case: LoadedVisit, step: Decision, pose: Pose, hand: Hand, aims: tuple[Aim, ...]
) -> Setting:
    """All that the guide of a step is made from."""
    facts = case.facts
    situation = Situation(facts)
    recipe = case.recipe_map()
    return Setting(
        body=case.body,
        aims=aims,
        plan=case.plan(step, pose, hand),
        power=_power(case, step),
        kit=case.kit,
        recipe=recipe.frames[0] if recipe else None,
        drying=situation.drying,
        tool=situation.tools.tool_for(step) if step in OPENS else None,
        fluid=situation.tools.fluid,
        lens_turns=sum(1 for d in facts.done if d.step == "clean_lens"),
        made_ready=_made_ready(case, datetime.now(UTC)),
        recipe_told=_recipe_told(case),
        schools=facts.schools,
        strong_air=facts.schools.air == "strong" or bool(situation.turns.good_air),
    )


def usual_length(case: LoadedVisit) -> Length:
    """The practised are offered the short guide; hands not told of get the full one."""
    practised = case.facts.operator.experience in ("practised", "expert")
    return "short" if practised else "full"


def _power(case: LoadedVisit, step: Decision) -> PowerPlan | None:
    """How long the lock-up lasts; None for bodies and steps without one."""
    if case.body.access != "mirror" or step not in OPENS:
        return None
    now = case.visit.conditions
    return plan_power(case.body.lockup_minutes, now.battery_percent, now.mains)


def _made_ready(case: LoadedVisit, now: datetime) -> bool:
    """Whether a step of this visit opened the camera within the hour."""
    opened = [_moment(e.at) for e in case.entries if e.step in OPENS]
    return bool(opened) and timedelta(0) <= now - max(opened) < STAYS_CLEAN


def _moment(at: str) -> datetime:
    """Of an entry; one without an offset is local."""
    return datetime.fromisoformat(at).astimezone(UTC)


def _recipe_told(case: LoadedVisit) -> bool:
    """Whether this visit shot two frames by the recipe that comes next."""
    maps = [e.spot_map for e in case.trail if isinstance(e, TrailFrame) and e.spot_map]
    fit = [recipe_words(m.frames[0]) for m in maps if m.fit]
    return any(a == b == fit[-1] for a, b in pairwise(fit))
