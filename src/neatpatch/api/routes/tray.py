"""The tray of a visit, plans of models, mats to print."""

from __future__ import annotations

import asyncio
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request, Response
from pydantic import Field

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.core.common.records import Given, Whole
from neatpatch.core.tray.mat import Paper
from neatpatch.core.tray.plan import TrayPlan
from neatpatch.core.tray.steps import Done
from neatpatch.services.tray import trays
from neatpatch.services.tray.mats import MAT_MEDIA, MatForm, mat_file
from neatpatch.services.tray.trays import TrayView
from neatpatch.store import trays as rows

router = APIRouter(prefix="/api")
Model = Annotated[str, Query(min_length=1, max_length=80)]
StepId = Annotated[str, Query(min_length=1, max_length=120)]


class ChosenPlan(Given):
    """The model whose plan serves."""

    model: str = Field(min_length=1, max_length=80)


class FieldCount(Given):
    """How many screws there really are."""

    count: Whole = Field(ge=1, le=40)


@router.get("/tray-plans")
def plans(library: LibraryDep) -> list[TrayPlan]:
    """Plans that are kept, one for each model."""
    with library.database.read() as connection:
        return rows.plans(connection)


@router.put("/tray-plans")
def keep_plan(plan: TrayPlan, library: LibraryDep) -> TrayPlan:
    """Keep the plan of a model, in place of the one before."""
    with library.database.write() as connection:
        rows.keep_plan(connection, plan)
    return plan


@router.delete("/tray-plans", status_code=204)
def remove_plan(model: Model, library: LibraryDep) -> None:
    """Remove a plan; a tray begun by it keeps its own."""
    with library.database.write() as connection:
        rows.remove_plan(connection, model)


@router.get(
    "/tray-plans/mat",
    response_class=Response,
    responses={200: {"content": {m: {} for m in MAT_MEDIA.values()}, "description": "The mat."}},
)
def mat(model: Model, library: LibraryDep, paper: Paper = "a4", form: MatForm = "pdf") -> Response:
    """A mat to print at true size."""
    made = mat_file(trays.existing_plan(library, model), paper, form)
    headers = {"Content-Disposition": f'attachment; filename="tray-mat-{paper}.{form}"'}
    return Response(made, media_type=MAT_MEDIA[form], headers=headers)


@router.get("/visits/{visit_id}/tray")
def tray(visit_id: Id, library: LibraryDep) -> TrayView:
    """Where the tray of a visit stands, or why there is none."""
    return trays.tray_view(library, visit_id)


@router.post("/visits/{visit_id}/tray", status_code=201)
def begin(visit_id: Id, chosen: ChosenPlan, library: LibraryDep) -> TrayView:
    """Lay the camera on the tray."""
    return trays.begin(library, visit_id, chosen.model)


@router.delete("/visits/{visit_id}/tray", status_code=204)
def put_away(visit_id: Id, library: LibraryDep) -> None:
    """Put the tray away, while no screw is out."""
    trays.put_away(library, visit_id)


@router.post("/visits/{visit_id}/tray/steps")
def do_step(visit_id: Id, done: Done, library: LibraryDep) -> TrayView:
    """The next step is done, its screws counted."""
    return trays.do_step(library, visit_id, done)


@router.delete("/visits/{visit_id}/tray/steps")
def undo_step(visit_id: Id, library: LibraryDep) -> TrayView:
    """Take the last step back."""
    return trays.undo_step(library, visit_id)


@router.put("/visits/{visit_id}/tray/fields/{field}")
def correct_field(
    visit_id: Id,
    field: Annotated[str, Path(pattern=r"^[A-Z]{1,2}$")],
    right: FieldCount,
    library: LibraryDep,
) -> TrayView:
    """The camera has another number of screws there than its plan says."""
    return trays.correct_field(library, visit_id, field, right.count)


@router.post(
    "/visits/{visit_id}/tray/photos",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def add_photo(
    visit_id: Id, step_id: StepId, library: LibraryDep, request: Request
) -> TrayView:
    """Keep a photograph of a step."""
    jpeg = await request.body()
    return await asyncio.to_thread(trays.add_photo, library, visit_id, step_id, jpeg)


@router.get(
    "/visits/{visit_id}/tray/photos",
    response_class=Response,
    responses={200: {"content": {"image/jpeg": {}}, "description": "The photograph."}},
)
def photo(
    visit_id: Id,
    step_id: StepId,
    library: LibraryDep,
    number: Annotated[int, Query(ge=1, le=1000)] = 1,
) -> Response:
    """One photograph."""
    return Response(
        trays.photo(library, visit_id, step_id, number),
        media_type="image/jpeg",
        headers={"X-Content-Type-Options": "nosniff"},
    )
