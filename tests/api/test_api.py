from __future__ import annotations

import csv
import io
import json
import time
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from fastapi.testclient import TestClient

from neatpatch import __version__
from neatpatch.api.app import create_app
from neatpatch.services.visits.live_updates import LiveUpdates
from neatpatch.store.datafolder import Library
from tests.served import assert_problem, options_for, served, upload, wait


def added(client: TestClient, path: Path) -> int:
    """Upload a frame and wait for its map; gives its id."""
    accepted = upload(client, path).json()
    assert wait(client, accepted["job"]["id"])["state"] == "done"
    frame_id: int = accepted["frame"]["id"]
    return frame_id


def test_health(client: TestClient) -> None:
    assert client.get("/api/health").json() == {"status": "ok", "version": __version__}


@pytest.mark.long
def test_a_frame_becomes_a_map_with_pictures_and_files(
    client: TestClient, small_jpeg: Path
) -> None:
    frame_id = added(client, small_jpeg)
    detail = client.get(f"/api/frames/{frame_id}").json()
    spots = detail["map"]["spots"]
    assert detail["frame"]["ready"] is True
    assert detail["frame"]["count"] == len(spots) >= 6
    assert detail["map"]["frames"][0]["path"] == "small.jpg"
    for tone in ("shot", "relief"):
        tile = client.get(f"/api/frames/{frame_id}/tiles/{tone}/11/0_0.jpg")
        assert tile.status_code == 200
        assert tile.headers["content-type"] == "image/jpeg"
        assert client.get(f"/api/frames/{frame_id}/thumb/{tone}.jpg").status_code == 200
    saved = client.get(f"/api/frames/{frame_id}/map.json")
    assert json.loads(saved.text) == detail["map"]
    assert 'filename="small-map.json"' in saved.headers["content-disposition"]
    rows = list(csv.DictReader(io.StringIO(client.get(f"/api/frames/{frame_id}/map.csv").text)))
    assert [r["id"] for r in rows] == [s["id"] for s in spots]
    drawing = ET.fromstring(client.get(f"/api/frames/{frame_id}/map.svg").text)
    titles = drawing.findall(".//{http://www.w3.org/2000/svg}title")
    assert len(titles) == len(spots) + 1


def test_the_same_file_twice_is_the_same_frame(client: TestClient, small_jpeg: Path) -> None:
    first = added(client, small_jpeg)
    again = upload(client, small_jpeg, "other-name.jpg")
    assert again.status_code == 200
    assert again.json()["new"] is False
    assert again.json()["frame"]["id"] == first
    assert len(client.get("/api/frames").json()["frames"]) == 1


@pytest.mark.long
def test_sensor_size_is_remembered_and_measured_again(client: TestClient, small_jpeg: Path) -> None:
    frame_id = added(client, small_jpeg)
    assert client.get(f"/api/frames/{frame_id}").json()["map"]["optics"]["height_mm"] is None
    job = client.put(f"/api/frames/{frame_id}/sensor", json={"width_mm": 23.5, "height_mm": 15.6})
    assert wait(client, job.json()["id"])["state"] == "done"
    detail = client.get(f"/api/frames/{frame_id}").json()
    assert detail["map"]["optics"]["height_mm"] > 0
    assert detail["sensor_mm"] == [23.5, 15.6]
    wrong = client.put(f"/api/frames/{frame_id}/sensor", json={"width_mm": -1, "height_mm": 15})
    assert_problem(wrong, 422, "width_mm")


def stored(client: TestClient) -> list[Path]:
    root: Path = client.app.state.data.originals.root  # type: ignore[attr-defined]
    return [p for p in root.rglob("*") if p.is_file()]


@pytest.mark.parametrize(
    ("content", "status", "words"),
    [
        (b"", 415, "empty"),
        (b"dear diary " * 20, 415, "not a picture"),
        (b"GIF89a" + b"\0" * 50, 415, "GIF"),
        (b"\xff\xd8\xff" + b"\0" * 6_100_000, 413, "MB"),
    ],
    ids=["empty", "text", "gif", "too large"],
)
def test_hopeless_files_are_refused_at_the_door(
    client: TestClient, content: bytes, status: int, words: str
) -> None:
    assert_problem(client.post("/api/frames", content=content), status, words)
    assert stored(client) == []
    assert client.get("/api/health").status_code == 200


