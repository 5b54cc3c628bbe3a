"""The guide of a visit: its length by experience, and what this visit did already."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.store.datafolder import Library
from tests.api.test_visits import a_body, a_visit, drop
from tests.conditions import QUIET_ROOM


def guide(client: TestClient, visit_id: int, **asked: str) -> Any:
    params = {"step": "air", **asked}
    return client.get(f"/api/visits/{visit_id}/guidance", params=params).json()


def texts(found: Any) -> str:
    return " ".join(i["text"] for i in found["instructions"])


def blow(client: TestClient, visit_id: int) -> int:
    answer = client.post(
        f"/api/visits/{visit_id}/steps", json={"step": "air", "against": "to see the guide"}
    )
    return int(answer.json()["trail"][-1]["id"])


@pytest.mark.parametrize(
    ("experience", "length"),
    [("novice", "full"), ("practised", "short"), ("expert", "short"), (None, "full")],
)
def test_the_practised_are_offered_the_short_guide(
    client: TestClient, experience: str | None, length: str
) -> None:
    visit = a_visit(client, a_body(client))["id"]
    told = QUIET_ROOM.model_copy(update={"experience": experience}).model_dump(mode="json")
    client.put(f"/api/visits/{visit}/conditions", json=told).raise_for_status()
    offered = guide(client, visit)
    assert offered["length"] == length
    full, short = guide(client, visit, length="full"), guide(client, visit, length="short")
    assert offered["instructions"] == {"full": full, "short": short}[length]["instructions"]
    assert len(short["instructions"]) < len(full["instructions"])
    answer = client.get(
        f"/api/visits/{visit}/guidance", params={"step": "air", "length": "shortest"}
    )
    assert answer.status_code == 422


@pytest.mark.parametrize("offset", [False, True])
def test_hands_are_washed_once_an_hour(client: TestClient, tmp_path: Path, offset: bool) -> None:
    visit = a_visit(client, a_body(client))["id"]
    assert "Wash" in texts(guide(client, visit, length="full"))
    entry = blow(client, visit)
    assert "Wash" not in texts(guide(client, visit, length="full"))
    past = datetime.now().astimezone() - timedelta(minutes=61)
    at = (past if offset else past.replace(tzinfo=None)).isoformat()
    with Library(tmp_path / "data").database.write() as connection:
        connection.execute("UPDATE trail SET at = ? WHERE id = ?", (at, entry))
        connection.execute("UPDATE visits SET version = version + 1 WHERE id = ?", (visit,))
    assert "Wash" in texts(guide(client, visit, length="full"))


def test_the_short_guide_repeats_the_recipe_only_when_it_changed(
    client: TestClient, small_jpeg: Path
) -> None:
    visit = a_visit(client, a_body(client))["id"]
    drop(client, visit, small_jpeg)
    assert "as before" not in texts(guide(client, visit, length="short"))
    assert "f/22" in texts(guide(client, visit, length="short"))


def test_the_place_of_the_hands_keeps_which_guide_it_counts_in(client: TestClient) -> None:
    visit = a_visit(client, a_body(client))["id"]
    place = {"at": 1, "short": True, "log_key": "a-key-of-eight"}
    client.put(f"/api/visits/{visit}/hands/air", json=place).raise_for_status()
    kept = client.get(f"/api/visits/{visit}/hands").json()["place"]["position"]
    assert (kept["at"], kept["short"]) == (1, True)
