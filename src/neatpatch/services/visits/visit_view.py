"""A visit as the page shows it, made from its case."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain, islice

from neatpatch.core.advice import advise
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.compare.comparison import Comparison, Status
from neatpatch.core.guide.opening import recipe_words
from neatpatch.core.visit.facts import merged_schools
from neatpatch.core.visit.outcomes import StepOutcome
from neatpatch.core.visit.trail import TrailStep, relevant_spots
from neatpatch.services.visits.loaded_visit import LoadedVisit
from neatpatch.services.visits.view_records import (
    FrameOnTrail,
    StepOnTrail,
    StockUse,
    TrailItem,
    VisitView,
)
from neatpatch.store.visits import StoredEntry

_MOST_DOTS = 80


def visit_view(case: LoadedVisit) -> VisitView:
    """All of it for the page."""
    v = case.visit
    return VisitView(
        id=v.id,
        body_id=v.body_id,
        body=case.body,
        virtual=case.virtual,
        state=v.state,
        conditions=v.conditions,
        schools=merged_schools(case.usual, v.conditions.schools),
        works_at=case.works_at,
        verdict=v.verdict,
        note=v.note,
        until=v.until,
        version=v.version,
        conditions_version=v.conditions_version,
        body_version=case.stored_body.version,
        opened_at=v.opened_at,
        closed_at=v.closed_at,
        cost=round(sum(-m.change * (m.unit_price or 0.0) for m in case.moves), 2),
        unpriced=sum(1 for m in case.moves if m.unit_price is None),
        trail=[_item(case, e) for e in case.entries],
        latest_frame_id=case.latest.frame_id if case.latest else None,
        recipe=_recipe(case),
        unfit=_unfit(case),
        place=case.place,
        offered=case.earlier.offered(),
        earlier=case.earlier.view(case.since_service),
        look_again_on=v.look_again_on,
        advice=advise(case.facts),
        jobs=case.jobs,
    )


def _unfit(case: LoadedVisit) -> list[str]:
    """Why the newest frame must be shot again, and how; nothing where it is fit."""
    spot_map = case.latest_map()
    checks = spot_map.checks if spot_map else ()
    return [f"{c.message} {c.remedy}" for c in checks if c.level == "retake"]


def _recipe(case: LoadedVisit) -> str:
    """How the newest frame was shot, for the next one; empty before the first."""
    spot_map = case.recipe_map()
    return recipe_words(spot_map.frames[0]) if spot_map else ""


def _item(case: LoadedVisit, entry: StoredEntry) -> TrailItem:
    if entry.step is not None:
        return TrailItem(id=entry.id, at=entry.at, step=_step(case, entry))
    return TrailItem(id=entry.id, at=entry.at, frame=_frame(case, entry))


def _step(case: LoadedVisit, entry: StoredEntry) -> StepOnTrail:
    outcome = case.outcomes.get(entry.id, StepOutcome(tested=False, result=None, comparison=None))
    step = TrailStep.model_validate({"id": entry.id, "step": entry.step}).step
    return StepOnTrail(
        took=[
            StockUse(
                kit_id=m.kit_id,
                thing=m.thing,
                amount=round(-m.change, 3),
                unit=case.units.get(m.kit_id or 0),
            )
            for m in reversed(case.moves)
            if m.trail_id == entry.id
        ],
        step=step,
        use=entry.use,
        against=entry.against,
        who=entry.who,
        tested=outcome.tested,
        result=outcome.result,
        counts=outcome.comparison.summary if outcome.comparison else None,
        places=_places(outcome.comparison, case.tested_by(entry.id)) if outcome.comparison else [],
    )


def _places(comparison: Comparison, after: SpotMap | None) -> list[tuple[float, float, Status]]:
    """Where a step changed something, and where not, as shares of the later picture."""
    if after is None or not comparison.comparable:
        return []
    record = after.frames[0]
    order: tuple[Status, ...] = ("new", "gone", "moved", "fainter", "stayed", "unseen")
    spots = sorted(comparison.spots, key=lambda s: order.index(s.status))[:_MOST_DOTS]
    return [
        (round(s.x_px / record.width_px, 4), round(s.y_px / record.height_px, 4), s.status)
        for s in spots
    ]


def _frame(case: LoadedVisit, entry: StoredEntry) -> FrameOnTrail:
    spot_map = case.maps[entry.id]
    assert entry.frame_id is not None
    record = spot_map.frames[0] if spot_map else None
    relevant = relevant_spots(spot_map, case.works_at) if spot_map else []
    wall = case.known.walls.get(entry.id, set())
    relevant = [s for s in relevant if s.id not in wall]
    return FrameOnTrail(
        frame_id=entry.frame_id,
        name=entry.frame_name or "frame",
        ready=spot_map is not None,
        relevant=len(relevant) if record and record.f_number else None,
        count=spot_map.summary.count if spot_map else None,
        fit=spot_map.fit if spot_map else None,
        f_number=record.f_number if record else None,
        orientation=record.orientation if record else 1,
        proportion=record.width_px / record.height_px if record else 1.5,
        dots=_dots(spot_map, relevant) if spot_map else [],
        doubts=list(case.doubts(entry)),
        wall=sorted(wall),
        members=case.members.get(entry.frame_id, 0),
        trouble=entry.trouble,
    )


def _dots(spot_map: SpotMap, relevant: Sequence[Spot]) -> list[tuple[float, float, bool]]:
    """Spots for a small map: the relevant ones first, as shares of the picture."""
    record = spot_map.frames[0]
    first = {s.id for s in relevant}
    rest = (s for s in spot_map.spots if s.site in ("sensor", "unsure") and s.id not in first)
    return [
        (round(s.x_px / record.width_px, 4), round(s.y_px / record.height_px, 4), s.id in first)
        for s in islice(chain(relevant, rest), _MOST_DOTS)
    ]
