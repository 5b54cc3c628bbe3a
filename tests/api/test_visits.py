"""A visit through the API: begin, trail, next move, hazards, compare, close."""

from __future__ import annotations

import shutil
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.api.app import create_app
from neatpatch.simulation import Camera
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.simulation.rungs import scatter_dust
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store.datafolder import Library
from tests.conditions import QUIET_ROOM
from tests.served import assert_problem, options_for, upload, wait

BODY = {
    "name": "Study",
    "access": "mirrorless",
    "sensor_mm": [23.5, 15.6],
    "stabilised": False,
    "self_clean": True,
    "works_at": [8, 16],
}
ROOM = QUIET_ROOM.model_dump(mode="json", exclude_defaults=True)


def a_body(client: TestClient, **changes: Any) -> int:
    answer = client.post("/api/bodies", json={**BODY, **changes})
    assert answer.status_code == 201, answer.text
    return int(answer.json()["id"])


def a_visit(client: TestClient, body_id: int) -> dict[str, Any]:
    answer = client.post("/api/visits", json={"body_id": body_id, "conditions": ROOM})
    assert answer.status_code == 201, answer.text
    visit: dict[str, Any] = answer.json()
    return visit


def visit_of(client: TestClient, visit_id: int) -> dict[str, Any]:
    visit: dict[str, Any] = client.get(f"/api/visits/{visit_id}").json()
    return visit


def drop(client: TestClient, visit_id: int, path: Path) -> int:
    """Drop a frame onto a visit and wait for its map."""
    answer = client.post(
        "/api/frames", params={"name": path.name, "visit": visit_id}, content=path.read_bytes()
    )
    assert answer.status_code in (200, 201), answer.text
    if answer.json()["job"]:
        assert wait(client, answer.json()["job"]["id"])["state"] == "done"
    return int(answer.json()["frame"]["id"])


def until(answer: Callable[[], Any], wanted: Callable[[Any], bool]) -> Any:
    while not wanted(found := answer()):
        time.sleep(0.05)
    return found


@pytest.mark.long
def test_a_visit_from_first_frame_to_verdict(client: TestClient, small_jpeg: Path) -> None:
    body_id = a_body(client)
    visit = a_visit(client, body_id)
    assert visit["advice"]["decision"] == "reshoot"
    frame_id = drop(client, visit["id"], small_jpeg)
    visit = visit_of(client, visit["id"])
    assert visit["latest_frame_id"] == frame_id
    assert visit["trail"][0]["frame"]["relevant"] > 0
    assert visit["trail"][0]["frame"]["dots"]
    assert visit["advice"]["decision"] == "auto_clean"

    stepped = client.post(
        f"/api/visits/{visit['id']}/steps", json={"step": "auto_clean", "use": {"runs": 5}}
    ).json()
    assert stepped["version"] > visit["version"]
    assert stepped["trail"][1]["step"]["tested"] is False
    assert stepped["advice"]["decision"] == "reshoot"

    answer = client.post(f"/api/visits/{visit['id']}/steps", json={"step": "wet_swab"})
    assert_problem(answer, 409, "Give the reason")
    hazards = client.get(f"/api/visits/{visit['id']}/hazards", params={"step": "wet_swab"}).json()
    assert hazards["barred"][0]["action"] == "wet_swab"
    forced = client.post(
        f"/api/visits/{visit['id']}/steps",
        json={"step": "wet_swab", "against": "The owner insists", "use": {"drops": 2}},
    ).json()
    assert forced["trail"][2]["step"]["against"] == "The owner insists"
    undone = client.delete(f"/api/visits/{visit['id']}/trail/{forced['trail'][2]['id']}").json()
    assert len(undone["trail"]) == 2

    corrected = client.put(
        f"/api/visits/{visit['id']}/trail/{undone['trail'][1]['id']}/use", json={"use": {"runs": 4}}
    ).json()
    assert corrected["trail"][1]["step"]["use"]["runs"] == 4

    closed = client.post(f"/api/visits/{visit['id']}/close", json={"verdict": "deferred"})
    assert_problem(closed, 422, "until")
    closed = client.post(
        f"/api/visits/{visit['id']}/close",
        json={"verdict": "deferred", "until": "2031-01-02", "note": "after the fair"},
    )
    assert closed.json()["visit"]["state"] == "closed"
    assert closed.json()["words"]
    again = client.post(f"/api/visits/{visit['id']}/steps", json={"step": "air"})
    assert_problem(again, 409, "closed")
    history = client.get(f"/api/bodies/{body_id}").json()
    assert history["visits"][0]["verdict"] == "deferred"
    assert history["body"]["camera_name"]
    assert history["body"]["pitch_um"] == pytest.approx(15.667, abs=0.01)


