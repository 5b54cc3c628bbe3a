"""Backup, check and merge from the page: one at a time, followed, stopped, failed."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from neatpatch.core.common.errors import BadArgumentError, ConflictError
from neatpatch.services.safety import chores as module
from neatpatch.services.safety.checking import CheckReport
from neatpatch.services.safety.chores import Chore, Chores
from neatpatch.services.safety.keeping import BackupKeeper, BackupPlan
from neatpatch.services.safety.ticking import Tick
from neatpatch.store.database import StoreError
from neatpatch.store.datafolder import Library
from tests.api.test_visits import until


@pytest.fixture
def chores(tmp_path: Path) -> Chores:
    library = Library(tmp_path / "data")
    return Chores(library, BackupKeeper(library))


def ended(chores: Chores) -> Chore:
    found: Chore = until(chores.last, lambda c: c is not None and c.state != "running")
    return found


def test_nothing_was_done_yet(chores: Chores) -> None:
    assert chores.last() is None
    assert chores.stop() is None


def test_one_runs_at_a_time_tells_how_far_it_is_and_is_stopped(
    chores: Chores, monkeypatch: pytest.MonkeyPatch
) -> None:
    def endless(_root: Path, tick: Tick) -> CheckReport:
        while True:
            tick(0.25)

    monkeypatch.setattr(module, "check", endless)
    assert chores.check().state == "running"
    until(chores.last, lambda c: c.progress == 0.25)
    with pytest.raises(ConflictError, match="running already"):
        chores.check()
    chores.stop()
    found = ended(chores)
    assert (found.state, found.words) == ("stopped", "It was stopped. Nothing of it is left.")
    monkeypatch.undo()
    chores.check()
    again = ended(chores)
    assert (again.state, again.number, again.words) == ("done", 2, "All is well.")


def test_a_stopped_backup_leaves_nothing(chores: Chores, tmp_path: Path) -> None:
    with pytest.raises(BadArgumentError, match="which folder"):
        chores.back_up()
    safe = tmp_path / "safe"
    safe.mkdir()
    chores._keeper.choose(BackupPlan(folder=str(safe), daily=False))
    held = threading.Event()

    def stopped_at_once(tick: Tick) -> tuple[str, None]:
        held.wait()
        chores._keeper.take(tick)
        return "taken", None

    chores._begin("backup", stopped_at_once)
    chores.stop()
    held.set()
    assert ended(chores).state == "stopped"
    assert list(safe.iterdir()) == []
    chores.back_up()
    assert ended(chores).state == "done"
    assert len(list(safe.iterdir())) == 1


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (StoreError("The disk is full."), "The disk is full."),
        (RuntimeError("secret"), "This is a fault of Neat Patch. What was here is as it was."),
    ],
)
def test_a_failure_is_told_and_the_next_one_runs(
    chores: Chores, monkeypatch: pytest.MonkeyPatch, error: Exception, words: str
) -> None:
    def broken(_root: Path, _tick: Tick) -> CheckReport:
        raise error

    monkeypatch.setattr(module, "check", broken)
    chores.check()
    found = ended(chores)
    assert (found.state, found.words) == ("failed", words)
    monkeypatch.undo()
    chores.check()
    assert ended(chores).state == "done"


def test_it_ends_with_the_server(chores: Chores, monkeypatch: pytest.MonkeyPatch) -> None:
    def endless(_root: Path, tick: Tick) -> CheckReport:
        while True:
            tick(0.5)

    monkeypatch.setattr(module, "check", endless)
    chores.check()
    chores.end()
    assert ended(chores).state == "stopped"
