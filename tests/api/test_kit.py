"""Kit, money and readiness through the API; a visit takes from the stock and gives back."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.core.visit.body import VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.demo.compact import COMPACT_PLAN
from neatpatch.demo.intake import take_in_demo_visit
from neatpatch.demo.visits import CALENDAR, DemoStep, DemoVisit
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.store import bodies as body_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store.datafolder import Library
from tests.api.test_visits import a_body, a_visit, drop, visit_of
from tests.served import assert_problem

SWAB = {
    "item": {"item": "wet_swab", "width_mm": 16, "quantity": 2},
    "pack_size": 10,
    "pack_price": 25,
    "source": "shop",
    "lead_days": 5,
}
FLUID = {
    "item": {"item": "fluid", "kind": "mild", "kit_own": True, "quantity": 10},
    "pack_size": 15,
    "pack_price": 30,
}
REASON = {"against": "tried it all the same"}


def empty() -> dict[str, Any]:
    item: dict[str, Any] = {"item": "wet_swab", "width_mm": 16, "quantity": 0}
    return {**SWAB, "item": item}


def day(offset: int) -> str:
    return (date.today() + timedelta(days=offset)).isoformat()


def add(client: TestClient, thing: dict[str, Any]) -> int:
    answer = client.post("/api/kit", json=thing)
    assert answer.status_code == 201, answer.text
    return int(answer.json()[-1]["id"])


def left(client: TestClient) -> list[float | None]:
    return [k["left"] for k in client.get("/api/kit").json()]


def log(client: TestClient, visit_id: int, step: str, **more: Any) -> Any:
    return client.post(f"/api/visits/{visit_id}/steps", json={"step": step, **REASON, **more})


def test_a_step_takes_its_things_and_undo_gives_them_back(client: TestClient) -> None:
    swab, fluid = add(client, SWAB), add(client, FLUID)
    visit = a_visit(client, a_body(client))
    logged = log(client, visit["id"], "wet_swab", use={"swabs": 1, "drops": 2}).json()
    assert left(client) == [1, 9.9]
    (entry,) = logged["trail"]
    assert entry["step"]["took"] == [
        {"kit_id": swab, "thing": "wet swab, 16 mm", "amount": 1, "unit": "piece"},
        {"kit_id": fluid, "thing": "mild fluid", "amount": 0.1, "unit": "ml"},
    ]
    assert (logged["cost"], logged["unpriced"]) == (2.7, 0)
    url = f"/api/visits/{visit['id']}/trail/{entry['id']}"
    right = {"use": {"swabs": 2, "drops": 3}, "taken": [{"kit_id": swab, "amount": 2}]}
    corrected = client.put(f"{url}/use", json=right).json()
    assert left(client) == [0, 10]
    assert corrected["trail"][0]["step"]["use"]["swabs"] == 2
    assert corrected["cost"] == 5
    assert client.delete(url).json()["trail"] == []
    assert left(client) == [2, 10]
    assert_problem(client.put(f"{url}/use", json=right), 404, "no such step")


def test_never_below_zero_without_a_question(client: TestClient) -> None:
    swab = add(client, empty())
    visit = a_visit(client, a_body(client))
    asked = log(client, visit["id"], "wet_swab")
    assert_problem(asked, 409, "wet swab, 16 mm: 0 counted, 1 used")
    assert asked.json()["type"] == "neatpatch:short-stock"
    assert visit_of(client, visit["id"])["trail"] == []
    assert log(client, visit["id"], "wet_swab", recount=True).status_code == 201
    assert left(client) == [0]
    moves = client.get(f"/api/kit/{swab}/moves").json()
    assert [(m["why"], m["change"]) for m in moves] == [
        ("used", -1),
        ("counted", 1),
        ("entered", 0),
    ]
    entry = visit_of(client, visit["id"])["trail"][0]
    many = {"use": {}, "taken": [{"kit_id": swab, "amount": 3}]}
    url = f"/api/visits/{visit['id']}/trail/{entry['id']}/use"
    assert_problem(client.put(url, json=many), 409, "1 counted, 3 used")
    assert left(client) == [0]


def test_bad_entries_get_one_sentence(client: TestClient) -> None:
    late = client.post("/api/kit", json={**SWAB, "lead_days": -2})
    assert_problem(late, 422, "lead_days: a lead time cannot lie in the past")
    assert_problem(client.post("/api/kit", json={**SWAB, "pack_price": -2}), 422, "below zero")
    assert_problem(client.put("/api/kit/99", json=SWAB), 404, "no such thing")
    assert_problem(client.post("/api/kit/99/packs"), 404, "no such thing")
    assert_problem(client.get("/api/plans/drying?temperature=20&humidity=130"), 422, "130 %")
    thick = client.get("/api/plans/drying?temperature=20&humidity=40&thin_um=9&thick_um=3")
    assert_problem(thick, 422, "A film of 9 to 3 µm is no range. Give two growing thicknesses")
    assert "--" not in thick.json()["detail"]
    past = client.post("/api/bookings", json={"name": "x", "starts_on": day(-1)})
    assert_problem(past, 422, "has passed")
    narrow = client.post("/api/bodies", json={"name": "n", "sensor_mm": [36, 24], "chamber_mm": 20})
    assert_problem(narrow, 422, "chamber cannot be narrower")


def test_packs_moves_and_expiry(client: TestClient) -> None:
    item = add(client, {**SWAB, "best_before": day(-1)})
    (entry,) = client.post(f"/api/kit/{item}/packs", params={"count": 2}).json()
    assert (entry["left"], entry["unit"], entry["unit_price"]) == (22, "piece", 2.5)
    assert entry["expired"] is True
    assert [m["why"] for m in client.get(f"/api/kit/{item}/moves").json()] == ["bought", "entered"]
    assert client.delete(f"/api/kit/{item}").json() == []


def test_readiness_of_a_booked_job(client: TestClient, small_jpeg: Path) -> None:
    body_id = a_body(client)
    add(client, empty())
    booking = {"name": "Plates", "starts_on": day(12), "body_ids": [body_id]}
    found = client.post("/api/bookings", json=booking).json()
    (one,) = found["jobs"]
    assert (one["state"], one["days"]) == ("act", 12)
    assert "Never looked at" in one["bodies"][0]["words"]
    wet = next(b for b in found["to_buy"] if b["thing"] == "wet swab, 16 mm")
    assert (wet["order_by"], wet["packs"], wet["cost"]) == (day(6), 1, 25)
    visit = a_visit(client, body_id)
    assert visit["conditions"]["job_on"] == day(12)
    assert client.get(f"/api/bodies/{body_id}").json()["next_job_on"] == day(12)
    drop(client, visit["id"], small_jpeg)
    (busy,) = client.get("/api/readiness").json()["jobs"]
    assert busy["bodies"][0]["state"] == "busy"
    client.post(f"/api/visits/{visit['id']}/close", json={"verdict": "given_up"})
    (looked,) = client.get("/api/readiness").json()["jobs"]
    assert looked["bodies"][0]["state"] == "clean"
    url = f"/api/bookings/{one['job']['id']}"
    moved = client.put(url, json={**booking, "starts_on": day(80)}).json()
    assert moved["jobs"][0]["state"] in ("later", "act")
    assert client.delete(url).json() == {"jobs": [], "to_buy": []}
    assert_problem(client.put("/api/bookings/77", json=booking), 404, "no such job")


def test_costs_by_body_year_and_school(client: TestClient) -> None:
    body_id = a_body(client)
    add(client, SWAB)
    add(client, FLUID)
    visit = a_visit(client, body_id)
    log(client, visit["id"], "wet_swab", use={"swabs": 1, "drops": 2})
    prices = {"currency": "kr", "service_fee": 60, "postage": 10}
    assert client.put("/api/prices", json=prices).json()["currency"] == "kr"
    assert_problem(client.put("/api/prices", json={"service_fee": -1}), 422, "service_fee")
    found = client.get("/api/costs", params={"body_id": body_id, "school": "wet_swab"}).json()
    (row,) = found["by_year"]
    assert (row["body"], row["year"], row["cleans"], row["cost"]) == (
        "Study",
        str(date.today().year),
        1,
        2.7,
    )
    wet = next(s for s in found["schools"] if s["school"] == "wet_swab")
    assert wet["cost"] == 2.7
    assert found["against"]["a_clean"] == 2.7
    assert found["against"]["beats_service_from"] == 1
    assert client.get("/api/costs").json()["schools"] == []
    assert_problem(client.get("/api/costs?body_id=99"), 404, "no such body")


def test_settings_change_one_at_a_time(client: TestClient) -> None:
    assert client.get("/api/settings").json() == {
        "works_at": 16,
        "units": "metric",
        "hand": "right",
        "spot_limit": 5,
    }
    client.put("/api/settings", json={"units": "inch"})
    client.put("/api/settings", json={"works_at": 8})
    assert client.put("/api/settings", json={"hand": "left"}).json() == {
        "works_at": 8,
        "units": "inch",
        "hand": "left",
        "spot_limit": 5,
    }
    assert_problem(client.put("/api/settings", json={"units": "cubit"}), 422, "units")


def test_guidance_knows_battery_loupe_and_hand(client: TestClient, small_jpeg: Path) -> None:
    body_id = a_body(client, access="mirror", lockup_minutes=20, flange_mm=45)
    add(client, SWAB)
    add(client, {"item": {"item": "loupe", "focus_mm": [38, 46]}})
    visit = a_visit(client, body_id)
    drop(client, visit["id"], small_jpeg)
    url = f"/api/visits/{visit['id']}/guidance"
    right = client.get(url, params={"step": "wet_swab", "length": "full"}).json()
    assert (right["power"]["lasts_s"], right["power"]["warn_s"]) == (1200, 600)
    assert any("focuses on this sensor" in i["heed"] for i in right["instructions"])
    assert right["plan"]["swabs"] == 1
    assert all(s["passes"] for s in right["plan"]["strokes"])
    client.put("/api/settings", json={"hand": "left"})
    left_hand = client.get(url, params={"step": "wet_swab"}).json()
    assert left_hand["plan"]["strokes"][0]["x1_mm"] == -right["plan"]["strokes"][0]["x1_mm"]
    assert client.get(url, params={"step": "auto_clean"}).json()["power"] is None


def test_the_recipe_from_a_trial_frame(client: TestClient, small_jpeg: Path) -> None:
    visit = a_visit(client, a_body(client))
    frame_id = drop(client, visit["id"], small_jpeg)
    plan = client.get("/api/plans/shoot", params={"trial_frame_id": frame_id, "focal_mm": 100})
    assert plan.status_code == 200, plan.text
    assert plan.json()["exposure_s"] > 0
    assert_problem(client.get("/api/plans/shoot?trial_frame_id=999"), 404, "no such frame")
    power = client.get("/api/plans/power?lockup_minutes=10&battery_percent=50").json()
    assert power["lasts_s"] == 300
    cold = client.get("/api/plans/drying?temperature=20&humidity=45&camera_c=1").json()
    assert cold["camera"]["dew"] is True


def test_the_demo_fills_its_drawer_once_and_its_steps_take_from_it(tmp_path: Path) -> None:
    library = Library(tmp_path)
    demo_body, _ = CALENDAR[0]
    steps = (DemoStep("wet_swab", StepUse(swabs=1, drops=2), day(-30) + "T09:10:00"),)
    for number in range(2):
        message = DemoVisit(
            demo_body,
            f"{day(-30 - number)}T09:05:00",
            f"{day(-30)}T10:00:00",
            VisitConditions(),
            steps,
            "finished",
            "",
            (),
        )
        for _ in range(2):
            take_in_demo_visit(library, message, date.today())
    with library.database.read() as c:
        kit = kit_rows.all_items(c)
        ids = {b.body.name: b.id for b in body_rows.all_bodies(c)}
        spent = kit_rows.spending(c)
    assert sorted(ids) == sorted([*(d.body.name for d, _ in CALENDAR), COMPACT_PLAN.model])
    swab = next(k for k in kit if k.owned.item.item == "wet_swab" and k.owned.item.width_mm == 24)
    assert swab.owned.item.quantity == 1
    stick = next(k for k in kit if k.owned.item.item == "gel_stick")
    assert ids["Halden Plate 44"] not in (stick.owned.suits or ())
    assert spent[0].body_id == ids["Tarn Meridian S"]


@pytest.mark.long
def test_what_was_not_counted_is_taken_as_planned(client: TestClient, small_jpeg: Path) -> None:
    stick = {
        "item": {
            "item": "gel_stick",
            "fresh_patches": 50,
            "tip_mm": [5, 4],
            "matched_coating": True,
        },
    }
    add(client, stick)
    narrow = {"item": {"item": "dry_swab", "width_mm": 9, "quantity": 9}}
    add(client, narrow)
    visit = a_visit(client, a_body(client))
    told = {"schools": {"swab_width": "narrower_ok"}}
    client.put(f"/api/visits/{visit['id']}/conditions", json=told)
    drop(client, visit["id"], small_jpeg)
    planned = client.get(f"/api/visits/{visit['id']}/guidance", params={"step": "lift"}).json()[
        "plan"
    ]["patches"]
    logged = log(client, visit["id"], "lift").json()
    assert planned > 1
    assert logged["trail"][-1]["step"]["use"]["dabs"] == planned
    assert left(client) == [50 - planned, 9]
    log(client, visit["id"], "dry_swab")
    assert left(client) == [50 - planned, 7]


@pytest.mark.long
def test_a_frame_that_is_not_fit_is_no_look(client: TestClient, tmp_path: Path) -> None:
    body_id = a_body(client)
    client.post("/api/bookings", json={"name": "P", "starts_on": day(3), "body_ids": [body_id]})
    recipe = Recipe(seed=5, width_px=1500, f_number=4.0, counts={"speck": 4})
    wide = write_simulated(recipe, tmp_path)[0]
    visit = a_visit(client, body_id)
    drop(client, visit["id"], wide)
    client.post(f"/api/visits/{visit['id']}/close", json={"verdict": "given_up"})
    (one,) = client.get("/api/readiness").json()["jobs"]
    assert one["bodies"][0]["words"].startswith("Never looked at")


def test_costs_of_earlier_years_are_told_when_asked(client: TestClient) -> None:
    item = add(client, SWAB)
    visit = a_visit(client, a_body(client))
    log(client, visit["id"], "wet_swab")
    library: Library = client.app.state.data  # type: ignore[attr-defined]
    with library.database.write() as c:
        c.execute(
            "INSERT INTO stock_moves (kit_id, why, change, unit_price, thing, at) "
            "VALUES (?, 'used', -1, 2.5, 'swab', '2001-01-01')",
            (item,),
        )
    assert len(client.get("/api/costs").json()["by_year"]) == 1
    years = [r["year"] for r in client.get("/api/costs?earlier=true").json()["by_year"]]
    assert years == [str(date.today().year), "2001"]
