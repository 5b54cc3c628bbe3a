"""Exercises drawn by seed, judged and kept."""

from __future__ import annotations

import secrets
import sqlite3
from collections import defaultdict

from pydantic import BaseModel

from neatpatch.core.advice import advise
from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.practice.moves import (
    MOVE_TOPICS,
    MoveDebrief,
    MoveQuestion,
    move_debrief,
    move_question,
    topic_of,
)
from neatpatch.core.practice.places import (
    LEVELS,
    PlaceDebrief,
    PlaceQuestion,
    place_debrief,
    place_question,
)
from neatpatch.core.practice.progress import TopicProgress, weakest_first
from neatpatch.simulation.situations import random_facts
from neatpatch.store.practice.tries import Exercise, Try, add_try, tries_of

MOST_SEED = 2**31 - 1
_DRAWS = 300
_LEVEL_UP, _LEVEL_AFTER = 0.7, 3
"""A level is done with so much skill after so many tries."""


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
        topics=_topics(exercise, made),
        tries=[
            TryShown(**{f: getattr(t, f) for f in TryShown.model_fields}) for t in made[::-1][:60]
        ],
    )


def _topics(exercise: Exercise, made: list[Try]) -> list[TopicProgress]:
    by_topic: dict[str, list[tuple[bool, bool]]] = defaultdict(list)
    for t in made:
        by_topic[t.topic].append((t.right, t.unsafe))
    names = MOVE_TOPICS if exercise == "moves" else [f"level {n}" for n in range(1, LEVELS + 1)]
    return weakest_first(names, by_topic)


def draw_move(connection: sqlite3.Connection, seed: int | None) -> MoveQuestion:
    """A situation by its seed, or a fresh one of the weakest topic."""
    if seed is not None:
        return _move(seed)
    wanted = _topics("moves", tries_of(connection, "moves"))[0].topic
    fresh = _move(secrets.randbelow(MOST_SEED))
    for _ in range(_DRAWS):
        if fresh.topic == wanted:
            break
        fresh = _move(secrets.randbelow(MOST_SEED))
    return fresh


def _move(seed: int) -> MoveQuestion:
    facts = random_facts(seed)
    return move_question(seed, facts, advise(facts))


def answer_move(
    connection: sqlite3.Connection, seed: int, chosen: Decision, seconds: float
) -> MoveDebrief:
    """Judge a choice by the product's own advice, and keep the try."""
    facts = random_facts(seed)
    advice = advise(facts)
    if chosen not in move_question(seed, facts, advice).choices:
        raise BadArgumentError(
            "chosen: this move was not among those to choose from. Choose one that is offered."
        )
    told = move_debrief(advice, chosen)
    add_try(
        connection,
        Try(
            exercise="moves",
            seed=seed,
            topic=topic_of(advice),
            right=told.right or told.also_sound,
            unsafe=told.unsafe,
            error_mm=None,
            seconds=seconds,
        ),
    )
    return told


def draw_place(
    connection: sqlite3.Connection, seed: int | None, level: int | None, *, loupe: bool
) -> PlaceQuestion:
    """A place by its seed and level, or a fresh one of the first level that does not go well."""
    if level is None:
        topics = {t.topic: t for t in _topics("places", tries_of(connection, "places"))}
        level = next(
            (
                n
                for n in range(1, LEVELS)
                if topics[f"level {n}"].skill < _LEVEL_UP
                or topics[f"level {n}"].tries < _LEVEL_AFTER
            ),
            LEVELS,
        )
    return place_question(
        secrets.randbelow(MOST_SEED) if seed is None else seed, level, loupe=loupe
    )


def answer_place(
    connection: sqlite3.Connection,
    seed: int,
    level: int,
    at_mm: tuple[float, float],
    seconds: float,
) -> PlaceDebrief:
    """Measure an answer against the truth, and keep the try."""
    told = place_debrief(place_question(seed, level, loupe=False), *at_mm)
    add_try(
        connection,
        Try(
            exercise="places",
            seed=seed,
            topic=f"level {level}",
            right=told.right,
            unsafe=False,
            error_mm=told.error_mm,
            seconds=seconds,
        ),
    )
    return told
