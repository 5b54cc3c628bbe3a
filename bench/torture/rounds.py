"""Stops, kills, races, a second server, a full disk."""

from __future__ import annotations

import hashlib
import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx

from bench.torture.served import (
    Amounts,
    Busy,
    Ledger,
    Served,
    faults,
    prepared,
    serving,
    settled,
    until_idle,
)

_ENOUGH_TO_FILL = 400
_PADDING_BYTES = 300_000
"""Added behind each picture's end, so that the small disk fills up before many are measured."""


def stops(data: Path, amounts: Amounts, ledger: Ledger, frame: bytes) -> list[str]:
    """Ctrl-C, a polite kill and a worker killed for memory, while frames are measured."""
    rng = random.Random(amounts.seed)
    found = []
    for number in range(amounts.stops):
        with serving(data) as served, Busy(served, ledger, frame, rng) as _busy:
            _until_running(served)
            kind = (signal.SIGINT, signal.SIGTERM, signal.SIGKILL)[number % 3]
            if kind == signal.SIGKILL:
                while not served.kill_a_worker():
                    time.sleep(0.02)
            else:
                served.signal_group(kind)
        found += faults(data, ledger)
    return found


def kills(data: Path, amounts: Amounts, ledger: Ledger, frame: bytes) -> list[str]:
    """The whole process group killed at any moment."""
    rng = random.Random(amounts.seed + 1)
    found = []
    for _ in range(amounts.kills):
        with serving(data) as served, Busy(served, ledger, frame, rng) as _busy:
            time.sleep(rng.uniform(0.0, 1.2))
            served.signal_group(signal.SIGKILL)
        found += faults(data, ledger)
    return found


def _until_running(served: Served) -> None:
    while not any(
        job["state"] == "running"
        for job in served.client.get("/api/frames", params={"count": 1}).json()["open_jobs"]
    ):
        time.sleep(0.02)


def races(data: Path, amounts: Amounts, frame: bytes) -> list[str]:
    """The same bytes added and removed at once: what is said to be there must be there."""
    found = []
    with serving(data) as served:
        for number in range(amounts.races):
            bytes_ = frame + number.to_bytes(4, "big")
            sha = hashlib.sha256(bytes_).hexdigest()
            frame_id = served.client.post("/api/frames", content=bytes_).json()["frame"]["id"]

            def remove(frame_id: int = frame_id) -> None:
                httpx.delete(f"{served.url}/api/frames/{frame_id}", timeout=120)

            def add(bytes_: bytes = bytes_) -> None:
                httpx.post(f"{served.url}/api/frames", content=bytes_, timeout=120)

            _at_once(remove, add, add)
            listed = served.client.get("/api/frames", params={"count": 200}).json()["frames"]
            mine = [f for f in listed if f["sha256"] == sha]
            there = (data / "originals" / sha[:2] / sha).is_file()
            if there != bool(mine):
                found.append(f"round {number}: row {bool(mine)}, original {there}")
            for one in mine:
                served.client.delete(f"/api/frames/{one['id']}")
    return found


def _at_once(*calls: Callable[[], None]) -> None:
    gate = threading.Barrier(len(calls))

    def run(call: Callable[[], None]) -> None:
        gate.wait()
        call()

    threads = [threading.Thread(target=run, args=(call,)) for call in calls]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def second_server(data: Path, ledger: Ledger, frame: bytes) -> list[str]:
    """A second server on the folder is refused with the first one's address, touching nothing."""
    with serving(data) as served, Busy(served, ledger, frame, random.Random(7)) as _busy:
        _until_running(served)
        half = data / "originals" / "incoming" / "half-an-upload"
        half.write_bytes(b"x")
        second = subprocess.run(
            [sys.executable, "-m", "neatpatch.cli.main", "serve", "--data", str(data), "--port=0"],
            check=False,
            capture_output=True,
            text=True,
        )
        found = [] if half.exists() else ["a running upload was wiped"]
    if second.returncode != 2 or served.url not in second.stderr or "Traceback" in second.stderr:
        found.append(f"the second server said: {second.stderr or 'nothing'}")
    return found + faults(data, ledger)


@contextmanager
def small_disk(folder: Path, megabytes: int) -> Iterator[Path]:
    """A disk of so many megabytes, in memory. Mounting needs root's rights."""
    folder.mkdir()
    room = f"size={megabytes}m,uid={os.geteuid()}"
    _as_root("mount", "-t", "tmpfs", "-o", room, "tmpfs", str(folder))
    try:
        yield folder
    finally:
        _as_root("umount", "-l", str(folder))


def _as_root(*words: str) -> None:
    subprocess.run([*(["sudo"] if os.geteuid() else []), *words], check=True)


def full_disk(root: Path, frame: bytes) -> list[str]:
    """A disk that fills up while one works: refused plainly, nothing lost, work goes on after."""
    found: list[str] = []
    ledger = Ledger()
    with small_disk(root, 10) as disk:
        data = disk / "data"
        prepared(data)
        with serving(data) as served:
            statuses = set()
            for number in range(_ENOUGH_TO_FILL):
                bytes_ = frame + number.to_bytes(_PADDING_BYTES, "big")
                answer = served.client.post(
                    "/api/frames", params={"name": f"{number}.jpg", "visit": 1}, content=bytes_
                )
                statuses.add(answer.status_code)
                if answer.status_code in (200, 201):
                    ledger.frames[hashlib.sha256(bytes_).hexdigest()] = f"{number}.jpg"
                elif "disk" not in answer.json()["detail"]:
                    found.append(f"refused with: {answer.text}")
                else:
                    break
            if 503 not in statuses or not ledger.frames:
                found.append(f"the disk never filled up: {statuses}")
            shutil.rmtree(data / "derived", ignore_errors=True)
            _as_root("mount", "-o", "remount,size=400m", str(disk))
            until_idle(served)
            after = served.client.post("/api/frames", params={"visit": 1}, content=frame + b"after")
            found += [] if after.status_code == 201 else [f"then still refused: {after.text}"]
            ledger.frames[hashlib.sha256(frame + b"after").hexdigest()] = "frame"
        found += faults(data, ledger) + settled(data, ledger)
    return found
