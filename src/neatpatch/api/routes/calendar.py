"""The calendar, for the page and for other calendars."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response

from neatpatch.api.common.deps import LibraryDep
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Day
from neatpatch.core.reports.calendar_entries import CalendarEntry
from neatpatch.services.stats.calendar import as_icalendar, calendar_entries

router = APIRouter(prefix="/api")
_BACK, _AHEAD = timedelta(days=366), timedelta(days=3 * 366)
_FILE: dict[int | str, dict[str, Any]] = {200: {"content": {"text/calendar": {}}}}


@router.get("/calendar")
def calendar(
    library: LibraryDep,
    since: Annotated[Day | None, Query()] = None,
    until: Annotated[Day | None, Query()] = None,
) -> list[CalendarEntry]:
    """Looks, jobs, services and best-before dates of some days; a year around today unless said."""
    first = since or date.today() - timedelta(days=31)
    last = until or first + timedelta(days=366)
    if last < first:
        raise BadArgumentError("The last day lies before the first. Give them the other way round.")
    with library.database.read() as connection:
        return calendar_entries(connection, first, last)


@router.get("/calendar.ics", response_class=Response, responses=_FILE)
def subscription(request: Request, library: LibraryDep) -> Response:
    """The same as iCalendar, to save or to subscribe to."""
    today = date.today()
    with library.database.read() as connection:
        entries = calendar_entries(connection, today - _BACK, today + _AHEAD)
    data = as_icalendar(entries, str(request.base_url).rstrip("/"))
    header = {"Content-Disposition": 'inline; filename="neat-patch.ics"'}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=header)
