"""Exercises drawn by seed, judged and kept."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass
from typing import cast

from neatpatch.core.advice import advise
from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.practice.moves import (
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
from neatpatch.services.practice.cleans import CleanDebrief
from neatpatch.services.practice.hand import (
    HandDebrief,
    HandQuestion,
    HandTopic,
    HandWork,
    hand_debrief,
    hand_question,
)
from neatpatch.services.practice.reading import (
    FrameDebrief,
    FrameQuestion,
    FrameTopic,
    Reading,
    frame_debrief,
    frame_question,
)
from neatpatch.services.practice.topics import fresh_seed, topics_of
from neatpatch.simulation.situations import random_facts
from neatpatch.store.practice_tries import Exercise, Try, add_try
from neatpatch.store.settings import get_setting, put_setting

_DRAWS = 300
_LAST_CLEAN = "last_clean"
_LEVEL_UP, _LEVEL_AFTER = 0.7, 3
"""A level is done with so much skill after so many tries."""


def draw_move(connection: sqlite3.Connection, seed: int | None) -> MoveQuestion:
    """A situation by its seed, or a fresh one of the weakest topic."""
    if seed is not None:
        return _move(seed)
    wanted = topics_of(connection, "moves")[0].topic
    fresh = _move(fresh_seed())
    for _ in range(_DRAWS):
        if fresh.topic == wanted:
            break
        fresh = _move(fresh_seed())
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
    debrief = move_debrief(advice, chosen)
    made = Outcome(debrief.right or debrief.also_sound, debrief.unsafe)
    _keep(connection, "moves", (seed, topic_of(advice)), made, seconds)
    return debrief


def draw_place(
    connection: sqlite3.Connection, seed: int | None, level: int | None, *, loupe: bool
) -> PlaceQuestion:
    """A place by its seed and level, or a fresh one of the first level that does not go well."""
    if level is None:
        topics = {t.topic: t for t in topics_of(connection, "places")}
        level = next(
            (
                n
                for n in range(1, LEVELS)
                if topics[f"level {n}"].skill < _LEVEL_UP
                or topics[f"level {n}"].tries < _LEVEL_AFTER
            ),
            LEVELS,
        )
    return place_question(fresh_seed() if seed is None else seed, level, loupe=loupe)


def answer_place(
    connection: sqlite3.Connection,
    seed: int,
    level: int,
    at_mm: tuple[float, float],
    seconds: float,
) -> PlaceDebrief:
    """Measure an answer against the truth, and keep the try."""
    debrief = place_debrief(place_question(seed, level, loupe=False), *at_mm)
    made = Outcome(debrief.right, error_mm=debrief.error_mm)
    _keep(connection, "places", (seed, f"level {level}"), made, seconds)
    return debrief


def draw_frame(
    connection: sqlite3.Connection, seed: int | None, topic: FrameTopic | None
) -> FrameQuestion:
    """A frame to read by its seed and topic, or a fresh one of the weaker topic."""
    topic = topic or cast(FrameTopic, topics_of(connection, "frames")[0].topic)
    return frame_question(fresh_seed() if seed is None else seed, topic)


def answer_frame(
    connection: sqlite3.Connection, seed: int, topic: FrameTopic, reading: Reading, seconds: float
) -> FrameDebrief:
    """Hold a reading against the truth, and keep the try."""
    if topic == "fit or not" and reading.remedy is None:
        raise BadArgumentError("remedy: say what is to be done about the frame.")
    debrief = frame_debrief(seed, topic, reading)
    _keep(connection, "frames", (seed, topic), Outcome(debrief.right, debrief.unsafe), seconds)
    return debrief


def draw_hand(
    connection: sqlite3.Connection, seed: int | None, topic: HandTopic | None
) -> HandQuestion:
    """A task for the hand by its seed and topic, or a fresh one of the weakest topic."""
    topic = topic or cast(HandTopic, topics_of(connection, "hand")[0].topic)
    return hand_question(fresh_seed() if seed is None else seed, topic)


def answer_hand(
    connection: sqlite3.Connection, seed: int, topic: HandTopic, work: HandWork, seconds: float
) -> HandDebrief:
    """What the hand did to the hidden dirt; the try is kept."""
    if not any(s.samples for s in work.strokes):
        raise BadArgumentError("strokes: nothing was done yet. Set the tool down on the glass.")
    debrief = hand_debrief(seed, topic, work)
    _keep(connection, "hand", (seed, topic), Outcome(debrief.right, debrief.unsafe), seconds)
    return debrief


def keep_clean(connection: sqlite3.Connection, debrief: CleanDebrief) -> None:
    """Keep how a whole clean went, once for each visit; the time is that of the open camera."""
    done = f"{debrief.seed}/{debrief.visit_id}"
    if get_setting(connection, _LAST_CLEAN) == done:
        return
    put_setting(connection, _LAST_CLEAN, done)
    made = Outcome(debrief.right, debrief.unsafe)
    _keep(connection, "clean", (debrief.seed, "whole clean"), made, 60 * debrief.yours.minutes_open)


@dataclass(frozen=True)
class Outcome:
    """How an answer was. ``error_mm``: how far off, where that is measured."""

    right: bool
    unsafe: bool = False
    error_mm: float | None = None


def _keep(
    connection: sqlite3.Connection,
    exercise: Exercise,
    what: tuple[int, str],
    made: Outcome,
    seconds: float,
) -> None:
    """Keep a try; ``what``: its seed and topic."""
    seed, topic = what
    add_try(
        connection,
        Try(exercise=exercise, seed=seed, topic=topic, seconds=seconds, **asdict(made)),
    )
