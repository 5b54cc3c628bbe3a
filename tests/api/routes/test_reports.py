"""Reports and letterhead through the API."""

from __future__ import annotations

import io
from datetime import date, timedelta

from fastapi.testclient import TestClient
from PIL import Image

from tests.served import assert_problem

BODY = {"name": "Judge", "sensor_mm": [23.5, 15.6], "stabilised": False}


def a_visit(client: TestClient) -> int:
    body = client.post("/api/bodies", json=BODY).json()["id"]
    return int(client.post("/api/visits", json={"body_id": body}).json()["id"])


def test_a_visits_report_comes_as_a_page_and_on_paper(client: TestClient) -> None:
    visit = a_visit(client)
    page = client.get(f"/api/visits/{visit}/report.html")
    assert page.headers["content-type"].startswith("text/html")
    assert "Judge" in page.text
    paper = client.get(f"/api/visits/{visit}/report.pdf")
    assert paper.headers["content-type"] == "application/pdf"
    assert paper.content.startswith(b"%PDF-")
    assert_problem(client.get("/api/visits/999/report.pdf"), 404, "no such visit")
    assert client.get(f"/api/visits/{visit}/report.doc").status_code == 422


def test_a_jobs_report_names_its_cameras(client: TestClient) -> None:
    body = client.post("/api/bodies", json=BODY).json()["id"]
    day = (date.today() + timedelta(days=20)).isoformat()
    job = {"name": "Tides", "starts_on": day, "body_ids": [body]}
    booked = client.post("/api/bookings", json=job).json()["jobs"][0]["job"]["id"]
    page = client.get(f"/api/bookings/{booked}/report.html").text
    assert "Tides" in page
    assert "Judge" in page
    assert client.get(f"/api/bookings/{booked}/report.pdf").content.startswith(b"%PDF-")
    assert_problem(client.get("/api/bookings/999/report.pdf"), 404, "no such job")


def test_the_letterhead_is_kept_and_stands_on_the_reports(client: TestClient) -> None:
    visit = a_visit(client)
    assert client.get("/api/letterhead").json() == {
        "letterhead": {"name": "", "address": "", "paper": "a4"},
        "has_logo": False,
    }
    assert_problem(client.get("/api/letterhead/logo.png"), 404, "No logo")
    head = {"name": "Saltmarsh", "address": "Marsh Lane 3", "paper": "letter"}
    assert client.put("/api/letterhead", json=head).json()["letterhead"] == head
    assert client.put("/api/letterhead", json={**head, "paper": "a5"}).status_code == 422
    drawn = io.BytesIO()
    Image.new("RGB", (30, 10), "navy").save(drawn, "PNG")
    assert client.put("/api/letterhead/logo", content=drawn.getvalue()).json()["has_logo"]
    assert client.get("/api/letterhead/logo.png").content.startswith(b"\x89PNG")
    page = client.get(f"/api/visits/{visit}/report.html").text
    assert "Saltmarsh" in page
    assert "data:image/png;base64," in page
    assert_problem(client.put("/api/letterhead/logo", content=b"no picture"), 422, "logo")
    too_large = client.put("/api/letterhead/logo", content=b"x" * 1_100_000)
    assert_problem(too_large, 413, "more than 1 MB")
    assert client.get("/api/letterhead").json()["has_logo"]
    assert not client.delete("/api/letterhead/logo").json()["has_logo"]
