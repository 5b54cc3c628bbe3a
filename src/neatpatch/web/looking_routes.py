"""Routes that only look: guidance, mount view, two frames laid on each other, drying."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.core import DEFAULT_WORKS_AT
from neatpatch.core.advice import advise
from neatpatch.core.advice.records import OPENS, Caution, Decision
from neatpatch.core.comparing import Comparison, compare
from neatpatch.core.errors import ConflictError
from neatpatch.core.geometry import (
    POSE_SENTENCES,
    Aim,
    Matrix,
    Pose,
    aims,
    mount_matrix,
    mount_size,
)
from neatpatch.core.guidance import Instruction, Setting, beforehand, guidance
from neatpatch.core.hand_plan import HandPlan
from neatpatch.core.planners.dry import DryPlan, Film, plan_drying
from neatpatch.core.planners.loupe import LoupePlan, plan_loupe
from neatpatch.core.planners.power import PowerPlan, plan_power
from neatpatch.core.planners.shoot import ShootPlan, plan_shoot, trial_of
from neatpatch.core.records import FluidKind, Spot, SpotMap
from neatpatch.core.visit import relevant_spots
from neatpatch.store.settings import get_setting
from neatpatch.web.casework import Case, map_or_409, read_case
from neatpatch.web.deps import Id, LibraryDep

router = APIRouter(prefix="/api")
HAND = "hand"
_SIZE_BANDS_UM = (20, 50, 100)


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
    """Hands-busy instructions for a step, with the map they point at."""

    step: Decision
    title: str
    instructions: list[Instruction]
    cautions: list[Caution]
    mount: MountView | None
    plan: HandPlan
    power: PowerPlan | None
    before: list[str]
    frame_id: int | None


class Laid(BaseModel):
    """Two frames laid on each other, with one sentence."""

    comparison: Comparison
    before: SpotMap
    after: SpotMap
    sentence: str
    by_zone: dict[str, dict[str, int]]
    by_kind: dict[str, dict[str, int]]
    by_size: dict[str, dict[str, int]]


@router.get("/visits/{visit_id}/guidance")
def guide(visit_id: Id, step: Decision, library: LibraryDep, pose: Pose = "top_away") -> Guide:
    """Instructions for a step, one at a time, for this body and its map."""
    case = read_case(library, visit_id)
    with library.database.read() as connection:
        hand = get_setting(connection, HAND)
    facts = case.facts
    advice = advise(facts)
    found = case.latest_map()
    seen = _mount(found, case.works_at, pose, case.body.access != "digital_back") if found else None
    plan = case.plan(step, pose, "left" if hand == "left" else "right")
    setting = Setting(
        body=case.body, aims=seen.aims if seen else (), plan=plan, power=_power(case, step),
        kit=case.kit, recipe=found.frames[0] if found else None, drying=case.drying(facts),
    )  # fmt: skip
    return Guide(
        step=step, title=advice.title if advice.decision == step else "", mount=seen,
        instructions=list(guidance(step, setting)), plan=plan, power=setting.power,
        before=list(beforehand(step, setting)),
        frame_id=case.latest.frame_id if case.latest else None,
        cautions=list(advice.cautions) if advice.decision == step else [],
    )  # fmt: skip


def _power(case: Case, step: Decision) -> PowerPlan | None:
    """How long the lock-up lasts; None for bodies and steps without one."""
    if case.body.access != "mirror" or step not in OPENS:
        return None
    now = case.visit.conditions
    return plan_power(case.body.lockup_minutes, now.battery_percent, now.mains)


def _mount(found: SpotMap, works_at: float, pose: Pose, grip: bool) -> MountView | None:
    size = found.frames[0].sensor_mm
    if size is None:
        return None
    relevant = relevant_spots(found, works_at)
    places = [(s.id, s.x_mm, s.y_mm) for s in relevant if s.x_mm is not None and s.y_mm is not None]
    width, height = mount_size(*size, pose)
    return MountView(
        pose=pose, sentence=POSE_SENTENCES[pose], matrix=mount_matrix(pose), width_mm=width,
        height_mm=height, relevant=[s.id for s in relevant],
        aims=list(aims(places, *size, pose, grip)),
    )  # fmt: skip


@router.get("/frames/{frame_id}/mount")
def mount(
    frame_id: Id, library: LibraryDep, pose: Pose = "top_away",
    works_at: Annotated[float, Query(ge=0.7, le=64)] = 16.0, grip: bool = True,
) -> MountView:  # fmt: skip
    """A frame's map as one sees it facing the mount."""
    seen = _mount(map_or_409(library, frame_id, works_at), works_at, pose, grip)
    if seen is None:
        raise ConflictError("The sensor's size is not known. Give it first.")
    return seen


