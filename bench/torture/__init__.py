"""Whether nothing acknowledged is lost: the real server stopped, killed, starved and raced.

A ledger of everything the server said yes to is kept outside; after every round the folder is
opened again and compared with it: integrity, references, hashes, counts. Rounds and places are
drawn from a seed, moments are whatever they are.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from bench.torture.hardship import clock_back, mutated, read_only, vanishing
from bench.torture.keeping import keepings, migrations
from bench.torture.rounds import full_disk, kills, races, second_server, stops
from bench.torture.served import SHORT, Amounts, Ledger, faults, prepared, settled
from neatpatch.services.safety.checking import check
from neatpatch.simulation.frames import Recipe, write_simulated

__all__ = ["SHORT", "Amounts", "Ledger", "faults", "prepared", "torture"]


def torture(root: Path, amounts: Amounts) -> Iterator[tuple[str, str, list[str]]]:
    """All rounds as they end: what was done, how much of it, and what went wrong."""
    path = write_simulated(
        Recipe(seed=8, name="torn", width_px=1100, counts={"speck": 5}), root / "frames"
    )[0]
    frame, data, ledger = path.read_bytes(), root / "data", Ledger()
    prepared(data)
    yield "stops while measuring", str(amounts.stops), stops(data, amounts, ledger, frame)
    yield "kills of all processes", str(amounts.kills), kills(data, amounts, ledger, frame)
    yield "second server", "1", second_server(data, ledger, frame)
    yield "acknowledged writes", f"{ledger.writes:,}", settled(data, ledger)
    yield "check afterwards", "1", [f.words for f in check(data).found if f.lost]
    killed = keepings(data, root / "keeping", amounts)
    yield "kills of backup, restore, merge", str(3 * amounts.keepings), killed
    yield "kills of migrations", str(amounts.migrations), migrations(root / "old", amounts)
    yield "races of add and remove", str(amounts.races), races(root / "r", amounts, frame)
    yield "full disk", "1", full_disk(root / "disk", frame)
    yield "read-only disk", "1", read_only(root / "still", frame)
    yield "folder away", "1", vanishing(root / "gone", frame)
    yield "clock set back", "1", clock_back(root / "clock", frame)
    wrong, much = mutated(root / "fuzz", amounts)
    yield "damaged files uploaded", much, wrong
