"""Requests that no page would send are answered plainly, and nothing breaks."""

from __future__ import annotations

import socket
import struct
import zlib
from io import BytesIO
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from neatpatch.api.app import create_app
from neatpatch.api.common import connections
from neatpatch.api.common.streams import Streams
from neatpatch.store.datafolder import Library
from tests.served import assert_problem, options_for, served, upload, wait

BODY = {"name": "Study", "sensor_mm": [23.5, 15.6]}
HUGE = 2**63


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("GET", f"/api/frames/{HUGE}", None),
        ("GET", f"/api/visits/{HUGE}", None),
        ("GET", f"/api/jobs/{HUGE}", None),
        ("DELETE", f"/api/bodies/{10**30}", None),
        ("GET", "/api/frames/0", None),
        ("GET", f"/api/costs?body_id={HUGE}", None),
        ("POST", f"/api/frames?visit={HUGE}", None),
        ("POST", "/api/visits", {"body_id": HUGE}),
        ("GET", f"/api/frames/1/tiles/shot/{'9' * 5000}/0_0.jpg", None),
        ("GET", f"/api/frames/1/tiles/shot/3/{'9' * 30}_0.jpg", None),
        ("GET", "/api/frames/1/prediction?f=1e400", None),
        ("GET", "/api/frames/1/prediction?f=nan", None),
        ("POST", "/api/kit/1/packs?count=" + "9" * 4400, None),
        ("PUT", "/api/frames/1/series", {"members": [True]}),
        ("PUT", "/api/frames/1/sensor", {"width_mm": True, "height_mm": 15}),
    ],
)
def test_impossible_numbers_are_refused(
    client: TestClient, method: str, path: str, body: Any
) -> None:
    assert client.request(method, path, json=body).status_code == 422


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/prices", {"service_fee": True}),
        ("/api/prices", {"membership_cleans": "3"}),
        ("/api/prices", {"postage": "9"}),
        ("/api/schools", {"pad_on_finger": 1}),
        ("/api/schools", {"files_first": "yes"}),
        ("/api/service", {"turnaround_days": False}),
        ("/api/service", {"membership_includes_clean": 0}),
    ],
)
def test_numbers_and_yes_or_no_are_not_taken_for_each_other(
    client: TestClient, path: str, body: dict[str, Any]
) -> None:
    assert_problem(client.put(path, json=body), 422, next(iter(body)))


@pytest.mark.parametrize(
    "wrong", ["2026-02-31", "2026-99-99", "9999-99-99", "0001-01-01", 20260101]
)
def test_days_that_are_none_are_refused_before_anything_is_written(
    client: TestClient, wrong: object
) -> None:
    refused = client.post("/api/bodies", json={**BODY, "guarantee_until": wrong})
    assert_problem(refused, 422, "guarantee_until")
    assert client.get("/api/bodies").json()["total"] == 0
    client.post("/api/bodies", json=BODY)
    visit = client.post("/api/visits", json={"body_id": 1}).json()
    path = f"/api/visits/{visit['id']}"
    assert_problem(client.put(f"{path}/conditions", json={"job_on": wrong}), 422, "job_on")
    closing = {"verdict": "deferred", "until": wrong}
    assert_problem(client.post(f"{path}/close", json=closing), 422, "until")
    job = {"name": "x", "starts_on": wrong}
    assert_problem(client.post("/api/bookings", json=job), 422, "starts_on")
    item = {"item": {"item": "fluid"}, "best_before": wrong}
    assert_problem(client.post("/api/kit", json=item), 422, "best_before")
    assert client.get(path).json()["state"] == "open"


@pytest.mark.long
def test_texts_lose_what_cannot_be_kept_or_shown(client: TestClient, small_jpeg: Path) -> None:
    made = client.post(
        "/api/bodies",
        content=b'{"name": "St\\u0000u\\ud800dy", "sensor_mm": [23.5, 15.6], "hold_note": "a\\nb"}',
        headers={"content-type": "application/json"},
    ).json()
    assert (made["body"]["name"], made["body"]["hold_note"]) == ("Study", "a\nb")
    assert upload(client, small_jpeg, "a\0b.jpg").json()["frame"]["name"] == "ab.jpg"
    assert client.get("/api/bodies", params={"words": "a\0"}).status_code == 200
    assert_problem(client.get("/assets/a%00b.js"), 404, "There is no file")
    assert_problem(client.get("/" + "x" * 5000 + ".js"), 404, "There is no file")
    assert_problem(client.get("/api/%00"), 404, "There is nothing")


