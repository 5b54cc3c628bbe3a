"""*Next move*: a situation, a few moves to choose from, the product's own advice as the answer."""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np

from neatpatch.core.common.decisions import CONTACT, Advice, Decision
from neatpatch.core.common.facts import Facts
from neatpatch.core.common.records import Record
from neatpatch.core.practice.situations import (
    DrawnSituation,
    Line,
    drawn_situation,
    situation_lines,
)

MoveTopic = Literal["frame first", "stop", "ready first", "no touch", "contact", "hand over"]
MOVE_TOPICS: tuple[MoveTopic, ...] = get_args(MoveTopic)
_TOPICS: dict[Decision, MoveTopic] = {
    "reshoot": "frame first",
    "clean_lens": "frame first",
    "stop_done": "stop",
    "defer": "stop",
    "retouch": "stop",
    "prepare": "ready first",
    "auto_clean": "no touch",
    "air": "no touch",
    "service": "hand over",
    "teardown": "hand over",
}
_CHOICES = 5
_LIKELY: tuple[Decision, ...] = (
    "air",
    "wet_swab",
    "lift",
    "stop_done",
    "prepare",
    "dry_swab",
    "reshoot",
    "auto_clean",
    "service",
    "defer",
)
"""What people think of, the likeliest first."""


class MoveQuestion(Record):
    """A situation and the moves to choose from; the same seed gives the same one."""

    seed: int
    topic: MoveTopic
    lines: tuple[Line, ...]
    drawn: DrawnSituation
    choices: tuple[Decision, ...]


class MoveDebrief(Record):
    """How a choice stands beside the advice.

    ``also_sound``: another safe way, which other schools take. ``unsafe``: it is barred now;
    ``bar``: why.
    """

    chosen: Decision
    right: bool
    also_sound: bool
    unsafe: bool
    bar: str
    advice: Advice


def topic_of(advice: Advice) -> MoveTopic:
    """What a situation teaches."""
    return _TOPICS.get(advice.decision, "contact")


def move_question(seed: int, facts: Facts, advice: Advice) -> MoveQuestion:
    """The advised move among others: those that are barred first, then what people think of."""
    barred = [b.action for b in advice.barred]
    others = [d for d in _LIKELY if d in barred and d in CONTACT][:2]
    others += [d for d in _LIKELY if d not in others and d != advice.decision]
    choices = [advice.decision, *others[: _CHOICES - 1]]
    order = np.random.default_rng(seed).permutation(len(choices))
    return MoveQuestion(
        seed=seed,
        topic=topic_of(advice),
        lines=situation_lines(facts),
        drawn=drawn_situation(facts),
        choices=tuple(choices[i] for i in order),
    )


def move_debrief(advice: Advice, chosen: Decision) -> MoveDebrief:
    """A choice judged by the advice; never both sound and barred."""
    bar = next((b.text for b in advice.barred if b.action == chosen), "")
    sound = any(a.decision == chosen for a in advice.alternatives)
    return MoveDebrief(
        chosen=chosen,
        right=chosen == advice.decision,
        also_sound=sound and not bar and chosen != advice.decision,
        unsafe=bool(bar) and chosen != advice.decision,
        bar=bar,
        advice=advice,
    )
