"""What each exercise is about, how it went so far, and what comes next in it."""

from __future__ import annotations

import secrets
import sqlite3
from collections import defaultdict

from pydantic import BaseModel

from neatpatch.core.practice.moves import MOVE_TOPICS
from neatpatch.core.practice.places import LEVELS
from neatpatch.core.practice.progress import TopicProgress, weakest_first
from neatpatch.services.practice.hand import HAND_TOPICS
from neatpatch.services.practice.reading import FRAME_TOPICS
from neatpatch.store.practice_tries import Exercise, tries_of

MOST_SEED = 2**31 - 1
_TOPICS: dict[Exercise, tuple[str, ...]] = {
    "frames": FRAME_TOPICS,
    "places": tuple(f"level {n}" for n in range(1, LEVELS + 1)),
    "moves": MOVE_TOPICS,
    "hand": HAND_TOPICS,
    "clean": ("whole clean",),
}


class TryShown(BaseModel):
    """A try over time, with the seed to repeat it by."""

    seed: int
    topic: str
    right: bool
    unsafe: bool
    error_mm: float | None
    seconds: float
    at: str


class Progress(BaseModel):
    """An exercise: its topics, the weakest first, and the last tries, the newest first."""

    exercise: Exercise
    topics: list[TopicProgress]
    tries: list[TryShown]


def progress(connection: sqlite3.Connection, exercise: Exercise) -> Progress:
    """How an exercise goes; nothing tried yet gives topics without tries."""
    made = tries_of(connection, exercise)
    return Progress(
        exercise=exercise,
        topics=topics_of(connection, exercise),
        tries=[
            TryShown(**{f: getattr(t, f) for f in TryShown.model_fields}) for t in made[::-1][:60]
        ],
    )


def topics_of(connection: sqlite3.Connection, exercise: Exercise) -> list[TopicProgress]:
    """Topics of an exercise, the weakest first."""
    by_topic: dict[str, list[tuple[bool, bool]]] = defaultdict(list)
    for t in tries_of(connection, exercise):
        by_topic[t.topic].append((t.right, t.unsafe))
    return weakest_first(_TOPICS[exercise], by_topic)


def fresh_seed() -> int:
    """A seed for something not seen before."""
    return secrets.randbelow(MOST_SEED)
