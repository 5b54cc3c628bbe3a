"""Bodies, visits and trails in the database."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.simulation import Camera
from neatpatch.simulation.rungs import scatter_dust
from neatpatch.store import bodies, frames, jobs, visits
from neatpatch.store import virtual_cameras as bench
from neatpatch.store.database import Database, migration_names, split_statements
from neatpatch.store.frames import NewFrame
from neatpatch.store.jobs import NewJob

BODY = Body(name="Study", sensor_mm=(36, 24), works_at=(8, 16), hold_rule="off", stabilised=True)


@pytest.fixture
def database(tmp_path: Path) -> Database:
    found = Database(tmp_path / "n.sqlite3")
    found.migrate()
    return found


def a_frame(connection: sqlite3.Connection, letter: str = "a") -> int:
    new = NewFrame(sha256=letter * 64, size=1, name=f"{letter}.jpg", source="upload")
    return frames.add_frame(connection, new)[0]


def test_a_body_comes_back_as_it_was_and_learns(database: Database) -> None:
    with database.write() as c:
        body_id = bodies.add_body(c, BODY)
        stored = bodies.body_by_id(c, body_id)
        assert stored is not None
        assert stored.body == BODY
        bodies.learn(c, body_id, camera_name="Fennick", serial="7", pitch_um=5.0, stack_mm=1.2)
        bodies.learn(c, body_id, camera_name="Other", serial="8", pitch_um=9.0, stack_mm=None)
        learned = bodies.body_by_id(c, body_id)
    assert learned is not None
    assert (learned.body.camera_name, learned.body.pitch_um) == ("Fennick", 5.0)
    assert learned.body.stack_mm == 1.2
    with database.read() as c:
        assert bodies.name_taken(c, "STUDY")
        assert not bodies.name_taken(c, "study", but=body_id)


def test_at_most_one_open_visit_a_body(database: Database) -> None:
    with database.write() as c:
        body_id = bodies.add_body(c, BODY)
        visit_id = visits.open_visit(c, body_id, VisitConditions(why_now="spots"))
        with pytest.raises(sqlite3.IntegrityError):
            visits.open_visit(c, body_id, VisitConditions())
        visits.close_visit(c, visit_id, visits.VisitEnd(verdict="finished"))
        visits.open_visit(c, body_id, VisitConditions())
        listed, total = bodies.list_bodies(c)
    assert total == 1
    assert listed[0].visits == 2
    assert listed[0].last_verdict == "finished"
    assert listed[0].open_visit_id is not None


def test_every_change_raises_the_version_and_the_trail_keeps_its_order(database: Database) -> None:
    with database.write() as c:
        body_id = bodies.add_body(c, BODY)
        visit_id = visits.open_visit(c, body_id, VisitConditions())
        seen = [visits.version_of(c, visit_id)]
        first = a_frame(c)
        entry = visits.add_frame_entry(c, visit_id, first)
        assert visits.add_frame_entry(c, visit_id, first) == entry
        seen.append(visits.version_of(c, visit_id))
        step = visits.add_step_entry(c, visit_id, "air", StepUse(puffs=9), "because")
        seen.append(visits.version_of(c, visit_id))
        visits.change_use(c, visit_id, step, StepUse(puffs=12))
        visits.set_conditions(c, visit_id, VisitConditions(temperature_c=19))
        seen.append(visits.version_of(c, visit_id))
        trail = visits.trail_of(c, visit_id)
        assert visits.visits_with_frame(c, first) == [visit_id]
    assert seen == sorted(set(seen), key=lambda v: v or 0)
    assert [(e.frame_id, e.step) for e in trail] == [(first, None), (None, "air")]
    assert trail[1].use.puffs == 12
    assert trail[1].against == "because"


def test_removing_a_body_takes_its_visits_but_not_the_frames(database: Database) -> None:
    with database.write() as c:
        body_id = bodies.add_body(c, BODY)
        visit_id = visits.open_visit(c, body_id, VisitConditions())
        frame_id = a_frame(c)
        visits.add_frame_entry(c, visit_id, frame_id)
        bodies.remove_body(c, body_id)
        assert visits.visit_by_id(c, visit_id) is None
        assert frames.frame_by_id(c, frame_id) is not None
        assert visits.version_of(c, visit_id) is None


def test_series_and_jobs_of_a_visit(database: Database) -> None:
    with database.write() as c:
        lead, second = a_frame(c, "a"), a_frame(c, "b")
        visits.set_series(c, lead, [second, lead])
        assert visits.series_of(c, lead) == [second]
        visit_id = visits.open_visit(c, bodies.add_body(c, BODY), VisitConditions())
        visits.add_frame_entry(c, visit_id, lead)
        jobs.add_job(c, NewJob(kind="map", label="a", frame_id=lead))
        jobs.add_job(c, NewJob(kind="shoot", label="camera", visit_id=visit_id))
        assert [j.kind for j in jobs.open_jobs_of_visit(c, visit_id)] == ["map", "shoot"]


def test_virtual_bodies_come_back(database: Database) -> None:
    with database.write() as c:
        body_id = bodies.add_body(c, BODY)
        dust = scatter_dust({"speck": 3}, (36, 24), 1.5, 1)
        bench.put_virtual_camera(c, body_id, bench.VirtualCamera(Camera(name="V"), dust, 4))
        assert bench.virtual_camera_of(c, body_id) == bench.VirtualCamera(Camera(name="V"), dust, 4)
        assert bench.virtual_camera_ids(c) == {body_id}
        assert bench.virtual_camera_of(c, 999) is None


def test_an_older_database_is_carried_over_with_a_backup(tmp_path: Path) -> None:
    path = tmp_path / "n.sqlite3"
    first = migration_names()[0]
    from importlib import resources

    text = resources.files("neatpatch.store.migrations").joinpath(f"{first}.sql").read_text("utf-8")
    with sqlite3.connect(path) as old:
        old.execute(
            "CREATE TABLE migrations (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT"
        )
        for statement in split_statements(text):
            old.execute(statement)
        old.execute("INSERT INTO migrations VALUES (?, 'then')", (first,))
        old.execute(
            "INSERT INTO jobs (kind, label, state, created_at) VALUES ('map', 'x', 'done', 't')"
        )
    old.close()
    assert Database(path).migrate() == migration_names()[1:]
    assert (tmp_path / "n-before-0002.sqlite3").exists()
    with Database(path).read() as c:
        assert [row["label"] for row in c.execute("SELECT label FROM jobs")] == ["x"]
