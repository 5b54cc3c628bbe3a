"""One body and one cleaning: records of a visit, and the facts that follow from them.

The trail runs frame, step, frame, step. What a step did is not entered by hand: it follows from the
frames before and after it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Literal

from pydantic import Field, model_validator

from neatpatch.core.advice.facts import (
    Access,
    CameraFacts,
    ChangeFacts,
    DoneStep,
    Experience,
    Facts,
    FrameFactsGiven,
    FrameSite,
    KitItem,
    Observed,
    OperatorFacts,
    Power,
    Result,
    RoomFacts,
    Schools,
    ServiceFacts,
    SpotFacts,
    Step,
    Where,
    WorkFacts,
)  # fmt: skip
from neatpatch.core.comparing import Comparison, compare, reasons_against
from neatpatch.core.records import (
    Day,
    Flag,
    Given,
    Number,
    Record,
    Spot,
    SpotMap,
    Whole,
)

_EDGE_SHARE = 0.12
_MOSTLY = 0.6
_SAME_COUNT = 0.2
_STIRRED_SHARE = 0.4
_FEWER_SHARE = 0.05
Verdict = Literal["finished", "deferred", "sent", "given_up"]


class Body(Given):
    """A camera body as its owner describes it; pitch and stack height are learned from frames.

    ``lockup_minutes``: how long a full battery holds the mirror up, by the owner's own note.
    ``chamber_mm``: distance of the chamber's walls across a swab. The lens is the one its test
    frames are shot with.
    """

    name: str = Field(min_length=1, max_length=80)
    camera_name: str | None = Field(default=None, max_length=120)
    access: Access = "mirrorless"
    sensor_mm: tuple[Number, Number]
    stabilised: Flag | None = None
    hold_rule: Power | None = None
    hold_note: str = Field(default="", max_length=400)
    self_clean: Flag = False
    filter_removed: Flag = False
    guarantee_until: Day | None = None
    flange_mm: Number | None = Field(default=None, gt=0, le=400)
    works_at: tuple[Number, ...] = (8.0, 16.0)
    lockup_note: str = Field(default="", max_length=400)
    lockup_minutes: Number | None = Field(default=None, gt=0, le=600)
    chamber_mm: Number | None = Field(default=None, gt=0, le=300)
    lens_focal_mm: Number | None = Field(default=None, ge=4, le=2000)
    lens_smallest_f: Number | None = Field(default=None, ge=1, le=128)
    pitch_um: Number | None = None
    stack_mm: Number | None = None

    @model_validator(mode="after")
    def _sizes_are_real(self) -> Body:
        if not all(3 <= side <= 120 for side in self.sensor_mm):
            raise ValueError("the sensor's sides must be 3 to 120 mm long")
        if self.chamber_mm is not None and self.chamber_mm < min(self.sensor_mm):
            raise ValueError("the chamber cannot be narrower than the sensor's short side")
        if not self.works_at or not all(0.7 <= n <= 64 for n in self.works_at):
            raise ValueError("give at least one working aperture between f/0.7 and f/64")
        return self

    @property
    def smallest_worked(self) -> float:
        """The smallest opening worked at: what shows there matters."""
        return max(self.works_at)


class VisitConditions(Given):
    """What cannot be known from frames: why now, the room, power, hands, the next job."""

    why_now: str = Field(default="", max_length=400)
    temperature_c: Number | None = Field(default=None, ge=-40, le=60)
    humidity_percent: Number | None = Field(default=None, ge=0, le=100)
    camera_c: Number | None = Field(default=None, ge=-40, le=60)
    moving_air: Flag | None = None
    surface: Literal["bare", "fabric"] | None = None
    room_clean: Flag | None = None
    power: Power | None = None
    battery_percent: Number | None = Field(default=None, ge=0, le=100)
    mains: Flag | None = None
    mirror_up: Flag | None = None
    experience: Experience | None = None
    asks_for: str | None = Field(default=None, max_length=40)
    job_on: Day | None = None
    photos_waiting: Whole | None = Field(default=None, ge=0, le=1_000_000)
    observed: tuple[Observed, ...] = ()
    schools: Schools = Schools()


class StepUse(Given):
    """What a step used, as far as it was counted."""

    opening: Literal["down", "up"] | None = None
    runs: Whole | None = Field(default=None, ge=0, le=1000)
    puffs: Whole | None = Field(default=None, ge=0, le=10_000)
    dabs: Whole | None = Field(default=None, ge=0, le=1000)
    strokes: Whole | None = Field(default=None, ge=0, le=1000)
    swabs: Whole | None = Field(default=None, ge=0, le=100)
    drops: Number | None = Field(default=None, ge=0, le=100)
    tip_bent: Flag | None = None
    open_s: Number | None = Field(default=None, ge=0, le=1e6)
    note: str | None = Field(default=None, max_length=400)


class TrailFrame(Record):
    """A frame on the trail; ``spot_map`` is None while it is being measured."""

    id: int
    spot_map: SpotMap | None


class TrailStep(Record):
    """A step on the trail."""

    id: int
    step: Step
    use: StepUse = StepUse()


TrailEntry = TrailFrame | TrailStep


class StepOutcome(Record):
    """What a step did, by the frames around it."""

    tested: bool
    result: Result | None
    comparison: Comparison | None


def works_relevant(spot: Spot, works_at: float) -> bool:
    """Whether a spot shows at the smallest aperture worked at."""
    return spot.shows_from_f is not None and spot.shows_from_f <= works_at


def relevant_spots(spot_map: SpotMap, works_at: float) -> list[Spot]:
    """Spots that are, or may be, on the sensor and show at the apertures worked at."""
    return [
        s
        for s in spot_map.spots
        if s.shows_from_f is not None
        and s.shows_from_f <= works_at
        and s.site in ("sensor", "unsure")
    ]


def facts_of(
    body: Body, conditions: VisitConditions, trail: Sequence[TrailEntry], *,
    kit: Sequence[KitItem] = (), schools: Schools | None = None,
    service: ServiceFacts | None = None, job_in_days: float | None = None,
    under_guarantee: bool | None = None, outcomes: dict[int, StepOutcome] | None = None,
) -> Facts:  # fmt: skip
    """The facts of a visit. The clock stays outside: days and guarantee are worked out before.

    ``outcomes`` of the steps may be handed in where they are known already.
    """
    frames = _measured(trail)
    latest = frames[-1] if frames else None
    before = frames[-2] if len(frames) > 1 else None
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
        camera=_camera(body, conditions, under_guarantee),
        frame=_frame(latest, before, last, body.smallest_worked) if latest else None,
        observed=conditions.observed,
        work=WorkFacts(apertures=body.works_at),
        done=tuple(
            _done(entry, outcomes[entry.id]) for entry in trail if isinstance(entry, TrailStep)
        ),
        kit=tuple(kit),
        room=RoomFacts(
            temperature_c=conditions.temperature_c, humidity_percent=conditions.humidity_percent,
            moving_air=conditions.moving_air, surface=conditions.surface,
            clean=conditions.room_clean,
        ),
        operator=OperatorFacts(experience=conditions.experience, asks_for=conditions.asks_for),
        schools=merged_schools(schools or Schools(), conditions.schools),
        job_in_days=job_in_days, service=service or ServiceFacts(),
        photos_waiting=conditions.photos_waiting,
    )  # fmt: skip


def merged_schools(usual: Schools, this_visit: Schools) -> Schools:
    """The visit's own choices over the usual ones."""
    own = {k: v for k, v in this_visit.model_dump().items() if v is not None}
    return usual.model_copy(update=own)


