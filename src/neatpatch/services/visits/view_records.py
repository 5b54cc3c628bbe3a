"""A visit as the API gives it: its trail, its next move, what it used up."""

from __future__ import annotations

from pydantic import BaseModel

from neatpatch.core.advice import Advice
from neatpatch.core.common.facts import Result, Schools, Step
from neatpatch.core.compare.comparison import ComparisonSummary, Status
from neatpatch.core.kit.stock import Unit
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.place import PlaceFinding
from neatpatch.core.visit.trail import StepUse, Verdict
from neatpatch.services.common.views import Job
from neatpatch.store.visits import VisitState


class FrameOnTrail(BaseModel):
    """A frame of the trail; ``dots`` are x, y (shares of the picture) and whether relevant.

    ``doubts``: why it may not be this body's; it counts for nothing until accepted. ``wall``: ids
    of its marks that belong to the target.
    """

    frame_id: int
    name: str
    ready: bool
    relevant: int | None
    count: int | None
    fit: bool | None
    f_number: float | None
    orientation: int
    proportion: float
    dots: list[tuple[float, float, bool]]
    doubts: list[str]
    wall: list[str]
    members: int
    trouble: str | None


class StockUse(BaseModel):
    """What a step took of one thing. ``kit_id`` is None once that was removed from the kit."""

    kit_id: int | None
    thing: str
    amount: float
    unit: Unit | None


class StepOnTrail(BaseModel):
    """A step of the trail and what it did.

    ``counts``: its spots before and after; None where the frames around it cannot be compared.
    ``places``: x, y (shares of the later picture) and fate of each, what changed first.
    """

    step: Step
    took: list[StockUse]
    use: StepUse
    against: str
    who: str
    tested: bool
    result: Result | None
    counts: ComparisonSummary | None
    places: list[tuple[float, float, Status]]


class TrailItem(BaseModel):
    """One entry of the trail: a frame or a step."""

    id: int
    at: str
    frame: FrameOnTrail | None = None
    step: StepOnTrail | None = None


class EarlierVisit(BaseModel):
    """How the visit before ended, and its last frame. ``counts``: this visit's first frame against
    it, where the two can be compared.
    """

    visit_id: int
    frame_id: int | None
    verdict: Verdict | None
    closed_at: str | None
    counts: ComparisonSummary | None


class VisitView(BaseModel):
    """A visit with its trail and the next move.

    ``unfit``: why the newest frame cannot be judged by, each with what to do. ``place``: what the
    frames tell of the marks' place. ``offered``: what was entered last time and may be the same.
    """

    id: int
    body_id: int
    body: Body
    virtual: bool
    state: VisitState
    conditions: VisitConditions
    schools: Schools
    works_at: float
    verdict: Verdict | None
    note: str
    until: str | None
    version: int
    conditions_version: int
    body_version: int
    opened_at: str
    closed_at: str | None
    cost: float
    unpriced: int
    trail: list[TrailItem]
    latest_frame_id: int | None
    recipe: str
    unfit: list[str]
    place: PlaceFinding | None
    offered: VisitConditions | None
    earlier: EarlierVisit | None
    look_again_on: str | None
    advice: Advice
    jobs: list[Job]
