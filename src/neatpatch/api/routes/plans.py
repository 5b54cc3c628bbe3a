"""Plans that need no visit: test frame, loupe, power, drying.

Ranges stand in the description; the core refuses what lies outside, in its own words.
"""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query

from neatpatch.api.common.deps import LibraryDep
from neatpatch.core.common.apertures import DEFAULT_WORKS_AT
from neatpatch.core.common.errors import ConflictError
from neatpatch.core.common.records import FluidKind
from neatpatch.core.plans.drying import DryPlan, Film, plan_drying
from neatpatch.core.plans.loupe import LoupePlan, plan_loupe
from neatpatch.core.plans.power import PowerPlan, plan_power
from neatpatch.core.plans.test_frame import ShootPlan, plan_shoot, trial_exposure_of
from neatpatch.services.common.lookups import measured_map

router = APIRouter(prefix="/api")


def _within(least: float, most: float) -> Any:
    """A number's range, for those who read the description."""
    return Query(json_schema_extra={"minimum": least, "maximum": most})


@router.get("/plans/shoot")
def shoot_recipe(
    library: LibraryDep,
    focal_mm: Annotated[float, _within(4, 2000)] = 85.0,
    smallest_f: Annotated[float | None, _within(1, 128)] = None,
    ev100: Annotated[float | None, _within(-6, 22)] = None,
    trial_frame_id: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
) -> ShootPlan:
    """The recipe of the test frame for a lens and a light, or from a trial frame's exposure."""
    trial = None
    if trial_frame_id is not None:
        trial = trial_exposure_of(measured_map(library, trial_frame_id, DEFAULT_WORKS_AT))
        if trial is None:
            raise ConflictError("That frame does not tell its exposure. Shoot another trial.")
    return plan_shoot(focal_mm, smallest_f, ev100, trial)


@router.get("/plans/loupe")
def loupe(
    flange_mm: Annotated[float, _within(1, 400)],
    low_mm: Annotated[float, _within(1, 500)],
    high_mm: Annotated[float, _within(1, 500)],
) -> LoupePlan:
    """Whether a loupe focuses on a body's sensor, and the spacer it would need."""
    return plan_loupe(flange_mm, (low_mm, high_mm))


@router.get("/plans/power")
def power(
    lockup_minutes: Annotated[float | None, _within(1, 600)] = None,
    battery_percent: Annotated[float | None, _within(0, 100)] = None,
    mains: bool = False,
) -> PowerPlan:
    """How long a mirror lock-up may stay open on this battery."""
    return plan_power(lockup_minutes, battery_percent, mains)


@router.get("/plans/drying")
def drying(
    temperature: Annotated[float, _within(-10, 50)],
    humidity: Annotated[float, _within(0, 100)],
    fluid: FluidKind = "mild",
    camera_c: Annotated[float | None, _within(-40, 60)] = None,
    thin_um: Annotated[float, _within(0.1, 500)] = Film.thickness_um[0],
    thick_um: Annotated[float, _within(0.1, 500)] = Film.thickness_um[1],
    still_m_s: Annotated[float, _within(0.01, 10)] = Film.air_m_s[0],
    moving_m_s: Annotated[float, _within(0.01, 10)] = Film.air_m_s[1],
) -> DryPlan:
    """How fast a film of fluid dries in this room, and how a cold camera warms up in it."""
    film = Film(thickness_um=(thin_um, thick_um), air_m_s=(still_m_s, moving_m_s))
    return plan_drying(temperature, humidity, fluid, film, camera_c)
