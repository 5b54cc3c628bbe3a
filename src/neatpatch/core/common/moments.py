"""Moments and days: the store writes moments in UTC, people and calendars speak of local days."""

from __future__ import annotations

from datetime import UTC, date, datetime, tzinfo


def day_of(moment: str, zone: tzinfo | None = None) -> date:
    """The day of the calendar on which a moment (ISO 8601) fell, where this machine stands.

    ``zone``: another place than this machine's. A moment without an offset, as cameras write it, is
    local already; a day alone is itself. Raises `ValueError` for what is neither.
    """
    return local_time(moment, zone).date()


def local_time(moment: str, zone: tzinfo | None = None) -> datetime:
    """A moment as the clock on the wall showed it."""
    found = datetime.fromisoformat(moment)
    return found if found.tzinfo is None else found.astimezone(zone)


def year_begins(year: int) -> str:
    """The first moment of a local year, as the store writes moments."""
    return datetime(year, 1, 1).astimezone(UTC).isoformat(timespec="milliseconds")
