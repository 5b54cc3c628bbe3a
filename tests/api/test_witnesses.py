"""The sensor as its own witness, through the API: bodies recognised, doubts, spotless retests."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.services.common import fingerprints
from neatpatch.simulation import Camera, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture
from neatpatch.store import fingerprints as print_rows
from neatpatch.store.datafolder import Library
from tests.api.test_visits import a_body, a_visit, drop, visit_of
from tests.core.sensor.test_lens_correction_search import corrected
from tests.served import upload, wait

_SHOTS: dict[tuple[str, int, int, int], bytes] = {}


@pytest.fixture
def shots(tmp_path: Path) -> Any:
    """Test frames of two cameras of one model; ``camera`` names the sensor, not the file."""

    def shot(camera: str, specks: int, seed: int, turn: int = 0) -> Path:
        key = (camera, specks, seed, turn)
        path = tmp_path / f"{camera}-{seed}-{turn}.jpg"
        if key not in _SHOTS:
            body = Camera(name=camera, width_px=2000, fixed_pattern=0.005)
            dirt = scatter({"speck": specks}, body.sensor_mm, 1.5, seed)
            picture = developed(expose(body, dirt, seed=seed).mosaic)
            write_picture(path, np.rot90(picture, turn))
            _SHOTS[key] = path.read_bytes()
        path.write_bytes(_SHOTS[key])
        return path

    return shot


@pytest.fixture
def library(client: TestClient) -> Library:
    """The library behind the client."""
    found: Library = client.app.state.data  # type: ignore[attr-defined]
    return found


def taken_in(client: TestClient, path: Path) -> int:
    """Upload a frame on its own and wait for its map."""
    answer = upload(client, path).json()
    wait(client, answer["job"]["id"])
    return int(answer["frame"]["id"])


def settled(client: TestClient) -> None:
    """Wait for all work that goes on."""
    while jobs := client.get("/api/frames").json()["open_jobs"]:
        wait(client, jobs[0]["id"])


@pytest.mark.long
def test_a_spotless_retest_is_compared_by_the_sensors_own_pattern(
    client: TestClient, shots: Any
) -> None:
    visit = a_visit(client, a_body(client))
    first = drop(client, visit["id"], shots("One", 8, 1))
    client.post(f"/api/visits/{visit['id']}/steps", json={"step": "auto_clean"})
    second = drop(client, visit["id"], shots("One", 0, 2))
    laid = client.get(f"/api/frames/{first}/against/{second}").json()["comparison"]
    assert laid["same_sensor"] is True
    assert laid["comparable"]
    assert laid["summary"]["removed_percent"] == 100.0
    step = next(i["step"] for i in visit_of(client, visit["id"])["trail"] if i["step"])
    assert step["result"] == "cleared"


@pytest.mark.long
def test_a_spotless_retest_that_the_camera_corrected_for_its_lens_is_compared(
    client: TestClient, shots: Any
) -> None:
    visit = a_visit(client, a_body(client))
    first = drop(client, visit["id"], shots("One", 8, 1))
    client.post(f"/api/visits/{visit['id']}/steps", json={"step": "auto_clean"})
    plain = shots("One", 0, 2)
    bent = plain.with_name("bent.jpg")
    tones = np.asarray(Image.open(plain).convert("RGB"), np.float32)
    bent_tones = np.clip(np.rint(corrected(tones, Correction(1.02, -0.03))), 0, 255)
    write_picture(bent, bent_tones.astype(np.uint8))
    second = drop(client, visit["id"], bent)
    third = drop(client, visit["id"], shots("One", 0, 3))
    for pair in ((first, second), (second, third)):
        laid = client.get(f"/api/frames/{pair[0]}/against/{pair[1]}").json()["comparison"]
        assert laid["same_sensor"] is True
        assert laid["comparable"]
    laid = client.get(f"/api/frames/{first}/against/{second}").json()["comparison"]
    assert laid["alignment"]["radial"] == pytest.approx(-0.03, abs=0.002)
    told = laid["summary"]
    assert (told["stayed"], told["new"]) == (0, 0)
    assert told["gone"] > 4
    assert told["gone"] + told["unseen"] == told["before"]


@pytest.mark.long
def test_a_frame_that_began_the_visit_is_held_against_the_sensor_too(
    client: TestClient, shots: Any
) -> None:
    frame = taken_in(client, shots("One", 8, 1))
    body_id = a_body(client)
    visit = client.post("/api/visits", json={"body_id": body_id, "frame_id": frame}).json()
    settled(client)
    client.post(f"/api/visits/{visit['id']}/steps", json={"step": "auto_clean"})
    later = drop(client, visit["id"], shots("One", 0, 2))
    laid = client.get(f"/api/frames/{frame}/against/{later}").json()["comparison"]
    assert laid["same_sensor"] is True


def cut_out(whole: Path) -> Path:
    """A frame's part of its own proportion."""
    tones = np.asarray(Image.open(whole).convert("RGB"))
    height, width = (int(0.7 * n) for n in tones.shape[:2])
    part = np.ascontiguousarray(tones[120 : 120 + height, 260 : 260 + width])
    return write_picture(whole.with_name("part.jpg"), part)


