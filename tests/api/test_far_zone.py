"""The whole application once in another zone, where the local day is not that of Greenwich."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

_SCRIPT = """
import json, sys
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from fastapi.testclient import TestClient
from neatpatch.api.app import create_app
from neatpatch.store.datafolder import Library
from tests.served import options_for

root = Path(sys.argv[1])
(root / "page").mkdir(parents=True)
(root / "page" / "index.html").write_text("page")
library = Library(root / "data")
with TestClient(create_app(library, options_for(root / "page", workers=0)),
                base_url="http://localhost") as client:
    body = client.post("/api/bodies", json={"name": "Judge", "sensor_mm": [23.5, 15.6],
                       "access": "mirrorless", "stabilised": False}).json()["id"]
    kit = client.post("/api/kit", json={"item": {"item": "dry_swab", "width_mm": 16, "quantity": 5},
                                        "pack_size": 10, "pack_price": 20}).json()
    visit = client.post("/api/visits", json={"body_id": body}).json()["id"]
    client.post(f"/api/visits/{visit}/steps", json={"step": "air", "against": "a test"})
    moment = datetime(2026, 3, 4, 19, 30, tzinfo=UTC)
    text = moment.isoformat(timespec="milliseconds")
    client.post(f"/api/visits/{visit}/close", json={"verdict": "finished"})
    with library.database.write() as c:
        c.execute("UPDATE visits SET opened_at = ?, closed_at = ?", (text, text))
        c.execute("UPDATE trail SET at = ?", (text,))
        c.execute("INSERT INTO stock_moves (kit_id, body_id, visit_id, why, change, unit_price, "
                  "thing, at) VALUES (1, 1, 1, 'used', -1, 2, 'swab', "
                  "'2025-12-31T20:00:00.000+00:00')")
    print(json.dumps({
        "report": client.get(f"/api/visits/{visit}/report.html").text,
        "calendar": client.get("/api/calendar", params={"since": "2026-03-01"}).text,
        "history": client.get(f"/api/bodies/{body}/history").status_code,
        "costs": client.get("/api/costs", params={"earlier": True}).json()["by_year"],
        "work": client.get("/api/bodies", params={"only": "work"}).status_code,
    }))
"""


@pytest.mark.long
@pytest.mark.parametrize(
    ("zone", "day", "year"),
    [("Pacific/Auckland", "5 Mar 2026", "2026"), ("UTC", "4 Mar 2026", "2025")],
)
def test_days_are_those_of_the_place(tmp_path: Path, zone: str, day: str, year: str) -> None:
    run = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", _SCRIPT, str(tmp_path)],
        env={**os.environ, "TZ": zone, "PYTHONPATH": str(Path(__file__).parents[2])},
        capture_output=True,
        text=True,
        check=False,
    )
    assert run.returncode == 0, run.stderr[-2000:]
    told = json.loads(run.stdout.splitlines()[-1])
    other = "4 Mar 2026" if day == "5 Mar 2026" else "5 Mar 2026"
    assert day in told["report"]
    assert other not in told["report"]
    assert told["history"] == told["work"] == 200
    assert [row["year"] for row in told["costs"]] == [year]
