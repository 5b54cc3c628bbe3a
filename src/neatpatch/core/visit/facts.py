"""The facts of a visit, as the judgement looks at them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from neatpatch.core.common.facts import (
    CameraFacts,
    ChangeFacts,
    DoneStep,
    Facts,
    FrameFactsGiven,
    FrameSite,
    KitItem,
    OperatorFacts,
    RoomFacts,
    Schools,
    ServiceFacts,
    SpotFacts,
    Where,
    WorkFacts,
)
from neatpatch.core.common.records import (
    Spot,
    SpotMap,
    on_outer_glass,
)
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.compare.refusals import reasons_not_to_compare
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.outcomes import StepOutcome, step_outcomes
from neatpatch.core.visit.place import PlaceFinding
from neatpatch.core.visit.trail import (
    TrailEntry,
    TrailFrame,
    TrailStep,
    relevant_spots,
    works_relevant,
)

_EDGE_SHARE = 0.12
"""Of the frame's sides: where swabs end their strokes. More calls ordinary spread edges."""
_MOSTLY = 0.6
"""Share of spots that makes a pattern; less names one by chance."""


@dataclass(frozen=True, kw_only=True)
class VisitContext:
    """What is known beside a visit: kit, methods, service, calendar.

    The clock stays outside: days and warranty are worked out before. ``outcomes`` of the steps may
    be handed in where they are known already. ``place``: what the frames tell of the marks' place.
    ``planned_presses``: of the lift, on the newest map.
    """

    kit: Sequence[KitItem] = ()
    schools: Schools = field(default_factory=Schools)
    service: ServiceFacts = field(default_factory=ServiceFacts)
    job_in_days: float | None = None
    under_guarantee: bool | None = None
    outcomes: dict[int, StepOutcome] | None = None
    place: PlaceFinding | None = None
    planned_presses: int | None = None


def facts_of(
    body: Body,
    conditions: VisitConditions,
    trail: Sequence[TrailEntry],
    beside: VisitContext | None = None,
) -> Facts:
    """The facts of a visit, as the judgement looks at them."""
    beside = beside or VisitContext()
    frames = _measured(trail)
    latest = frames[-1] if frames else None
    before = next((m for m in reversed(frames[:-1]) if m.fit), None)
    outcomes = beside.outcomes
    if outcomes is None:
        outcomes = step_outcomes(trail, body.smallest_worked)
    last = next(
        (
            o.comparison
            for e in reversed(trail)
            if isinstance(e, TrailStep) and (o := outcomes[e.id])
        ),
        None,
    )
    return Facts(
        camera=_camera(body, conditions, beside.under_guarantee),
        frame=_frame(_Newest(latest, before, last, beside.place), body, conditions)
        if latest
        else None,
        observed=conditions.observed,
        work=WorkFacts(apertures=body.works_at),
        done=tuple(
            _done(entry, outcomes[entry.id]) for entry in trail if isinstance(entry, TrailStep)
        ),
        kit=tuple(beside.kit),
        room=RoomFacts(
            temperature_c=conditions.temperature_c,
            humidity_percent=conditions.humidity_percent,
            moving_air=conditions.moving_air,
            surface=conditions.surface,
            clean=conditions.room_clean,
        ),
        operator=OperatorFacts(experience=conditions.experience, asks_for=conditions.asks_for),
        schools=merged_schools(beside.schools, conditions.schools),
        job_in_days=beside.job_in_days,
        service=beside.service,
        photos_waiting=conditions.photos_waiting,
        planned_presses=beside.planned_presses,
    )


def merged_schools(usual: Schools, this_visit: Schools) -> Schools:
    """The visit's own choices over the usual ones."""
    own = {k: v for k, v in this_visit.model_dump().items() if v is not None}
    return usual.model_copy(update=own)


def _camera(body: Body, conditions: VisitConditions, under_guarantee: bool | None) -> CameraFacts:
    return CameraFacts(
        access=body.access,
        sensor_mm=body.sensor_mm,
        stabilised=body.stabilised,
        hold_rule=body.hold_rule,
        closes_when_off=body.closes_when_off,
        filter_removed=body.filter_removed,
        contact_allowed_by_modifier=body.modifier_allows,
        self_clean=body.self_clean,
        under_guarantee=under_guarantee,
        power=conditions.power,
        battery_percent=conditions.battery_percent,
        mains=conditions.mains,
        mirror_up=conditions.mirror_up,
        temperature_c=conditions.camera_c,
    )


