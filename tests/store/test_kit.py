"""The kit's books: every move is kept, nothing is lost or made, nothing falls below zero."""

from __future__ import annotations

import sqlite3
from datetime import date
from importlib import resources
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from neatpatch.core.common.facts import KitItem
from neatpatch.core.kit.readiness import BookedJob
from neatpatch.core.kit.stock import Take, left
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.store import bodies, bookings, kit, visits
from neatpatch.store.database import Database, migration_names, split_statements
from tests.core.kit.test_stock import own

BODY = Body(name="Study", sensor_mm=(36, 24))
SWABS = own("dry_swab", width_mm=24, quantity=6, pack_size=10, pack_price=20)


@pytest.fixture
def database(tmp_path: Path) -> Database:
    found = Database(tmp_path / "n.sqlite3")
    found.migrate()
    return found


def a_step(c: sqlite3.Connection, visit_id: int) -> int:
    return visits.add_step_entry(c, visit_id, "dry_swab", StepUse(swabs=1))


def a_visit(c: sqlite3.Connection, name: str = "Study") -> tuple[int, int]:
    body_id = bodies.add_body(c, BODY.model_copy(update={"name": name}))
    return body_id, visits.open_visit(c, body_id, VisitConditions())


def count_of(c: sqlite3.Connection, item_id: int) -> float | None:
    found = kit.item_by_id(c, item_id)
    assert found is not None
    return left(found.owned.item)


def test_a_thing_comes_back_as_it_was_entered(database: Database) -> None:
    with database.write() as c:
        body_id = bodies.add_body(c, BODY)
        full = own(
            "fluid",
            kind="mild",
            kit_own=True,
            quantity=12.5,
            note="door",
            source="shop",
            pack_size=15,
            pack_price=19.5,
            opened_on="2026-10-01",
            best_before="2027-10-01",
            lead_days=4,
            suits=(body_id,),
        )
        item_id = kit.add_item(c, full)
        blower = kit.add_item(c, own("bulb_blower", pack_price=14))
        assert [(k.id, k.owned) for k in kit.all_items(c)] == [
            (item_id, full),
            (blower, own("bulb_blower", pack_price=14)),
        ]
        assert not kit.change_item(c, 999, full)
        kit.remove_item(c, item_id)
        assert kit.item_by_id(c, item_id) is None


def test_what_was_used_stays_in_the_books_when_things_and_bodies_go(database: Database) -> None:
    with database.write() as c:
        item_id = kit.add_item(c, SWABS)
        body_id, visit_id = a_visit(c)
        entry = a_step(c, visit_id)
        kit.take(
            c, [Take(item_id, 2)], kit.User(trail_id=entry, visit_id=visit_id, body_id=body_id)
        )
        assert count_of(c, item_id) == 4
        (move,) = kit.moves_of(c, visit_id=visit_id)
        assert (move.change, move.unit_price, move.thing) == (-2, 2, "dry swab, 24 mm")
        bodies.remove_body(c, body_id)
        assert count_of(c, item_id) == 4
        kit.remove_item(c, item_id)
        (row,) = kit.spending(c)
        assert (row.body_id, row.cost, row.unpriced) == (None, 4, 0)


def test_packs_arrive_and_counts_are_put_right(database: Database) -> None:
    with database.write() as c:
        item_id = kit.add_item(c, SWABS)
        assert kit.buy(c, item_id, 2)
        assert count_of(c, item_id) == 26
        assert kit.change_item(c, item_id, own("dry_swab", width_mm=24, quantity=25))
        assert not kit.buy(c, item_id, 1)
        assert not kit.buy(c, 999, 1)
        assert [(m.why, m.change) for m in kit.moves_of(c, kit_id=item_id)] == [
            ("counted", -1),
            ("bought", 20),
            ("entered", 6),
        ]


def test_a_count_that_does_not_reach_is_counted_up_first(database: Database) -> None:
    with database.write() as c:
        item_id = kit.add_item(c, SWABS)
        body_id, visit_id = a_visit(c)
        entry = a_step(c, visit_id)
        takes = [Take(item_id, 8), Take(999, 1)]
        kit.take(c, takes, kit.User(trail_id=entry, visit_id=visit_id, body_id=body_id))
        assert count_of(c, item_id) == 0
        kit.give_back(c, entry)
        assert count_of(c, item_id) == 8


OPS = st.lists(
    st.tuples(st.sampled_from(["use", "undo", "buy", "count"]), st.integers(0, 9)), max_size=25
)