def _camera(body: Body, conditions: VisitConditions, under_guarantee: bool | None) -> CameraFacts:
    return CameraFacts(
        access=body.access, sensor_mm=body.sensor_mm, stabilised=body.stabilised,
        hold_rule=body.hold_rule, filter_removed=body.filter_removed, self_clean=body.self_clean,
        under_guarantee=under_guarantee, power=conditions.power,
        battery_percent=conditions.battery_percent, mains=conditions.mains,
        mirror_up=conditions.mirror_up, temperature_c=conditions.camera_c,
    )  # fmt: skip


def _measured(trail: Sequence[TrailEntry]) -> list[SpotMap]:
    return [e.spot_map for e in trail if isinstance(e, TrailFrame) and e.spot_map is not None]


def _frame(
    latest: SpotMap, before: SpotMap | None, last: Comparison | None, works_at: float
) -> FrameFactsGiven:
    spots = relevant_spots(latest, works_at)
    lens = [s for s in latest.spots if s.site == "lens" and works_relevant(s, works_at)]
    site = _site(spots, lens)
    counted = lens if site == "rear_lens" else spots
    total = (
        [s for s in latest.spots if s.site == "lens"]
        if site == "rear_lens"
        else [s for s in latest.spots if s.site in ("sensor", "unsure")]
    )
    change = None
    if last is not None:
        s = last.summary
        change = ChangeFacts(gone=s.gone, stayed=s.stayed, moved=s.moved, new=s.new)
    comparable = not reasons_against(before, latest) if before is not None else None
    kinds = sorted({s.kind for s in counted})
    return FrameFactsGiven(
        fit=latest.fit, f_number=latest.frames[0].f_number, comparable=comparable,
        spots=SpotFacts(
            total=len(total), relevant=len(counted),
            by_kind={kind: sum(1 for s in counted if s.kind == kind) for kind in kinds},
        ),
        site=site, where=where_of(counted, latest), change=change,
    )  # fmt: skip


