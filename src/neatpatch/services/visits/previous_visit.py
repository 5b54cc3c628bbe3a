"""What is known from visits before: the last frame, and what was entered then."""

from __future__ import annotations

import sqlite3

from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.visit.body import VisitConditions
from neatpatch.services.visits.view_records import EarlierVisit
from neatpatch.store import visits as visit_rows
from neatpatch.store.visits import StoredVisit


class PreviousVisit:
    """The visit of the same body before one, and the last visit of any body.

    ``frame``: the last measured frame before, as its id and the version of its map.
    """

    def __init__(self, connection: sqlite3.Connection, visit: StoredVisit) -> None:
        self.before = visit_rows.visit_before(connection, visit.body_id, visit.id)
        self.last_time = visit_rows.last_visit(connection, but=visit.id)
        self.frame: tuple[int, int] | None = None
        for e in visit_rows.trail_of(connection, self.before.id) if self.before else ():
            if e.frame_id is not None and e.map_version is not None:
                self.frame = e.frame_id, e.map_version

    @property
    def was_sent(self) -> bool:
        """The body comes back from a service."""
        return self.before is not None and self.before.verdict == "sent"

    def offered(self) -> VisitConditions | None:
        """The room of the last visit, and the power of this body's; a mirror is never assumed."""
        if self.last_time is None:
            return None
        room = self.last_time.conditions
        own = self.before.conditions if self.before else VisitConditions()
        return VisitConditions(
            temperature_c=room.temperature_c,
            humidity_percent=room.humidity_percent,
            moving_air=room.moving_air,
            surface=room.surface,
            room_clean=room.room_clean,
            experience=room.experience,
            battery_percent=own.battery_percent,
            mains=own.mains,
            power=own.power,
        )

    def view(self, found: Comparison | None) -> EarlierVisit | None:
        """For the page; None for a body's first visit. ``found``: what the frames since tell."""
        if self.before is None:
            return None
        return EarlierVisit(
            visit_id=self.before.id,
            frame_id=self.frame[0] if self.frame else None,
            verdict=self.before.verdict,
            closed_at=self.before.closed_at,
            counts=found.summary if found and found.comparable else None,
        )
