"""The calendar, gathered from the store, and as iCalendar (RFC 5545)."""

from __future__ import annotations

import sqlite3
from datetime import UTC, date, datetime, timedelta

from neatpatch import __version__
from neatpatch.core.common.items import thing_words
from neatpatch.core.reports.calendar_entries import (
    CalendarEntry,
    away_entry,
    best_before_entry,
    job_entry,
    look_entry,
)
from neatpatch.services.common.settings import usual_service
from neatpatch.store import bookings as booking_rows
from neatpatch.store import calendar as rows
from neatpatch.store import kit as kit_rows
from neatpatch.store.visits import next_looks

_MOST_LOOKS = 10_000
_DOMAIN = "neatpatch.local"
"""Behind the ids of entries, so that they never meet those of another calendar."""


def calendar_entries(
    connection: sqlite3.Connection, since: date, until: date
) -> list[CalendarEntry]:
    """Everything from a day to another, by day."""
    entries = [
        *_looks(connection),
        *_jobs(connection, since),
        *_away(connection),
        *_best_before(connection),
    ]
    wanted = [e for e in entries if e.on <= until and (e.until or e.on) >= since]
    return sorted(wanted, key=lambda e: (e.on, e.kind, e.title))


def _looks(connection: sqlite3.Connection) -> list[CalendarEntry]:
    return [
        look_entry(look.body_id, look.name, date.fromisoformat(look.on), look.visible)
        for look in next_looks(connection, _MOST_LOOKS)
    ]


def _jobs(connection: sqlite3.Connection, since: date) -> list[CalendarEntry]:
    jobs = booking_rows.list_bookings(connection, since.isoformat())
    names = rows.names_of(connection, {i for job in jobs for i in job.body_ids})
    return [
        job_entry(
            job.id,
            job.name,
            job.starts_on,
            job.note,
            [names[i] for i in job.body_ids if i in names],
        )
        for job in jobs
    ]


def _away(connection: sqlite3.Connection) -> list[CalendarEntry]:
    turnaround = usual_service(connection).turnaround_days
    found = []
    for sent in rows.sent_to_service(connection):
        back, expected = sent.back, False
        if back is None and turnaround is not None:
            back, expected = sent.on + timedelta(days=round(turnaround)), True
        found.append(away_entry(sent.visit_id, sent.name, sent.on, back, expected))
    return found


def _best_before(connection: sqlite3.Connection) -> list[CalendarEntry]:
    return [
        best_before_entry(k.id, thing_words(k.owned.item), k.owned.best_before)
        for k in kit_rows.all_items(connection)
        if k.owned.best_before is not None
    ]


def as_icalendar(entries: list[CalendarEntry], base: str, now: datetime | None = None) -> bytes:
    """Entries as one calendar of whole days; ``base``: the address the page is served at."""
    from icalendar import Calendar, Event  # slow to load, and a server starts often

    calendar = Calendar()
    calendar.add("prodid", f"-//Neat Patch//{__version__}//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Neat Patch")
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.uid}@{_DOMAIN}")
        event.add("dtstamp", now or datetime.now(UTC))
        event.add("dtstart", entry.on)
        event.add("dtend", (entry.until or entry.on) + timedelta(days=1))
        event.add("summary", entry.title)
        if entry.note:
            event.add("description", entry.note)
        event.add("url", f"{base}{entry.at}")
        event.add("transp", "OPAQUE" if entry.kind == "away" else "TRANSPARENT")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