@pytest.mark.parametrize("host", ["[::1", "localhost:abc", "localhost:99999999", "[", "a b"])
def test_broken_hosts_and_origins_are_refused(client: TestClient, host: str) -> None:
    assert_problem(client.get("/api/health", headers={"host": host}), 403, "localhost")
    origin = {"origin": f"http://{host}"}
    assert_problem(client.get("/api/health", headers=origin), 403, "other web pages")


@pytest.mark.long
def test_doubled_ids_count_once_or_are_refused(client: TestClient, small_jpeg: Path) -> None:
    client.post("/api/bodies", json=BODY)
    job = {"name": "x", "starts_on": "2199-01-01", "body_ids": [1, 1, 1]}
    ready = client.post("/api/bookings", json=job).json()
    assert ready["jobs"][0]["job"]["body_ids"] == [1]
    owned = {"item": {"item": "dry_swab", "width_mm": 16, "quantity": 5}, "suits": [1, 1]}
    assert client.post("/api/kit", json=owned).json()[0]["owned"]["suits"] == [1]
    visit = client.post("/api/visits", json={"body_id": 1}).json()
    taken = [{"kit_id": 1, "amount": 1}, {"kit_id": 1, "amount": 2}]
    step = {"step": "dry_swab", "against": "to see", "taken": taken}
    refused = client.post(f"/api/visits/{visit['id']}/steps", json=step)
    assert_problem(refused, 422, "named once only")
    accepted = upload(client, small_jpeg).json()
    wait(client, accepted["job"]["id"])
    again = client.put("/api/frames/1/series", json={"members": [1, 1]})
    assert again.status_code == 200
    assert wait(client, again.json()["id"])["state"] == "done"


def test_percent_and_underscore_are_letters_like_others(client: TestClient) -> None:
    for name in ("50% grey", "Under_score", "Plain"):
        client.post("/api/bodies", json={**BODY, "name": name})

    def found(words: str) -> list[str]:
        page = client.get("/api/bodies", params={"words": words}).json()
        return [b["body"]["name"] for b in page["bodies"]]

    assert found("%") == ["50% grey"]
    assert found("_") == ["Under_score"]
    assert found("PLAIN") == ["Plain"]


def test_events_of_what_is_not_there_are_not_there(client: TestClient) -> None:
    assert_problem(client.get("/api/events?visit=99"), 404, "no such")


def test_one_stream_too_many_is_refused(client: TestClient) -> None:
    client.app.state.streams = Streams(lambda: False, most=0)  # type: ignore[attr-defined]
    assert_problem(client.get("/api/events"), 503, "Close some")


@pytest.mark.parametrize("room", ["", "/trial"])
def test_files_larger_than_other_requests_are_taken_in(client: TestClient, room: str) -> None:
    out = BytesIO()
    tones = np.random.default_rng(0).integers(0, 255, (1200, 1600, 3)).astype(np.uint8)
    Image.fromarray(tones).save(out, "JPEG", quality=95)
    picture = out.getvalue()
    assert len(picture) > 1_000_000
    key = client.post(f"{room}/api/picture-sets/uploads").json()["key"]
    for path in ("frames?name=a.jpg", f"picture-sets/uploads/{key}/files?name=a.jpg"):
        sent = client.post(f"{room}/api/{path}", content=picture)
        assert sent.status_code in (201, 204), sent.text
    assert_problem(client.post(f"{room}/api/picture-sets", content=picture), 413, "Send less")


def test_a_large_request_is_refused_however_it_is_sent(client: TestClient) -> None:
    large = b'{"name": "' + b"x" * 1_100_000 + b'"}'
    json_type = {"content-type": "application/json"}
    assert_problem(client.post("/api/bodies", content=large, headers=json_type), 413, "1 MB")
    pieces = (large[i : i + 65_536] for i in range(0, len(large), 65_536))
    assert_problem(client.post("/api/bodies", content=pieces, headers=json_type), 413, "1 MB")


def test_answers_cannot_be_guessed_at_or_read_from_other_sites(client: TestClient) -> None:
    for path in ("/api/health", "/api/frames/9", "/"):
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["cross-origin-resource-policy"] == "same-origin"