def _measured(trail: Sequence[TrailEntry]) -> list[SpotMap]:
    return [e.spot_map for e in trail if isinstance(e, TrailFrame) and e.spot_map is not None]


@dataclass(frozen=True)
class _Newest:
    """The newest map, the one before it, the last comparison, and what is known of the place."""

    spot_map: SpotMap
    before: SpotMap | None
    last: Comparison | None
    place: PlaceFinding | None

    @property
    def wall(self) -> set[str]:
        return set(self.place.wall) if self.place else set()


def _frame(newest: _Newest, body: Body, conditions: VisitConditions) -> FrameFactsGiven:
    latest, works_at = newest.spot_map, body.smallest_worked
    visible = [s for s in relevant_spots(latest, works_at) if s.id not in newest.wall]
    spots = [s for s in visible if not s.inside_filter]
    lens = [s for s in latest.spots if s.site == "lens" and works_relevant(s, works_at)]
    proved = newest.place.proved if newest.place else False
    hidden = newest.place is not None and newest.place.hidden
    site = "unsure" if hidden else _site(spots, lens, proved=proved is True)
    counted = lens if site == "rear_lens" else spots
    own = [s for s in on_outer_glass(latest.spots) if s.id not in newest.wall]
    change = None
    if newest.last is not None:
        s = newest.last.summary
        change = ChangeFacts(gone=s.gone, stayed=s.stayed + s.fainter, moved=s.moved, new=s.new)
    before = newest.before
    kinds = sorted({s.kind for s in counted})
    return FrameFactsGiven(
        fit=latest.fit,
        f_number=latest.frames[0].f_number or conditions.shot_at_f,
        comparable=None if before is None else not reasons_not_to_compare(before, latest),
        spots=SpotFacts(
            total=len(lens) if site == "rear_lens" else len(own) + len(lens),
            relevant=len(counted),
            by_kind={kind: sum(1 for s in counted if s.kind == kind) for kind in kinds},
        ),
        site=site,
        site_proved=proved if spots else None,
        unexplained=bool(newest.place and newest.place.unexplained) or None,
        lens_marks=len(lens),
        inside_filter=len(visible) - len(spots),
        where=where_of(counted, latest),
        change=change,
    )


def _site(spots: Sequence[Spot], lens: Sequence[Spot], *, proved: bool) -> FrameSite:
    if not spots:
        return "rear_lens" if lens else "sensor"
    unsure = sum(1 for s in spots if s.site == "unsure")
    return "unsure" if unsure > len(spots) / 2 and not proved else "sensor"


def where_of(spots: Sequence[Spot], spot_map: SpotMap) -> Where:
    """Where the spots lie: at the edges, in the middle third, a single one, or spread."""
    if len(spots) == 1:
        return "single"
    frame = spot_map.frames[0]
    places = [(s.x_px / frame.width_px, s.y_px / frame.height_px) for s in spots]
    margin = [min(x, 1 - x, y, 1 - y) for x, y in places]
    if places and sum(m < _EDGE_SHARE for m in margin) >= _MOSTLY * len(places):
        return "edges"
    if places and sum(m > 1 / 3 for m in margin) >= _MOSTLY * len(places):
        return "middle"
    return "spread"


def _done(entry: TrailStep, outcome: StepOutcome) -> DoneStep:
    use = entry.use
    return DoneStep(
        step=entry.step,
        tested=outcome.tested,
        result=outcome.result,
        runs=use.runs,
        opening=use.opening,
        drops=use.drops,
        tip_bent=use.tip_bent,
        fluid=use.fluid,
        item=use.item,
        waited_s=use.waited_s,
        temperature_c=use.temperature_c,
        humidity_percent=use.humidity_percent,
        swabs=use.swabs,
        dabs=use.dabs,
        puffs=use.puffs,
        strokes=use.strokes,
    )
