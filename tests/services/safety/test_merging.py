"""An archive merged into a folder in use: nothing doubled, nothing lost, nothing written over."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from datetime import date
from hashlib import sha256
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from neatpatch.core.common.facts import KitItem
from neatpatch.core.kit.readiness import BookedJob
from neatpatch.core.kit.stock import KitEntry, Take
from neatpatch.core.tray.steps import Done
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.demo.compact import COMPACT_PLAN
from neatpatch.services.safety.archive import BrokenArchiveError, back_up, restore
from neatpatch.services.safety.merging import Merged, merge, merged_words
from neatpatch.services.safety.ticking import StoppedError
from neatpatch.store import bodies, bookings, kit, maps, trays, visits
from neatpatch.store.datafolder import Library
from neatpatch.store.exposures import add_exposure
from neatpatch.store.frames import NewFrame
from tests.core.made_maps import spot, spot_map

TABLES = ("bodies", "visits", "trail", "frames", "maps", "kit", "stock_moves", "bookings")


class Folder:
    """A data folder one works in."""

    def __init__(self, root: Path) -> None:
        self.library = Library(root)

    def body(self, name: str, serial: str = "") -> int:
        with self.library.database.write() as c:
            made = Body(name=name, sensor_mm=(36, 24), serial=serial)
            return bodies.add_body(c, made)

    def visit(self, body: int, *marks: str, close: bool = True) -> int:
        """A visit with a frame for each mark and a step between each two."""
        library = self.library
        with library.database.write() as c:
            visit = visits.open_visit(c, body, VisitConditions())
        for number, mark in enumerate(marks):
            data = f"picture {mark}".encode()
            arrived = library.originals.arriving()
            arrived.write_bytes(data)
            sha = sha256(data).hexdigest()
            with library.database.write() as c:
                if number:
                    visits.add_step_entry(c, visit, "dry_swab", StepUse(swabs=1))
                new = NewFrame(sha256=sha, size=len(data), name=f"{mark}.jpg", source="upload")
                frame, _ = library.add_frame(c, arrived, new)
                maps.save_map(c, frame, spot_map(spot("s1", 400, 400)), "1")
                visits.add_frame_entry(c, visit, frame)
        if close:
            with library.database.write() as c:
                c.execute(
                    "UPDATE visits SET state = 'closed', verdict = 'finished', "
                    "closed_at = '2026-05-05T09:00:00+00:00' "
                    "WHERE id = ?",
                    (visit,),
                )
        return visit

    def swabs(self, quantity: float) -> int:
        with self.library.database.write() as c:
            item = KitItem.model_validate(
                {"item": "dry_swab", "width_mm": 24, "quantity": quantity}
            )
            return kit.add_item(c, KitEntry(item=item))

    def use(self, kit_id: int, visit: int) -> None:
        with self.library.database.write() as c:
            entry = visits.add_step_entry(c, visit, "dry_swab", StepUse(swabs=1))
            user = kit.User(trail_id=entry, visit_id=visit, body_id=1)
            kit.take(c, [Take(kit_id, 1.0)], user, None)

    def book(self, name: str, *body_ids: int) -> None:
        with self.library.database.write() as c:
            job = BookedJob(name=name, starts_on=date(2026, 12, 3), body_ids=body_ids)
            bookings.add_booking(c, job)

    def archive(self, path: Path) -> Path:
        back_up(self.library.root, path)
        return path

    def merge(self, archive: Path) -> Merged:
        return merge(archive, self.library.root, self.library.database)

    def rows(self, sql: str) -> list[tuple[Any, ...]]:
        with closing(sqlite3.connect(self.library.database.path)) as c:
            return c.execute(sql).fetchall()

    def counts(self) -> dict[str, int]:
        return {t: self.rows(f"SELECT count(*) FROM {t}")[0][0] for t in TABLES}

    def left(self) -> list[float]:
        return [there for (there,) in self.rows("SELECT there FROM kit ORDER BY id")]

    def is_whole(self) -> bool:
        sound = self.rows("PRAGMA integrity_check") == [("ok",)]
        return sound and self.rows("PRAGMA foreign_key_check") == []


@pytest.fixture
def desk(tmp_path: Path) -> Folder:
    """A desk with a camera, a visit, swabs and a job."""
    found = Folder(tmp_path / "desk")
    body = found.body("Study", "41-1")
    visit = found.visit(body, "a", "b")
    found.use(found.swabs(12), visit)
    found.book("Tides", body)
    with found.library.database.write() as c:
        add_exposure(c, body, date(2026, 5, 4), "lens_change", "")
    return found


def copied(desk: Folder, tmp_path: Path) -> Folder:
    """The same folder on another machine."""
    restore(desk.archive(tmp_path / "copy.zip"), tmp_path / "copy")
    return Folder(tmp_path / "copy")


def test_a_tray_comes_with_its_visit_once_and_so_does_its_plan(
    desk: Folder, tmp_path: Path
) -> None:
    other = Folder(tmp_path / "other")
    visit = other.visit(other.body("Pocket", "64-9"), "p")
    with other.library.database.write() as c:
        trays.keep_plan(c, COMPACT_PLAN)
        trays.put_tray(c, visit, COMPACT_PLAN, [Done(step_id="warned-flash")])
        for _ in range(2):
            trays.add_photo(c, visit, "0-photo", b"\xff\xd8\xff")
    archive = other.archive(tmp_path / "other.zip")
    for _ in range(2):
        desk.merge(archive)
        [(here,)] = desk.rows(
            "SELECT v.id FROM visits v JOIN bodies b ON b.id = v.body_id WHERE b.name = 'Pocket'"
        )
        with desk.library.database.read() as c:
            tray = trays.tray_of(c, here)
            assert tray is not None
            assert [d.step_id for d in tray.done] == ["warned-flash"]
            assert trays.photos_of(c, here) == {"0-photo": 2}
            assert trays.plans(c) == [COMPACT_PLAN]
    assert desk.is_whole()


def test_what_is_here_already_is_not_doubled(desk: Folder, tmp_path: Path) -> None:
    before = desk.counts()
    came = desk.merge(desk.archive(tmp_path / "a.zip"))
    assert desk.counts() == before
    assert desk.left() == [11.0]
    assert sum(came.added.values()) == 0
    assert merged_words(came).startswith("Added nothing that was not here")


def test_two_machines_come_together(desk: Folder, tmp_path: Path) -> None:
    other = copied(desk, tmp_path)
    body = other.body("Annex", "77-2")
    visit = other.visit(body, "c", "d", "e")
    other.use(1, visit)
    other.book("Harbour", 1, body)
    old = other.rows("SELECT id FROM visits ORDER BY id")[0][0]
    other.use(1, old)
    desk.visit(1, "f")
    came = desk.merge(other.archive(tmp_path / "other.zip"))
    assert came.added == {
        "bodies": 1,
        "visits": 1,
        "trail": 7,
        "frames": 3,
        "kit": 0,
        "bookings": 1,
    }
    assert [n for (n,) in desk.rows("SELECT name FROM bodies ORDER BY id")] == ["Study", "Annex"]
    assert desk.left() == [12 - 3.0]
    names = [
        n
        for (n,) in desk.rows(
            "SELECT f.name FROM trail t JOIN frames f ON f.id = t.frame_id JOIN visits v "
            "ON v.id = t.visit_id JOIN bodies b ON b.id = v.body_id WHERE b.name = 'Annex' "
            "ORDER BY t.id"
        )
    ]
    assert names == ["c.jpg", "d.jpg", "e.jpg"]
    booked = desk.rows(
        "SELECT b.name FROM bookings j JOIN booking_bodies x ON x.booking_id = j.id "
        "JOIN bodies b ON b.id = x.body_id WHERE j.name = 'Harbour' ORDER BY b.name"
    )
    assert booked == [("Annex",), ("Study",)]
    for sha, *_ in desk.rows("SELECT sha256 FROM frames"):
        assert sha256(desk.library.originals.path(sha).read_bytes()).hexdigest() == sha
    assert desk.is_whole()
    again = desk.counts()
    desk.merge(tmp_path / "other.zip")
    assert desk.counts() == again


def test_the_same_camera_is_known_by_its_serial_and_another_of_its_name_is_kept_apart(
    desk: Folder, tmp_path: Path
) -> None:
    other = Folder(tmp_path / "other")
    other.visit(other.body("The study's camera", "41-1"), "x")
    other.visit(other.body("study", "9"), "y")
    desk.merge(other.archive(tmp_path / "o.zip"))
    assert [n for (n,) in desk.rows("SELECT name FROM bodies ORDER BY id")] == [
        "Study",
        "study (2)",
    ]
    per_body = desk.rows("SELECT body_id, count(*) FROM visits GROUP BY body_id ORDER BY body_id")
    assert per_body == [(1, 2), (2, 1)]


def test_a_second_open_visit_of_a_camera_is_closed_as_postponed(
    desk: Folder, tmp_path: Path
) -> None:
    other = copied(desk, tmp_path)
    other.visit(1, "x", close=False)
    desk.visit(1, "y", close=False)
    desk.merge(other.archive(tmp_path / "o.zip"))
    states = desk.rows("SELECT state, verdict FROM visits ORDER BY id")
    assert states == [("closed", "finished"), ("open", None), ("closed", "deferred")]


def test_what_a_removed_step_had_taken_goes_back_to_the_right_thing(
    desk: Folder, tmp_path: Path
) -> None:
    other = Folder(tmp_path / "other")
    visit = other.visit(other.body("Annex"), "x")
    other.swabs(3)
    thing = other.swabs(5)
    with other.library.database.write() as c:
        entry = visits.add_step_entry(c, visit, "dry_swab", StepUse(swabs=1))
        visits.remove_entry(c, visit, entry, [Take(thing, 1.0)])
    desk.merge(other.archive(tmp_path / "o.zip"))
    [(removed,)] = desk.rows("SELECT removed_json FROM trail WHERE removed_json IS NOT NULL")
    [(kit_id, amount)] = json.loads(removed)
    assert amount == 1.0
    assert desk.rows(f"SELECT there FROM kit WHERE id = {kit_id}") == [(5.0,)]


def test_a_lost_original_comes_back(desk: Folder, tmp_path: Path) -> None:
    archive = desk.archive(tmp_path / "a.zip")
    [(sha, *_), *_] = desk.rows("SELECT sha256 FROM frames")
    desk.library.originals.drop(sha)
    desk.merge(archive)
    assert desk.library.originals.path(sha).is_file()


def test_stopped_or_broken_nothing_is_merged(desk: Folder, tmp_path: Path) -> None:
    other = Folder(tmp_path / "other")
    other.visit(other.body("Annex"), *(f"x{n}" for n in range(12)))
    archive, before = other.archive(tmp_path / "o.zip"), desk.counts()
    for at in (0.1, 0.45, 0.6, 0.69):

        def stop(share: float, at: float = at) -> None:
            if share > at:
                raise StoppedError("stopped")

        with pytest.raises(StoppedError):
            merge(archive, desk.library.root, desk.library.database, stop)
        assert desk.counts() == before
    archive.write_bytes(archive.read_bytes()[:-400])
    with pytest.raises(BrokenArchiveError):
        desk.merge(archive)
    assert desk.counts() == before
    assert not list(desk.library.root.glob(".merge-*"))
    assert desk.is_whole()


def test_an_archive_of_an_earlier_version_is_brought_up_to_date_first(
    desk: Folder, tmp_path: Path
) -> None:
    root = tmp_path / "old"
    root.mkdir()
    text = Path(__file__).parents[2] / "api" / "data" / "folder-kit.sql"
    with closing(sqlite3.connect(root / "neatpatch.sqlite3")) as c:
        c.executescript(text.read_text("utf-8"))
    (root / "originals").mkdir()
    back_up(root, tmp_path / "old.zip")
    before = desk.counts()
    desk.merge(tmp_path / "old.zip")
    after = desk.counts()
    assert after["bodies"] == before["bodies"] + 1
    assert after["kit"] == before["kit"] + 1
    desk.merge(tmp_path / "old.zip")
    assert desk.counts() == after
    assert desk.is_whole()


WORK = st.lists(st.sampled_from(["body", "visit", "use", "book"]), max_size=6)


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(here=WORK, there=WORK)
def test_whatever_was_done_on_both_each_thing_is_there_once(
    tmp_path_factory: pytest.TempPathFactory, here: list[str], there: list[str]
) -> None:
    root = tmp_path_factory.mktemp("both")
    desk = Folder(root / "desk")
    desk.use(desk.swabs(100), desk.visit(desk.body("Study"), "a"))
    other = copied(desk, root)
    for folder, work, side in ((desk, here, "here"), (other, there, "there")):
        for n, what in enumerate(work):
            mark = f"{side} {n}"
            if what == "body":
                folder.body(mark)
            elif what == "visit":
                folder.visit(1, mark)
            elif what == "use":
                folder.use(1, 1)
            else:
                folder.book(mark, 1)
    before, beside = desk.counts(), other.counts()
    common = dict.fromkeys(TABLES, 1) | {"trail": 2, "stock_moves": 2, "bookings": 0}
    desk.merge(other.archive(root / "o.zip"))
    assert desk.counts() == {t: before[t] + beside[t] - common[t] for t in TABLES}
    uses = [*here, *there].count("use") + 1
    assert desk.left() == [100.0 - uses]
    assert desk.is_whole()
