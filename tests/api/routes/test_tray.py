"""The tray through the API: for who may, step by step, told what is left, kept for the next."""

from __future__ import annotations

import hashlib
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.core.tray.steps import AGAINST
from neatpatch.demo.compact import COMPACT_CAMERA, COMPACT_PLAN, compact_body, compact_dust
from neatpatch.simulation.seen_map import seen_map
from neatpatch.store import trays as rows
from neatpatch.store.database import StoreError
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame, add_frame
from neatpatch.store.maps import save_map
from neatpatch.store.visits import add_frame_entry
from tests.conditions import OWN_HANDS
from tests.served import assert_problem

JPEG = b"\xff\xd8\xff\xe0" + 200 * b"\0" + b"\xff\xd9"
TOOLS = ("cross_driver_0", "screw_tray", "lint_free_bud")


def begun(client: TestClient, **changed: Any) -> str:
    """A visit of the compact with everything in order for the tray, but for what is changed."""
    body = {**compact_body().model_dump(mode="json"), "self_clean": False}
    body_id = client.post("/api/bodies", json={**body, **changed.pop("body", {})}).json()["id"]
    for item in TOOLS:
        client.post("/api/kit", json={"item": {"item": item}})
    conditions = {
        **OWN_HANDS.model_dump(mode="json"),
        "experience": "expert",
        "asks_for": "teardown",
        **changed,
    }
    client.put("/api/tray-plans", json=COMPACT_PLAN.model_dump(mode="json"))
    made = client.post("/api/visits", json={"body_id": body_id, "conditions": conditions})
    assert made.status_code == 201, made.text
    put_frame(client, made.json()["id"])
    return f"/api/visits/{made.json()['id']}"


def put_frame(client: TestClient, visit_id: int, name: str = "first") -> None:
    """The dust of the compact, as a measured frame on the trail."""
    library: Library = client.app.state.data  # type: ignore[attr-defined]
    seen = seen_map(COMPACT_CAMERA, [d.particle for d in compact_dust()], 16.0)
    with library.database.write() as connection:
        sha256 = hashlib.sha256(f"{visit_id} {name}".encode()).hexdigest()
        frame = NewFrame(sha256=sha256, size=1, name="dust.jpg", source="upload")
        frame_id, _ = add_frame(connection, frame)
        save_map(connection, frame_id, seen, "test")
        add_frame_entry(connection, visit_id, frame_id)


def on_tray(client: TestClient) -> tuple[str, dict[str, Any]]:
    visit = begun(client)
    answer = client.post(f"{visit}/tray", json={"model": COMPACT_PLAN.model})
    assert answer.status_code == 201, answer.text
    return f"{visit}/tray", answer.json()


def step(client: TestClient, tray: str, view: dict[str, Any], **more: Any) -> dict[str, Any]:
    now = view["now"]["step"]
    body = {"step_id": now["id"], "count": now["count"], **more}
    answer = client.post(f"{tray}/steps", json=body)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def worked_to(client: TestClient, tray: str, view: dict[str, Any], kind: str) -> dict[str, Any]:
    while view["now"]["step"]["kind"] != kind:
        view = step(client, tray, view)
    return view


@pytest.mark.long
def test_a_camera_is_opened_and_put_together_and_the_visit_knows(client: TestClient) -> None:
    tray, view = on_tray(client)
    assert view["suggested"] == COMPACT_PLAN.model
    assert [s["words"] for s in view["now"]["steps"][: len(AGAINST)]] == [w for _, w in AGAINST]
    while view["now"]["step"] is not None:
        view = step(client, tray, view)
    assert view["now"]["left"] == []
    trail = client.get(tray.removesuffix("/tray")).json()["trail"]
    assert [i["step"]["step"] for i in trail if i["step"]] == ["teardown"]
    assert trail[1]["step"]["against"] == ""
    last = view["now"]["done"][-1]
    assert client.post(f"{tray}/steps", json=last).status_code == 200
    trail = client.get(tray.removesuffix("/tray")).json()["trail"]
    assert len(trail) == 2
    assert_problem(client.delete(f"{tray}/steps"), 409, "on the trail of the visit")


