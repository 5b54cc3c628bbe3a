from __future__ import annotations

import re
import sqlite3
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.store import bodies, datafolder, frames, jobs, maps, visits
from neatpatch.store.database import (
    Database,
    StoreError,
    disk_trouble,
    migration_names,
    split_statements,
)
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from neatpatch.store.jobs import NewJob
from neatpatch.store.settings import get_setting, put_setting
from tests.core.made_maps import spot, spot_map

SHA = "a" * 64


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


def add(library: Library, sha: str = SHA) -> tuple[int, bool]:
    with library.database.write() as connection:
        frame = NewFrame(sha256=sha, size=10, name="a.jpg", source="upload")
        return frames.add_frame(connection, frame)


def test_frames_are_found_and_come_in_the_order_asked_for(library: Library) -> None:
    with library.database.write() as connection:
        for name, note in (("b.jpg", "first look"), ("A.jpg", ""), ("c.jpg", "")):
            sha = name[0].lower() * 64
            frame = NewFrame(sha256=sha, size=10, name=name, source="upload", note=note)
            frames.add_frame(connection, frame)
        maps.save_map(connection, 3, spot_map(spot("s1", 900, 700)), "1")
        body = bodies.add_body(
            connection, Body(name="Stand_one", sensor_mm=(36, 24), works_at=(8,))
        )
        visit = visits.open_visit(connection, body, VisitConditions())
        visits.add_frame_entry(connection, visit, 2)

    def found(**wanted: Any) -> tuple[list[str], int]:
        with library.database.read() as connection:
            page, total = frames.list_frames(connection, **wanted)
        return [f.name for f in page], total

    assert found() == (["c.jpg", "A.jpg", "b.jpg"], 3)
    assert found(order="oldest", count=2) == (["b.jpg", "A.jpg"], 3)
    assert found(order="name")[0] == ["A.jpg", "b.jpg", "c.jpg"]
    assert found(order="spots")[0][0] == "c.jpg"
    assert found(words="FIRST") == (["b.jpg"], 1)
    assert found(words="d_o") == (["A.jpg"], 1)
    assert found(words="%") == ([], 0)
    assert found(only="loose")[0] == ["c.jpg", "b.jpg"]
    assert found(only="unfit") == ([], 0)


def test_new_folder_gets_every_migration_once(tmp_path: Path) -> None:
    database = Database(tmp_path / "x.sqlite3")
    assert database.migrate() == migration_names()
    assert database.migrate() == []


def test_wal_and_foreign_keys_are_on(library: Library) -> None:
    with library.database.read() as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert connection.execute("PRAGMA foreign_keys").fetchone()[0] == 1


def test_a_failed_transaction_leaves_nothing(library: Library) -> None:
    def fail() -> None:
        with library.database.write() as connection:
            put_setting(connection, "a", "1")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail()
    with library.database.read() as connection:
        assert get_setting(connection, "a") is None


def test_file_of_a_newer_version_is_refused_and_untouched(tmp_path: Path) -> None:
    database = Database(tmp_path / "x.sqlite3")
    database.migrate()
    with database.write() as connection:
        connection.execute("INSERT INTO migrations VALUES ('9999_later', 'then')")
    with pytest.raises(StoreError, match="newer version"):
        database.migrate()


def test_no_database_is_said_plainly(tmp_path: Path) -> None:
    path = tmp_path / "neatpatch.sqlite3"
    path.write_bytes(b"this is no database at all, sorry" * 50)
    with pytest.raises(StoreError, match="not a usable database"):
        Library(tmp_path)


