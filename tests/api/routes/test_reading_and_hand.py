"""Frames read and a hand led, through the API: judged by the hidden truth, kept, repeatable."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.services.practice.hand import HAND_TOPICS
from neatpatch.services.practice.reading import NEAR_PX
from neatpatch.simulation.lesson import flawed_shot, lesson_marks
from tests.api.routes.test_practice import rows
from tests.served import assert_problem

MARKS = {"seed": 4, "topic": "tell the marks"}
FIT = {"topic": "fit or not"}
EDGE_TO_EDGE = [-11.7 + 23.4 * i / 30 for i in range(31)]


def read(client: TestClient, told: list[dict[str, Any]]) -> dict[str, Any]:
    body = {**MARKS, "reading": {"marks": told}, "seconds": 20}
    answer = client.post("/api/practice/frames", json=body)
    assert answer.status_code == 200
    found: dict[str, Any] = answer.json()
    return found


def all_told() -> list[dict[str, Any]]:
    return [{"x_px": m.x_px + 8, "y_px": m.y_px, "kind": m.kind} for m in lesson_marks(4)]


def test_marks_told_rightly_are_right_and_a_mistake_is_explained(
    client: TestClient, tmp_path: Path
) -> None:
    before = rows(tmp_path / "data")
    told = all_told()
    whole = read(client, told)
    assert whole["right"]
    assert whole["lines"] == [f"{len(told)} of {len(told)} marks found."]
    wrong = [{**t, "kind": "hot"} if t["kind"] == "fibre" else t for t in told]
    answer = read(client, wrong)
    assert (answer["right"], answer["unsafe"]) == (False, True)
    assert "took for a hot pixel is a fibre" in answer["lines"][1]
    [fibre] = [m for m in answer["marks"] if m["kind"] == "fibre"]
    assert fibre["told"] == "hot"
    assert rows(tmp_path / "data") == before
    progress = client.get("/api/practice/progress/frames").json()
    assert [t["right"] for t in progress["tries"]] == [False, True]


def test_what_was_missed_and_what_is_nothing_is_counted(client: TestClient) -> None:
    told = all_told()
    first = lesson_marks(4)[0]
    off = {"x_px": first.x_px + NEAR_PX + 1, "y_px": first.y_px, "kind": first.kind}
    answer = read(client, [off, *told[1:]])
    assert not answer["right"]
    assert f"{len(told) - 1} of {len(told)} marks found." in answer["lines"]
    assert "1 touch was on nothing at all." in answer["lines"]
    assert read(client, [])["lines"][0] == f"0 of {len(told)} marks found."


@pytest.mark.long
def test_a_frames_pictures_are_served_and_are_two(client: TestClient) -> None:
    asked = client.get("/api/practice/frames", params=MARKS).json()
    assert (asked["width_px"], asked["choices"]) == (1200, [])
    pictures = []
    for second in (False, True):
        answer = client.get("/api/practice/frames/picture", params={**MARKS, "second": second})
        assert answer.headers["content-type"] == "image/jpeg"
        pictures.append(answer.content)
    assert pictures[0][:2] == b"\xff\xd8"
    assert pictures[0] != pictures[1]


def test_a_frame_that_is_not_fit_has_one_remedy(client: TestClient) -> None:
    seed = next(s for s in range(99) if flawed_shot(s).flaw == "window")
    asked = client.get("/api/practice/frames", params={**FIT, "seed": seed}).json()
    codes = [c["code"] for c in asked["choices"]]
    verdicts = {}
    for code in codes:
        body = {**FIT, "seed": seed, "reading": {"remedy": code}, "seconds": 3}
        answer = client.post("/api/practice/frames", json=body).json()
        verdicts[code] = answer["right"], answer["unsafe"]
        assert answer["remedy"] == "even_target"
    assert [c for c, (right, _) in verdicts.items() if right] == ["even_target"]
    assert [c for c, (_, unsafe) in verdicts.items() if unsafe] == ["read_it"]
    body = {**FIT, "seed": seed, "reading": {}, "seconds": 3}
    assert_problem(client.post("/api/practice/frames", json=body), 422, "say what is to be done")


def lead(client: TestClient, topic: str, work: dict[str, Any], seed: int = 3) -> dict[str, Any]:
    body = {"seed": seed, "topic": topic, "work": work, "seconds": 9}
    answer = client.post("/api/practice/hand", json=body)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def stroke(y: float = 0.0, face: int = 0, force: float = 0.6) -> dict[str, Any]:
    samples = [
        {"t_s": i / 20, "x_mm": x, "y_mm": y, "force_n": force} for i, x in enumerate(EDGE_TO_EDGE)
    ]
    return {"face": face, "samples": samples}


def test_a_clean_hand_is_right_and_a_bent_tip_is_unsafe(client: TestClient, tmp_path: Path) -> None:
    before = rows(tmp_path / "data")
    good = lead(client, "one stroke", {"drops": 2, "wait_s": 3, "strokes": [stroke()]})
    assert good["right"], good
    assert (good["covered"], good["brought"], good["strips"]) == (1.0, [], [])
    bent = lead(client, "one stroke", {"drops": 2, "wait_s": 3, "strokes": [stroke(force=2.0)]})
    assert (bent["right"], bent["unsafe"]) == (False, True)
    assert bent["brought"][0]["what"] == "streak"
    assert "until the tip bent" in bent["mistakes"][0]
    assert rows(tmp_path / "data") == before
    assert len(client.get("/api/practice/progress/hand").json()["tries"]) == 2


def test_a_strip_left_out_is_not_right(client: TestClient) -> None:
    left = lead(client, "dry swab", {"strokes": [stroke(y=3.0)]})
    assert not left["right"]
    assert left["strips"]
    assert any("left out" in line for line in left["lines"])


def test_a_gel_stick_that_met_every_spot_is_right(client: TestClient) -> None:
    asked = client.get("/api/practice/hand", params={"seed": 3, "topic": "gel stick"}).json()
    presses = [
        {
            "face": n,
            "samples": [{"t_s": n, "x_mm": m["x_mm"], "y_mm": m["y_mm"], "force_n": 0.6}],
        }
        for n, m in enumerate(asked["marks"])
    ]
    answer = lead(client, "gel stick", {"strokes": presses})
    assert answer["right"], answer
    assert answer["covered"] is None
    missed = lead(client, "gel stick", {"strokes": presses[:1]})
    assert not missed["right"]
    assert any(f["fate"] == "missed" for f in missed["fates"])


@pytest.mark.parametrize("topic", HAND_TOPICS)
def test_every_task_is_the_same_by_its_seed(client: TestClient, topic: str) -> None:
    asked = client.get("/api/practice/hand", params={"seed": 8, "topic": topic}).json()
    assert asked == client.get("/api/practice/hand", params={"seed": 8, "topic": topic}).json()
    assert asked["marks"]


def test_what_is_no_hand_is_refused(client: TestClient) -> None:
    body = {"seed": 3, "topic": "lanes", "work": {"strokes": []}, "seconds": 1}
    assert_problem(client.post("/api/practice/hand", json=body), 422, "nothing was done yet")
    body["work"] = {"strokes": [stroke()] * 81}
    assert client.post("/api/practice/hand", json=body).status_code == 422
    assert client.get("/api/practice/hand", params={"topic": "juggling"}).status_code == 422
