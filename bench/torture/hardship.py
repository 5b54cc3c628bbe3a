"""A folder that cannot be written or goes away, a clock set back, thousands of damaged files."""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

import numpy as np

from bench.fuzz import KINDS, damaged, seeds
from bench.torture.rounds import small_disk
from bench.torture.served import Amounts, Ledger, Served, faults, prepared, serving, until_idle
from neatpatch.services.safety.checking import check

MOST_MEMORY_MB = 1500
"""Of any of the server's processes."""
_SENDERS = 4


def remounted(disk: Path, how: str) -> None:
    """Make a small disk read-only (``ro``) or writable (``rw``) again. Needs root's rights."""
    asked = ["mount", "-o", f"remount,{how}", str(disk)]
    subprocess.run([*(["sudo"] if os.geteuid() else []), *asked], check=True)


def read_only(root: Path, frame: bytes) -> list[str]:
    """A folder on a read-only disk: refused in one line, untouched; then it works as before."""
    found: list[str] = []
    with small_disk(root, 300) as disk:
        data = disk / "data"
        prepared(data)
        remounted(disk, "ro")
        for words in (["serve", "--port=0"], ["check"]):
            said = subprocess.run(
                [sys.executable, "-m", "neatpatch.cli.main", *words, f"--data={data}"],
                check=False,
                capture_output=True,
                text=True,
            )
            refused = said.returncode == 2 and said.stderr.count("\n") == 1
            if (words[0] == "serve" and not refused) or "Traceback" in said.stderr:
                found.append(f"{words[0]}, {said.returncode}: {said.stderr}")
        remounted(disk, "rw")
        with serving(data) as served:
            after = served.client.post("/api/frames", params={"visit": 1}, content=frame)
            found += [] if after.status_code == 201 else [f"then still refused: {after.text}"]
            until_idle(served)
        found += faults(data, Ledger()) + ([] if check(data).ok else ["not well afterwards"])
    return found


def vanishing(root: Path, frame: bytes) -> list[str]:
    """The data folder goes away and comes back: no answer of a fault, nothing lost."""
    root.mkdir()
    data, away = root / "data", root / "away"
    prepared(data)
    found = []
    with serving(data) as served:
        first = served.client.post("/api/frames", params={"visit": 1}, content=frame)
        until_idle(served)
        data.rename(away)
        for answer in (
            served.client.get("/api/frames"),
            served.client.post("/api/frames", content=frame + b"x"),
            served.client.post("/api/visits/1/steps", json={"step": "air", "against": "x"}),
        ):
            if answer.status_code not in (200, 503) or "Traceback" in answer.text:
                found.append(f"folder away, {answer.status_code}: {answer.text[:200]}")
        shutil.rmtree(data, ignore_errors=True)
        away.rename(data)
        if served.client.get(f"/api/frames/{first.json()['frame']['id']}").status_code != 200:
            found.append("the frame is not there when the folder is back")
    return found + ([] if check(data).ok else ["not well afterwards"])


_TIMES = (
    ("trail", "at"),
    ("visits", "opened_at"),
    ("jobs", "created_at"),
    ("jobs", "not_before"),
    ("maps", "made_at"),
    ("frames", "added_at"),
    ("stock_moves", "at"),
    ("requests", "at"),
    ("migrations", "applied_at"),
)


def clock_back(root: Path, frame: bytes) -> list[str]:
    """Everything was written by a clock two days ahead: work goes on as ever."""
    prepared(root)
    with serving(root) as served:
        served.client.post("/api/frames", params={"visit": 1}, content=frame).raise_for_status()
    with closing(sqlite3.connect(root / "neatpatch.sqlite3")) as c:
        for table, column in _TIMES:
            c.execute(
                f"UPDATE {table} SET {column} = strftime('%Y-%m-%dT%H:%M:%f+00:00', "
                f"{column}, '+2 days') WHERE {column} IS NOT NULL"
            )
        c.execute(
            "UPDATE jobs SET not_before = strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now', '+2 days') "
            "WHERE state = 'queued'"
        )
        c.commit()
    found = []
    with serving(root) as served:
        step = {"step": "dry_swab", "against": "back", "use": {"swabs": 1}}
        done = served.client.post("/api/visits/1/steps", json=step)
        shot = served.client.post("/api/frames", params={"visit": 1}, content=frame + b"later")
        for answer in (done, shot):
            found += [] if answer.status_code == 201 else [f"clock set back: {answer.text}"]
        until_idle(served)
        view = served.client.get("/api/visits/1").json()
        kinds = ["step" if i["step"] else "frame" for i in view["trail"]]
        if kinds != ["frame", "step", "frame"] or not all(
            i["frame"]["ready"] for i in view["trail"] if i["frame"]
        ):
            found.append(f"clock set back: the trail is {kinds}")
    return found + ([] if check(root).ok else ["not well afterwards"])


def mutated(root: Path, amounts: Amounts) -> tuple[list[str], str]:
    """Damaged files through the real upload; gives what went wrong, and the figures."""
    rng = np.random.default_rng(amounts.seed)
    with tempfile.TemporaryDirectory() as folder:
        good = seeds(Path(folder))
    statuses: Counter[int] = Counter()
    found: list[str] = []
    most_mb = 0.0
    with serving(root) as served, ThreadPoolExecutor(_SENDERS) as pool:

        def send(number: int, data: bytes) -> None:
            answer = served.client.post(
                "/api/frames", params={"name": f"{number}.jpg"}, content=data
            )
            statuses[answer.status_code] += 1
            if answer.status_code not in (200, 201, 413, 415, 422):
                found.append(f"file {number}: {answer.status_code} {answer.text[:200]}")

        files = list(good.values())
        for begin in range(0, amounts.mutated, 500):
            numbers = range(begin, min(begin + 500, amounts.mutated))
            batch = [
                (n, damaged(files[n % len(files)], KINDS[n % len(KINDS)], rng)) for n in numbers
            ]
            list(pool.map(lambda job: send(*job), batch))
            until_idle(served)
            most_mb = max(most_mb, memory_mb(served))
        if not served.client.get("/api/health").is_success:
            found.append("the server does not answer afterwards")
    if most_mb > MOST_MEMORY_MB:
        found.append(f"a process holds {most_mb:.0f} MB")
    if not check(root).ok:
        found.append("not well afterwards")
    taken = ", ".join(f"{n:,} x {status}" for status, n in sorted(statuses.items()))
    return found, f"{amounts.mutated:,} ({taken}; {most_mb:.0f} MB at most)"


def memory_mb(served: Served) -> float:
    """Resident memory of the largest of the server's processes."""
    listed = subprocess.run(
        ["ps", "-o", "rss=", "-g", str(served.group)], check=False, capture_output=True, text=True
    )
    return max((int(row) / 1000 for row in listed.stdout.split()), default=0.0)