@pytest.mark.long
def test_counts_must_match_and_what_is_left_over_is_told_with_where_it_belongs(
    client: TestClient,
) -> None:
    tray, view = on_tray(client)
    view = worked_to(client, tray, view, "screws_out")
    out = view["now"]["step"]
    wrong = client.post(f"{tray}/steps", json={"step_id": out["id"], "count": out["count"] - 1})
    assert_problem(wrong, 409, "1 screw is missing for field A")
    view = worked_to(client, tray, view, "screws_in")
    back = view["now"]["step"]
    short = {"step_id": back["id"], "count": back["count"] - 1}
    assert_problem(client.post(f"{tray}/steps", json=short), 409, "1 screw is left over")
    view = client.post(f"{tray}/steps", json={**short, "lost": "under the bench"}).json()
    assert view["now"]["left"] == [
        f"1 screw left over, from field {back['field']}: Sensor block (M1.0 × 2.5, back)."
    ]
    while view["now"]["step"] is not None:
        view = step(client, tray, view)
    trail = client.get(tray.removesuffix("/tray")).json()["trail"]
    assert "left over" in trail[1]["step"]["use"]["note"]


def test_a_wrong_plan_is_corrected_and_serves_the_next_body(client: TestClient) -> None:
    tray, view = on_tray(client)
    view = worked_to(client, tray, view, "screws_out")
    view = client.put(f"{tray}/fields/A", json={"count": 3}).json()
    assert view["now"]["step"]["count"] == 3
    step(client, tray, view)
    assert_problem(client.put(f"{tray}/fields/A", json={"count": 2}), 409, "out and counted")
    assert_problem(client.put(f"{tray}/fields/ZZ", json={"count": 2}), 404, "no field ZZ")
    [plan] = client.get("/api/tray-plans").json()
    assert plan["stages"][0]["screws"][0]["count"] == 3


def test_steps_are_taken_back_one_by_one_and_two_pages_stay_in_order(client: TestClient) -> None:
    tray, view = on_tray(client)
    first = view["now"]["step"]["id"]
    view = step(client, tray, view)
    assert_problem(
        client.post(f"{tray}/steps", json={"step_id": "9-lift"}), 409, "Another step comes first"
    )
    assert client.delete(f"{tray}/steps").json()["now"]["step"]["id"] == first
    assert client.delete(f"{tray}/steps").json()["now"]["step"]["id"] == first


def test_photographs_are_kept_with_their_stage(client: TestClient) -> None:
    tray, view = on_tray(client)
    step_id = next(s["id"] for s in view["now"]["steps"] if s["kind"] == "photo")
    for _ in range(2):
        put = client.post(f"{tray}/photos", params={"step_id": step_id}, content=JPEG)
        assert put.status_code == 201
    assert put.json()["photos"] == [{"step_id": step_id, "count": 2}]
    asked = {"step_id": step_id, "number": 2}
    answer = client.get(f"{tray}/photos", params=asked)
    assert (answer.content, answer.headers["content-type"]) == (JPEG, "image/jpeg")
    bad = client.post(f"{tray}/photos", params={"step_id": step_id}, content=b"GIF89a")
    assert_problem(bad, 422, "must be a JPEG")
    away = client.post(f"{tray}/photos", params={"step_id": "x"}, content=JPEG)
    assert_problem(away, 404, "no such step")
    missing = client.get(f"{tray}/photos", params={"step_id": step_id, "number": 9})
    assert_problem(missing, 404, "no such photograph")


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"experience": "practised"}, "repair skill"),
        ({"asks_for": None}, "not what is advised"),
        ({"body": {"no_guarantee": False}}, "warranty must be known"),
        ({"body": {"access": "mirrorless"}}, "comes off"),
    ],
)
def test_who_may_not_is_told_why(client: TestClient, changed: dict[str, Any], words: str) -> None:
    visit = begun(client, **changed)
    view = client.get(f"{visit}/tray").json()
    assert any(words in why for why in view["why_not"])
    assert view["now"] is None
    answer = client.post(f"{visit}/tray", json={"model": COMPACT_PLAN.model})
    assert_problem(answer, 409, words)
    assert_problem(
        client.post(f"{visit}/tray/steps", json={"step_id": "x"}), 404, "not on the tray"
    )


