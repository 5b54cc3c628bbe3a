"""A whole clean in its room: done like any visit, apart from the record, its two lines compared."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.api.sharing.policy import may
from tests.api.routes.test_practice import rows
from tests.served import assert_problem, wait


class Room:
    """The practised clean, asked under its own address."""

    def __init__(self, client: TestClient, begun: dict[str, Any]) -> None:
        self._client, self._path = client, f"/trial/api/visits/{begun['visit_id']}"

    def visit(self) -> dict[str, Any]:
        return self._of("GET", "")

    def shoot(self) -> dict[str, Any]:
        shot = self._of("POST", "/shoot")
        self._wait(shot["id"])
        for job in self.visit()["jobs"]:
            self._wait(job["id"])
        return self.visit()

    def _wait(self, job_id: int) -> None:
        assert wait(_InRoom(self._client), job_id)["state"] == "done"  # type: ignore[arg-type]

    def step(self, step: str, against: str = "", **use: Any) -> dict[str, Any]:
        return self._of("POST", "/steps", {"step": step, "use": use, "against": against})

    def close(self, verdict: str) -> dict[str, Any]:
        return self._of("POST", "/close", {"verdict": verdict})

    def _of(self, method: str, path: str, body: Any = None) -> dict[str, Any]:
        answer = self._client.request(method, self._path + path, json=body)
        assert answer.status_code < 300, answer.text
        found: dict[str, Any] = answer.json()
        return found


class _InRoom:
    def __init__(self, client: TestClient) -> None:
        self._client = client

    def get(self, path: str) -> Any:
        return self._client.get(f"/trial{path}")


def begin(client: TestClient, seed: int) -> dict[str, Any]:
    answer = client.post("/api/practice/cleans", params={"seed": seed})
    assert answer.status_code == 201
    found: dict[str, Any] = answer.json()
    return found


@pytest.mark.long
def test_a_clean_is_lived_through_and_its_line_laid_beside_the_advised(
    client: TestClient, tmp_path: Path
) -> None:
    before = rows(tmp_path / "data")
    assert client.get("/api/practice/cleans").json() == {"begun": None, "open": False}
    begun = begin(client, 4)
    assert client.get(f"/trial/visits/{begun['visit_id']}").status_code == 200
    room = Room(client, begun)
    seen = room.shoot()
    assert seen["trail"][0]["frame"]["relevant"] > 5
    open_still = client.post(f"/api/practice/cleans/{begun['visit_id']}/debrief")
    assert_problem(open_still, 409, "Close the visit")
    room.step("air", puffs=15, opening="down")
    room.step("wet_swab", against="I wanted to see", swabs=1, drops=2, strokes=2)
    room.close("given_up")
    told = client.post(f"/api/practice/cleans/{begun['visit_id']}/debrief").json()
    assert told == client.post(f"/api/practice/cleans/{begun['visit_id']}/debrief").json()
    yours, advised = told["yours"], told["advised"]
    assert yours["steps"] == ["air", "wet_swab"]
    assert (yours["touches"], yours["pieces"], yours["minutes_open"]) == (1, 1, 6.0)
    assert yours["risks"] == ["I wanted to see"]
    assert told["unsafe"]
    assert not told["right"]
    assert advised["risks"] == []
    assert advised["visible"] < told["begun_with"]
    assert advised["steps"][0] == "air"
    assert yours["visible"] < told["begun_with"]
    tries = client.get("/api/practice/progress/clean").json()["tries"]
    assert [(t["seed"], t["unsafe"]) for t in tries] == [(4, True)]
    assert rows(tmp_path / "data") == before
    now = client.get("/api/practice/cleans").json()
    assert (now["open"], now["begun"]["seed"]) == (False, 4)


@pytest.mark.long
def test_beginning_anew_clears_the_last_one_away(client: TestClient) -> None:
    first = begin(client, 1)
    Room(client, first).shoot()
    second = begin(client, 2)
    assert client.get("/trial/api/frames").json()["total"] == 0
    assert client.get("/trial/api/bodies").json()["total"] == 1
    assert client.get("/api/practice/cleans").json()["begun"]["visit_id"] == second["visit_id"]
    gone = client.post(f"/api/practice/cleans/{first['visit_id'] + 7}/debrief")
    assert_problem(gone, 404, "not kept any more")


def test_the_room_is_the_owners_alone() -> None:
    for role in ("helper", "viewer", "report"):
        for path in ("/trial", "/trial/visits/1", "/trial/api/visits/1", "/trial/api/backup"):
            assert not may(role, "GET", path)
            assert not may(role, "POST", path)
    assert may("owner", "GET", "/trial/visits/1")
    assert may("helper", "POST", "/api/practice/hand")
    assert not may("helper", "POST", "/api/practice/cleans")


def test_the_room_holds_no_room(client: TestClient) -> None:
    begin(client, 3)
    assert client.get("/trial/trial/api/frames").status_code in (200, 404)
    assert "<" in client.get("/trial/trial/api/frames").text
