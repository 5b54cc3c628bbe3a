"""The load bench fills what it says and measures what it says, on a small scale."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from bench import load
from neatpatch.api.app import create_app
from neatpatch.core.common.records import SpotMap
from neatpatch.store.datafolder import Library


@pytest.fixture
def small(monkeypatch: pytest.MonkeyPatch) -> None:
    for name, value in {
        "BODIES": 4,
        "VISITS": 12,
        "FRAMES": 60,
        "SPOTS": 600,
        "_SHAPES": 6,
        "MOVES": 60,
        "JOBS": 3,
        "HEAVY_VISITS": 2,
        "HEAVY_FRAMES": 4,
        "HEAVY_SPOTS": 30,
    }.items():
        monkeypatch.setattr(load, name, value)


@pytest.mark.usefixtures("small")
def test_every_record_is_there_and_can_be_opened(tmp_path: Path) -> None:
    library = Library(tmp_path)
    load.fill(library)
    with library.database.read() as c:
        counted = {
            table: c.execute(f"SELECT count(*) FROM {table}").fetchone()[0]
            for table in ("bodies", "visits", "frames", "maps")
        }
    assert counted == {"bodies": 4, "visits": 12, "frames": 60, "maps": 60}
    client = TestClient(create_app(library), base_url="http://localhost")
    visit = client.get("/api/visits/12").json()
    assert visit["state"] == "open"
    assert len([i for i in visit["trail"] if i["frame"]]) == 5
    assert [i["frame"]["count"] for i in visit["trail"] if i["frame"]] == [30] * 5
    assert visit["trail"][1]["step"]["counts"]["stayed"] == 20
    assert client.get("/api/visits/2").json()["trail"][0]["frame"]["count"] == 10
    assert client.get("/api/frames").json()["total"] == 60
    assert client.get("/api/visits/1").json()["verdict"] == "finished"
    assert {k["left"] for k in client.get("/api/kit").json()} == {57}
    ready = client.get("/api/readiness").json()
    assert [len(j["bodies"]) for j in ready["jobs"]] == [4, 4, 4]
    assert len(client.get("/api/costs?earlier=true").json()["by_year"]) > 10


@pytest.mark.usefixtures("small")
def test_maps_are_maps_and_frames_differ() -> None:
    maps = [SpotMap.model_validate_json(row.text) for row in load.some_maps(6, 10)]
    assert {len(m.spots) for m in maps} == {10}
    assert maps[0].spots[0].x_px != maps[1].spots[0].x_px


def test_waits_are_a_percentile_of_answered_calls() -> None:
    class Fine:
        status_code, text = 200, ""

    class Bad:
        status_code, text = 500, "broken"

    assert load.waits_ms(lambda _i: Fine(), 5) >= 0
    with pytest.raises(AssertionError, match="broken"):
        load.waits_ms(lambda _i: Bad(), 5)