def test_a_cut_file_fails_its_job_and_stays_until_it_is_removed(
    client: TestClient, small_jpeg: Path
) -> None:
    data = small_jpeg.read_bytes()
    accepted = client.post("/api/frames", content=data[: len(data) // 3]).json()
    job = wait(client, accepted["job"]["id"])
    assert job["state"] == "failed"
    assert "damaged or cut short" in job["error"]
    [kept] = client.get("/api/frames").json()["frames"]
    assert "damaged or cut short" in kept["trouble"]
    assert len(stored(client)) == 1
    again = client.post(f"/api/frames/{kept['id']}/measure").json()
    assert wait(client, again["id"])["state"] == "failed"
    assert client.delete(f"/api/frames/{kept['id']}").status_code == 204
    assert stored(client) == []
    whole = upload(client, small_jpeg)
    assert wait(client, whole.json()["job"]["id"])["state"] == "done"


@pytest.mark.long
def test_a_cancelled_job_keeps_its_frame_and_the_next_one_runs(
    client: TestClient, dusty_jpeg: Path, small_jpeg: Path
) -> None:
    accepted = upload(client, dusty_jpeg).json()
    job_id, frame_id = accepted["job"]["id"], accepted["frame"]["id"]
    running(client, job_id)
    client.delete(f"/api/jobs/{job_id}")
    assert wait(client, job_id)["state"] == "cancelled"
    assert client.get(f"/api/frames/{frame_id}").json()["frame"]["trouble"]
    assert added(client, small_jpeg) > 0
    again = client.post(f"/api/frames/{frame_id}/measure").json()
    assert again["id"] != job_id
    assert wait(client, again["id"])["state"] == "done"
    client.delete(f"/api/jobs/{job_id}")
    assert client.get(f"/api/frames/{frame_id}").json()["frame"]["ready"] is True


def test_removing_a_frame_ends_the_work_on_it(
    client: TestClient, dusty_jpeg: Path, small_jpeg: Path
) -> None:
    accepted = upload(client, dusty_jpeg).json()
    running(client, accepted["job"]["id"])
    assert client.delete(f"/api/frames/{accepted['frame']['id']}").status_code == 204
    assert wait(client, accepted["job"]["id"])["state"] == "cancelled"
    assert stored(client) == []
    assert added(client, small_jpeg) > 0


def running(client: TestClient, job_id: int) -> None:
    """Wait until a job is being worked on."""
    while client.get(f"/api/jobs/{job_id}").json()["state"] == "queued":
        time.sleep(0.02)


def test_progress_comes_as_events(client: TestClient, small_jpeg: Path) -> None:
    job_id = upload(client, small_jpeg).json()["job"]["id"]
    following = LiveUpdates(client.app.state.data)  # type: ignore[attr-defined]
    told = following.changed_jobs()
    while not told or told[-1].state != "done":
        told += following.changed_jobs()
    assert {t.id for t in told} == {job_id}
    shares = [t.progress for t in told]
    assert shares == sorted(shares)
    assert following.changed_jobs() == []


@pytest.mark.long
def test_the_stream_of_a_page_tells_of_jobs_and_of_its_visit(
    tmp_path: Path, page: Path, small_jpeg: Path
) -> None:
    app = create_app(Library(tmp_path / "data"), options_for(page))
    with served(app) as url, httpx.Client(base_url=url, timeout=None) as client:
        body = {"name": "Judge", "sensor_mm": [23.5, 15.6], "access": "mirrorless"}
        body_id = client.post("/api/bodies", json=body).json()["id"]
        visit = client.post("/api/visits", json={"body_id": body_id}).json()["id"]
        with client.stream("GET", f"/api/events?visit={visit}") as response:
            assert response.headers["content-type"].startswith("text/event-stream")
            lines = response.iter_lines()
            assert '"version":' in after(lines, "event: visit")
            httpx.post(f"{url}/api/frames?visit={visit}", content=small_jpeg.read_bytes())
            assert f'"id":{visit}' in after(lines, "event: visit").replace(" ", "")
            while '"done"' not in after(lines, "event: job"):
                """Measured in its time."""


def after(lines: Iterator[str], name: str) -> str:
    """The data of the next event of a name."""
    found = ""
    for line in lines:
        if line.startswith("event:"):
            found = line
        elif line.startswith("data:") and found == name:
            return line
    raise AssertionError(f"the stream ended before {name}")


def test_what_was_acknowledged_survives_a_restart(
    tmp_path: Path, page: Path, small_jpeg: Path
) -> None:
    data = tmp_path / "data"
    app = create_app(Library(data), options_for(page, workers=0))
    with TestClient(app, base_url="http://localhost") as before:
        accepted = upload(before, small_jpeg).json()
    app = create_app(Library(data), options_for(page))
    with TestClient(app, base_url="http://localhost") as after:
        assert wait(after, accepted["job"]["id"])["state"] == "done"
        assert after.get("/api/frames").json()["frames"][0]["ready"] is True


def test_removing_a_frame_removes_its_original(client: TestClient, small_jpeg: Path) -> None:
    frame_id = added(client, small_jpeg)
    assert client.delete(f"/api/frames/{frame_id}").status_code == 204
    assert stored(client) == []
    assert_problem(client.get(f"/api/frames/{frame_id}"), 404, "no such frame")


@pytest.mark.long
@pytest.mark.parametrize(
    "path", ["/api/frames/99", "/api/jobs/99", "/api/nothing", "/api/frames/99/map.csv"]
)
def test_what_is_not_there_is_a_problem_document(client: TestClient, path: str) -> None:
    assert_problem(client.get(path), 404, "")


def test_unknown_values_are_refused(client: TestClient) -> None:
    assert client.get("/api/frames/x").status_code == 422
    assert client.get("/api/frames/1/tiles/sepia/1/0_0.jpg").status_code == 422


@pytest.mark.parametrize("host", ["evil.example", "192.168.1.4:8719", ""])
def test_foreign_hosts_are_refused(client: TestClient, host: str) -> None:
    assert_problem(client.get("/api/health", headers={"host": host}), 403, "localhost")


@pytest.mark.parametrize(
    ("origin", "status"),
    [
        ("http://evil.example", 403),
        ("null", 403),
        ("http://localhost:9", 403),
        ("http://localhost", 200),
    ],
)
def test_foreign_pages_are_refused(client: TestClient, origin: str, status: int) -> None:
    assert client.get("/api/health", headers={"origin": origin}).status_code == status


def test_the_page_is_served_for_its_own_addresses_only(client: TestClient) -> None:
    for path in ("/", "/frames/3"):
        page = client.get(path)
        assert "Neat Patch" in page.text
        assert "default-src 'self'" in page.headers["content-security-policy"]
    assert client.get("/assets/a.js").status_code == 200
    assert_problem(client.get("/assets/missing.js"), 404, "missing.js")
    assert_problem(client.get("/..%2f..%2fsecret.txt"), 404, "")


@pytest.mark.long
def test_the_description_names_every_route(client: TestClient) -> None:
    paths = client.get("/api/openapi.json").json()["paths"]
    assert "/api/frames/{frame_id}" in paths
    assert all(path.startswith("/api/") for path in paths)


def test_names_are_cleaned(client: TestClient, small_jpeg: Path) -> None:
    name = upload(client, small_jpeg, "../../etc/\x07pass\nwd.jpg").json()["frame"]["name"]
    assert name == "passwd.jpg"


@pytest.mark.long
def test_the_working_aperture_is_remembered(client: TestClient, dusty_jpeg: Path) -> None:
    frame_id = added(client, dusty_jpeg)
    assert client.get("/api/settings").json()["works_at"] == 16.0
    relevant = {}
    for works_at in (22.0, 4.0):
        assert client.put("/api/settings", json={"works_at": works_at}).status_code == 200
        detail = client.get(f"/api/frames/{frame_id}").json()
        relevant[works_at] = detail["map"]["summary"]["relevant"]
        assert detail["frame"]["relevant"] == relevant[works_at]
    assert relevant[22.0] > relevant[4.0]
    assert_problem(client.put("/api/settings", json={"works_at": 0}), 422, "works_at")


@pytest.mark.long
def test_prediction_over_the_api(client: TestClient, dusty_jpeg: Path) -> None:
    frame_id = added(client, dusty_jpeg)
    told = client.get(f"/api/frames/{frame_id}/prediction", params={"f": 8}).json()
    assert told["schema"] == "neatpatch.predict/1"
    assert len(told["spots"]) > 20
    wrong = client.get(f"/api/frames/{frame_id}/prediction", params={"f": 0.1})
    assert_problem(wrong, 422, "f: ")
