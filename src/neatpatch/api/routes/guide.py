"""What the hands are told, and the sensor as one faces the mount."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.core.advice import advise
from neatpatch.core.common.decisions import Caution, Decision
from neatpatch.core.common.errors import ConflictError
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.guide.guidance import Length, guidance, preparation
from neatpatch.core.guide.hand_plan import HandPlan
from neatpatch.core.guide.instruction import Instruction
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
from neatpatch.core.plans.power import PowerPlan
from neatpatch.core.visit.trail import relevant_spots
from neatpatch.services.common.lookups import measured_map
from neatpatch.services.visits.guide_setting import guide_setting, usual_length
from neatpatch.services.visits.loaded_visit import load_visit
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
    length: Length
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
def guide(
    visit_id: Id,
    step: Decision,
    library: LibraryDep,
    pose: Pose = "top_away",
    length: Length | None = None,
) -> Guide:
    """Instructions for a step, one at a time, for this body and its map.

    ``length``: by the experience told of where it is not given.
    """
    case = load_visit(library, visit_id)
    with library.database.read() as connection:
        hand = get_setting(connection, HAND)
    advice = advise(case.facts)
    spot_map = case.latest_map()
    relevant = case.visible_spots()
    grip = case.body.access != "digital_back"
    seen = _mount(spot_map, relevant, pose, grip) if spot_map else None
    aimed = tuple(seen.aims) if seen else ()
    setting = guide_setting(case, step, pose, "left" if hand == "left" else "right", aimed)
    length = length or usual_length(case)
    return Guide(
        step=step,
        length=length,
        title=advice.title if advice.decision == step else "",
        stop=why_not(step, case.body),
        mount=seen,
        instructions=list(guidance(step, setting, length)),
        plan=setting.plan,
        power=setting.power,
        before=list(preparation(step, setting)),
        frame_id=case.latest.frame_id if case.latest else None,
        cautions=list(advice.cautions) if advice.decision == step else [],
    )


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