def test_a_body_has_one_open_visit_and_one_name(client: TestClient) -> None:
    body_id = a_body(client)
    assert_problem(client.post("/api/bodies", json={**BODY, "name": "study"}), 409, "another name")
    a_visit(client, body_id)
    assert_problem(client.post("/api/visits", json={"body_id": body_id}), 409, "open visit")
    assert_problem(client.post("/api/visits", json={"body_id": 99}), 404, "no such body")
    assert_problem(client.get("/api/visits/99"), 404, "no such visit")
    listed = client.get("/api/bodies", params={"words": "stu"}).json()
    assert listed["total"] == 1
    assert listed["bodies"][0]["open_visit_id"] is not None
    assert client.get("/api/visits").json()[0]["body_name"] == "Study"
    bad = client.post("/api/bodies", json={**BODY, "name": "B", "sensor_mm": [0, 3]})
    assert_problem(bad, 422, "3 to 120 mm")
    changed = client.put(f"/api/bodies/{body_id}", json={**BODY, "name": "Study 2"}).json()
    assert changed["body"]["name"] == "Study 2"
    assert client.delete(f"/api/bodies/{body_id}").status_code == 204
    assert_problem(client.get(f"/api/bodies/{body_id}"), 404, "no such body")


def test_a_frame_of_another_camera_is_questioned_not_silently_filed(
    client: TestClient, small_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client, camera_name="Tarn Meridian S"))
    drop(client, visit["id"], small_jpeg)
    visit = visit_of(client, visit["id"])
    assert "Tarn Meridian S" in visit["trail"][0]["frame"]["doubts"][0]
    assert visit["latest_frame_id"] is None
    assert visit["advice"]["decision"] == "reshoot"
    entry = visit["trail"][0]["id"]
    visit = client.post(f"/api/visits/{visit['id']}/trail/{entry}/accept").json()
    assert visit["latest_frame_id"] is not None
    assert visit["advice"]["decision"] == "auto_clean"


@pytest.mark.long
def test_guidance_mount_view_and_two_frames_laid_on_each_other(
    client: TestClient, small_jpeg: Path, tmp_path: Path
) -> None:
    visit = a_visit(client, a_body(client))
    first = drop(client, visit["id"], small_jpeg)
    clean, _ = write_simulated(
        Recipe(seed=9, name="later", width_px=1500, counts={"speck": 1}), tmp_path
    )
    client.post(f"/api/visits/{visit['id']}/steps", json={"step": "auto_clean"})
    second = drop(client, visit["id"], clean)
    laid = client.get(f"/api/frames/{first}/against/{second}").json()
    assert laid["comparison"]["comparable"]
    steps = [
        i["step"] for i in client.get(f"/api/visits/{visit['id']}").json()["trail"] if i["step"]
    ]
    assert steps[0]["counts"] == laid["comparison"]["summary"]
    assert sum(row.get("gone", 0) for row in laid["by_kind"].values()) > 0
    guide = client.get(
        f"/api/visits/{visit['id']}/guidance",
        params={"step": "air", "pose": "top_left", "length": "full"},
    ).json()
    assert guide["instructions"][-1]["text"].startswith("Shoot the test frame again")
    assert guide["mount"]["pose"] == "top_left"
    assert guide["plan"]["presses"] == guide["plan"]["strokes"] == []
    params = {"flange_mm": 44, "low_mm": 50, "high_mm": 54}
    loupe = client.get("/api/plans/loupe", params=params, headers={"Neat-Units": "inch"}).json()
    assert "a spacer of 0.31 in under it" in loupe["why"]
    assert "a spacer of 8 mm" in client.get("/api/plans/loupe", params=params).json()["why"]
    drying = client.get("/api/plans/drying", params={"temperature": 20, "humidity": 45}).json()
    assert drying["verdict"] == "good"
    recipe = client.get("/api/plans/shoot", params={"focal_mm": 50, "smallest_f": 16}).json()
    assert recipe["f_number"] == 16
    reach = {"flange_mm": 18, "low_mm": 40, "high_mm": 46}
    assert client.get("/api/plans/loupe", params=reach).json()["spacer_mm"] == 25
    bad = client.get("/api/plans/shoot", params={"focal_mm": 0})
    assert_problem(bad, 422, "outside 4 to 2000 mm")
    answer = client.get("/api/plans/drying", params={"temperature": 20, "humidity": 130})
    assert_problem(answer, 422, "outside 0 to 100")
    mount = client.get(f"/api/frames/{first}/mount", params={"pose": "standing"}).json()
    assert mount["matrix"] == [1, 0, 0, -1]
    assert mount["aims"][0]["words"]
    assert_problem(client.get("/api/frames/99/mount"), 404, "no such frame")
    assert_problem(client.get(f"/api/frames/{first}/against/99"), 404, "no such frame")


