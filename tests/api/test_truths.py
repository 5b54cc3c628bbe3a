"""The place through the API, what is remembered from visits before, and the body's own truth."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from neatpatch.simulation import Camera, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import Recipe, write_picture, write_simulated
from neatpatch.simulation.particles import Particle
from tests.api.test_visits import ROOM, a_body, a_visit, drop, visit_of
from tests.served import assert_problem, upload, wait

CAMERA = Camera(name="Truth One", width_px=1600, fixed_pattern=0.006)
DUST = scatter({"speck": 10}, CAMERA.sensor_mm, 1.5, 4)
WALL = tuple(
    replace(p, size_um=max(p.size_um, 20.0))
    for p in scatter({"speck": 7}, CAMERA.sensor_mm, 1.5, 9)
)


@pytest.fixture
def shoot(tmp_path: Path) -> Any:
    """Frames of one camera; ``place``: where one stands, ``wall``: how far its marks lie off."""

    def take(seed: int, place: int, wall: float | None = None, dust: int = 10) -> Path:
        marks: list[Particle] = []
        if wall is not None:
            marks = [replace(p, x_mm=p.x_mm + wall, y_mm=p.y_mm - wall / 2) for p in WALL]
        shot = expose(CAMERA, [*DUST[:dust], *marks], seed=seed, target_seed=place)
        return Path(write_picture(tmp_path / f"{seed}.jpg", developed(shot.mosaic)))

    return take


def place_of(client: TestClient, visit_id: int) -> dict[str, Any]:
    found: dict[str, Any] = visit_of(client, visit_id)["place"]
    return found


@pytest.mark.long
def test_the_frames_of_a_visit_prove_the_place_or_say_why_not(
    client: TestClient, shoot: Any
) -> None:
    visit = a_visit(client, a_body(client))["id"]
    assert visit_of(client, visit)["place"] is None
    drop(client, visit, shoot(1, 1))
    assert place_of(client, visit)["state"] == "one_frame"
    drop(client, visit, shoot(2, 1))
    tripod = place_of(client, visit)
    assert tripod["state"] == "not_moved"
    assert "prove nothing" in tripod["words"]
    drop(client, visit, shoot(3, 2))
    proved = place_of(client, visit)
    assert proved["state"] == "proved"
    assert len(proved["on_sensor"]) >= 8


@pytest.mark.long
def test_marks_of_the_target_leave_the_counts_and_are_told(client: TestClient, shoot: Any) -> None:
    visit = a_visit(client, a_body(client))["id"]
    drop(client, visit, shoot(4, 3, wall=0.0))
    before = visit_of(client, visit)["trail"][-1]["frame"]
    drop(client, visit, shoot(5, 4, wall=0.9))
    seen = visit_of(client, visit)
    after = seen["trail"][-1]["frame"]
    assert seen["place"]["state"] == "proved"
    assert 5 <= len(after["wall"]) <= 8
    assert seen["trail"][0]["frame"]["relevant"] == after["relevant"] < before["relevant"] - 4
    assert "belong to the target" in seen["place"]["words"]
    guide = client.get(f"/api/visits/{visit}/guidance", params={"step": "lift"}).json()
    assert not set(guide["mount"]["relevant"]) & set(seen["place"]["wall"])


@pytest.mark.long
def test_contact_waits_for_the_place(client: TestClient, shoot: Any) -> None:
    body = a_body(client, no_guarantee=True, self_clean=False)
    visit = a_visit(client, body)["id"]
    url = f"/api/visits/{visit}"
    kit = [
        {"item": {"item": "bulb_blower"}},
        {"item": {"item": "gel_stick", "matched_coating": True, "fresh_patches": 40}},
    ]
    for thing in kit:
        client.post("/api/kit", json=thing)
    self_made = {**ROOM, "schools": {"contact_by": "self"}}
    client.put(f"{url}/conditions", json=self_made)
    drop(client, visit, shoot(6, 5))
    assert visit_of(client, visit)["advice"]["decision"] == "air"
    client.post(f"{url}/steps", json={"step": "air", "use": {"opening": "down"}})
    drop(client, visit, shoot(7, 5))
    still = visit_of(client, visit)
    assert still["advice"]["decision"] == "reshoot"
    assert "not proved" in still["advice"]["why"][0]
    assert {"lift"} <= {b["action"] for b in still["advice"]["barred"]}
    drop(client, visit, shoot(8, 6))
    assert visit_of(client, visit)["advice"]["decision"] == "lift"


def test_an_unknown_warranty_bars_contact_and_a_known_one_opens_it(client: TestClient) -> None:
    body_id = a_body(client)
    known = client.get(f"/api/bodies/{body_id}").json()
    assert known["body"]["no_guarantee"] is False
    assert known["body"]["closes_when_off"] is None
    told = {**known["body"], "no_guarantee": True, "closes_when_off": True, "serial": "77-4 B"}
    told |= {"cleaning_note": "Tools, page 2", "serviced_on": "2026-01-31"}
    client.put(f"/api/bodies/{body_id}", json=told)
    assert client.get(f"/api/bodies/{body_id}").json()["body"] == told
    found = client.get("/api/bodies", params={"words": "77-4"}).json()
    assert [b["id"] for b in found["bodies"]] == [body_id]
    bad = client.put(f"/api/bodies/{body_id}", json={**told, "serviced_on": "31 Jan"})
    assert_problem(bad, 422, "serviced_on")


def test_the_last_room_is_offered_and_hands_are_remembered(client: TestClient) -> None:
    first = a_visit(client, a_body(client))
    assert first["offered"] is None
    second = client.post(
        "/api/visits", json={"body_id": a_body(client, name="Reading room", access="mirror")}
    ).json()
    assert second["conditions"]["experience"] == "practised"
    assert second["conditions"]["temperature_c"] is None
    offered = second["offered"]
    assert (offered["temperature_c"], offered["surface"]) == (20, "bare")
    assert offered["battery_percent"] is None
    assert offered["mirror_up"] is None


def test_the_next_look_is_kept_and_shown(client: TestClient) -> None:
    body_id = a_body(client)
    visit = a_visit(client, body_id)
    assert client.get("/api/looks").json() == []
    closed = client.post(f"/api/visits/{visit['id']}/close", json={"verdict": "finished"}).json()
    (look,) = client.get("/api/looks").json()
    assert look == {
        "body_id": body_id,
        "name": "Study",
        "on": closed["look_again_on"],
        "away": False,
    }
    assert look["on"] == (date.today() + timedelta(days=60)).isoformat()
    (row,) = client.get("/api/bodies").json()["bodies"]
    assert row["look_again_on"] == look["on"]
    a_visit(client, body_id)
    assert client.get("/api/looks").json() == []


@pytest.mark.long
def test_sent_away_and_back_is_compared_across_visits(client: TestClient, shoot: Any) -> None:
    body_id = a_body(client)
    before = a_visit(client, body_id)["id"]
    frame_id = drop(client, before, shoot(10, 7))
    client.post(f"/api/visits/{before}/close", json={"verdict": "sent"})
    assert client.get("/api/looks").json()[0]["away"] is True
    back = a_visit(client, body_id)
    assert back["earlier"] == {
        "visit_id": before,
        "frame_id": frame_id,
        "verdict": "sent",
        "closed_at": back["earlier"]["closed_at"],
        "counts": None,
    }
    assert back["body"]["serviced_on"] == date.today().isoformat()
    drop(client, back["id"], shoot(11, 8, dust=3))
    counts = visit_of(client, back["id"])["earlier"]["counts"]
    assert counts["gone"] >= 5
    assert counts["stayed"] >= 2


def test_a_step_keeps_what_it_was_done_with(client: TestClient) -> None:
    for thing in (
        {"item": {"item": "wet_swab", "width_mm": 16, "quantity": 3}},
        {"item": {"item": "fluid", "kind": "oil_dissolving", "quantity": 10, "kit_own": True}},
        {"item": {"item": "fluid", "kind": "fast_drying", "quantity": 10, "kit_own": True}},
    ):
        client.post("/api/kit", json=thing)
    visit = a_visit(client, a_body(client))["id"]
    step = {"step": "wet_swab", "use": {"drops": 2, "waited_s": 40}, "against": "for the test"}
    done = client.post(f"/api/visits/{visit}/steps", json=step).json()["trail"][-1]["step"]
    assert done["use"]["fluid"] == "fast_drying"
    assert done["use"]["item"] == "wet_swab"
    assert (done["use"]["temperature_c"], done["use"]["humidity_percent"]) == (20, 45)
    assert done["use"]["waited_s"] == 40
    assert "fast-drying fluid" in [t["thing"] for t in done["took"]]


def test_a_guide_that_may_not_begin_says_why(client: TestClient) -> None:
    body = a_body(client, stabilised=True, hold_rule="off", closes_when_off=True)
    visit = a_visit(client, body)["id"]
    guide = client.get(f"/api/visits/{visit}/guidance", params={"step": "wet_swab"}).json()
    assert guide["instructions"] == []
    assert "handbook" in guide["stop"]
    air = client.get(f"/api/visits/{visit}/guidance", params={"step": "air"}).json()
    assert air["stop"] == ""
    assert any("cleaning by hand" in i["text"] for i in air["instructions"])


def test_a_closed_visit_can_be_opened_again(client: TestClient) -> None:
    body_id = a_body(client)
    first = a_visit(client, body_id)["id"]
    client.post(f"/api/visits/{first}/close", json={"verdict": "finished", "note": "done"})
    again = client.post(f"/api/visits/{first}/reopen").json()
    assert (again["state"], again["verdict"], again["look_again_on"]) == ("open", None, None)
    assert client.get("/api/looks").json() == []
    assert client.post(f"/api/visits/{first}/reopen").json()["state"] == "open"
    client.post(f"/api/visits/{first}/close", json={"verdict": "finished"})
    a_visit(client, body_id)
    assert_problem(client.post(f"/api/visits/{first}/reopen"), 409, "another open visit")
    assert_problem(client.post("/api/visits/999/reopen"), 404, "no such visit")


@pytest.mark.long
def test_an_unfit_frame_says_why_and_the_recipe_stays_that_of_the_fit_one(
    client: TestClient, shoot: Any, tmp_path: Path
) -> None:
    visit = a_visit(client, a_body(client))["id"]
    drop(client, visit, shoot(21, 1))
    recipe = visit_of(client, visit)["recipe"]
    assert recipe.startswith("f/22")
    dark = write_picture(tmp_path / "dark.jpg", np.full((1062, 1600, 3), 4, np.uint8))
    drop(client, visit, Path(dark))
    seen = visit_of(client, visit)
    assert seen["recipe"] == recipe
    assert seen["advice"]["decision"] == "reshoot"
    assert any("dark" in words for words in seen["unfit"])
    drop(client, visit, shoot(22, 2))
    assert visit_of(client, visit)["unfit"] == []


@pytest.mark.long
def test_frames_of_one_model_with_nothing_in_common_are_never_called_clean(
    client: TestClient, tmp_path: Path
) -> None:
    shots = [
        write_simulated(Recipe(seed=n, name=f"f{n}", width_px=1500, counts={"speck": 9}), tmp_path)
        for n in (1, 2, 3)
    ]
    visit = a_visit(client, a_body(client, camera_name=None))["id"]
    drop(client, visit, shots[0][0])
    for jpeg, _ in shots[1:]:
        sent = client.post(
            "/api/frames",
            params={"name": jpeg.name, "find_camera": True},
            content=jpeg.read_bytes(),
        ).json()
        wait(client, sent["job"]["id"])
    seen = visit_of(client, visit)
    assert seen["advice"]["decision"] == "reshoot"
    on_trail = [e for e in seen["trail"] if e["frame"]]
    assert all(e["frame"]["wall"] == [] for e in on_trail)
    assert seen["place"]["unexplained"] == [e["id"] for e in on_trail[-2:]]

    url = f"/api/visits/{visit}/trail/{on_trail[-1]['id']}/explain"
    assert client.post(url, json={"why": "target"}).json()["advice"]["decision"] == "reshoot"
    session = client.post(url, json={"why": "session"}).json()
    assert session["place"]["unexplained"] is None
    assert session["advice"]["decision"] != "stop_done"
    left = client.post(url, json={"why": "camera"}).json()
    assert len([e for e in left["trail"] if e["frame"]]) == len(on_trail) - 1
    asked = client.get(f"/api/frames/{on_trail[-1]['frame']['frame_id']}").json()
    assert asked["frame"]["asks_camera"] is True
    assert_problem(client.post(url, json={"why": "session"}), 404, "removed")


@pytest.mark.long
def test_a_frame_without_an_aperture_says_that_nothing_can_be_worked_out(
    client: TestClient, small_jpeg: Path, tmp_path: Path
) -> None:
    bare = tmp_path / "bare.jpg"
    Image.open(small_jpeg).save(bare, quality=95)
    sent = upload(client, bare).json()
    wait(client, sent["job"]["id"])
    url = f"/api/frames/{sent['frame']['id']}"
    seen = client.get(url).json()
    assert seen["map"]["summary"]["count"] > 0
    assert seen["map"]["summary"]["relevant"] is seen["frame"]["relevant"] is None
    listed = client.get("/api/frames").json()["frames"][0]
    assert listed["relevant"] is None

    wait(client, client.put(f"{url}/aperture", json={"f_number": 22}).json()["id"])
    seen = client.get(url).json()
    assert seen["map"]["frames"][0]["f_number"] == 22
    assert seen["map"]["summary"]["relevant"] > 0
    assert seen["frame"]["relevant"] > 0


@pytest.mark.long
def test_the_aperture_entered_for_a_visit_is_worked_with(
    client: TestClient, small_jpeg: Path, tmp_path: Path
) -> None:
    bare = tmp_path / "bare.jpg"
    Image.open(small_jpeg).save(bare, quality=95)
    visit = a_visit(client, a_body(client))["id"]
    drop(client, visit, bare)
    seen = visit_of(client, visit)
    assert seen["trail"][0]["frame"]["relevant"] is None
    conditions = {**seen["conditions"], "shot_at_f": 22}
    jobs = client.put(f"/api/visits/{visit}/conditions", json=conditions).json()["jobs"]
    wait(client, jobs[0]["id"])
    assert visit_of(client, visit)["trail"][0]["frame"]["relevant"] > 0