def _site(spots: Sequence[Spot], lens: Sequence[Spot]) -> FrameSite:
    if not spots:
        return "rear_lens" if lens else "sensor"
    unsure = sum(1 for s in spots if s.site == "unsure")
    return "unsure" if unsure > len(spots) / 2 else "sensor"


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


Comparer = Callable[[TrailFrame, TrailFrame], Comparison]


def _compare_now(before: TrailFrame, after: TrailFrame) -> Comparison:
    assert before.spot_map is not None
    assert after.spot_map is not None
    return compare(before.spot_map, after.spot_map)


def step_outcomes(
    trail: Sequence[TrailEntry], works_at: float, comparer: Comparer = _compare_now
) -> dict[int, StepOutcome]:
    """What each step did. A step is tested once a measured frame follows before the next step.

    ``comparer`` lays two measured frames on each other; one that remembers saves doing it again.
    """
    found: dict[int, StepOutcome] = {}
    visible = {
        e.id: len(relevant_spots(e.spot_map, works_at))
        for e in trail
        if isinstance(e, TrailFrame) and e.spot_map is not None
    }
    before: TrailFrame | None = None
    waiting: TrailStep | None = None
    for entry in trail:
        if isinstance(entry, TrailStep):
            if waiting is not None:
                found[waiting.id] = StepOutcome(tested=False, result=None, comparison=None)
            waiting = entry
        elif entry.spot_map is not None:
            if waiting is not None:
                found[waiting.id] = _outcome(waiting.step, before, entry, visible, comparer)
                waiting = None
            before = entry
    if waiting is not None:
        found[waiting.id] = StepOutcome(tested=False, result=None, comparison=None)
    return found


def _outcome(
    step: Step, before: TrailFrame | None, after: TrailFrame, visible: Mapping[int, int],
    comparer: Comparer,
) -> StepOutcome:  # fmt: skip
    new = after.spot_map
    assert new is not None
    if before is None:
        return StepOutcome(tested=new.fit, result="unknown", comparison=None)
    comparison = comparer(before, after)
    if not comparison.comparable:
        return StepOutcome(tested=new.fit, result="unknown", comparison=comparison)
    return StepOutcome(
        tested=True, comparison=comparison,
        result=_result_of(step, comparison, new, (visible[before.id], visible[after.id])),
    )  # fmt: skip


