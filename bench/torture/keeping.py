"""Backup, restore, merge and migration killed at any moment, from every earlier schema."""

from __future__ import annotations

import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

from bench.torture.served import Amounts, serving
from neatpatch.services.safety.archive import verify
from neatpatch.services.safety.checking import check
from neatpatch.store.database import migration_names, migration_text, split_statements

OLD_FOLDERS = Path(__file__).parents[2] / "tests" / "api" / "data"
_LONGEST_S = 4.0
_OLDEST = "folder-frames"


def command(*words: str) -> subprocess.Popen[str]:
    """The command line in a process group of its own."""
    return subprocess.Popen(
        [sys.executable, "-m", "neatpatch.cli.main", *words],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        start_new_session=True,
    )


def cut_short(process: subprocess.Popen[str], rng: random.Random, longest_s: float) -> None:
    """Kill it at any moment of its work, or after it."""
    time.sleep(rng.uniform(0.0, longest_s))
    process.send_signal(signal.SIGKILL)
    process.communicate()


def lasts_s(*words: str) -> float:
    """How long a command takes when it is let."""
    begun = time.monotonic()
    process = command(*words)
    said, _ = process.communicate()
    assert process.returncode == 0, said
    return min(_LONGEST_S, time.monotonic() - begun)


def keepings(data: Path, root: Path, amounts: Amounts) -> list[str]:
    """Backups, restores and merges killed: an archive or a folder is whole, or not there."""
    rng = random.Random(amounts.seed + 2)
    root.mkdir()
    whole, target = root / "whole.zip", root / "half.zip"
    backup_s = lasts_s("backup", str(whole), f"--data={data}")
    restored, merged = root / "restored", root / "merged"
    restore_s = lasts_s("restore", str(whole), f"--data={restored}")
    shutil.copytree(restored, merged)
    found = []
    for number in range(amounts.keepings):
        target.unlink(missing_ok=True)
        cut_short(command("backup", str(target), f"--data={data}"), rng, backup_s)
        if target.exists():
            verify(target)
        new = root / f"new-{number}"
        cut_short(command("restore", str(whole), f"--data={new}"), rng, restore_s)
        if new.exists() and not check(new).ok:
            found.append(f"round {number}: a half restored folder")
        shutil.rmtree(new, ignore_errors=True)
        cut_short(command("restore", str(whole), f"--data={merged}", "--merge"), rng, restore_s)
        if not check(merged).ok:
            found.append(f"round {number}: a half merged folder")
    said, _ = command("restore", str(whole), f"--data={merged}", "--merge").communicate()
    if "nothing that was not here" not in said:
        found.append(f"a merge of the same archive after kills: {said}")
    return found + ([] if check(data).ok else ["the folder that was backed up is not well"])


def migrations(root: Path, amounts: Amounts) -> list[str]:
    """Folders of every earlier schema brought up to date, killed meanwhile, and served again."""
    rng = random.Random(amounts.seed + 3)
    root.mkdir()
    found = []
    schemas = earlier_schemas()
    for number in range(amounts.migrations):
        name = schemas[number % len(schemas)]
        data = root / f"{name}-{number}"
        data.mkdir()
        with closing(sqlite3.connect(data / "neatpatch.sqlite3")) as c:
            at_schema(c, name)
        cut_short(command("serve", f"--data={data}", "--port=0"), rng, 2.5)
        with serving(data) as served:
            frames = served.client.get("/api/frames").json()["total"]
        with closing(sqlite3.connect(data / "neatpatch.sqlite3")) as c:
            done = {name for (name,) in c.execute("SELECT name FROM migrations")}
            sound = c.execute("PRAGMA integrity_check").fetchone()[0]
            lost = c.execute("PRAGMA foreign_key_check").fetchall()
        if frames != 1 or sound != "ok" or lost or done != set(migration_names()):
            found.append(f"{data.name}: {frames} frames, {sound}, {len(lost)} lost references")
        if not list(data.glob("neatpatch-before-*.sqlite3")):
            found.append(f"{data.name}: no backup was taken before")
    return found


def earlier_schemas() -> list[str]:
    """Every schema but the newest, by its last migration; then folders as they were left."""
    left = sorted(source.stem for source in OLD_FOLDERS.glob("folder-*.sql"))
    return [*migration_names()[:-1], *left]


def at_schema(c: sqlite3.Connection, name: str) -> None:
    """A folder's rows as they were left, or the oldest folder's brought as far as a schema."""
    kept = OLD_FOLDERS / f"{name}.sql"
    c.executescript((kept if kept.exists() else OLD_FOLDERS / f"{_OLDEST}.sql").read_text("utf-8"))
    if kept.exists():
        return
    done = {row[0] for row in c.execute("SELECT name FROM migrations")}
    for step in migration_names():
        if step not in done and step <= name:
            for statement in split_statements(migration_text(step)):
                c.execute(statement)
            c.execute("INSERT INTO migrations VALUES (?, 't')", (step,))
    c.commit()
