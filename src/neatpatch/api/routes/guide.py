"""What the hands are told, and the sensor as one faces the mount."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.core.advice import advise
from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import OPENS, Caution, Decision
from neatpatch.core.common.errors import ConflictError
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.guide.guidance import guidance, preparation
from neatpatch.core.guide.hand_plan import HandPlan
from neatpatch.core.guide.instruction import Instruction, Setting
from neatpatch.core.guide.opening import why_not
from neatpatch.core.maps.mount_view import (
    POSE_SENTENCES,
    Aim,
    Matrix,
    Pose,
    aims,
    mount_matrix,
    mount_size,
)
from neatpatch.core.plans.power import PowerPlan, plan_power
from neatpatch.core.visit.trail import relevant_spots
from neatpatch.services.common.lookups import measured_map
from neatpatch.services.visits.loaded_visit import LoadedVisit, load_visit
from neatpatch.store.settings import get_setting

router = APIRouter(prefix="/api")

HAND = "hand"


class MountView(BaseModel):
    """The sensor as one sees it facing the mount. ``matrix``: stored millimetres to the view's."""

    pose: Pose
    sentence: str
    matrix: Matrix
    width_mm: float
    height_mm: float
    relevant: list[str]
    aims: list[Aim]


class Guide(BaseModel):
    """Hands-busy instructions for a step, with the map they point at.

    ``stop``: why there are none, where nothing may be touched.
    """

    step: Decision
    title: str
    stop: str
    instructions: list[Instruction]
    cautions: list[Caution]
    mount: MountView | None
    plan: HandPlan
    power: PowerPlan | None
    before: list[str]
    frame_id: int | None


@router.get("/visits/{visit_id}/guidance")
def guide(visit_id: Id, step: Decision, library: LibraryDep, pose: Pose = "top_away") -> Guide:
    """Instructions for a step, one at a time, for this body and its map."""
    case = load_visit(library, visit_id)
    with library.database.read() as connection:
        hand = get_setting(connection, HAND)
    facts = case.facts
    advice = advise(facts)
    spot_map = case.latest_map()
    relevant = case.visible_spots()
    seen = (
        _mount(spot_map, relevant, pose, case.body.access != "digital_back") if spot_map else None
    )
    situation = Situation(facts)
    tools = situation.tools
    recipe = case.recipe_map()
    plan = case.plan(step, pose, "left" if hand == "left" else "right")
    setting = Setting(
        body=case.body,
        aims=seen.aims if seen else (),
        plan=plan,
        power=_power(case, step),
        kit=case.kit,
        recipe=recipe.frames[0] if recipe else None,
        drying=situation.drying,
        tool=tools.tool_for(step) if step in OPENS else None,
        fluid=tools.fluid,
        lens_turns=sum(1 for d in facts.done if d.step == "clean_lens"),
    )
    return Guide(
        step=step,
        title=advice.title if advice.decision == step else "",
        stop=why_not(step, case.body),
        mount=seen,
        instructions=list(guidance(step, setting)),
        plan=plan,
        power=setting.power,
        before=list(preparation(step, setting)),
        frame_id=case.latest.frame_id if case.latest else None,
        cautions=list(advice.cautions) if advice.decision == step else [],
    )


def _power(case: LoadedVisit, step: Decision) -> PowerPlan | None:
    """How long the lock-up lasts; None for bodies and steps without one."""
    if case.body.access != "mirror" or step not in OPENS:
        return None
    now = case.visit.conditions
    return plan_power(case.body.lockup_minutes, now.battery_percent, now.mains)


def _mount(spot_map: SpotMap, relevant: Sequence[Spot], pose: Pose, grip: bool) -> MountView | None:
    size = spot_map.frames[0].sensor_mm
    if size is None:
        return None
    places = [(s.id, s.x_mm, s.y_mm) for s in relevant if s.x_mm is not None and s.y_mm is not None]
    width, height = mount_size(*size, pose)
    return MountView(
        pose=pose,
        sentence=POSE_SENTENCES[pose],
        matrix=mount_matrix(pose),
        width_mm=width,
        height_mm=height,
        relevant=[s.id for s in relevant],
        aims=list(aims(places, *size, pose, grip)),
    )


@router.get("/frames/{frame_id}/mount")
def mount(
    frame_id: Id,
    library: LibraryDep,
    pose: Pose = "top_away",
    works_at: Annotated[float, Query(ge=0.7, le=64)] = 16.0,
    grip: bool = True,
) -> MountView:
    """A frame's map as one sees it facing the mount."""
    spot_map = measured_map(library, frame_id, works_at)
    seen = _mount(spot_map, relevant_spots(spot_map, works_at), pose, grip)
    if seen is None:
        raise ConflictError("The sensor's size is not known. Give it first.")
    return seen
