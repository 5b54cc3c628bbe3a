"""What is ahead and what was: looks, jobs, services, best-before dates, as days of a calendar."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Literal

from neatpatch.core.common.records import Record

DiaryKind = Literal["look", "job", "away", "best_before"]


class CalendarEntry(Record):
    """One thing on one day, or from a day to another, that included.

    ``uid`` stays the same as long as it is the same thing, whatever day it moves to. ``at`` is what
    it is about, as an address of the page.
    """

    uid: str
    kind: DiaryKind
    title: str
    note: str
    on: date
    until: date | None
    at: str


def look_entry(body_id: int, name: str, on: date, visible: int | None) -> CalendarEntry:
    """A camera to look at."""
    left = "" if visible is None else f"{visible or 'None'} visible when last looked at."
    return CalendarEntry(
        uid=f"look-{body_id}",
        kind="look",
        title=f"Look at {name}",
        note=left,
        on=on,
        until=None,
        at=f"/bodies/{body_id}",
    )


def job_entry(job_id: int, name: str, on: date, note: str, cameras: Sequence[str]) -> CalendarEntry:
    """A booked job."""
    with_them = f"Cameras: {', '.join(cameras)}." if cameras else ""
    return CalendarEntry(
        uid=f"job-{job_id}",
        kind="job",
        title=name,
        note="\n".join(p for p in (note, with_them) if p),
        on=on,
        until=None,
        at="/jobs",
    )


def away_entry(
    visit_id: int, name: str, sent: date, back: date | None, expected: bool
) -> CalendarEntry:
    """A camera at a service; ``expected``: the day it comes back is not known yet."""
    return CalendarEntry(
        uid=f"away-{visit_id}",
        kind="away",
        title=f"{name} at a service",
        note="The day it comes back is expected, not known." if expected else "",
        on=sent,
        until=back,
        at=f"/visits/{visit_id}",
    )


def best_before_entry(kit_id: int, thing: str, on: date) -> CalendarEntry:
    """The last day of a kit item."""
    return CalendarEntry(
        uid=f"kit-{kit_id}",
        kind="best_before",
        title=f"Best before: {thing}",
        note="Replace it before the next cleaning.",
        on=on,
        until=None,
        at="/kit",
    )
