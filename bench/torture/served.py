"""The real server under test, and a ledger of what it said yes to."""

from __future__ import annotations

import hashlib
import os
import random
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from neatpatch.images.hashing import sha256_of
from neatpatch.services.safety.checking import check

_WRITERS = 3
_SWABS = 100_000
_BODIES = 24
"""Each with an open visit: trails as long as nobody has would slow the rounds down."""


@dataclass(frozen=True, kw_only=True)
class Amounts:
    """How much of each is done."""

    stops: int = 18
    kills: int = 200
    races: int = 60
    keepings: int = 30
    migrations: int = 60
    mutated: int = 10_000
    seed: int = 1


SHORT = Amounts(stops=2, kills=1, races=1, keepings=1, migrations=1, mutated=8)


@dataclass
class Ledger:
    """What the server said yes to, by the one who asked."""

    frames: dict[str, str] = field(default_factory=dict)
    steps: set[str] = field(default_factory=set)
    bookings: set[str] = field(default_factory=set)
    lock: threading.Lock = field(default_factory=threading.Lock)

    @property
    def writes(self) -> int:
        return len(self.frames) + len(self.steps) + len(self.bookings)


class Served:
    """A server in a process group of its own, to be stopped in any way."""

    def __init__(self, data: Path) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "neatpatch.cli.main", "serve", "--data", str(data), "--port=0"],
            stderr=subprocess.PIPE,
            text=True,
            start_new_session=True,
        )
        assert self._process.stderr is not None
        said = ""
        for line in self._process.stderr:
            said += line
            if "Neat Patch is at " in line:
                break
        else:
            raise AssertionError(f"the server did not start: {said}")
        self.url = line.split("Neat Patch is at ")[1].split("/ ")[0]
        self._drain = threading.Thread(target=self._process.stderr.read, daemon=True)
        self._drain.start()
        self.client = httpx.Client(base_url=self.url, timeout=120)

    def signal_group(self, number: signal.Signals) -> None:
        os.killpg(self._process.pid, number)
        self._process.wait()

    @property
    def group(self) -> int:
        """Id of its process group."""
        return self._process.pid

    def kill_a_worker(self) -> bool:
        """End one measuring process as the kernel does when memory is short."""
        listed = subprocess.run(
            ["ps", "-ww", "-o", "pid=,ppid=,args=", "-g", str(self._process.pid)],
            check=False,
            capture_output=True,
            text=True,
        )
        rows = [row.split(maxsplit=2) for row in listed.stdout.splitlines()]
        parents = {pid for pid, _, args in rows if "forkserver" in args}
        workers = [pid for pid, parent, _ in rows if parent in parents]
        for worker in workers:
            with suppress(ProcessLookupError):
                os.kill(int(worker), signal.SIGKILL)
        return bool(workers)

    def close(self) -> None:
        self.client.close()
        if self._process.poll() is None:
            self.signal_group(signal.SIGTERM)
        with suppress(ProcessLookupError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._drain.join()
        if self._process.stderr:
            self._process.stderr.close()


@contextmanager
def serving(data: Path) -> Iterator[Served]:
    served = Served(data)
    try:
        yield served
    finally:
        served.close()


class Busy:
    """Writers that upload, log steps and book jobs until the server falls silent."""

    def __init__(self, served: Served, ledger: Ledger, frame: bytes, rng: random.Random) -> None:
        self._served, self._ledger, self._frame = served, ledger, frame
        self._seeds = [rng.random() for _ in range(_WRITERS)]
        self._threads = [threading.Thread(target=self._write, args=(s,)) for s in self._seeds]
        self._ended = threading.Event()

    def __enter__(self) -> Busy:
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_error: object) -> None:
        self._ended.set()
        for thread in self._threads:
            thread.join()

    def _write(self, seed: float) -> None:
        rng = random.Random(seed)
        kinds = [self._upload] * 4 + [self._log] * 7 + [self._book]
        with httpx.Client(base_url=self._served.url, timeout=120) as client:
            while not self._ended.is_set():
                try:
                    rng.choice(kinds)(client, rng)
                except httpx.HTTPError:
                    return

    def _upload(self, client: httpx.Client, rng: random.Random) -> None:
        data = self._frame + rng.randbytes(24)
        name = f"{rng.getrandbits(40):010x}.jpg"
        answer = client.post(
            "/api/frames", params={"name": name, "visit": _visit(rng)}, content=data
        )
        self._expect(answer, (200, 201))
        with self._ledger.lock:
            self._ledger.frames[hashlib.sha256(data).hexdigest()] = name

    def _log(self, client: httpx.Client, rng: random.Random) -> None:
        """A step, sent twice under its key: it must be logged once."""
        mark = f"{rng.getrandbits(60):015x}"
        body = {"step": "dry_swab", "against": mark, "use": {"swabs": 1}}
        path = f"/api/visits/{_visit(rng)}/steps"
        for _ in range(2):
            answer = client.post(path, json=body, headers={"Idempotency-Key": f"key-{mark}"})
            self._expect(answer, (201,))
            with self._ledger.lock:
                self._ledger.steps.add(mark)

    def _book(self, client: httpx.Client, rng: random.Random) -> None:
        name = f"job {rng.getrandbits(60):015x}"
        body = {"name": name, "starts_on": "2199-01-01", "body_ids": [1]}
        self._expect(client.post("/api/bookings", json=body), (201,))
        with self._ledger.lock:
            self._ledger.bookings.add(name)

    def _expect(self, answer: httpx.Response, wanted: tuple[int, ...]) -> None:
        if answer.status_code not in (*wanted, 503):
            raise AssertionError(f"{answer.status_code}: {answer.text}")
        if answer.status_code == 503:
            raise httpx.HTTPError("the server is ending")