@router.get("/frames/{before_id}/against/{after_id}")
def lay_on(
    before_id: Id, after_id: Id, library: LibraryDep,
    works_at: Annotated[float, Query(ge=0.7, le=64)] = 16.0,
) -> Laid:  # fmt: skip
    """Lay two frames on each other: gone, stayed, moved, new."""
    before, after = (map_or_409(library, i, works_at) for i in (before_id, after_id))
    found = compare(before, after)
    return Laid(
        comparison=found, before=before, after=after, sentence=_sentence(found),
        by_zone=_tally(found, before, after, lambda s: s.zone),
        by_kind=_tally(found, before, after, lambda s: s.kind),
        by_size=_tally(found, before, after, _size_words),
    )  # fmt: skip


def _sentence(found: Comparison) -> str:
    s = found.summary
    if not found.comparable:
        return "These two frames cannot be compared."
    if s.before == 0 and s.after == 0:
        return "Neither frame shows a spot."
    parts = [f"{s.gone} of {s.before} spots went", f"{s.stayed} stayed"]
    parts += [f"{s.moved} moved"] if s.moved else []
    parts += [f"{s.new} came"] if s.new else []
    parts += [f"{s.unseen} could not have been seen"] if s.unseen else []
    return ", ".join(parts) + "."


def _size_words(spot: Spot) -> str:
    """Which band of particle sizes a spot belongs to."""
    if spot.particle_um is None:
        return "size unknown"
    band = next((b for b in _SIZE_BANDS_UM if spot.particle_um < b), None)
    return f"over {_SIZE_BANDS_UM[-1]} µm" if band is None else f"under {band} µm"


def _tally(
    found: Comparison, before: SpotMap, after: SpotMap, group: Callable[[Spot], str]
) -> dict[str, dict[str, int]]:
    old, new = ({s.id: s for s in m.spots} for m in (before, after))
    table: dict[str, dict[str, int]] = {}
    for c in found.spots:
        spot = new[c.after] if c.after else old[c.before or ""]
        row = table.setdefault(group(spot), {})
        row[c.status] = row.get(c.status, 0) + 1
    return table


@router.get("/plans/shoot")
def shoot_recipe(
    library: LibraryDep, focal_mm: float = 85.0, smallest_f: float | None = None,
    ev100: float | None = None, trial_frame_id: int | None = None,
) -> ShootPlan:  # fmt: skip
    """The recipe of the test frame for a lens and a light, or from a trial frame's exposure."""
    trial = None
    if trial_frame_id is not None:
        trial = trial_of(map_or_409(library, trial_frame_id, DEFAULT_WORKS_AT))
        if trial is None:
            raise ConflictError("That frame does not tell its exposure. Shoot another trial.")
    return plan_shoot(focal_mm, smallest_f, ev100, trial)


@router.get("/plans/loupe")
def loupe(flange_mm: float, low_mm: float, high_mm: float) -> LoupePlan:
    """Whether a loupe focuses on a body's sensor, and the spacer it would need."""
    return plan_loupe(flange_mm, (low_mm, high_mm))


@router.get("/plans/power")
def power(
    lockup_minutes: float | None = None, battery_percent: float | None = None, mains: bool = False
) -> PowerPlan:
    """How long a mirror lock-up may stay open on this battery."""
    return plan_power(lockup_minutes, battery_percent, mains)


@router.get("/plans/drying")
def drying(
    temperature: float, humidity: float, fluid: FluidKind = "mild", camera_c: float | None = None,
    thin_um: float = Film.thickness_um[0], thick_um: float = Film.thickness_um[1],
    still_m_s: float = Film.air_m_s[0], moving_m_s: float = Film.air_m_s[1],
) -> DryPlan:  # fmt: skip
    """How fast a film of fluid dries in this room, and how a cold camera warms up in it."""
    film = Film(thickness_um=(thin_um, thick_um), air_m_s=(still_m_s, moving_m_s))
    return plan_drying(temperature, humidity, fluid, film, camera_c)