@pytest.mark.long
def test_only_so_many_frames_are_measured_again_for_a_reference_begun_anew(
    client: TestClient, library: Library, shots: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(fingerprints, "_MOST_HELD_AGAIN", 1)
    body_id = a_body(client)
    visit = a_visit(client, body_id)
    first = drop(client, visit["id"], cut_out(shots("One", 8, 1)))
    second = drop(client, visit["id"], shots("One", 8, 4))
    settled(client)
    with library.database.read() as connection:
        told = [fingerprints.match_of(connection, f, body_id) for f in (first, second)]
    assert [t is not None for t in told] == [False, True]


@pytest.mark.long
def test_a_body_that_began_with_a_cut_out_is_known_by_its_whole_frames(
    client: TestClient, library: Library, shots: Any
) -> None:
    part = cut_out(shots("One", 8, 1))
    body_id = a_body(client)
    visit = a_visit(client, body_id)
    first = drop(client, visit["id"], part)

    def reference() -> str:
        with library.database.read() as connection:
            kept = print_rows.reference_of(connection, body_id)
        assert kept is not None
        return kept.reference

    began = reference()
    second = drop(client, visit["id"], shots("One", 8, 4))
    assert reference() != began
    settled(client)
    third = drop(client, visit["id"], shots("One", 0, 2))
    for pair in ((first, second), (first, third), (second, third)):
        laid = client.get(f"/api/frames/{pair[0]}/against/{pair[1]}").json()["comparison"]
        assert laid["same_sensor"] is True
    kept = reference()
    drop(client, visit["id"], part)
    assert reference() == kept


@pytest.mark.long
def test_two_bodies_of_one_model_are_told_apart(client: TestClient, shots: Any) -> None:
    visit = a_visit(client, a_body(client))
    drop(client, visit["id"], shots("One", 8, 1))
    strange = drop(client, visit["id"], shots("Two", 6, 3))
    entry = next(
        i
        for i in visit_of(client, visit["id"])["trail"]
        if i["frame"] and i["frame"]["frame_id"] == strange
    )
    assert "another sensor" in entry["frame"]["doubts"][0]
    assert visit_of(client, visit["id"])["latest_frame_id"] != strange


@pytest.mark.long
def test_a_dropped_frame_is_recognised_by_its_sensor_whatever_its_notes_say(
    client: TestClient, shots: Any
) -> None:
    known = {}
    for name in ("One", "Two"):
        known[name] = a_body(client, name=f"Camera {name}")
        drop(client, a_visit(client, known[name])["id"], shots(name, 7, 4))
    frame = taken_in(client, shots("Two", 5, 9, turn=2))
    seen = client.get(f"/api/frames/{frame}").json()["recognised"]
    assert seen == {"body_id": known["Two"], "name": "Camera Two", "by": "sensor"}
    stranger = taken_in(client, shots("Three", 5, 9))
    assert client.get(f"/api/frames/{stranger}").json()["recognised"] is None


@pytest.mark.long
def test_the_reference_grows_and_begins_anew_when_another_sensor_is_accepted(
    client: TestClient, library: Library, shots: Any
) -> None:
    body_id = a_body(client)
    visit = a_visit(client, body_id)
    for seed in (1, 2, 3):
        drop(client, visit["id"], shots("One", 5, seed))
    with library.database.read() as connection:
        before = print_rows.reference_of(connection, body_id)
    assert before is not None
    assert before.frames == 3
    strange = drop(client, visit["id"], shots("Two", 5, 7))
    entry = next(
        i
        for i in visit_of(client, visit["id"])["trail"]
        if i["frame"] and i["frame"]["frame_id"] == strange
    )
    client.post(f"/api/visits/{visit['id']}/trail/{entry['id']}/accept")
    settled(client)
    with library.database.read() as connection:
        after = print_rows.reference_of(connection, body_id)
    assert after is not None
    assert after.reference != before.reference
    assert after.frames == 1


def test_a_reference_of_another_version_or_damaged_is_begun_anew() -> None:
    assert print_rows.from_bytes(b"") is None
    assert print_rows.from_bytes(b"no pattern at all") is None


@pytest.mark.long
def test_a_body_that_is_removed_takes_its_fingerprint_along(
    client: TestClient, library: Library, shots: Any
) -> None:
    body_id = a_body(client)
    drop(client, a_visit(client, body_id)["id"], shots("One", 8, 1))
    assert client.delete(f"/api/bodies/{body_id}").status_code == 204
    with library.database.read() as connection:
        assert print_rows.references(connection) == []
