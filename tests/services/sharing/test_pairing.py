"""Codes and tokens: who is let in, and for how long."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.services.sharing.pairing import (
    CODE_LIVES,
    MOST_TRIES,
    MOST_WRONG,
    UNUSED_ENDS,
    WRONG_WITHIN,
    NotLetInError,
    PairingDesk,
    hash_of,
)
from neatpatch.store import bodies, devices, visits
from neatpatch.store.datafolder import Library
from neatpatch.store.devices import StoredDevice


class Clock:
    def __init__(self) -> None:
        self.at = datetime.now(UTC)

    def __call__(self) -> datetime:
        return self.at

    def on(self, by: timedelta) -> None:
        self.at += by


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def door(tmp_path: Path, clock: Clock) -> PairingDesk:
    return PairingDesk(Library(tmp_path / "data"), clock)


def wrong(code: str) -> str:
    return f"{(int(code) + 1) % 10**6:06d}"


def test_a_code_of_six_digits_lets_one_device_in_once(door: PairingDesk) -> None:
    code = door.offer("helper").code
    assert len(code) == 6
    assert code.isdigit()
    token = door.pair(code, "  Ada   B ", "Phone")
    found = door.device(token)
    assert found is not None
    assert (found.name, found.role, found.label) == ("Ada B", "helper", "Phone")
    with pytest.raises(NotLetInError, match="over"):
        door.pair(code, "Eve", "")


def test_a_code_lives_two_minutes(door: PairingDesk, clock: Clock) -> None:
    code = door.offer("viewer").code
    clock.on(CODE_LIVES - timedelta(seconds=1))
    assert door.waiting
    clock.on(timedelta(seconds=1))
    assert not door.waiting
    with pytest.raises(NotLetInError, match="over"):
        door.pair(code, "Ada", "")
    assert timedelta(minutes=2) == CODE_LIVES


def test_a_new_code_or_its_withdrawal_voids_the_old_one(door: PairingDesk) -> None:
    old = door.offer("viewer").code
    new = door.offer("viewer").code
    if old != new:
        with pytest.raises(NotLetInError):
            door.pair(old, "Ada", "")
    door.withdraw()
    with pytest.raises(NotLetInError, match="over"):
        door.pair(new, "Ada", "")


def test_guessing_shuts_out_the_guesser_and_nobody_else(door: PairingDesk, clock: Clock) -> None:
    code = door.offer("owner").code
    for _ in range(MOST_WRONG):
        with pytest.raises(NotLetInError, match="not the code"):
            door.pair(wrong(code), "Eve", "", "10.0.0.66")
    with pytest.raises(NotLetInError, match="Too many"):
        door.pair(code, "Eve", "", "10.0.0.66")
    assert door.pair(code, "Ada", "", "10.0.0.7")
    fresh = door.offer("owner").code
    with pytest.raises(NotLetInError, match="Too many"):
        door.pair(fresh, "Eve", "", "10.0.0.66")
    clock.on(WRONG_WITHIN + timedelta(seconds=1))
    fresh = door.offer("owner").code
    assert door.pair(fresh, "Eve", "", "10.0.0.66")


def test_codes_count_only_while_one_is_open(door: PairingDesk) -> None:
    for _ in range(3 * MOST_WRONG):
        with pytest.raises(NotLetInError, match="over"):
            door.pair("000000", "Eve", "", "10.0.0.66")
    assert door.pair(door.offer("helper").code, "Ada", "", "10.0.0.66")


def test_a_code_takes_so_many_tries_from_all_addresses_together(door: PairingDesk) -> None:
    code = door.offer("owner").code
    for n in range(MOST_TRIES):
        with pytest.raises(NotLetInError, match="not the code"):
            door.pair(wrong(code), "Eve", "", f"10.0.{n}.1")
    with pytest.raises(NotLetInError, match="over"):
        door.pair(code, "Eve", "", "10.1.0.1")


def test_one_shut_out_during_its_own_lookup_stays_out(
    door: PairingDesk, monkeypatch: pytest.MonkeyPatch
) -> None:
    token = door.pair(door.offer("owner").code, "Ada", "Phone")
    real = devices.by_hash

    def slow(connection: sqlite3.Connection, key: str) -> StoredDevice | None:
        found = real(connection, key)
        monkeypatch.setattr(devices, "by_hash", real)
        assert found is not None
        door.shut_out(found.id)
        return found

    monkeypatch.setattr(devices, "by_hash", slow)
    assert door.device(token) is None
    assert [door.device(token) for _ in range(3)] == [None] * 3


@pytest.mark.parametrize(
    ("given", "shown"),
    [
        ("Ada\u202egnp.exe", "Adagnp.exe"),
        ("\u2066A\u2069\x07d\x00a\ufeff", "Ada"),
        ("Zoë  de\nWit", "Zoë de Wit"),
        ("عدا", "عدا"),
    ],
)
def test_a_name_drops_controls_and_turning_marks(door: PairingDesk, given: str, shown: str) -> None:
    found = door.device(door.pair(door.offer("helper").code, given, ""))
    assert found is not None
    assert found.name == shown


@pytest.mark.parametrize("name", ["", "   ", "x" * 41])
def test_somebody_is_named_and_the_code_is_kept_for_the_next_try(
    door: PairingDesk, name: str
) -> None:
    code = door.offer("helper").code
    with pytest.raises(BadArgumentError, match="who is working"):
        door.pair(code, name, "")
    assert door.pair(code, "Ada", "")


def test_only_the_hash_of_a_token_is_kept(door: PairingDesk, tmp_path: Path) -> None:
    token = door.pair(door.offer("helper").code, "Ada", "")
    with closing(sqlite3.connect(tmp_path / "data" / "neatpatch.sqlite3")) as c:
        rows = c.execute("SELECT * FROM devices").fetchall()
    assert token not in str(rows)
    assert hash_of(token) in str(rows)


def test_who_is_shut_out_is_out_at_once(door: PairingDesk) -> None:
    token = door.pair(door.offer("helper").code, "Ada", "")
    found = door.device(token)
    assert found is not None
    assert door.is_known(found)
    door.shut_out(found.id)
    assert not door.is_known(found)
    assert door.device(token) is None
    assert door.devices() == []
    door.shut_out(found.id)


def test_a_token_is_known_to_the_next_server_and_use_is_noted(
    door: PairingDesk, tmp_path: Path, clock: Clock
) -> None:
    token = door.pair(door.offer("helper").code, "Ada", "")
    again = PairingDesk(Library(tmp_path / "data"), clock)
    found = again.device(token)
    assert found is not None
    assert found.name == "Ada"
    assert [d.last_used_at is not None for d in again.devices()] == [True]


def test_a_device_unused_for_long_is_paired_anew(
    door: PairingDesk, tmp_path: Path, clock: Clock
) -> None:
    token = door.pair(door.offer("helper").code, "Ada", "")
    clock.on(UNUSED_ENDS / 2)
    assert door.device(token)
    clock.on(UNUSED_ENDS + timedelta(minutes=2))
    assert door.device(token) is None
    assert door.devices() == []


def test_a_link_to_a_report_ends_on_its_day(
    door: PairingDesk, tmp_path: Path, clock: Clock
) -> None:
    library = Library(tmp_path / "data")
    with library.database.write() as c:
        body = bodies.add_body(c, Body(name="x", sensor_mm=(36, 24)))
        visit = visits.open_visit(c, body, VisitConditions())
    token, ends = door.link(visit, 3)
    assert datetime.fromisoformat(ends) - clock.at <= timedelta(days=3)
    found = door.device(token)
    assert found is not None
    assert (found.role, found.visit_id) == ("report", visit)
    clock.on(timedelta(days=3))
    assert door.device(token) is None


def test_tokens_nobody_gave_open_nothing(door: PairingDesk) -> None:
    for token in ("", "x", "' OR 1=1 --", "\x00", "a" * 10_000):
        assert door.device(token) is None
