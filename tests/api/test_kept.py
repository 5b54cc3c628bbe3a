"""Two at once: nothing is overwritten unseen, done twice, or lost between the two."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient

from neatpatch.core.visit.body import VisitConditions
from neatpatch.services.visits.trail import damp_or_cold
from tests.api.test_visits import a_body, a_visit, until, visit_of
from tests.served import assert_problem, upload, wait

BODY = {"name": "Study", "sensor_mm": [23.5, 15.6]}
SWABS = {"item": {"item": "dry_swab", "width_mm": 16, "quantity": 8}}
STEP = {"step": "dry_swab", "against": "to see the stock fall"}


@pytest.fixture
def visit(client: TestClient) -> str:
    """An open visit of a body, with eight swabs in the drawer; its path."""
    client.post("/api/bodies", json=BODY)
    client.post("/api/kit", json=SWABS)
    return f"/api/visits/{client.post('/api/visits', json={'body_id': 1}).json()['id']}"


def left(client: TestClient) -> float:
    found: float = client.get("/api/kit").json()[0]["left"]
    return found


def at_once(*calls: Callable[[], httpx.Response]) -> list[int]:
    """Make calls from threads of their own at the same moment; their statuses, sorted."""
    gate, found = threading.Barrier(len(calls)), []

    def run(call: Callable[[], httpx.Response]) -> None:
        gate.wait()
        found.append(call().status_code)

    threads = [threading.Thread(target=run, args=(call,)) for call in calls]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return sorted(found)


def test_a_step_sent_twice_under_its_key_is_logged_once(client: TestClient, visit: str) -> None:
    key = {"Idempotency-Key": "key-of-this-step"}

    def log() -> httpx.Response:
        answer: httpx.Response = client.post(f"{visit}/steps", json=STEP, headers=key)
        return answer

    assert at_once(log, log, log) == [201, 201, 201]
    assert [i["step"]["step"] for i in client.get(visit).json()["trail"]] == ["dry_swab"]
    assert left(client) == 7
    other = {"Idempotency-Key": "key-of-another-step"}
    client.post(f"{visit}/steps", json=STEP, headers=other)
    assert left(client) == 6


def test_a_key_answers_still_after_the_step_was_undone(client: TestClient, visit: str) -> None:
    key = {"Idempotency-Key": "key-of-this-step"}
    [item] = client.post(f"{visit}/steps", json=STEP, headers=key).json()["trail"]
    client.delete(f"{visit}/trail/{item['id']}")
    assert client.post(f"{visit}/steps", json=STEP, headers=key).json()["trail"] == []
    assert left(client) == 8


def test_a_step_that_asked_a_question_is_not_taken_for_done(client: TestClient, visit: str) -> None:
    key = {"Idempotency-Key": "key-of-this-step"}
    many = {**STEP, "use": {"swabs": 9}}
    assert client.post(f"{visit}/steps", json=many, headers=key).status_code == 409
    done = client.post(f"{visit}/steps", json={**many, "recount": True}, headers=key)
    assert len(done.json()["trail"]) == 1


def test_an_entry_number_is_never_given_out_again(client: TestClient, visit: str) -> None:
    [old] = client.post(f"{visit}/steps", json=STEP).json()["trail"]
    client.delete(f"{visit}/trail/{old['id']}")
    [new] = client.post(f"{visit}/steps", json=STEP).json()["trail"]
    assert new["id"] > old["id"]
    assert client.delete(f"{visit}/trail/{old['id']}").status_code == 200
    assert len(client.get(visit).json()["trail"]) == 1


def test_a_kit_form_saved_after_a_step_elsewhere_is_refused_and_says_what_changed(
    client: TestClient, visit: str
) -> None:
    [opened] = client.get("/api/kit").json()
    client.post(f"{visit}/steps", json=STEP)
    owned = {**opened["owned"], "note": "top drawer"}
    seen = {"If-Match": str(opened["version"])}
    refused = client.put("/api/kit/1", json=owned, headers=seen)
    assert_problem(refused, 409, "quantity 7")
    assert refused.json()["type"] == "neatpatch:changed"
    assert left(client) == 7
    [now] = client.get("/api/kit").json()
    saved = client.put("/api/kit/1", json=owned, headers={"If-Match": str(now["version"])})
    assert saved.json()[0]["owned"]["note"] == "top drawer"


@pytest.mark.parametrize(
    ("path", "first", "second"),
    [
        ("/api/schools", {"stroke": "circles"}, {"air": "strong"}),
        ("/api/service", {"turnaround_days": 4}, {"turnaround_days": 9}),
        ("/api/prices", {"service_fee": 40}, {"postage": 9}),
    ],
)
def test_settings_of_two_tabs_do_not_overwrite_each_other(
    client: TestClient, path: str, first: dict[str, Any], second: dict[str, Any]
) -> None:
    seen = {"If-Match": client.get(path).headers["etag"]}
    saved = client.put(path, json=first, headers=seen)
    assert saved.status_code == 200
    refused = client.put(path, json=second, headers=seen)
    assert_problem(refused, 409, "Nothing was overwritten")
    now = {"If-Match": saved.headers["etag"]}
    assert client.put(path, json={**first, **second}, headers=now).status_code == 200
    assert client.put(path, json=first, headers={"If-Match": "many"}).status_code == 422


def test_forms_of_two_tabs_do_not_overwrite_each_other(client: TestClient, visit: str) -> None:
    seen = {"If-Match": str(client.get(visit).json()["conditions_version"])}
    warm, damp = {"temperature_c": 25}, {"humidity_percent": 70}
    assert client.put(f"{visit}/conditions", json=warm, headers=seen).status_code == 200
    assert_problem(
        client.put(f"{visit}/conditions", json=damp, headers=seen),
        409,
        "temperature 25 °C, humidity nothing",
    )
    assert client.get(visit).json()["conditions"]["temperature_c"] == 25

    body = client.get("/api/bodies/1").json()
    seen = {"If-Match": str(body["version"])}
    noted = {**body["body"], "hold_note": "page 9"}
    assert client.put("/api/bodies/1", json=noted, headers=seen).status_code == 200
    assert_problem(client.put("/api/bodies/1", json=BODY, headers=seen), 409, "hold note page 9")

    job = {"name": "Charts", "starts_on": "2199-01-01"}
    [ready] = client.post("/api/bookings", json=job).json()["jobs"]
    seen = {"If-Match": str(ready["job"]["version"])}
    renamed = {**job, "name": "Atlases"}
    assert client.put("/api/bookings/1", json=renamed, headers=seen).status_code == 200
    assert_problem(client.put("/api/bookings/1", json=job, headers=seen), 409, "name Atlases")


def test_of_two_closes_one_is_refused(client: TestClient, visit: str) -> None:
    def close() -> httpx.Response:
        answer: httpx.Response = client.post(f"{visit}/close", json={"verdict": "finished"})
        return answer

    assert at_once(close, close) == [200, 409]


def test_nothing_is_put_onto_a_closed_visit(
    client: TestClient, visit: str, small_jpeg: Path
) -> None:
    def close() -> httpx.Response:
        answer: httpx.Response = client.post(f"{visit}/close", json={"verdict": "finished"})
        return answer

    def log() -> httpx.Response:
        answer: httpx.Response = client.post(f"{visit}/steps", json=STEP)
        return answer

    at_once(close, log, log)
    closed = client.get(visit).json()
    assert closed["state"] == "closed"
    assert_problem(log(), 409, "closed")
    assert client.get(visit).json()["trail"] == closed["trail"]
    assert left(client) == 8 - len(closed["trail"])
    params = {"visit": closed["id"]}
    refused = client.post("/api/frames", params=params, content=small_jpeg.read_bytes())
    assert_problem(refused, 409, "closed")
    assert client.get("/api/frames").json()["total"] == 0


def test_packs_and_jobs_sent_twice_count_once(client: TestClient, visit: str) -> None:
    assert visit
    pack = {**SWABS, "pack_size": 10}
    client.put("/api/kit/1", json=pack)
    for key, path, body in (
        ("key-of-packs", "/api/kit/1/packs", None),
        ("key-of-a-thing", "/api/kit", SWABS),
        ("key-of-a-job", "/api/bookings", {"name": "x", "starts_on": "2199-01-01"}),
    ):
        for _ in range(2):
            sent = client.post(path, json=body, headers={"Idempotency-Key": key})
            assert sent.status_code in (200, 201)
    assert left(client) == 18
    assert len(client.get("/api/kit").json()) == 2
    assert len(client.get("/api/readiness").json()["jobs"]) == 1


@pytest.mark.long
def test_the_same_bytes_added_while_they_are_removed_are_there_or_not(
    client: TestClient, small_jpeg: Path
) -> None:
    originals = client.app.state.data.originals  # type: ignore[attr-defined]
    for _ in range(8):
        accepted = upload(client, small_jpeg).json()
        path = f"/api/frames/{accepted['frame']['id']}"
        at_once(partial(client.delete, path), lambda: upload(client, small_jpeg))
        listed = client.get("/api/frames").json()["frames"]
        assert originals.path(accepted["frame"]["sha256"]).is_file() == bool(listed)
        for frame in listed:
            client.delete(f"/api/frames/{frame['id']}")


@pytest.mark.long
def test_a_lost_picture_is_made_again_when_it_is_asked_for(
    client: TestClient, small_jpeg: Path
) -> None:
    accepted = upload(client, small_jpeg).json()
    wait(client, accepted["job"]["id"])
    library = client.app.state.data  # type: ignore[attr-defined]
    derived = library.derived(accepted["frame"]["sha256"])
    derived.rename(derived.with_name("gone"))
    assert client.get("/api/frames/1").json()["picture_ready"] is False
    assert_problem(client.get("/api/frames/1/thumb/shot.jpg"), 404, "no such picture yet")
    [job] = client.get("/api/frames").json()["open_jobs"]
    assert job["kind"] == "picture"
    assert wait(client, job["id"])["state"] == "done"
    assert client.get("/api/frames/1/thumb/shot.jpg").status_code == 200


def test_a_key_used_on_another_visit_is_refused_and_nothing_is_lost_in_silence(
    client: TestClient,
) -> None:
    bodies = [a_body(client, name=name) for name in ("One", "Two")]
    visits = [a_visit(client, body)["id"] for body in bodies]
    key = {"Idempotency-Key": "same-key-12345"}
    step = {"step": "air", "against": "a test"}
    first, second = (f"/api/visits/{v}/steps" for v in visits)
    assert client.post(first, json=step, headers=key).status_code == 201
    assert_problem(client.post(second, json=step, headers=key), 422, "another request")
    other = {"step": "auto_clean", "against": "a test"}
    assert_problem(client.post(first, json=other, headers=key), 422, "another request")
    assert client.post(first, json=step, headers=key).status_code == 201
    steps = [sum(e["step"] is not None for e in visit_of(client, v)["trail"]) for v in visits]
    assert steps == [1, 0]


@pytest.mark.long
def test_a_picture_with_a_part_missing_is_made_again_whole(
    client: TestClient, small_jpeg: Path
) -> None:
    sent = upload(client, small_jpeg).json()
    wait(client, sent["job"]["id"])
    frame = sent["frame"]
    url = f"/api/frames/{frame['id']}/tiles/relief/0/0_0.jpg"
    until(lambda: client.get(url).status_code, lambda status: status == 200)
    library = client.app.state.data  # type: ignore[attr-defined]
    hole = library.derived(frame["sha256"]) / "relief" / "11" / "1_0.jpg"
    whole = hole.read_bytes()
    hole.unlink()
    assert client.get(url.replace("0/0_0", "11/99_0")).status_code == 404
    assert hole.parent.is_dir(), "a tile that never was made is no hole"
    wanted = url.replace("0/0_0", "11/1_0")
    until(lambda: client.get(wanted).status_code, lambda status: status == 200)
    assert hole.read_bytes() == whole


def test_zero_degrees_are_cold_and_an_unmeasured_room_is_ordinary() -> None:
    assert damp_or_cold(VisitConditions(temperature_c=0.0))
    assert damp_or_cold(VisitConditions(temperature_c=20, humidity_percent=90))
    assert not damp_or_cold(VisitConditions(humidity_percent=0.0))
    assert not damp_or_cold(VisitConditions())
