"""Folders of pictures through the API: looked through, chosen from, patched, searched."""

from __future__ import annotations

import time
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from neatpatch.api.app import create_app
from neatpatch.store.datafolder import Library
from tests import dusty_pictures as dusty
from tests.served import assert_problem, options_for, upload, wait

BODY = {"name": "Judge", "sensor_mm": [23.5, 15.6], "stabilised": False}


def settled(client: TestClient, set_id: int, seconds: float = 300) -> dict[str, Any]:
    """Wait until the work on a set has ended."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        found: dict[str, Any] = client.get(f"/api/picture-sets/{set_id}").json()
        if found["state"] not in ("waiting", "working"):
            return found
        time.sleep(0.05)
    raise AssertionError("the work did not end")


def body_with_map(client: TestClient, folder: Path) -> tuple[int, int]:
    """A body with a visit and a measured frame; gives both ids."""
    body = client.post("/api/bodies", json=BODY).json()["id"]
    visit = client.post("/api/visits", json={"body_id": body}).json()["id"]
    accepted = client.post(
        "/api/frames",
        params={"name": "test.jpg", "visit": visit},
        content=dusty.shot_frame(folder).read_bytes(),
    ).json()
    assert wait(client, accepted["job"]["id"])["state"] == "done"
    return body, accepted["frame"]["id"]


@pytest.mark.long
def test_a_folder_is_looked_through_chosen_from_and_patched(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    body, frame = body_with_map(client, tmp_path)
    [choice] = client.get("/api/picture-sets/maps", params={"body_id": body}).json()
    assert (choice["frame_id"], choice["fit"]) == (frame, True)
    folder = dusty.folder_of_pictures(tmp_path / "photos", 3)
    (folder / "notes.txt").write_text("no picture")
    (folder / "broken.jpg").write_bytes((folder / "p0.jpg").read_bytes()[:4000])
    before = {p.name: p.read_bytes() for p in folder.iterdir()}
    begun = client.post(
        "/api/picture-sets", json={"body_id": body, "folder": str(folder), "frame_id": frame}
    )
    assert begun.status_code == 201
    set_id = begun.json()["id"]
    looked = settled(client, set_id)
    assert (looked["state"], looked["counts"]["total"], looked["counts"]["refused"]) == (
        "done",
        4,
        1,
    )
    sheet = client.get(f"/api/picture-sets/{set_id}/pictures").json()
    assert [p["name"] for p in sheet["pictures"]] == ["broken.jpg", "p0.jpg", "p1.jpg", "p2.jpg"]
    broken, first, _, _ = sheet["pictures"]
    assert "damaged or cut short" in broken["looked"]["why_not"]
    assert sum(m["why"] is None for m in first["looked"]["marks"]) >= 8
    small = client.get(f"/api/picture-sets/{set_id}/pictures/2/small")
    assert small.headers["content-type"] == "image/jpeg"
    refused = client.get(f"/api/picture-sets/{set_id}/pictures", params={"only": "refused"}).json()
    assert refused["total"] == 1

    mark = next(m["id"] for m in first["looked"]["marks"] if m["why"] is None)
    client.put(f"/api/picture-sets/{set_id}/pictures/2", json={"veto": [mark]})
    client.put(f"/api/picture-sets/{set_id}/pictures/3", json={"leave": True})
    assert client.post(f"/api/picture-sets/{set_id}/pictures/2/shown").status_code == 204
    shown = {
        which: client.get(f"/api/picture-sets/{set_id}/pictures/2/{which}").content
        for which in ("before", "after", "mask")
    }
    assert shown["before"] != shown["after"]
    assert shown["mask"][:4] == b"\x89PNG"

    asked = client.post(f"/api/picture-sets/{set_id}/work", json={"work": "write"})
    assert_problem(asked, 409, "Say where the copies go")
    same = client.post(
        f"/api/picture-sets/{set_id}/work", json={"work": "write", "out_folder": str(folder)}
    )
    assert_problem(same, 422, "originals lie there")
    out = tmp_path / "patched"
    wanted = {"work": "write", "out_folder": str(out)}
    with monkeypatch.context() as full:
        full.setattr("shutil.disk_usage", lambda _: SimpleNamespace(free=1))
        no_room = client.post(f"/api/picture-sets/{set_id}/work", json=wanted)
    assert_problem(no_room, 422, "Free some space")
    assert not out.exists()
    client.post(f"/api/picture-sets/{set_id}/work", json=wanted)
    done = settled(client, set_id)
    assert (done["state"], done["counts"]["written"]) == ("done", 2)
    written = client.get(f"/api/picture-sets/{set_id}/pictures", params={"only": "written"}).json()
    assert written["total"] == 2
    assert all(p["done"]["out"] for p in written["pictures"])
    assert sorted(p.name for p in out.iterdir()) == ["p0.jpg", "p2.jpg"]
    assert {p.name: p.read_bytes() for p in folder.iterdir()} == before
    row = client.get(f"/api/picture-sets/{set_id}/pictures/2").json()
    assert mark in {spot["id"] for spot in row["done"]["left"]}
    clean = np.asarray(dusty.picture((), 300), np.uint8)
    assert dusty.psnr(dusty.pixels(out / "p0.jpg"), clean) > dusty.psnr(
        dusty.pixels(folder / "p0.jpg"), clean
    )
    marks = client.get(f"/api/picture-sets/{set_id}/marks").json()
    assert marks["schema"] == "neatpatch.marks/1"
    assert [p["path"] for p in marks["pictures"]][1] == "p0.jpg"
    again = client.post(f"/api/picture-sets/{set_id}/work", json={"work": "write"})
    assert again.status_code == 200
    assert settled(client, set_id)["counts"]["written"] == 2
    assert client.delete(f"/api/picture-sets/{set_id}").status_code == 204
    assert sorted(p.name for p in out.iterdir()) == ["p0.jpg", "p2.jpg"]


@pytest.mark.long
def test_a_search_tells_when_dust_came_and_its_marks_serve_as_a_map(
    client: TestClient, tmp_path: Path, year: Path
) -> None:
    body, _ = body_with_map(client, tmp_path)
    begun = client.post("/api/picture-sets", json={"body_id": body, "folder": str(year)}).json()
    assert begun["kind"] == "arrivals"
    assert settled(client, begun["id"])["state"] == "done"
    found = client.get(f"/api/picture-sets/{begun['id']}/arrivals").json()
    words = client.get(f"/api/picture-sets/{begun['id']}").json()["result_words"]
    assert "came between 19 Mar 2026 and 22 Mar 2026" in " ".join(words)
    assert len(found["spots"]) >= 3
    assert found["spots"][0]["shown_in"]
    patch = client.post(
        "/api/picture-sets",
        json={"body_id": body, "folder": str(year), "arrivals_id": begun["id"]},
    )
    assert patch.status_code == 201
    client.delete(f"/api/picture-sets/{patch.json()['id']}/work")
    assert settled(client, patch.json()["id"])["state"] in ("stopped", "done")


@pytest.mark.long
@pytest.mark.parametrize(
    ("wanted", "status", "words"),
    [
        ({"folder": "photos"}, 422, "whole path"),
        ({"folder": "/nowhere/at/all"}, 422, "there is no folder"),
        ({"folder": "EMPTY"}, 422, "no pictures in it"),
        ({"folder": "EMPTY", "body_id": 77}, 422, "no pictures"),
        ({"folder": "FULL", "body_id": 77}, 404, "no such body"),
        ({"folder": "FULL", "frame_id": 77}, 404, "no such frame"),
        ({"folder": "FULL", "arrivals_id": 77}, 404, "no such set"),
    ],
)
def test_what_cannot_serve_is_refused_in_words(
    client: TestClient, tmp_path: Path, wanted: dict[str, Any], status: int, words: str
) -> None:
    (tmp_path / "EMPTY").mkdir()
    dusty.folder_of_pictures(tmp_path / "FULL", 1)
    body = client.post("/api/bodies", json=BODY).json()["id"]
    folder = wanted["folder"]
    given = str(tmp_path / folder) if folder.isupper() else folder
    asked = client.post("/api/picture-sets", json={"body_id": body, **wanted, "folder": given})
    assert_problem(asked, status, words)
    assert client.get("/api/picture-sets").json() == []
    assert client.get("/api/picture-sets/9/arrivals").status_code == 404


@pytest.mark.long
def test_work_that_was_broken_off_goes_on_after_a_restart(tmp_path: Path, page: Path) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "photos", 2)
    root = tmp_path / "data"
    with TestClient(
        create_app(Library(root), options_for(page)), base_url="http://localhost"
    ) as client:
        body, frame = body_with_map(client, tmp_path)
        wanted = {"body_id": body, "folder": str(folder), "frame_id": frame}
        set_id = client.post("/api/picture-sets", json=wanted).json()["id"]
    with TestClient(
        create_app(Library(root), options_for(page)), base_url="http://localhost"
    ) as client:
        looked = settled(client, set_id)
        assert (looked["state"], looked["counts"]["looked"]) == ("done", 2)
        assert upload(client, dusty.shot_frame(tmp_path)).status_code in (200, 202)


@pytest.mark.long
def test_a_dropped_folder_is_taken_in_and_forgotten_with_its_set(
    client: TestClient, tmp_path: Path
) -> None:
    body, frame = body_with_map(client, tmp_path)
    folder = dusty.folder_of_pictures(tmp_path / "photos", 2)
    upload = client.post("/api/picture-sets/uploads").json()
    where = f"/api/picture-sets/uploads/{upload['key']}/files"
    for path in folder.iterdir():
        sent = client.post(where, params={"name": f"day/{path.name}"}, content=path.read_bytes())
        assert sent.status_code == 204
    outside = client.post(
        where, params={"name": "../../../evil.jpg"}, content=(folder / "p0.jpg").read_bytes()
    )
    assert outside.status_code == 204
    kept = sorted(
        p.relative_to(upload["folder"]).as_posix()
        for p in Path(upload["folder"]).rglob("*")
        if p.is_file()
    )
    assert kept == ["day/p0.jpg", "day/p1.jpg", "evil.jpg"]
    words = client.post(where, params={"name": "a.txt"}, content=b"dear diary" * 9)
    assert_problem(words, 415, "not a picture")
    gone = "/api/picture-sets/uploads/0123456789abcdef/files"
    assert_problem(client.post(gone, params={"name": "a.jpg"}, content=b"x"), 404, "was not begun")
    wanted = {"body_id": body, "folder": upload["folder"], "frame_id": frame}
    begun = client.post("/api/picture-sets", json=wanted).json()
    assert begun["uploaded"] is True
    assert settled(client, begun["id"])["counts"]["looked"] == 3
    assert client.delete(f"/api/picture-sets/{begun['id']}").status_code == 204
    assert not Path(upload["folder"]).exists()


@pytest.mark.long
def test_hundreds_of_pictures_are_paged_and_counted(client: TestClient, tmp_path: Path) -> None:
    body, frame = body_with_map(client, tmp_path)
    folder = tmp_path / "many"
    folder.mkdir()
    for i in range(500):
        (folder / f"{i:04}.jpg").write_bytes(b"\xff\xd8\xff torn")
    wanted = {"body_id": body, "folder": str(folder), "frame_id": frame}
    begun = client.post("/api/picture-sets", json=wanted).json()
    done = settled(client, begun["id"])
    assert done["counts"] == {
        "total": 500,
        "looked": 500,
        "refused": 500,
        "left_alone": 0,
        "written": 0,
    }
    last = client.get(
        f"/api/picture-sets/{begun['id']}/pictures", params={"first": 480, "only": "refused"}
    ).json()
    assert (last["total"], len(last["pictures"])) == (500, 20)
    assert last["pictures"][-1]["name"] == "0499.jpg"


@pytest.mark.long
def test_a_folder_tells_whose_it_is_before_anything_is_begun(
    client: TestClient, tmp_path: Path
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "photos", 2)
    (folder / "torn.jpg").write_bytes(b"\xff\xd8\xff torn")
    ask = {"folder": str(folder)}
    alone = client.get("/api/picture-sets/folder", params=ask).json()
    assert (alone["count"], alone["body_id"], alone["frame_id"]) == (3, None, None)
    assert alone["camera"] == dusty.CAMERA.name
    body, frame = body_with_map(client, tmp_path)
    known = client.get("/api/picture-sets/folder", params=ask).json()
    assert (known["body_id"], known["frame_id"]) == (body, frame)
    nowhere = client.get("/api/picture-sets/folder", params={"folder": str(tmp_path / "none")})
    assert_problem(nowhere, 422, "there is no")
    empty = tmp_path / "empty"
    empty.mkdir()
    assert_problem(
        client.get("/api/picture-sets/folder", params={"folder": str(empty)}), 422, "no pictures"
    )


def test_apertures_of_a_folder_are_counted_when_asked(client: TestClient, tmp_path: Path) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "photos", 2)
    (folder / "torn.jpg").write_bytes(b"\xff\xd8\xff torn")
    found = client.get("/api/picture-sets/habits", params={"folder": str(folder)}).json()
    assert (found["pictures"], found["told"], found["skipped"]) == (2, 2, 1)
    assert found["stops"] == [{"f_number": 11, "pictures": 2, "share": 1, "usual": True}]
    none = client.get("/api/picture-sets/habits", params={"folder": str(tmp_path / "none")})
    assert_problem(none, 422, "folder")
