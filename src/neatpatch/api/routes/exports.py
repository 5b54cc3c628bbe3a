"""Everything as tables and as JSON."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response

from neatpatch.api.common.deps import LibraryDep
from neatpatch.services.reports.exports import Table, everything_json, table_csv

router = APIRouter(prefix="/api")
_CSV: dict[int | str, dict[str, Any]] = {200: {"content": {"text/csv": {}}}}
_JSON: dict[int | str, dict[str, Any]] = {200: {"content": {"application/json": {}}}}


def _saved_as(name: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{name}"'}


@router.get("/export/{table}.csv", response_class=Response, responses=_CSV)
def table(table: Table, library: LibraryDep) -> Response:
    """One table for a spreadsheet."""
    with library.database.read() as connection:
        text = table_csv(connection, table)
    name = f"neat-patch-{table}.csv"
    return Response(text, media_type="text/csv; charset=utf-8", headers=_saved_as(name))


@router.get("/export.json", response_class=Response, responses=_JSON)
def everything(library: LibraryDep) -> Response:
    """All tables at once; the spots of a frame are in its own map."""
    with library.database.read() as connection:
        text = everything_json(connection)
    name = "neat-patch.json"
    return Response(text, media_type="application/json", headers=_saved_as(name))
