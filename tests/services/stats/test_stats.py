"""The record kept from visits in the store, and the calendar read back."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest
import vobject
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.kit.readiness import BookedJob
from neatpatch.core.reports.calendar_entries import CalendarEntry
from neatpatch.core.stats.odds import Retest
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.services.stats.bookkeeping import Bookkeeper, catch_up
from neatpatch.services.stats.calendar import as_icalendar, calendar_entries
from neatpatch.services.stats.history import history_of, outlook_of, spot_histories_of
from neatpatch.store import bodies, bookings, maps, visits
from neatpatch.store import frames as frame_rows
from neatpatch.store import retests as rows
from neatpatch.store.datafolder import Library
from neatpatch.store.exposures import add_exposure
from neatpatch.store.frames import NewFrame
from neatpatch.store.maps import MapReader
from neatpatch.store.visits import StoredVisit
from tests.core.made_maps import spot, spot_map

OLD = [spot(f"s{i}", 300 + 400 * i, 300 + 150 * i) for i in range(6)]
NOW = datetime(2026, 11, 27, 9, tzinfo=UTC)


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


def a_visit(library: Library, body: int, day: str, *frames: list, step: str = "air") -> int:  # type: ignore[type-arg]
    """A closed visit: frames with a step between each two."""
    with library.database.write() as c:
        visit = visits.open_visit(c, body, VisitConditions(), f"{day}T09:00:00")
        for number, spots in enumerate(frames):
            if number:
                visits.add_step_entry(c, visit, step, StepUse(), at=f"{day}T09:0{number}:30")
            sha = f"{body:02d}{day.replace('-', '')}{number}".ljust(64, "0")
            frame, _ = frame_rows.add_frame(
                c, NewFrame(sha256=sha, size=9, name=f"{day}-{number}.jpg", source="upload")
            )
            maps.save_map(c, frame, spot_map(*spots), "1")
            visits.add_frame_entry(c, visit, frame, f"{day}T09:0{number}:00")
        visits.remember_counts(c, visit, len(frames[0]), len(frames[-1]))
        c.execute(
            "UPDATE visits SET state = 'closed', verdict = 'finished', closed_at = ?, "
            "look_again_on = ? WHERE id = ?",
            (f"{day}T10:00:00", "2026-12-20", visit),
        )
    return visit


@pytest.fixture
def body(library: Library) -> int:
    with library.database.write() as c:
        made = Body(name="Stand one", sensor_mm=(36, 24), works_at=(16,), serial="41")
        return bodies.add_body(c, made)


def known(library: Library) -> list[Retest]:
    with library.database.read() as c:
        return rows.all_retests(c)


def test_visits_are_read_once_and_again_when_they_change(library: Library, body: int) -> None:
    visit = a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    assert not catch_up(library)
    [air] = known(library)
    assert (air.step, air.removed, air.stayed, air.body_id) == ("air", 4, 2, body)
    with library.database.read() as c:
        assert rows.visits_behind(c, 9) == []
        before = rows.stamp(c)
        entry = next(e for e in visits.trail_of(c, visit) if e.step)
    with library.database.write() as c:
        visits.remove_entry(c, visit, entry.id, [])
    catch_up(library)
    assert known(library) == []
    with library.database.read() as c:
        assert rows.stamp(c) != before


def test_a_visit_that_cannot_be_read_holds_up_no_other(library: Library, body: int) -> None:
    a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    broken = a_visit(library, body, "2026-04-01", OLD, OLD[2:])
    with library.database.write() as c:
        c.execute(
            "UPDATE maps SET map_json = '{}' WHERE frame_id IN "
            "(SELECT frame_id FROM trail WHERE visit_id = ?)",
            (broken,),
        )
    library.maps = MapReader()
    catch_up(library)
    assert [r.removed for r in known(library)] == [4]
    with library.database.read() as c:
        assert rows.visits_behind(c, 9) == []


def test_odds_are_read_anew_when_the_record_changes(library: Library, body: int) -> None:
    keeper = Bookkeeper(library)
    assert keeper.odds().rungs() == ()
    a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    catch_up(library)
    [air] = keeper.odds().rungs(body)
    assert air.kinds[0].removed.count == 4
    assert keeper.odds() is keeper.odds()


def test_the_thread_catches_up_by_itself(library: Library, body: int) -> None:
    a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    keeper = Bookkeeper(library)
    keeper.start()
    try:
        while not known(library):
            pass
    finally:
        keeper.stop()


def test_what_comes_between_visits_makes_the_outlook(library: Library, body: int) -> None:
    a_visit(library, body, "2026-03-01", OLD, OLD[5:])
    fresh = [spot("n1", 700, 1500), spot("n2", 900, 1800), spot("n3", 2000, 200, shows_from_f=30)]
    a_visit(library, body, "2026-03-31", [OLD[5], *fresh], [], step="wet_swab")
    with library.database.write() as c:
        add_exposure(c, body, date(2026, 3, 10), "lens_change", "")
        add_exposure(c, body, date(2026, 4, 10), "lens_change", "")
    catch_up(library)
    with library.database.read() as c:
        [interval] = rows.intervals(c, body)
        outlook = outlook_of(c, body)
        history = history_of(c, body)
    assert (interval.came, interval.changes, interval.days) == (2, 1, 30.0)
    assert outlook.arrivals is not None
    assert outlook.arrivals.came == 2
    assert outlook.forecast is not None
    assert outlook.forecast.visible == 0
    assert [e.kind for e in outlook.exposures] == ["lens_change", "lens_change"]
    assert [(p.visible, p.total) for p in history.points] == [(6, 6), (1, 1), (3, 4), (0, 0)]
    assert [s.step for s in history.steps] == ["air", "wet_swab"]
    assert sum(c.count for c in history.density.settled) == 10
    assert history.density.left == ()


def test_a_camera_without_a_visit_has_an_empty_history(library: Library, body: int) -> None:
    with library.database.read() as c:
        assert history_of(c, body).points == []
        outlook = outlook_of(c, body)
    assert (outlook.arrivals, outlook.forecast, outlook.prevention) == (None, None, [])


def test_a_spot_lives_on_from_visit_to_visit(library: Library, body: int) -> None:
    a_visit(library, body, "2026-03-01", OLD, OLD[3:5])
    a_visit(library, body, "2026-03-31", [*OLD[3:5], spot("n1", 700, 1500)], OLD[4:5])
    catch_up(library)
    with library.database.read() as c:
        lives = spot_histories_of(c, body)
    assert Counter(" ".join(s.seen for s in life.sightings) for life in lives) == {
        "first gone": 4,
        "first stayed stayed gone": 1,
        "first stayed stayed stayed": 1,
        "new gone": 1,
    }


def test_a_visit_is_read_again_when_the_one_before_changes(library: Library, body: int) -> None:
    first = a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    second = a_visit(library, body, "2026-03-31", OLD[3:])
    catch_up(library)
    with library.database.read() as c:
        assert rows.visits_behind(c, 9) == []
        [interval] = rows.intervals(c, body)
        entry = visits.trail_of(c, first)[-1]
    assert interval.came == 1
    with library.database.write() as c:
        visits.remove_entry(c, first, entry.id, [])
    with library.database.read() as c:
        assert {v for v, _ in rows.visits_behind(c, 9)} == {first, second}
    catch_up(library)
    with library.database.read() as c:
        [interval] = rows.intervals(c, body)
    assert interval.came == 0


def test_a_named_place_is_worth_its_own_days(library: Library, body: int) -> None:
    for number, month in enumerate(range(2, 8)):
        fresh = [
            spot(f"q{month}{i}", 300 + 90 * i, 200 + 60 * month) for i in range(9 * (number % 2))
        ]
        a_visit(library, body, f"2026-{month:02d}-01", [*OLD, *fresh], OLD)
    with library.database.write() as c:
        for day in ("2026-02-10", "2026-04-10", "2026-06-10"):
            add_exposure(c, body, date.fromisoformat(day), "dusty_day", "the quay")
    catch_up(library)
    with library.database.read() as c:
        outlook = outlook_of(c, body)
        intervals = rows.intervals(c, body)
    [quay] = outlook.places
    assert (quay.place, quay.days, quay.intervals) == ("the quay", 3, 3)
    assert quay.worth.low > 10
    assert outlook.arrivals is not None
    assert outlook.arrivals.days > sum(i.calendar_days for i in intervals) + 3 * 10
    assert any("A day at the quay" in words for words in outlook.prevention)


def closed(library: Library, visit: int) -> StoredVisit | None:
    with library.database.read() as c:
        return visits.visit_by_id(c, visit)


def test_the_calendar_holds_looks_jobs_and_services(library: Library, body: int) -> None:
    visit = a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    with library.database.write() as c:
        job = BookedJob(name="Tides", starts_on=date(2026, 12, 3), body_ids=(body,), note="Annex")
        bookings.add_booking(c, job)
        c.execute("UPDATE visits SET verdict = 'sent' WHERE id = ?", (visit,))
    with library.database.read() as c:
        found = {e.kind: e for e in calendar_entries(c, date(2026, 1, 1), date(2026, 12, 31))}
        late = calendar_entries(c, date(2027, 1, 1), date(2027, 2, 1))
    assert set(found) == {"look", "job", "away"}
    assert found["look"].on == date(2026, 12, 20)
    assert found["job"].note == "Annex\nCameras: Stand one."
    assert (found["away"].on, found["away"].until) == (date(2026, 3, 1), None)
    assert late == []


TEXT = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), max_size=120)
ENTRY = st.builds(
    CalendarEntry,
    uid=st.from_regex(r"(job|look|away|kit)-[1-9][0-9]{0,4}", fullmatch=True),
    kind=st.sampled_from(["look", "job", "away", "best_before"]),
    title=TEXT.filter(lambda t: t.strip() == t and t != ""),
    note=TEXT.filter(lambda t: t.strip() == t),
    on=st.dates(date(2000, 1, 1), date(2100, 1, 1)),
    until=st.none(),
    at=st.just("/jobs"),
)


@given(st.lists(ENTRY, max_size=8, unique_by=lambda e: e.uid), st.integers(0, 400))
def test_another_parser_reads_the_same_calendar(entries: list[CalendarEntry], days: int) -> None:
    long = [e.model_copy(update={"until": e.on + timedelta(days=days)}) for e in entries]
    data = as_icalendar(long, "http://127.0.0.1:8719", NOW).decode()
    assert all(len(line.encode()) <= 75 for line in data.split("\r\n"))
    read = {e.uid.value: e for e in vobject.readOne(data).contents.get("vevent", [])}
    assert set(read) == {f"{e.uid}@neatpatch.local" for e in entries}
    for entry in long:
        event = read[f"{entry.uid}@neatpatch.local"]
        assert event.summary.value == entry.title
        assert event.dtstart.value == entry.on
        assert event.dtend.value == (entry.until or entry.on) + timedelta(days=1)
        assert (event.description.value if entry.note else "") == entry.note


def test_a_thing_keeps_its_id_whatever_day_it_moves_to(library: Library, body: int) -> None:
    a_visit(library, body, "2026-03-01", OLD, OLD[4:])
    ids = []
    for day in ("2026-12-20", "2027-01-05"):
        with library.database.write() as c:
            c.execute("UPDATE visits SET look_again_on = ?", (day,))
        with library.database.read() as c:
            ids.append([e.uid for e in calendar_entries(c, date(2026, 1, 1), date(2027, 12, 31))])
    assert ids[0] == ids[1] == [f"look-{body}"]
