"""Reports of visits and jobs, and the letterhead they carry."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.core.common.errors import NotThereError
from neatpatch.core.reports.visit_report import Letterhead
from neatpatch.services.reports import letterhead as heads
from neatpatch.services.reports.job_report import job_sheet
from neatpatch.services.reports.rendering import (
    MEDIA,
    REPORT_POLICY,
    Form,
    Sheet,
    rendered,
)
from neatpatch.services.reports.visit_report import visit_sheet

router = APIRouter(prefix="/api")
_FILE: dict[int | str, dict[str, Any]] = {
    200: {"content": {media.partition(";")[0]: {} for media in MEDIA.values()}}
}
_LOGO: dict[int | str, dict[str, Any]] = {200: {"content": {"image/png": {}}}}


class LetterheadKept(BaseModel):
    """The letterhead; ``has_logo``: whether a logo was given."""

    letterhead: Letterhead
    has_logo: bool


def _file(sheet: Sheet, form: Form, name: str) -> Response:
    """Shown where it is opened, under a name to save it by."""
    header = {
        "Content-Disposition": f'inline; filename="{name}.{form}"',
        "Content-Security-Policy": REPORT_POLICY,
    }
    return Response(rendered(sheet, form), media_type=MEDIA[form], headers=header)


@router.get("/visits/{visit_id}/report.{form}", response_class=Response, responses=_FILE)
def visit(visit_id: Id, form: Form, library: LibraryDep) -> Response:
    """A visit's report for the owner of the camera."""
    return _file(visit_sheet(library, visit_id), form, f"sensor-report-{visit_id}")


@router.get("/bookings/{booking_id}/report.{form}", response_class=Response, responses=_FILE)
def job(booking_id: Id, form: Form, library: LibraryDep) -> Response:
    """A job's report: all of its cameras on one page."""
    return _file(job_sheet(library, booking_id), form, f"job-{booking_id}")


@router.get("/letterhead")
def letterhead(library: LibraryDep) -> LetterheadKept:
    """Name, address and paper of the reports."""
    with library.database.read() as connection:
        kept, logo = heads.kept_letterhead(connection)
    return LetterheadKept(letterhead=kept, has_logo=logo is not None)


@router.put("/letterhead")
def set_letterhead(wanted: Letterhead, library: LibraryDep) -> LetterheadKept:
    """Say whose reports these are."""
    with library.database.write() as connection:
        heads.keep_letterhead(connection, wanted)
    return letterhead(library)


@router.get("/letterhead/logo.png", response_class=Response, responses=_LOGO)
def logo(library: LibraryDep) -> Response:
    """The logo as it is printed."""
    with library.database.read() as connection:
        _, kept = heads.kept_letterhead(connection)
    if kept is None:
        raise NotThereError("No logo was given.")
    return Response(kept, media_type="image/png", headers={"Cache-Control": "no-store"})


_LOGO_BODY: Annotated[dict[str, Any], "what the description says of the body"] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@router.put("/letterhead/logo", openapi_extra=_LOGO_BODY)
async def set_logo(request: Request, library: LibraryDep) -> LetterheadKept:
    """Give a logo, a PNG or JPEG picture."""
    return _keep(library, heads.printable_logo(await request.body()))


@router.delete("/letterhead/logo")
def remove_logo(library: LibraryDep) -> LetterheadKept:
    """Print no logo."""
    return _keep(library, None)


def _keep(library: LibraryDep, logo: bytes | None) -> LetterheadKept:
    with library.database.write() as connection:
        heads.keep_logo(connection, logo)
    return letterhead(library)