def test_schools_kit_and_service_are_kept_and_followed(
    client: TestClient, small_jpeg: Path
) -> None:
    assert client.put("/api/schools", json={"act_on": "visible"}).status_code == 200
    assert client.get("/api/schools").json()["act_on"] == "visible"
    assert_problem(client.put("/api/schools", json={"air": "hard"}), 422, "air")
    assert client.put("/api/service", json={"turnaround_days": 4}).json()["turnaround_days"] == 4
    swab = {"item": {"item": "dry_swab", "width_mm": 16, "quantity": 1}, "note": "drawer"}
    (entry,) = client.post("/api/kit", json=swab).json()
    assert_problem(client.post("/api/kit", json={"item": {"item": "spoon"}}), 422, "item")
    assert_problem(client.put("/api/kit/99", json=swab), 404, "no such thing")
    visit = a_visit(client, a_body(client))
    assert visit["schools"]["act_on"] == "visible"
    drop(client, visit["id"], small_jpeg)
    client.post(
        f"/api/visits/{visit['id']}/steps", json={"step": "dry_swab", "against": "to see the stock"}
    )
    assert client.get("/api/kit").json()[0]["left"] == 0
    assert client.delete(f"/api/kit/{entry['id']}").json() == []


@pytest.mark.long
def test_frames_of_one_moment_are_measured_as_a_series(client: TestClient, tmp_path: Path) -> None:
    recipe = Recipe(seed=8, width_px=1500, counts={"speck": 6})
    paths = [
        write_simulated(Recipe(**{**recipe.__dict__, "name": f"m{i}", "iso": 100 + i}), tmp_path)[0]
        for i in range(2)
    ]
    ids = []
    for path in paths:
        accepted = upload(client, path).json()
        wait(client, accepted["job"]["id"])
        ids.append(accepted["frame"]["id"])
    job = client.put(f"/api/frames/{ids[0]}/series", json={"members": [ids[1]]}).json()
    assert wait(client, job["id"])["state"] == "done"
    found = client.get(f"/api/frames/{ids[0]}").json()["map"]
    assert len(found["frames"]) == 2
    assert {s["seen_in"] for s in found["spots"]} == {2}
    assert_problem(
        client.put(f"/api/frames/{ids[0]}/series", json={"members": [99]}), 404, "no such frame"
    )


@pytest.mark.long
def test_a_virtual_body_is_shot_and_cleaned(client: TestClient) -> None:
    body_id = a_body(client)
    visit = a_visit(client, body_id)
    assert_problem(client.post(f"/api/visits/{visit['id']}/shoot"), 409, "real camera")
    library: Library = client.app.state.data  # type: ignore[attr-defined]
    with library.database.write() as connection:
        dust = scatter_dust({"speck": 12}, (23.5, 15.6), 1.5, 4)
        bench = virtual_rows.VirtualCamera(Camera(width_px=1500, name="V 1"), dust, 0)
        virtual_rows.put_virtual_camera(connection, body_id, bench)
    for _ in range(2):
        answer = client.post(f"/api/visits/{visit['id']}/shoot", params={"f": 22})
        assert answer.status_code == 202
        shots = until(
            lambda: visit_of(client, visit["id"]),
            lambda v: (
                not v["jobs"] and all(i["frame"] is None or i["frame"]["ready"] for i in v["trail"])
            ),
        )
        if len(shots["trail"]) == 1:
            client.post(f"/api/visits/{visit['id']}/steps", json={"step": "service"})
    relevant = [i["frame"]["relevant"] for i in shots["trail"] if i["frame"]]
    assert relevant[0] > 0
    assert relevant[1] == 0
    assert shots["advice"]["decision"] == "stop_done"
    assert_problem(client.post(f"/api/visits/{visit['id']}/shoot", params={"f": 99}), 422, "f")

    def dirt() -> int:
        with library.database.read() as connection:
            found = virtual_rows.virtual_camera_of(connection, body_id)
        assert found is not None
        return len(found.dust)

    assert dirt() == 0
    with library.database.write() as connection:
        connection.execute("UPDATE bodies SET source = 'demo' WHERE id = ?", (body_id,))
    client.post(f"/api/visits/{visit['id']}/close", json={"verdict": "finished"})
    a_visit(client, body_id)
    assert dirt() > 0, "virtual days bring dust to a demo camera"