def _result_of(
    step: Step, comparison: Comparison, after: SpotMap, visible: tuple[int, int]
) -> Result:
    """One word for what a step did; ``visible``: spots that matter before and after it."""
    old, new = visible
    if new == 0:
        return "cleared"
    names = {s.id: s for s in after.spots}
    fresh = [names[c.after] for c in comparison.spots if c.status == "new" and c.after in names]
    if step in ("wet_swab", "corner_swab") and any(s.kind == "residue" for s in fresh):
        return "streaks"
    elsewhere = len(fresh) + comparison.summary.moved
    if step == "air" and elsewhere >= _STIRRED_SHARE * old and new >= (1 - _SAME_COUNT) * old:
        return "stirred"
    if new > old * (1 + _SAME_COUNT / 2) + 1:
        return "worse"
    return "fewer" if new < old - max(1.0, _FEWER_SHARE * old) + 0.5 else "no_change"


def _done(entry: TrailStep, outcome: StepOutcome) -> DoneStep:
    use = entry.use
    return DoneStep(
        step=entry.step, tested=outcome.tested, result=outcome.result, runs=use.runs,
        opening=use.opening, drops=use.drops, tip_bent=use.tip_bent, swabs=use.swabs,
        dabs=use.dabs, puffs=use.puffs, strokes=use.strokes,
    )  # fmt: skip


def step_sentence(step: Step, outcome: StepOutcome) -> str:
    """What a step did in one sentence, for people."""
    name = STEP_NAMES[step]
    if not outcome.tested or outcome.comparison is None:
        return f"{name}: not checked by a frame yet."
    s = outcome.comparison.summary
    words = RESULT_WORDS[outcome.result or "unknown"]
    return (
        f"{name} {words}: {s.gone} of {s.before} spots went, {s.stayed} stayed"
        + (f", {s.moved} moved" if s.moved else "")
        + (f", {s.new} came" if s.new else "")
        + "."
    )


STEP_NAMES: dict[Step, str] = {
    "clean_lens": "Cleaning the lens", "auto_clean": "The shake", "air": "Air",
    "brush": "The brush", "lift": "Lifting", "dry_swab": "The dry swab",
    "wet_swab": "The wet swab", "dry_followup": "The dry follow-up",
    "corner_swab": "The corner swab", "service": "The service", "teardown": "Opening it",
}  # fmt: skip
RESULT_WORDS: dict[Result, str] = {
    "no_change": "changed nothing", "fewer": "helped", "cleared": "cleared it",
    "stirred": "only stirred it", "streaks": "left streaks", "worse": "made it worse",
    "unknown": "cannot be judged",
}  # fmt: skip


def misfit(body: Body, spot_map: SpotMap) -> tuple[str, ...]:
    """Why a frame may not be this body's; empty when nothing speaks against it."""
    frame = spot_map.frames[0]
    found = []
    if body.camera_name and frame.camera and frame.camera != body.camera_name:
        found.append(f"The file says {frame.camera}, this body is {body.camera_name}.")
    shape = max(frame.width_px, frame.height_px) / min(frame.width_px, frame.height_px)
    own = max(body.sensor_mm) / min(body.sensor_mm)
    if abs(shape / own - 1) > 0.03:
        found.append(
            f"The picture is {shape:.2f} times as long as high, the sensor {own:.2f} times."
        )
    if body.pitch_um and frame.pitch_um and abs(frame.pitch_um / body.pitch_um - 1) > 0.02:
        found.append(
            f"Its pixels would be {frame.pitch_um:.2f} µm wide, those of this body are "
            f"{body.pitch_um:.2f} µm."
        )
    return tuple(found)


def closing_words(
    verdict: Verdict, conditions: VisitConditions, steps: Sequence[TrailStep]
) -> tuple[str, ...]:
    """What to do on leaving the bench, in order."""
    words = []
    if any(e.step in ("wet_swab", "dry_swab", "dry_followup", "corner_swab") for e in steps):
        words.append("Bin every used swab now; none is used twice.")
    if conditions.mirror_up is True:
        words.append("Switch off, so that the mirror comes down.")
    words.append("Cap or lens on, the cap blown out first.")
    if verdict == "sent":
        words.append("Pack the body with its cap on; keep this map to compare when it is back.")
    return tuple(words)
