"""A short form of the torture: every kind of it, a few rounds each."""

from __future__ import annotations

from pathlib import Path

from bench.torture import SHORT, Ledger, faults, prepared, torture


def test_nothing_acknowledged_is_lost(tmp_path: Path) -> None:
    rows = list(torture(tmp_path, SHORT))
    assert [(name, wrong) for name, _, wrong in rows if wrong] == []
    assert len(rows) == 13


def test_what_is_lost_would_be_seen(tmp_path: Path) -> None:
    prepared(tmp_path)
    ledger = Ledger(frames={"a" * 64: "a.jpg"}, steps={"mark"}, bookings={"job"})
    assert len(faults(tmp_path, ledger)) == 3
