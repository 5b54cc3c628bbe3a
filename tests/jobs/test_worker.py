"""The worker's own code, run here in this process, and the demo archive."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path

import pytest

from neatpatch.core.common.errors import AlteredOriginalError, UnusableFrameError
from neatpatch.core.common.records import SpotMap
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.demo import archive
from neatpatch.demo.job import queue_demo
from neatpatch.images.hashing import sha256_of
from neatpatch.jobs.worker import Mapped, MapTask, Progress, Source, run_map
from neatpatch.services.common.fingerprints import SensorMatch
from neatpatch.services.frames.virtual_shots import take_in_shot, take_in_virtual_frame
from neatpatch.simulation import Camera
from neatpatch.simulation.frames import ShotFrame
from neatpatch.store import bodies, frames, visits
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.jobs import NewJob
from neatpatch.store.loss_fields import read_field


def task(original: Path, derived: Path) -> MapTask:
    source = Source(original, sha256_of(original), "shown.jpg")
    loss = derived.with_name(derived.name + ".loss.npz")
    return MapTask(source, derived, loss, (23.5, 15.6), 16.0, True)


def test_the_map_comes_before_the_picture(small_jpeg: Path, tmp_path: Path) -> None:
    told: list[object] = []
    run_map(task(small_jpeg, tmp_path / "d"), told.append)
    assert read_field(tmp_path / "d.loss.npz") is not None
    shares = [t.share for t in told if isinstance(t, Progress)]
    assert shares == sorted(shares)
    places = [i for i, t in enumerate(told) if isinstance(t, Mapped)]
    last = told[places[0]]
    assert isinstance(last, Mapped)
    assert told[places[0] + 1] == Progress(0.75, "picture")
    assert SpotMap.model_validate_json(last.map_json).frames[0].path == "shown.jpg"
    assert (tmp_path / "d" / "shot.jpg").is_file()


def test_a_bad_original_raises_the_sentence_for_the_user(tmp_path: Path) -> None:
    bad = tmp_path / "bad"
    bad.write_bytes(b"\xff\xd8\xff rubbish")
    with pytest.raises(UnusableFrameError, match="damaged"):
        run_map(task(bad, tmp_path / "d"), lambda _message: None)


def test_an_altered_or_missing_original_is_said_and_not_measured(
    small_jpeg: Path, tmp_path: Path
) -> None:
    kept = tmp_path / "kept"
    kept.write_bytes(small_jpeg.read_bytes())
    wanted = task(kept, tmp_path / "d")
    for altered in (small_jpeg.read_bytes() + b"x", b"\xff\xd8\xff rubbish"):
        kept.write_bytes(altered)
        with pytest.raises(AlteredOriginalError, match=r"shown\.jpg was altered"):
            run_map(wanted, lambda _message: None)
    kept.unlink()
    with pytest.raises(AlteredOriginalError, match="missing"):
        run_map(wanted, lambda _message: None)


def test_dirt_of_the_archive_only_grows() -> None:
    names = [{p.name for p in archive.particles_of(s)} for s in archive.SESSIONS]
    assert all(earlier < later for earlier, later in pairwise(names))


def test_the_archive_shoots_its_four_frames(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    small = Camera(name="Orlo Copystand 12", sensor_mm=(35.9, 23.9), width_px=400)
    monkeypatch.setattr(archive, "BODY", small)
    steps = list(archive.shoot_frames(tmp_path))
    made = [frame for _, frame in steps if frame is not None]
    assert [f.name for f in made] == [s.name for s in archive.SESSIONS]
    assert all(f.path.is_file() for f in made)
    assert [share for share, _ in steps] == sorted(share for share, _ in steps)


def test_demo_frames_are_taken_in_once(tmp_path: Path, small_jpeg: Path) -> None:
    library = Library(tmp_path)
    message = ShotFrame(small_jpeg, "a.jpg", "note", (35.9, 23.9))
    for _ in range(2):
        take_in_virtual_frame(library, message)
    with library.database.read() as connection:
        assert [j.kind for j in job_rows.open_jobs(connection)] == ["map"]


def test_the_demo_is_queued_once(tmp_path: Path) -> None:
    library = Library(tmp_path)
    for _ in range(2):
        queue_demo(library)
    with library.database.read() as connection:
        assert [j.kind for j in job_rows.open_jobs(connection)] == ["demo"]


def shooting(library: Library, small_jpeg: Path, *, gone: bool) -> tuple[int, int]:
    """Frames kept and jobs open after a shot came in for a visit that is there, or gone."""
    with library.database.write() as connection:
        body_id = bodies.add_body(connection, Body(name="Study", sensor_mm=(23.5, 15.6)))
        visit_id = visits.open_visit(connection, body_id, VisitConditions())
        new = NewJob(kind="shoot", label="Virtual camera", visit_id=visit_id)
        job_id = job_rows.add_job(connection, new)
        job = job_rows.take_next(connection)
    assert job is not None
    assert job.id == job_id
    if gone:
        with library.database.write() as connection:
            bodies.remove_body(connection, body_id)
    take_in_shot(library, ShotFrame(small_jpeg, "a.jpg", "", (23.5, 15.6)), job)
    with library.database.read() as connection:
        kept = frames.list_frames(connection)[1]
        return kept, len([j for j in job_rows.open_jobs(connection) if j.kind == "shoot"])


def test_a_shot_ends_its_job_with_its_frame_on_the_trail(tmp_path: Path, small_jpeg: Path) -> None:
    assert shooting(Library(tmp_path), small_jpeg, gone=False) == (1, 0)


def test_a_shot_for_a_body_that_was_removed_is_dropped(tmp_path: Path, small_jpeg: Path) -> None:
    library = Library(tmp_path)
    assert shooting(library, small_jpeg, gone=True) == (0, 0)
    assert list(library.originals.incoming.iterdir()) == []


def test_a_map_is_not_lost_where_memory_does_not_suffice_for_the_fingerprint(
    small_jpeg: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_given: object) -> SensorMatch:
        raise MemoryError

    monkeypatch.setattr("neatpatch.jobs.worker.match_sensor", full)
    told: list[object] = []
    run_map(task(small_jpeg, tmp_path / "d"), told.append)
    mapped = next(m for m in told if isinstance(m, Mapped))
    assert mapped.seen is not None
    assert mapped.seen.own is None
    assert mapped.seen.matches == ()
