"""Odds, history, outlook and calendar through the API."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
import vobject
from fastapi.testclient import TestClient

from tests.served import assert_problem

BODY = {"name": "Judge", "sensor_mm": [23.5, 15.6], "stabilised": False}


def a_body(client: TestClient) -> int:
    return int(client.post("/api/bodies", json=BODY).json()["id"])


def test_an_empty_logbook_says_so(client: TestClient) -> None:
    body = a_body(client)
    for query in ({}, {"body_id": body}, {"body_id": body, "step": "air"}):
        found = client.get("/api/odds", params=query).json()
        assert (found["own"], found["rungs"], found["lines"]) == (False, [], [])
    assert_problem(client.get("/api/odds", params={"body_id": 999}), 404, "no such")
    assert client.get(f"/api/bodies/{body}/history").json()["points"] == []
    assert client.get(f"/api/bodies/{body}/outlook").json()["forecast"] is None
    assert client.get(f"/api/bodies/{body}/lives").json() == []
    assert_problem(client.get("/api/bodies/999/lives"), 404, "no such")
    assert_problem(client.get("/api/bodies/999/history"), 404, "no such")
    assert_problem(client.get("/api/bodies/999/outlook"), 404, "no such")


def test_a_lens_change_is_logged_by_one_call_and_taken_back(client: TestClient) -> None:
    body = a_body(client)
    path = f"/api/bodies/{body}/exposures"
    key = {"Idempotency-Key": "a-lens-change-once"}
    for _ in range(2):
        answer = client.post(path, json={"kind": "lens_change"}, headers=key)
        assert answer.status_code == 201
    [logged] = answer.json()["exposures"]
    assert logged["on_day"] == date.today().isoformat()
    dusty = {"kind": "dusty_day", "place": "Beach", "on_day": "2026-05-04"}
    assert len(client.post(path, json=dusty).json()["exposures"]) == 2
    ahead = {"kind": "dusty_day", "on_day": (date.today() + timedelta(days=2)).isoformat()}
    assert_problem(client.post(path, json=ahead), 422, "still to come")
    assert client.post(path, json={"kind": "rain"}).status_code == 422
    assert client.post("/api/bodies/999/exposures", json=dusty).status_code == 404
    left = client.delete(f"{path}/{logged['id']}").json()["exposures"]
    assert [e["place"] for e in left] == ["Beach"]


@pytest.mark.long
def test_the_calendar_is_read_as_days_and_by_other_calendars(client: TestClient) -> None:
    day = date.today() + timedelta(days=20)
    job = {"name": "Tides", "starts_on": day.isoformat(), "body_ids": [a_body(client)]}
    client.post("/api/bookings", json=job)
    [entry] = client.get("/api/calendar").json()
    assert (entry["title"], entry["on"], entry["kind"]) == ("Tides", day.isoformat(), "job")
    days = {"since": "2020-01-01", "until": "2020-02-01"}
    assert client.get("/api/calendar", params=days).json() == []
    turned = {"since": "2020-02-01", "until": "2020-01-01"}
    assert_problem(client.get("/api/calendar", params=turned), 422, "other way round")
    file = client.get("/api/calendar.ics")
    assert file.headers["content-type"].startswith("text/calendar")
    assert vobject.readOne(file.text).vevent.summary.value == "Tides"


def test_everything_is_saved_as_tables_and_as_json(client: TestClient) -> None:
    a_body(client)
    table = client.get("/api/export/cameras.csv")
    assert table.headers["content-type"].startswith("text/csv")
    assert "Judge" in table.text
    assert client.get("/api/export/secrets.csv").status_code == 422
    assert client.get("/api/export.json").json()["cameras"][0]["name"] == "Judge"


def test_the_owners_limit_is_kept(client: TestClient) -> None:
    assert client.get("/api/settings").json()["spot_limit"] == 5
    assert client.put("/api/settings", json={"spot_limit": 12}).json()["spot_limit"] == 12
    assert client.put("/api/settings", json={"spot_limit": -1}).status_code == 422
