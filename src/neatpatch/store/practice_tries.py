"""Tries, as rows."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from neatpatch.store.database import now

Exercise = Literal["frames", "places", "moves", "hand", "clean"]


@dataclass(frozen=True, kw_only=True)
class Try:
    """One answer. ``error_mm`` is None where nothing is measured."""

    exercise: Exercise
    seed: int
    topic: str
    right: bool
    unsafe: bool
    error_mm: float | None
    seconds: float
    at: str = ""


def add_try(connection: sqlite3.Connection, made: Try) -> None:
    """Keep one."""
    connection.execute(
        "INSERT INTO practice (exercise, seed, topic, is_right, is_unsafe, error_mm, seconds, at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (
            made.exercise,
            made.seed,
            made.topic,
            made.right,
            made.unsafe,
            made.error_mm,
            made.seconds,
            now(),
        ),
    )


def tries_of(connection: sqlite3.Connection, exercise: Exercise, count: int = 500) -> list[Try]:
    """The last ones of an exercise, the oldest first."""
    rows = connection.execute(
        "SELECT * FROM practice WHERE exercise = ? ORDER BY id DESC LIMIT ?", (exercise, count)
    ).fetchall()
    return [
        Try(
            exercise=row["exercise"],
            seed=row["seed"],
            topic=row["topic"],
            right=bool(row["is_right"]),
            unsafe=bool(row["is_unsafe"]),
            error_mm=row["error_mm"],
            seconds=row["seconds"],
            at=row["at"],
        )
        for row in reversed(rows)
    ]
