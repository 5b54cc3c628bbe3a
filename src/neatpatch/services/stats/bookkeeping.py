"""Visits read for the record, from a thread of its own: what steps did, what came between."""

from __future__ import annotations

import logging
import sqlite3
import threading

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.stats.odds import OddsBook
from neatpatch.core.stats.retests import retests_of
from neatpatch.core.stats.spot_histories import FrameLink, link_of
from neatpatch.core.visit.trail import relevant_spots
from neatpatch.services.common.fingerprints import registration_between
from neatpatch.services.common.forever import Forever, trouble_words
from neatpatch.services.common.loss_fields import fields_between
from neatpatch.services.visits.loaded_visit import LoadedVisit, load_visit
from neatpatch.store import retests as rows
from neatpatch.store.datafolder import Library
from neatpatch.store.retests import VisitRecord

_LOOK_EVERY_S = 2.0
_AT_ONCE = 20
_log = logging.getLogger("neatpatch.record")


class Bookkeeper:
    """Keeps the record up to date from `start` to `stop`, and the odds read from it."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._loop = Forever(
            "record",
            self._step,
            words=lambda error: f"The statistics are behind. {trouble_words(error)}",
        )
        self._lock = threading.Lock()
        self._book: tuple[tuple[int, int], OddsBook] | None = None

    def start(self) -> None:
        """Begin; what is behind is read soon."""
        self._loop.start()

    def stop(self) -> None:
        """End the thread; the visit being read is read again next time."""
        self._loop.stop()

    @property
    def trouble(self) -> str | None:
        """What keeps the record from being brought up to date; None while nothing does."""
        return self._loop.trouble

    def _step(self) -> float:
        if catch_up(self._library, _AT_ONCE, self._loop.stopping):
            return 0.0
        self._read_anew()
        return _LOOK_EVERY_S

    def odds(self) -> OddsBook:
        """All retests, read once for each state of the record.

        While its thread runs, nobody waits for it: what it read last is given, seconds old at most.
        """
        kept = self._book
        if kept is not None and self._loop.is_alive:
            return kept[1]
        return self._read_anew()

    def _read_anew(self) -> OddsBook:
        with self._lock:
            with self._library.database.read() as connection:
                now = rows.stamp(connection)
                if self._book is not None and self._book[0] == now:
                    return self._book[1]
                book = OddsBook(rows.all_retests(connection))
            book.rungs()
            self._book = now, book
            return book


def catch_up(library: Library, most: int = 1_000_000, stop: threading.Event | None = None) -> bool:
    """Read visits that changed since they were read; gives whether some may be left."""
    with library.database.read() as connection:
        behind = rows.visits_behind(connection, most)
    for visit_id, version in behind:
        if stop is not None and stop.is_set():
            return False
        try:
            _read(library, visit_id, version)
        except (NeatPatchError, ValueError) as error:
            _log.warning("visit %d cannot be read for the record: %s", visit_id, error)
            _leave(library, visit_id, version)
    return len(behind) == most


def _read(library: Library, visit_id: int, version: int) -> None:
    case = load_visit(library, visit_id)
    if case.visit.version != version:
        return
    with library.database.read() as connection:
        since = _since_before(library, connection, case)
    before = case.earlier.before
    found = VisitRecord(
        retests=retests_of(case.trail, case.outcomes, case.visit.body_id),
        links=_links(case, since),
        came=_came(case, since),
        since=before.closed_at if before else None,
        before=(before.id, before.version) if before else None,
    )
    with library.database.write() as connection:
        rows.put_record(connection, visit_id, version, found)


def _leave(library: Library, visit_id: int, version: int) -> None:
    """A visit that cannot be read tells nothing, and holds up no other, until it changes."""
    nothing = VisitRecord(retests=[], links=[], came=None, since=None, before=None)
    with library.database.write() as connection:
        rows.put_record(connection, visit_id, version, nothing)


def _since_before(
    library: Library, connection: sqlite3.Connection, case: LoadedVisit
) -> Comparison | None:
    """The first fit frame against the last one of the visit before; None without both."""
    first = next(iter(case.counted), None)
    if first is None or case.earlier.frame is None:
        return None
    before = library.maps.spot_map(connection, case.earlier.frame[0])
    if before is None or not before.fit:
        return None
    place = registration_between(connection, case.earlier.frame[0], first.frame_id)
    fields = fields_between(library, connection, case.earlier.frame[0], first.frame_id)
    return compare(before, first.spot_map, place, fields)


def _came(case: LoadedVisit, since: Comparison | None) -> int | None:
    """Visible spots of the first fit frame that the last one of the visit before did not show;
    None without comparable frames.
    """
    if since is None or not since.comparable:
        return None
    first = case.counted[0]
    wall = case.known.walls.get(first.entry_id, set())
    visible = {s.id for s in relevant_spots(first.spot_map, case.works_at)} - set(wall)
    return sum(c.status == "new" and c.after in visible for c in since.spots)


def _links(case: LoadedVisit, since: Comparison | None) -> list[tuple[int, FrameLink]]:
    """Each fit frame linked to the one before it, the first to the visit before."""
    before = case.earlier.frame[0] if case.earlier.frame else None
    links = []
    for frame, found in zip(case.counted, [since, *case.steps_between], strict=False):
        links.append((frame.entry_id, link_of(frame.frame_id, frame.spot_map, before, found)))
        before = frame.frame_id
    return links
