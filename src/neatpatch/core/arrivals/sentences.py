"""When dust came, in sentences."""

from __future__ import annotations

from collections import Counter
from datetime import date

from neatpatch.core.arrivals.records import Arrivals, ArrivedSpot
from neatpatch.core.common.words import counted

_MOST_SENTENCES = 6


def arrivals_in_words(found: Arrivals) -> tuple[str, ...]:
    """One sentence for those that were there from the beginning, and for each time some came."""
    if not found.spots:
        return ("No mark keeps its place in these pictures.",)
    groups = Counter(_arrival_days(s) for s in found.spots)
    known = sorted(groups, key=lambda g: g[1] or "")
    lines = [_sentence(groups[g], *g) for g in known[:_MOST_SENTENCES]]
    if len(known) > _MOST_SENTENCES:
        later = sum(groups[g] for g in known[_MOST_SENTENCES:])
        lines.append(f"{counted(later, 'mark')} came later.")
    return tuple(lines)


def _arrival_days(spot: ArrivedSpot) -> tuple[str | None, str | None]:
    """The days between which a mark came; no first one where it was there from the beginning."""
    before, first = spot.last_without, spot.first_with
    return (before[:10] if before else None), (first[:10] if first else None)


def _sentence(number: int, before: str | None, first: str | None) -> str:
    marks = counted(number, "mark")
    if before is None or first is None:
        return f"{marks} {'was' if number == 1 else 'were'} there from the beginning."
    if before == first:
        return f"{marks} came on {_day(first)}."
    return f"{marks} came between {_day(before)} and {_day(first)}."


def _day(iso: str) -> str:
    day = date.fromisoformat(iso)
    return f"{day.day} {day:%b} {day.year}"