@pytest.mark.long
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(OPS)
def test_stock_is_conserved(tmp_path_factory: pytest.TempPathFactory, ops: Any) -> None:
    database = Database(tmp_path_factory.mktemp("books") / "n.sqlite3")
    database.migrate()
    with database.write() as c:
        item_id = kit.add_item(c, SWABS)
        body_id, visit_id = a_visit(c)
        open_uses: dict[int, float] = {}
        bought = counted = 0.0
        for op, n in ops:
            there = count_of(c, item_id) or 0.0
            if op == "use" and n:
                entry = a_step(c, visit_id)
                kit.take(
                    c,
                    [Take(item_id, n)],
                    kit.User(trail_id=entry, visit_id=visit_id, body_id=body_id),
                )
                open_uses[entry] = n
                counted += max(0.0, n - there)
            elif op == "undo" and open_uses:
                entry = sorted(open_uses)[n % len(open_uses)]
                kit.give_back(c, entry)
                del open_uses[entry]
            elif op == "buy":
                kit.buy(c, item_id, 1)
                bought += 10
            elif op == "count":
                kit.change_item(
                    c,
                    item_id,
                    SWABS.model_copy(
                        update={"item": SWABS.item.model_copy(update={"quantity": n})}
                    ),
                )
                counted += n - there
            now_there = count_of(c, item_id)
            assert now_there == 6 + bought + counted - sum(open_uses.values())
            assert now_there is not None
            assert now_there >= 0


def test_an_older_kit_is_carried_over_with_its_counts(tmp_path: Path) -> None:
    path = tmp_path / "n.sqlite3"
    folder = resources.files("neatpatch.store.migrations")
    with sqlite3.connect(path) as old:
        old.execute(
            "CREATE TABLE migrations (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT"
        )
        for name in migration_names()[:2]:
            for statement in split_statements(folder.joinpath(f"{name}.sql").read_text("utf-8")):
                old.execute(statement)
            old.execute("INSERT INTO migrations VALUES (?, 'then')", (name,))
        for item in (
            KitItem(item="dry_swab", width_mm=24, quantity=3),
            KitItem(item="gel_stick", fresh_patches=7),
            KitItem(item="wet_swab", width_mm=24),
            KitItem(item="bulb_blower", quantity=1),
        ):
            old.execute(
                "INSERT INTO kit (item_json, note) VALUES (?, 'box')",
                (item.model_dump_json(exclude_none=True),),
            )
    old.close()
    database = Database(path)
    assert database.migrate() == migration_names()[2:]
    assert (tmp_path / "n-before-0003.sqlite3").exists()
    with database.read() as c:
        found = kit.all_items(c)
    assert [left(k.owned.item) for k in found] == [3, 7, None, None]
    assert {k.owned.note for k in found} == {"box"}
    assert all(k.owned.suits is None for k in found)


def test_jobs_are_kept_with_their_bodies(database: Database) -> None:
    with database.write() as c:
        first, visit_id = a_visit(c, "First")
        second, _ = a_visit(c, "Second")
        job = BookedJob(
            name="Plates", starts_on=date(2026, 12, 3), note="two", body_ids=(second, first)
        )
        job_id = bookings.add_booking(c, job)
        later = bookings.add_booking(c, BookedJob(name="More", starts_on=date(2026, 12, 9)))
        listed = bookings.list_bookings(c, "2026-12-01")
        assert [(j.id, j.body_ids) for j in listed] == [(job_id, (first, second)), (later, ())]
        assert bookings.list_bookings(c, "2026-12-04")[0].id == later
        assert bookings.next_job_of(c, first, "2026-12-01") == date(2026, 12, 3)
        assert bookings.next_job_of(c, first, "2026-12-04") is None
        moved = job.model_copy(update={"starts_on": date(2026, 12, 20), "body_ids": (first, 999)})
        assert bookings.change_booking(c, job_id, moved)
        assert not bookings.change_booking(c, 999, moved)
        bodies.remove_body(c, second)
        (now_first,) = bookings.bodies_now(c, [first, second])
        assert (now_first.open_visit_id, now_first.last_look_on) == (visit_id, None)
        bookings.remove_booking(c, job_id)
        assert [j.id for j in bookings.list_bookings(c, "2026-12-01")] == [later]


def test_a_body_keeps_lens_chamber_and_lockup(database: Database) -> None:
    body = BODY.model_copy(
        update={
            "lockup_minutes": 20.0,
            "chamber_mm": 25.0,
            "lens_focal_mm": 100.0,
            "lens_smallest_f": 32.0,
        }
    )
    with database.write() as c:
        body_id = bodies.add_body(c, body)
        found = bodies.body_by_id(c, body_id)
    assert found is not None
    assert found.body == body


def test_patches_of_a_visit_are_learned_from_three_on(database: Database) -> None:
    with database.write() as c:
        stick = kit.add_item(c, own("gel_stick", fresh_patches=90))
        for number, taken in enumerate((4, 9, 12)):
            assert kit.patches_a_visit(c) is None
            body_id, visit_id = a_visit(c, f"b{number}")
            entry = a_step(c, visit_id)
            kit.take(
                c,
                [Take(stick, taken)],
                kit.User(trail_id=entry, visit_id=visit_id, body_id=body_id),
            )
        assert kit.patches_a_visit(c) == 9