def test_folder_that_cannot_be_made_is_said_plainly(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(StoreError, match="--data"):
        Library(tmp_path / "file")


def test_backup_before_later_migrations(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    database = Database(tmp_path / "x.sqlite3")
    database.migrate()
    names = migration_names()
    monkeypatch.setattr(
        "neatpatch.store.database.migration_names", lambda: [*names, "0042_missing"]
    )
    with pytest.raises(FileNotFoundError):
        database.migrate()
    backup = tmp_path / "x-before-0042.sqlite3"
    copied = sqlite3.connect(backup).execute("SELECT count(*) FROM migrations").fetchone()
    assert copied == (len(names),)


def test_statements_are_split_at_their_ends() -> None:
    assert split_statements("SELECT 1;\nSELECT ';'\n;\n") == ["SELECT 1;", "SELECT ';'\n;"]


def test_the_same_content_is_the_same_frame(library: Library) -> None:
    first, second, other = add(library), add(library), add(library, "b" * 64)
    assert first == (second[0], True)
    assert second[1] is False
    assert other[0] != first[0]


def test_originals_are_kept_once_and_read_only(library: Library) -> None:
    for _ in range(2):
        arrived = library.originals.incoming / "up"
        arrived.write_bytes(b"bytes")
        kept = library.originals.keep(arrived, SHA)
        assert not arrived.exists()
    assert kept.read_bytes() == b"bytes"
    assert kept.stat().st_mode & 0o222 == 0


def test_maps_are_replaced_and_go_with_their_frame(library: Library) -> None:
    frame_id, _ = add(library)
    with library.database.write() as connection:
        maps.save_map(connection, frame_id, spot_map(spot("s1", 900, 700)), "1")
        assert maps.map_version(connection, frame_id) == 1
        newer = spot_map(spot("s1", 900, 700), spot("s2", 1500, 800))
        maps.save_map(connection, frame_id, newer, "2")
        assert library.maps.spot_map(connection, frame_id) == newer
        found = frames.frame_by_id(connection, frame_id)
        assert found is not None
        assert found.summary is not None
        assert (found.summary.version, found.summary.count) == (2, 2)
        assert found.summary.relevant(64) == 2
        assert found.summary.relevant(0.9) == 0
        assert frames.remove_frame(connection, frame_id) == SHA
        assert connection.execute("SELECT count(*) FROM maps").fetchone()[0] == 0
        assert frames.remove_frame(connection, frame_id) is None


def test_a_frame_id_is_given_out_once(library: Library) -> None:
    first, _ = add(library)
    with library.database.write() as connection:
        frames.remove_frame(connection, first)
    again, new = add(library)
    assert new
    assert again > first


def test_comparisons_are_kept_for_the_maps_they_were_made_of(library: Library) -> None:
    before, after = add(library)[0], add(library, "b" * 64)[0]
    one, two = spot_map(spot("s1", 900, 700)), spot_map(spot("s1", 900, 700), spot("s2", 1500, 800))
    laid = compare(one, two)
    with library.database.write() as connection:
        maps.save_map(connection, before, one, "1")
        maps.save_map(connection, after, two, "1")
        maps.put_comparison(connection, (before, 1), (after, 1), laid)
        assert library.maps.comparison(connection, (before, 1), (after, 1)) == laid
        maps.save_map(connection, after, one, "1")
        assert library.maps.comparison(connection, (before, 1), (after, 2)) is None
        maps.put_comparison(connection, (before, 1), (after, 1), laid)
        stored = connection.execute("SELECT after_version FROM comparisons").fetchall()
        assert [row["after_version"] for row in stored] == [1]
        frames.remove_frame(connection, after)
        assert connection.execute("SELECT count(*) FROM comparisons").fetchone()[0] == 0


def test_jobs_run_in_order_demo_last_and_come_back_after_a_restart(library: Library) -> None:
    frame_id, _ = add(library)
    mapping = NewJob(kind="map", label="a", frame_id=frame_id)
    with library.database.write() as connection:
        demo = jobs.add_job(connection, NewJob(kind="demo", label="archive"))
        first = jobs.add_job(connection, mapping)
        assert jobs.add_job(connection, mapping) == first
        taken = jobs.take_next(connection)
        assert taken is not None
        assert taken.id == first
        jobs.report(connection, first, 0.4, "measuring")
        assert jobs.requeue_interrupted(connection) == 1
        again = jobs.take_next(connection)
        assert again is not None
        assert (again.id, again.progress) == (first, 0.0)
        jobs.finish(connection, first, "done")
        jobs.finish(connection, first, "failed", "too late")
        done = jobs.job_by_id(connection, first)
        assert done is not None
        assert (done.state, done.progress, done.error) == ("done", 1.0, None)
        last = jobs.take_next(connection)
        assert last is not None
        assert last.id == demo
        assert jobs.take_next(connection) is None


def test_no_job_waits_for_a_clock_that_was_set_back(library: Library) -> None:
    ahead = (datetime.now(UTC) + timedelta(days=2)).isoformat(timespec="milliseconds")
    with library.database.write() as connection:
        job_id = jobs.add_job(connection, NewJob(kind="demo", label="archive"))
        connection.execute("UPDATE jobs SET not_before = ?", (ahead,))
        assert jobs.anything_waits(connection)
        taken = jobs.take_next(connection)
        assert taken is not None
        assert taken.id == job_id


def test_a_frame_has_one_open_job_and_is_done_again_when_asked_meanwhile(library: Library) -> None:
    frame_id, _ = add(library)
    mapping = NewJob(kind="map", label="a", frame_id=frame_id)
    with library.database.write() as connection:
        first = jobs.add_job(connection, NewJob(kind="picture", label="a", frame_id=frame_id))
        assert jobs.add_job(connection, mapping) == first
        taken = jobs.take_next(connection)
        assert taken is not None
        assert taken.kind == "map"
        assert jobs.add_job(connection, mapping) == first
        jobs.finish(connection, first, "done")
        waiting = jobs.job_by_id(connection, first)
        assert waiting is not None
        assert waiting.state == "queued"
        assert jobs.take_next(connection) is not None
        jobs.finish(connection, first, "done")
        ended = jobs.job_by_id(connection, first)
        assert ended is not None
        assert ended.state == "done"
        with pytest.raises(sqlite3.IntegrityError):
            connection.executemany(
                "INSERT INTO jobs (kind, frame_id, label, state, created_at) "
                "VALUES ('map', ?, 'a', ?, 't')",
                [(frame_id, "running"), (frame_id, "queued")],
            )


def test_a_job_put_back_waits_and_counts_its_attempts(
    library: Library, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(jobs, "_LONGEST_PAUSE_S", 7200.0)
    frame_id, _ = add(library)
    with library.database.write() as connection:
        job_id = jobs.add_job(connection, NewJob(kind="map", label="a", frame_id=frame_id))
        jobs.take_next(connection)
        jobs.put_back(connection, job_id, after_s=3600, counts=False)
        assert not jobs.anything_waits(connection)
        assert jobs.take_next(connection) is None
        connection.execute("UPDATE jobs SET not_before = NULL")
        assert jobs.take_next(connection) is not None
        jobs.put_back(connection, job_id)
        assert jobs.anything_waits(connection)
        found = jobs.take_next(connection)
        assert found is not None
        assert found.attempts == 1


def test_acknowledged_frames_without_map_are_found_again(library: Library) -> None:
    frame_id, _ = add(library)
    with library.database.write() as connection:
        assert frames.frames_to_measure(connection) == [(frame_id, "a.jpg")]
        job_id = jobs.add_job(connection, NewJob(kind="map", label="a", frame_id=frame_id))
        assert frames.frames_to_measure(connection) == []
        jobs.cancel(connection, job_id)
        assert frames.frames_to_measure(connection) == []
        found = frames.frame_by_id(connection, frame_id)
        assert found is not None
        assert found.trouble == "Measuring was stopped."


def test_a_full_or_read_only_disk_is_called_that(tmp_path: Path) -> None:
    path = tmp_path / "x.sqlite3"
    database = Database(path)
    database.migrate()

    def fill() -> None:
        with database.write() as connection:
            connection.execute("PRAGMA max_page_count = 1")
            put_setting(connection, "key", "x" * 100_000)

    with pytest.raises(sqlite3.OperationalError) as full:
        fill()
    assert disk_trouble(full.value) == "The disk is full."
    assert "cannot be written" in str(disk_trouble(sqlite3_error("SQLITE_READONLY_DIRECTORY")))
    assert "Another program" in str(disk_trouble(sqlite3_error("SQLITE_BUSY")))
    assert disk_trouble(sqlite3_error("SQLITE_CONSTRAINT_UNIQUE")) is None
    assert "No space" in str(disk_trouble(OSError(28, "No space left on device")))
    assert disk_trouble(ValueError("x")) is None


def sqlite3_error(name: str) -> sqlite3.Error:
    error = sqlite3.OperationalError("x")
    error.sqlite_errorname = name
    return error


def test_only_its_owner_may_look_into_a_data_folder(tmp_path: Path) -> None:
    library = Library(tmp_path / "data")
    assert library.root.stat().st_mode & 0o077 == 0
    assert library.database.path.stat().st_mode & 0o077 == 0


@pytest.mark.parametrize(
    ("error", "said"),
    [
        (sqlite3_error("SQLITE_READONLY"), "cannot be written to. Free some space or mend its"),
        (sqlite3_error("SQLITE_FULL"), "The disk is full."),
        (OSError(28, "No space left on device"), "No space left on device"),
    ],
)
def test_a_disk_that_takes_nothing_at_start_is_not_called_a_broken_database(
    error: Exception, said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refused(_self: Database) -> list[str]:
        raise error

    monkeypatch.setattr(datafolder, "Database", Database)
    monkeypatch.setattr(Database, "_migrate", refused)
    with pytest.raises(StoreError, match=re.escape(said)) as told:
        Library(tmp_path)
    assert "Move it away" not in str(told.value)


def test_while_it_is_kept_open_its_log_is_not_made_anew(tmp_path: Path) -> None:
    library = Library(tmp_path)
    log = tmp_path / "neatpatch.sqlite3-wal"
    with library.database.kept_open():
        for value in ("1", "2"):
            with library.database.write() as c:
                put_setting(c, "x", value)
            assert log.exists()
    assert not log.exists()
    with library.database.read() as c:
        assert get_setting(c, "x") == "2"


def test_a_reader_held_from_before_sees_what_was_written_since(tmp_path: Path) -> None:
    database = Library(tmp_path).database
    with database.kept_open():
        with database.read() as first:
            assert get_setting(first, "x") is None
        with database.write() as c:
            put_setting(c, "x", "1")
        with database.read() as again:
            assert again is first, "a reader is opened once"
            assert get_setting(again, "x") == "1"
            with database.read() as another:
                assert another is not again, "two at a time have one each"


def test_a_reader_is_closed_after_trouble_and_when_nobody_serves(tmp_path: Path) -> None:
    database = Library(tmp_path).database
    with database.kept_open():
        with pytest.raises(ValueError, match="odd"), database.read() as troubled:
            raise ValueError("odd")
        with database.read() as held:
            pass
    with database.read() as alone:
        pass
    for connection in (troubled, held, alone):
        with pytest.raises(sqlite3.ProgrammingError, match="closed"):
            connection.execute("SELECT 1")


def test_a_write_while_reading_is_refused_and_not_lost_in_silence(library: Library) -> None:
    with (
        library.database.read() as connection,
        pytest.raises(sqlite3.OperationalError, match="readonly"),
    ):
        connection.execute("INSERT INTO settings (key, value) VALUES ('a', 'b')")


def test_a_transaction_within_another_is_refused_at_once(library: Library) -> None:
    with library.database.write(), pytest.raises(RuntimeError, match="within another"):
        library.database.write().__enter__()
    with library.database.exclusive(), library.database.write() as connection:
        connection.execute("INSERT INTO settings (key, value) VALUES ('a', 'b')")


def test_a_map_read_in_a_transaction_that_fails_is_never_served(library: Library) -> None:
    frame = NewFrame(sha256="a" * 64, size=10, name="f", source="upload")
    with library.database.write() as connection:
        frame_id, _ = frames.add_frame(connection, frame)
    three = spot_map(spot("s1", 10, 10), spot("s2", 20, 20), spot("s3", 30, 30))

    def fail() -> None:
        with library.database.write() as connection:
            maps.save_map(connection, frame_id, three, "1")
            assert len(library.maps.spot_map(connection, frame_id).spots) == 3  # type: ignore[union-attr]
            raise sqlite3.OperationalError("database or disk is full")

    with pytest.raises(sqlite3.OperationalError):
        fail()
    with library.database.write() as connection:
        maps.save_map(connection, frame_id, spot_map(spot("s1", 10, 10)), "1")
    with library.database.read() as connection:
        found = library.maps.spot_map(connection, frame_id)
    assert found is not None
    assert len(found.spots) == 1
