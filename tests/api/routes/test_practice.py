"""Practice through the API: judged, kept, repeated, and apart from everything else."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tests.served import assert_problem

APART = ("bodies", "visits", "trail", "kit", "stock_moves", "retests", "exposures", "frames")


def rows(data: Path) -> dict[str, int]:
    with closing(sqlite3.connect(data / "neatpatch.sqlite3")) as c:
        return {t: c.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in APART}


def test_a_move_is_judged_by_the_advice_and_can_be_repeated(
    client: TestClient, tmp_path: Path
) -> None:
    before = rows(tmp_path / "data")
    asked = client.get("/api/practice/moves", params={"seed": 7}).json()
    assert asked == client.get("/api/practice/moves", params={"seed": 7}).json()
    verdicts = []
    for chosen in asked["choices"]:
        answer = client.post(
            "/api/practice/moves", json={"seed": 7, "chosen": chosen, "seconds": 3}
        )
        assert answer.status_code == 200
        told = answer.json()
        assert told["right"] == (told["advice"]["decision"] == chosen)
        verdicts.append(told["right"])
    assert verdicts.count(True) == 1
    progress = client.get("/api/practice/progress/moves").json()
    assert len(progress["tries"]) == 5
    assert progress["tries"][0]["seed"] == 7
    [topic] = [t for t in progress["topics"] if t["tries"]]
    assert topic["topic"] == asked["topic"]
    assert rows(tmp_path / "data") == before


def test_a_fresh_situation_is_of_the_weakest_topic(client: TestClient) -> None:
    first = client.get("/api/practice/progress/moves").json()["topics"][0]["topic"]
    assert client.get("/api/practice/moves").json()["topic"] == first


def test_a_move_that_was_not_offered_is_refused(client: TestClient) -> None:
    choices = client.get("/api/practice/moves", params={"seed": 3}).json()["choices"]
    other = next(d for d in ("teardown", "brush", "retouch") if d not in choices)
    body = {"seed": 3, "chosen": other, "seconds": 1}
    assert_problem(client.post("/api/practice/moves", json=body), 422, "not among those")
    body = {"seed": -1, "chosen": "air", "seconds": 1}
    assert client.post("/api/practice/moves", json=body).status_code == 422


@pytest.mark.long
def test_a_place_is_measured_and_levels_rise_as_it_goes_well(client: TestClient) -> None:
    assert client.get("/api/practice/places").json()["level"] == 1
    for _ in range(6):
        asked = client.get("/api/practice/places").json()
        where = {"seed": asked["seed"], "level": asked["level"], "seconds": 2.0}
        told = client.post("/api/practice/places", json={**where, "x_mm": 0, "y_mm": 0}).json()
        x, y = told["truth"]["x_mm"], told["truth"]["y_mm"]
        met = client.post("/api/practice/places", json={**where, "x_mm": x, "y_mm": y}).json()
        assert met["right"]
        for _ in range(2):
            client.post("/api/practice/places", json={**where, "x_mm": x, "y_mm": y})
    assert client.get("/api/practice/places").json()["level"] > 1
    tries = client.get("/api/practice/progress/places").json()["tries"]
    assert tries[0]["error_mm"] == 0.0
    lit = client.get("/api/practice/places", params={"seed": 5, "level": 4, "loupe": True}).json()
    dark = client.get("/api/practice/places", params={"seed": 5, "level": 4}).json()
    assert len(lit["glints"]) == 5
    assert {**lit, "glints": []} == dark
    assert client.get("/api/practice/places", params={"level": 9}).status_code == 422