def _visit(rng: random.Random) -> int:
    return rng.randint(1, _BODIES)


def prepared(data: Path) -> None:
    """Bodies, an open visit of each, and a drawer of swabs."""
    with serving(data) as served:
        made = [
            served.client.post(path, json=body)
            for n in range(1, _BODIES + 1)
            for path, body in (
                ("/api/bodies", {"name": f"Torn {n}", "sensor_mm": [23.5, 15.6]}),
                ("/api/visits", {"body_id": n}),
            )
        ]
        made += [
            served.client.post(
                "/api/kit",
                json={"item": {"item": "dry_swab", "width_mm": 16, "quantity": _SWABS}},
            ),
        ]
    assert all(m.status_code == 201 for m in made), [m.text for m in made]


def faults(data: Path, ledger: Ledger) -> list[str]:
    """What is not as the ledger has it, with the server away."""
    found = []
    with closing(sqlite3.connect(data / "neatpatch.sqlite3")) as c:
        whole = c.execute("PRAGMA integrity_check").fetchone()[0]
        found += [] if whole == "ok" else [f"integrity: {whole}"]
        lost = c.execute("PRAGMA foreign_key_check").fetchall()
        found += [f"references that lead nowhere: {len(lost)}"] if lost else []
        kept = {sha for (sha,) in c.execute("SELECT sha256 FROM frames")}
        on_trail = {
            sha
            for (sha,) in c.execute(
                "SELECT f.sha256 FROM trail t JOIN frames f ON f.id = t.frame_id"
            )
        }
        marks = [mark for (mark,) in c.execute("SELECT against FROM trail WHERE step IS NOT NULL")]
        booked = {name for (name,) in c.execute("SELECT name FROM bookings")}
        left = c.execute("SELECT sum(change) FROM stock_moves").fetchone()[0]
        twice = c.execute(
            "SELECT count(*) FROM (SELECT frame_id FROM jobs WHERE state IN ('queued', 'running') "
            "AND frame_id IS NOT NULL GROUP BY frame_id HAVING count(*) > 1)"
        ).fetchone()[0]
    originals = data / "originals"
    for sha in ledger.frames:
        path = originals / sha[:2] / sha
        if sha not in kept or sha not in on_trail:
            found.append(f"frame {sha[:8]} has no row")
        elif not path.is_file() or sha256_of(path) != sha:
            found.append(f"frame {sha[:8]} has no original")
    found += [f"step {mark} is gone" for mark in ledger.steps - set(marks)]
    found += ["a step was logged twice"] if len(marks) != len(set(marks)) else []
    found += [f"{name} is gone" for name in ledger.bookings - booked]
    found += [f"{twice} frames have two open jobs"] if twice else []
    if left != _SWABS - len(marks):
        found.append(f"{left} swabs are left, {_SWABS - len(marks)} should be")
    return found + [f.words for f in check(data).found if f.lost]


def settled(data: Path, ledger: Ledger) -> list[str]:
    """What is not as it should be once all work is done: every frame measured, no orphan kept.

    A frame whose worker was killed twice is asked for again, as its owner would.
    """
    with serving(data) as served:
        until_idle(served)
        for frame in unmeasured(served, ledger):
            served.client.post(f"/api/frames/{frame['id']}/measure").raise_for_status()
        until_idle(served)
        troubles = [frame["trouble"] for frame in unmeasured(served, ledger)]
    with closing(sqlite3.connect(data / "neatpatch.sqlite3")) as c:
        kept = {sha for (sha,) in c.execute("SELECT sha256 FROM frames")}
    files = {p.name for p in (data / "originals").glob("??/*")}
    found = [f"not measured: {t}" for t in troubles]
    return found + ([f"{len(files - kept)} orphans"] if files - kept else [])


def unmeasured(served: Served, ledger: Ledger) -> list[dict[str, Any]]:
    pages = (
        served.client.get("/api/frames", params={"first": first, "count": 200}).json()["frames"]
        for first in range(0, len(ledger.frames) + 200, 200)
    )
    return [frame for page in pages for frame in page if not frame["ready"]]


def until_idle(served: Served) -> None:
    while served.client.get("/api/frames", params={"count": 1}).json()["open_jobs"]:
        time.sleep(0.1)