def test_a_key_stands_for_one_request_only(client: TestClient) -> None:
    key = {"Idempotency-Key": "one-request"}
    assert client.post("/api/bodies", json=BODY, headers=key).status_code == 201
    again = client.post("/api/bodies", json=BODY, headers=key)
    assert again.status_code == 201
    assert client.get("/api/bodies").json()["total"] == 1
    job = {"name": "x", "starts_on": "2199-01-01"}
    assert_problem(client.post("/api/bookings", json=job, headers=key), 422, "another request")
    short = {"Idempotency-Key": "short"}
    assert client.post("/api/bodies", json=BODY, headers=short).status_code == 422


def test_the_sentence_of_a_fault_says_only_what_is_true(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_given: object) -> None:
        raise RuntimeError("secret")

    monkeypatch.setattr("neatpatch.store.frames.list_frames", broken)
    quiet = TestClient(client.app, base_url="http://localhost", raise_server_exceptions=False)
    answer = quiet.get("/api/frames")
    assert_problem(answer, 500, "look whether this change is there")
    assert "secret" not in answer.text


def test_a_disk_that_does_not_take_it_is_said(
    client: TestClient, small_jpeg: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_given: object, **_more: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("neatpatch.services.frames.intake.accept_file", full)
    assert_problem(upload(client, small_jpeg), 503, "No space left on device")
    assert client.get("/api/frames").json()["total"] == 0


def test_a_stalled_upload_ends_and_leaves_nothing(tmp_path: Path, page: Path) -> None:
    library = Library(tmp_path)
    with served(create_app(library, options_for(page, stalled_s=0.2))) as url:
        host, port = url.removeprefix("http://").split(":")
        with socket.create_connection((host, int(port))) as half:
            head = b"POST /api/frames HTTP/1.1\r\nHost: localhost\r\nContent-Length: 9000\r\n\r\n"
            half.sendall(head + b"\xff\xd8")
            assert b" 408 " in half.recv(4096)
    assert list(library.originals.incoming.iterdir()) == []


@pytest.mark.long
def test_half_a_request_is_not_waited_for_for_ever(
    tmp_path: Path, page: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(connections, "HEADER_TIMEOUT_S", 2.0)
    with served(create_app(Library(tmp_path), options_for(page, workers=0))) as url:
        host, port = url.removeprefix("http://").split(":")
        with socket.create_connection((host, int(port))) as half:
            half.sendall(b"GET /api/health HTTP/1.1\r\nHost: loc")
            assert gone(half)
        with socket.create_connection((host, int(port))) as second:
            second.sendall(b"GET /api/health HTTP/1.1\r\nHost: localhost\r\n\r\n")
            while not second.recv(65536).endswith(b"}"):
                """The first is answered; the second on it never gets whole."""
            second.sendall(b"GET /api/health HT")
            assert gone(second)
        with httpx.Client(base_url=url) as client:
            assert client.get("/api/health").status_code == 200


def gone(connection: socket.socket) -> bool:
    """Wait for the other end to close a connection."""
    try:
        return connection.recv(65536) == b""
    except ConnectionResetError:
        return True


@pytest.mark.long
@pytest.mark.parametrize("drip", [False, True])
def test_a_body_that_stalls_or_drips_is_not_waited_for_for_ever(
    tmp_path: Path, page: Path, monkeypatch: pytest.MonkeyPatch, drip: bool
) -> None:
    monkeypatch.setattr(connections, "BODY_STALLED_S", 1.0)
    head = b"PUT /api/settings HTTP/1.1\r\nHost: localhost\r\nContent-Length: 90000\r\n\r\n{"
    with served(create_app(Library(tmp_path), options_for(page, workers=0))) as url:
        host, port = url.removeprefix("http://").split(":")
        with socket.create_connection((host, int(port))) as slow:
            slow.sendall(head)
            slow.settimeout(0.3 if drip else 60)
            while drip:
                try:
                    slow.sendall(b" ")
                    if slow.recv(4096) == b"":
                        break
                except TimeoutError:
                    continue
                except OSError:
                    break
            assert drip or gone(slow)
        with httpx.Client(base_url=url) as client:
            assert client.get("/api/health").status_code == 200


CAMERAS = "\N{CAMERA}" * 110


def png_bomb(side: int) -> bytes:
    """A PNG of so many pixels each way, in some kilobytes."""

    def chunk(name: bytes, data: bytes) -> bytes:
        head = struct.pack(">I", len(data)) + name + data
        return head + struct.pack(">I", zlib.crc32(name + data))

    packed = zlib.compressobj(9)
    rows = b"".join(packed.compress(bytes(8000)) for _ in range(500))
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", struct.pack(">IIBBBBB", side, side, 1, 0, 0, 0, 0))
        + chunk(b"IDAT", rows + packed.flush())
        + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize("side", [5000, 20_000, 60_000, 2**31 - 1])
def test_a_logo_that_is_a_bomb_is_refused(client: TestClient, side: int) -> None:
    logo = client.put("/api/letterhead/logo", content=png_bomb(side))
    assert logo.status_code == 422, logo.text
    assert client.get("/api/letterhead").json()["has_logo"] is False


@pytest.mark.parametrize("trial", [0, -1, 2**63, 2**80])
def test_numbers_beyond_counting_are_refused_everywhere(client: TestClient, trial: int) -> None:
    assert_problem(client.get(f"/api/plans/shoot?trial_frame_id={trial}"), 422, "trial_frame_id")
    assert_problem(client.get(f"/api/frames/{trial}"), 422, "frame_id")


def test_a_picture_and_a_folder_of_one_name_are_told_apart(client: TestClient) -> None:
    key = client.post("/api/picture-sets/uploads").json()["key"]
    out = BytesIO()
    Image.new("RGB", (64, 64)).save(out, "JPEG")

    def send(name: str) -> httpx.Response:
        url = f"/api/picture-sets/uploads/{key}/files"
        sent: httpx.Response = client.post(url, params={"name": name}, content=out.getvalue())
        return sent

    assert send("day/one.jpg").status_code == 204
    assert_problem(send("day"), 409, "same name")
    assert_problem(send("day/one.jpg/two.jpg"), 409, "same name")
    assert send("day/one.jpg").status_code == 204
    long = "é" * 200
    assert send(CAMERAS + ".jpg").status_code == 204
    assert send(f"{CAMERAS}/{long}.jpg").status_code == 204
    assert list(client.app.state.data.originals.incoming.iterdir()) == []  # type: ignore[attr-defined]


@pytest.mark.parametrize("folder", ["/", "/proc", "/sys/kernel", "/dev"])
def test_the_systems_own_folders_are_refused_wherever_one_is_named(
    client: TestClient, folder: str
) -> None:
    client.post("/api/bodies", json={"name": "Study", "sensor_mm": [36, 24]})
    for answer in (
        client.post("/api/picture-sets", json={"body_id": 1, "folder": folder}),
        client.put("/api/backup", json={"folder": folder}),
        client.post("/api/watched", json={"path": folder}),
    ):
        assert_problem(answer, 422, "belongs to the system")


@pytest.mark.long
@pytest.mark.parametrize(
    ("method", "path", "allowed"),
    [
        ("PATCH", "/api/frames", "GET, POST"),
        ("DELETE", "/api/bodies", "GET, POST"),
        ("POST", "/api/bodies/1", "DELETE, GET, PUT"),
        ("PUT", "/api/health", "GET"),
        ("OPTIONS", "/api/visits/1/steps", "POST"),
        ("TRACE", "/api/settings", "GET, PUT"),
    ],
)
def test_what_cannot_be_asked_so_says_how_it_can(
    client: TestClient, method: str, path: str, allowed: str
) -> None:
    answer = client.request(method, path)
    assert answer.status_code == 405
    assert answer.headers["allow"] == allowed
    assert client.request(method, "/api/nothing").status_code == 404


@pytest.mark.parametrize("since", ["0", "1772000000", "2026-02-31", "9999-01-01", "2026-3-1"])
def test_only_a_day_is_a_day(client: TestClient, since: str) -> None:
    assert_problem(client.get("/api/calendar", params={"since": since}), 422, "since")


def test_nine_point_nought_is_as_whole_as_nine(client: TestClient) -> None:
    body = client.post("/api/bodies", json={"name": "Study", "sensor_mm": [36, 24]}).json()["id"]
    visit = client.post("/api/visits", json={"body_id": float(body)})
    assert visit.status_code == 201
    item = {"item": {"item": "dry_swab", "width_mm": 16, "quantity": 9.0}, "lead_days": 3.0}
    assert client.post("/api/kit", json=item).status_code == 201
    assert_problem(client.post("/api/visits", json={"body_id": 1.5}), 422, "body_id")
    assert_problem(client.post("/api/visits", json={"body_id": True}), 422, "body_id")