@pytest.mark.long
def test_a_watched_folder_fills_the_one_open_visit(
    tmp_path: Path, page: Path, small_jpeg: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    app = create_app(Library(tmp_path / "data"), options_for(page, watched=folder))
    with TestClient(app, base_url="http://localhost") as client:
        visit = a_visit(client, a_body(client))
        app.state.folders.named.ready.wait()
        target = folder / "shot.jpg"
        (tmp_path / "copied").write_bytes(small_jpeg.read_bytes())
        (tmp_path / "copied").rename(target)
        (folder / "notes.txt").write_text("not a picture")
        found = until(
            lambda: visit_of(client, visit["id"]),
            lambda v: v["trail"] and v["trail"][0]["frame"]["ready"],
        )
        assert found["trail"][0]["frame"]["name"] == "shot.jpg"
        assert len(client.get("/api/frames").json()["frames"]) == 1
        assert target.read_bytes() == small_jpeg.read_bytes()
        shutil.rmtree(folder)


def test_a_frame_already_here_begins_or_joins_a_visit(client: TestClient, small_jpeg: Path) -> None:
    accepted = upload(client, small_jpeg).json()
    wait(client, accepted["job"]["id"])
    frame_id = accepted["frame"]["id"]
    body_id = a_body(client)
    answer = client.post("/api/visits", json={"body_id": body_id, "frame_id": frame_id})
    visit = answer.json()
    assert visit["latest_frame_id"] == frame_id
    joined = client.post(f"/api/visits/{visit['id']}/frames", json={"frame_id": frame_id}).json()
    assert len(joined["trail"]) == 1
    assert_problem(
        client.post(f"/api/visits/{visit['id']}/frames", json={"frame_id": 99}),
        404,
        "no such frame",
    )
    other = a_body(client, name="Other")
    assert_problem(
        client.post("/api/visits", json={"body_id": other, "frame_id": 99}), 404, "no such frame"
    )
    removed = client.delete(f"/api/visits/{visit['id']}/trail/{joined['trail'][0]['id']}").json()
    assert removed["trail"] == []
    assert client.get(f"/api/frames/{frame_id}").status_code == 200


def test_conditions_change_the_next_move_and_bad_ones_are_refused(
    client: TestClient, small_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client, self_clean=False))
    client.post("/api/kit", json={"item": {"item": "bulb_blower"}})
    drop(client, visit["id"], small_jpeg)
    path = f"/api/visits/{visit['id']}/conditions"
    assert visit_of(client, visit["id"])["advice"]["decision"] == "air"
    windy = client.put(path, json={**ROOM, "moving_air": True}).json()
    assert windy["advice"]["decision"] == "prepare"
    assert_problem(client.put(path, json={"humidity_percent": 130}), 422, "humidity_percent")
    assert_problem(client.put(path, json={"job_on": "soon"}), 422, "job_on")
    assert_problem(client.put(path, json={"mood": "good"}), 422, "mood")
    soon = client.put(path, json={**ROOM, "job_on": "2000-01-01"}).json()
    assert soon["advice"]["decision"] == "air"


def test_a_frame_dropped_on_a_closed_visit_is_refused_and_not_kept(
    client: TestClient, small_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client))
    client.post(f"/api/visits/{visit['id']}/close", json={"verdict": "given_up"})
    answer = client.post(
        "/api/frames",
        params={"name": "a.jpg", "visit": visit["id"]},
        content=small_jpeg.read_bytes(),
    )
    assert_problem(answer, 409, "closed")
    assert client.get("/api/frames").json()["frames"] == []
    answer = client.post("/api/frames", params={"visit": 77}, content=b"x")
    assert_problem(answer, 404, "no such visit")


def test_a_frame_that_cannot_be_measured_stays_and_says_why_until_it_is_removed(
    client: TestClient, small_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client))
    broken = small_jpeg.read_bytes()[:9000]
    accepted = client.post(
        "/api/frames", params={"name": "cut.jpg", "visit": visit["id"]}, content=broken
    ).json()
    assert wait(client, accepted["job"]["id"])["state"] == "failed"
    [item] = visit_of(client, visit["id"])["trail"]
    assert "damaged" in item["frame"]["trouble"]
    assert item["frame"]["ready"] is False
    removed = client.delete(f"/api/visits/{visit['id']}/trail/{item['id']}")
    assert removed.json()["trail"] == []


def test_bodies_come_in_pages(client: TestClient) -> None:
    for i in range(7):
        a_body(client, name=f"Body {i}")
    page = client.get("/api/bodies", params={"first": 5, "count": 5}).json()
    assert page["total"] == 7
    assert [b["body"]["name"] for b in page["bodies"]] == ["Body 5", "Body 6"]
    assert_problem(client.get("/api/bodies", params={"count": 5000}), 422, "count")