def test_the_tray_is_put_away_only_while_no_screw_is_out(client: TestClient) -> None:
    tray, view = on_tray(client)
    again = client.post(tray, json={"model": COMPACT_PLAN.model})
    assert_problem(again, 409, "on the tray already")
    view = step(client, tray, worked_to(client, tray, view, "screws_out"))
    assert_problem(client.delete(tray), 409, "Screws are out")
    client.delete(f"{tray}/steps")
    assert client.delete(tray).status_code == 204
    assert client.get(tray).json()["now"] is None
    gone = client.post(tray, json={"model": "Nobody's"})
    assert_problem(gone, 404, "no plan for Nobody's")


@pytest.mark.long
def test_a_stop_before_the_last_step_was_written_loses_nothing(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    tray, view = on_tray(client)
    view = worked_to(client, tray, view, "screws_in")
    while view["now"]["step"]["phase"] != "after":
        view = step(client, tray, view)

    def stopped(*_: object) -> None:
        raise StoreError("the server went away")

    last = {"step_id": view["now"]["step"]["id"]}
    with monkeypatch.context() as broken:
        broken.setattr(rows, "put_tray", stopped)
        assert client.post(f"{tray}/steps", json=last).status_code >= 400
    assert client.get(tray).json()["now"]["step"]["id"] == last["step_id"]
    assert client.post(f"{tray}/steps", json=last).json()["now"]["step"] is None
    trail = client.get(tray.removesuffix("/tray")).json()["trail"]
    assert [i["step"]["step"] for i in trail if i["step"]] == ["teardown"]


@pytest.mark.long
def test_a_camera_can_come_on_the_tray_once_more(client: TestClient) -> None:
    tray, view = on_tray(client)
    visit = tray.removesuffix("/tray")
    while view["now"]["step"] is not None:
        view = step(client, tray, view)
    put_frame(client, int(visit.split("/")[-1]), "again")
    assert client.delete(tray).status_code == 204
    answer = client.post(tray, json={"model": COMPACT_PLAN.model})
    assert answer.status_code == 201, answer.text
    view = answer.json()
    while view["now"]["step"] is not None:
        view = step(client, tray, view)
    trail = client.get(visit).json()["trail"]
    assert [i["step"]["step"] for i in trail if i["step"]] == ["teardown"] * 2


def test_the_mat_is_served_as_pdf_and_svg(client: TestClient) -> None:
    client.put("/api/tray-plans", json=COMPACT_PLAN.model_dump(mode="json"))
    asked = {"model": COMPACT_PLAN.model, "paper": "letter"}
    pdf = client.get("/api/tray-plans/mat", params=asked)
    assert pdf.content.startswith(b"%PDF")
    svg = client.get("/api/tray-plans/mat", params={**asked, "form": "svg"})
    assert 'width="279.4mm"' in svg.text
    assert_problem(client.get("/api/tray-plans/mat", params={"model": "x"}), 404, "no plan")
    assert client.delete("/api/tray-plans", params={"model": COMPACT_PLAN.model}).status_code == 204
    assert client.get("/api/tray-plans").json() == []


def test_what_is_no_plan_is_refused_in_words(client: TestClient) -> None:
    bad = {**COMPACT_PLAN.model_dump(mode="json"), "stages": [{"name": "Lid"}]}
    assert_problem(client.put("/api/tray-plans", json=bad), 422, "say what holds it")
