"""What goes well and what to repeat: weak points first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from neatpatch.core.common.records import Record


class TopicProgress(Record):
    """How a topic went: tries, right ones, unsafe choices; ``skill``: what is believed of the next.

    One right and one wrong try are taken for granted (a uniform prior), and of long ago the last
    ones count most.
    """

    topic: str
    tries: int
    right: int
    unsafe: int
    skill: float


_FADES = 0.85
"""Of a try's weight, for each one after it."""


def progress_of(topic: str, tries: Sequence[tuple[bool, bool]]) -> TopicProgress:
    """From right and unsafe of each try, the oldest first; none gives a skill of one half."""
    good = total = 0.0
    for right, _ in tries:
        good, total = good * _FADES + right, total * _FADES + 1
    return TopicProgress(
        topic=topic,
        tries=len(tries),
        right=sum(right for right, _ in tries),
        unsafe=sum(unsafe for _, unsafe in tries),
        skill=(good + 1) / (total + 2),
    )


def weakest_first(
    topics: Sequence[str], tries: Mapping[str, Sequence[tuple[bool, bool]]]
) -> list[TopicProgress]:
    """Every topic, the weakest first; among equals what was tried least, then as they are given."""
    found = [progress_of(t, tries.get(t, ())) for t in topics]
    return sorted(found, key=lambda p: (round(p.skill, 6), p.tries))
