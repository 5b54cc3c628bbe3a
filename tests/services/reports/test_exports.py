from __future__ import annotations

import csv
import io
import json
from pathlib import Path

import pytest

from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.services.reports.exports import TABLES, Table, everything_json, table_csv
from neatpatch.store import bodies, maps, visits
from neatpatch.store import frames as frame_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from tests.core.made_maps import spot, spot_map


@pytest.fixture
def library(tmp_path: Path) -> Library:
    library = Library(tmp_path / "data")
    with library.database.write() as c:
        body = bodies.add_body(c, Body(name='=Stand, "one"', sensor_mm=(36, 24), works_at=(16,)))
        visit = visits.open_visit(c, body, VisitConditions())
        new = NewFrame(sha256="a" * 64, size=9, name="a.jpg", source="upload")
        frame, _ = frame_rows.add_frame(c, new)
        maps.save_map(c, frame, spot_map(spot("s1", 100, 200), spot("s2", 300, 400)), "1")
        visits.add_frame_entry(c, visit, frame)
        visits.add_step_entry(c, visit, "air", StepUse(puffs=12))
    return library


def rows(library: Library, table: Table) -> list[dict[str, str]]:
    with library.database.read() as c:
        return list(csv.DictReader(io.StringIO(table_csv(c, table))))


def test_every_table_has_a_header_and_its_rows(library: Library) -> None:
    assert {t: len(rows(library, t)) for t in TABLES} == {
        "cameras": 1,
        "visits": 1,
        "steps": 1,
        "frames": 1,
        "spots": 2,
        "kit": 0,
        "stock": 0,
        "jobs": 0,
    }
    [step] = rows(library, "steps")
    assert (step["step"], json.loads(step["used"])["puffs"]) == ("air", 12)
    assert [s["x_px"] for s in rows(library, "spots")] == ["100.0", "300.0"]


def test_a_text_never_becomes_a_formula(library: Library) -> None:
    assert rows(library, "cameras")[0]["name"] == '\'=Stand, "one"'


def test_all_comes_as_json_too(library: Library) -> None:
    with library.database.read() as c:
        found = json.loads(everything_json(c))
    assert found["schema"] == "neatpatch.export/1"
    assert set(found) == {"schema", *TABLES} - {"spots"}
    assert found["cameras"][0]["name"] == '=Stand, "one"'
