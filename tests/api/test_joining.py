"""Frames find their camera, what was removed comes back, hands stand in one place, folders."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import ExifTags, Image

from tests.api.test_visits import a_body, a_visit, drop, until, visit_of
from tests.served import assert_problem, wait


def send(client: TestClient, path: Path, **params: Any) -> dict[str, Any]:
    """Send a frame, wait for its map, and look at it."""
    answer = client.post(
        "/api/frames", params={"name": path.name, **params}, content=path.read_bytes()
    )
    assert answer.status_code in (200, 201), answer.text
    if answer.json()["job"]:
        wait(client, answer.json()["job"]["id"])
    found: dict[str, Any] = client.get(f"/api/frames/{answer.json()['frame']['id']}").json()
    return found


def with_notes(path: Path, to: Path, *, serial: str = "", equivalent_mm: int = 0) -> Path:
    """The picture with what a file may say of its camera."""
    with Image.open(path) as image:
        exif = image.getexif()
        details = exif.get_ifd(ExifTags.IFD.Exif)
        if serial:
            details[ExifTags.Base.BodySerialNumber] = serial
        if equivalent_mm:
            details[ExifTags.Base.FocalLengthIn35mmFilm] = equivalent_mm
        image.save(to, "JPEG", quality="keep", exif=exif.tobytes())
    return to


def test_a_frame_of_an_unknown_camera_asks_and_can_be_kept_alone(
    client: TestClient, small_jpeg: Path
) -> None:
    frame = send(client, small_jpeg, find_camera=True)
    assert frame["frame"]["asks_camera"]
    assert frame["frame"]["visit_id"] is None
    assert client.delete(f"/api/frames/{frame['frame']['id']}/search").status_code == 204
    again = client.get(f"/api/frames/{frame['frame']['id']}").json()
    assert not again["frame"]["asks_camera"]
    assert_problem(client.delete("/api/frames/99/search"), 404, "no such frame")


@pytest.mark.long
def test_a_frame_sent_for_a_camera_begins_its_visit_and_the_next_joins_it(
    client: TestClient, small_jpeg: Path, dusty_jpeg: Path
) -> None:
    body_id = a_body(client)
    first = send(client, small_jpeg, body=body_id)
    (on,) = first["visits"]
    assert on["body_id"] == body_id
    assert on["state"] == "open"
    assert first["frame"]["body_name"] == "Study"
    second = send(client, dusty_jpeg, find_camera=True)
    assert second["visits"][0]["visit_id"] == on["visit_id"]
    assert len(visit_of(client, on["visit_id"])["trail"]) == 2
    assert_problem(
        client.post("/api/frames", params={"body": 99}, content=small_jpeg.read_bytes()),
        404,
        "no such body",
    )


@pytest.mark.long
def test_whose_a_dozen_frames_are_is_asked_once(
    client: TestClient, small_jpeg: Path, dusty_jpeg: Path, clean_jpeg: Path, tmp_path: Path
) -> None:
    mine, other = "41-0099", "41-0100"
    dropped = [
        send(client, with_notes(path, tmp_path / f"{i}.jpg", serial=serial), find_camera=True)
        for i, (path, serial) in enumerate(
            ((small_jpeg, mine), (dusty_jpeg, mine), (clean_jpeg, other))
        )
    ]
    ids = [f["frame"]["id"] for f in dropped]
    assert all(f["frame"]["asks_camera"] for f in dropped)
    body_id = a_body(client, serial=mine)
    client.post("/api/visits", json={"body_id": body_id, "frame_id": ids[0]})
    until(
        lambda: client.get(f"/api/frames/{ids[1]}").json()["visits"],
        lambda visits: [v["body_id"] for v in visits] == [body_id],
    )
    assert client.get(f"/api/frames/{ids[2]}").json()["frame"]["asks_camera"]


def test_two_of_one_model_are_told_apart_by_serial_number(
    client: TestClient, small_jpeg: Path, tmp_path: Path
) -> None:
    one = a_body(client, serial="41-0077")
    two = a_body(client, name="Second", serial="41-0078")
    path = with_notes(small_jpeg, tmp_path / "n.jpg", serial="41-0078")
    frame = send(client, path, find_camera=True)
    assert frame["recognised"] == {"body_id": two, "name": "Second", "by": "serial"}
    assert frame["visits"][0]["body_id"] == two
    assert client.get(f"/api/bodies/{one}").json()["open_visit_id"] is None


def test_a_first_frame_teaches_the_serial_number_and_the_format_is_guessed(
    client: TestClient, small_jpeg: Path, tmp_path: Path
) -> None:
    focal = 85
    path = with_notes(
        small_jpeg, tmp_path / "n.jpg", serial="77-1", equivalent_mm=round(1.534 * focal)
    )
    body_id = a_body(client)
    frame = send(client, path, body=body_id)
    assert client.get(f"/api/bodies/{body_id}").json()["body"]["serial"] == "77-1"
    assert frame["guessed_sensor_mm"] == [23.5, 15.6]


@pytest.mark.long
def test_a_frame_takes_the_size_of_the_body_it_comes_to_and_follows_its_change(
    client: TestClient, small_jpeg: Path
) -> None:
    frame_id = send(client, small_jpeg)["frame"]["id"]
    size = {"width_mm": 36, "height_mm": 24}
    wait(client, client.put(f"/api/frames/{frame_id}/sensor", json=size).json()["id"])

    def measured() -> Any:
        found = client.get(f"/api/frames/{frame_id}").json()
        return found["map"]["frames"][0]["sensor_mm"]

    assert measured() == [36, 24]
    body_id = a_body(client)
    client.post("/api/visits", json={"body_id": body_id, "frame_id": frame_id})
    until(measured, lambda size: size == [23.5, 15.6])
    stored = client.get(f"/api/bodies/{body_id}").json()
    wrong = {**stored["body"], "sensor_mm": [17.3, 13.0]}
    client.put(f"/api/bodies/{body_id}", json=wrong).raise_for_status()
    until(measured, lambda size: size == [17.3, 13.0])
    assert "Check the sensor's size" in client.get(f"/api/bodies/{body_id}").json()["size_doubt"]
    assert stored["size_doubt"] == ""
    assert stored["frames"] == 1


@pytest.mark.long
def test_what_was_removed_comes_back_in_its_place_with_what_it_took(
    client: TestClient, small_jpeg: Path, dusty_jpeg: Path
) -> None:
    kit = {"item": {"item": "gel_stick", "matched_coating": True, "fresh_patches": 9}}
    client.post("/api/kit", json=kit)
    visit = a_visit(client, a_body(client))
    drop(client, visit["id"], small_jpeg)
    step = {"step": "lift", "use": {"dabs": 4}, "against": "done before"}
    client.post(f"/api/visits/{visit['id']}/steps", json=step).raise_for_status()
    drop(client, visit["id"], dusty_jpeg)
    first, lift, last = (item["id"] for item in visit_of(client, visit["id"])["trail"])

    def patches() -> float:
        return float(client.get("/api/kit").json()[0]["left"])

    assert patches() == 5
    for entry in (lift, first):
        client.delete(f"/api/visits/{visit['id']}/trail/{entry}").raise_for_status()
    assert patches() == 9
    assert [i["id"] for i in visit_of(client, visit["id"])["trail"]] == [last]
    for entry in (first, lift, lift):
        client.post(f"/api/visits/{visit['id']}/trail/{entry}/restore").raise_for_status()
    assert [i["id"] for i in visit_of(client, visit["id"])["trail"]] == [first, lift, last]
    assert patches() == 5
    gone = client.post(f"/api/visits/{visit['id']}/trail/999/restore")
    assert_problem(gone, 404, "nothing to put back")


@pytest.mark.long
def test_a_frame_removed_and_dropped_again_comes_at_the_end(
    client: TestClient, small_jpeg: Path, dusty_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client))
    first = drop(client, visit["id"], small_jpeg)
    drop(client, visit["id"], dusty_jpeg)
    entry = visit_of(client, visit["id"])["trail"][0]["id"]
    client.delete(f"/api/visits/{visit['id']}/trail/{entry}").raise_for_status()
    drop(client, visit["id"], small_jpeg)
    trail = visit_of(client, visit["id"])["trail"]
    assert len(trail) == 2
    assert trail[1]["frame"]["frame_id"] == first


@pytest.mark.long
def test_lives_of_spots_are_told_by_frame(client: TestClient, small_jpeg: Path) -> None:
    visit = a_visit(client, a_body(client))
    drop(client, visit["id"], small_jpeg)
    entry = visit_of(client, visit["id"])["trail"][0]["id"]
    lives = client.get(f"/api/visits/{visit['id']}/trail/{entry}/lives").json()
    assert lives
    assert all(life == {"first": entry, "traced": False, "fates": []} for life in lives.values())
    assert client.get(f"/api/visits/{visit['id']}/trail/999/lives").json() == {}


def test_hands_stand_where_they_were_said_to_until_the_step_is_logged(client: TestClient) -> None:
    visit = a_visit(client, a_body(client))["id"]
    hands = f"/api/visits/{visit}/hands"
    assert client.get(hands).json() == {"place": None}
    at = {"at": 3, "counts": {"2": 7}, "open_s": 41, "log_key": "some-key-1"}
    said = client.put(f"{hands}/air", json=at).json()["place"]
    assert said["version"] == 1
    kept = client.get(hands).json()["place"]
    assert kept["step"] == "air"
    assert kept["position"] == {
        **at,
        "open_s": 41.0,
        "up_s": 0.0,
        "paused": False,
        "short": False,
    }
    assert kept["age_s"] >= 0
    assert client.put(f"{hands}/air", json=at).json()["place"]["version"] == 2
    assert_problem(client.put(f"{hands}/air", json={**at, "at": -1}), 422, "at")
    assert_problem(client.put("/api/visits/99/hands/air", json=at), 404, "no such visit")
    client.post(f"/api/visits/{visit}/steps", json={"step": "air"}).raise_for_status()
    assert client.get(hands).json() == {"place": None}
    client.put(f"{hands}/air", json=at)
    assert client.delete(hands).status_code == 204
    assert client.get(hands).json() == {"place": None}
    client.post(f"/api/visits/{visit}/close", json={"verdict": "finished"}).raise_for_status()
    assert_problem(client.put(f"{hands}/air", json=at), 409, "closed")


@pytest.mark.long
def test_folders_are_watched_refused_with_the_reason_and_let_go(
    client: TestClient, tmp_path: Path, small_jpeg: Path
) -> None:
    card = tmp_path / "card"
    card.mkdir()
    for path, why in (
        (str(tmp_path / "none"), "there is no folder"),
        ("card", "whole path"),
        (str(client.app.state.data.root), "its own data"),  # type: ignore[attr-defined]
    ):
        assert_problem(client.post("/api/watched", json={"path": path}), 422, why)
    body_id = a_body(client)
    lost = {"path": str(card), "body_id": 99}
    assert_problem(client.post("/api/watched", json=lost), 404, "no such body")
    wanted = {"path": str(card), "body_id": body_id}
    (folder,) = client.post("/api/watched", json=wanted).json()
    assert folder["body_name"] == "Study"
    until(lambda: client.get("/api/watched").json()[0]["there"], bool)
    (card / "shot.jpg").write_bytes(small_jpeg.read_bytes())
    (card / "odd.gif").write_bytes(b"GIF89a" + bytes(50))
    found = until(
        lambda: client.get("/api/watched").json()[0], lambda f: f["taken"] and f["refused"]
    )
    assert found["last_name"] == "shot.jpg"
    assert "odd.gif was left alone" in found["refused"]
    until(lambda: client.get("/api/visits").json(), bool)
    assert client.delete(f"/api/watched/{folder['id']}").json() == []
    assert_problem(client.delete(f"/api/watched/{folder['id']}"), 404, "not watched")


def test_bodies_come_in_the_order_asked_for(client: TestClient) -> None:
    for name in ("B", "A", "C"):
        body_id = a_body(client, name=name)
        if name != "A":
            visit = a_visit(client, body_id)["id"]
            job = {"C": "2030-01-01", "B": "2029-01-01"}[name]
            closing = {"verdict": "deferred", "until": job}
            client.post(f"/api/visits/{visit}/close", json=closing).raise_for_status()

    def order(by: str) -> list[str]:
        page = client.get("/api/bodies", params={"order": by}).json()
        return [b["body"]["name"] for b in page["bodies"]]

    assert order("name") == ["A", "B", "C"]
    assert order("next_look")[-1] == "A"
    assert order("last_look") == ["C", "B", "A"]
    assert_problem(client.get("/api/bodies", params={"order": "x"}), 422, "order")


@pytest.mark.long
def test_a_deleted_frame_is_put_back_on_its_trail(
    client: TestClient, small_jpeg: Path, dusty_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client))
    kept = drop(client, visit["id"], small_jpeg)
    client.post(f"/api/visits/{visit['id']}/steps", json={"step": "air"}).raise_for_status()
    deleted = drop(client, visit["id"], dusty_jpeg)
    before = visit_of(client, visit["id"])
    spots = client.get(f"/api/frames/{deleted}").json()["map"]["spots"]
    client.delete(f"/api/frames/{deleted}").raise_for_status()
    frames = [i["frame"]["frame_id"] for i in visit_of(client, visit["id"])["trail"] if i["frame"]]
    assert frames == [kept]
    client.post(f"/api/frames/{deleted}/restore").raise_for_status()
    after = visit_of(client, visit["id"])
    assert [i["id"] for i in after["trail"]] == [i["id"] for i in before["trail"]]
    assert client.get(f"/api/frames/{deleted}").json()["map"]["spots"] == spots
    assert client.get(f"/api/frames/{deleted}/thumb/relief.jpg").status_code == 200
    gone = client.post(f"/api/frames/{deleted}/restore")
    assert_problem(gone, 404, "Send its file in again")
