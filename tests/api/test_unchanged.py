"""What a browser holds is not sent again; what changed always is."""

from __future__ import annotations

from fastapi.testclient import TestClient


def test_the_same_answer_is_not_sent_again_and_a_changed_one_is(client: TestClient) -> None:
    first = client.get("/api/bodies")
    held = {"If-None-Match": first.headers["ETag"]}
    again = client.get("/api/bodies", headers=held)
    assert (again.status_code, again.content) == (304, b"")
    client.post("/api/bodies", json={"name": "Stand 4", "sensor_mm": [36.0, 24.0]})
    changed = client.get("/api/bodies", headers=held)
    assert changed.status_code == 200
    assert changed.json()["total"] == 1
    assert changed.headers["ETag"] != first.headers["ETag"]


def test_a_tag_by_which_changes_are_refused_is_never_answered_by_nothing(
    client: TestClient,
) -> None:
    kept = client.get("/api/schools")
    again = client.get("/api/schools", headers={"If-None-Match": kept.headers["ETag"]})
    assert again.json() == kept.json()


def test_the_page_itself_is_not_sent_again(client: TestClient) -> None:
    page = client.get("/")
    again = client.get("/", headers={"If-None-Match": page.headers["ETag"]})
    assert (again.status_code, again.content) == (304, b"")
    assert client.get("/", headers={"If-None-Match": '"other"'}).content == page.content


def test_an_error_is_not_held(client: TestClient) -> None:
    assert "ETag" not in client.get("/api/frames/99").headers


def test_an_example_is_drawn_once_and_can_be_taken_out(client: TestClient) -> None:
    made = client.post("/api/frames/example")
    assert made.status_code == 201
    frame = made.json()["frame"]
    assert (frame["name"], frame["source"]) == ("example.jpg", "demo")
    assert "virtual camera" in frame["note"]
    again = client.post("/api/frames/example").json()["frame"]
    assert again["id"] == frame["id"]
    assert client.delete(f"/api/frames/{frame['id']}").status_code == 204
    assert client.get("/api/frames").json()["total"] == 0
