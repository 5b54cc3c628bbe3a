"""How somebody shoots: apertures and focal lengths of their pictures, counted."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable
from typing import Literal

from pydantic import Field

from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.common.records import Record
from neatpatch.core.pictures.skipped import SkippedPicture


class Habits(Record):
    """Counts from the metadata of a folder. ``pictures``: how many were read.

    ``f_numbers`` and ``focal_mm``: pictures by f-number and by focal length, ascending; a picture
    whose file does not tell one counts for neither, so their sums may be smaller.
    """

    schema_: Literal["neatpatch.habits/1"] = Field("neatpatch.habits/1", alias="schema")
    pictures: int
    f_numbers: dict[str, int]
    focal_mm: dict[str, int]
    skipped: tuple[SkippedPicture, ...]


class StopShare(Record):
    """Pictures taken near a marked stop. ``share``: of those that tell their aperture, 0 to 1.

    ``usual``: often enough to count as an aperture one works at.
    """

    f_number: float
    pictures: int
    share: float
    usual: bool


class PictureHabits(Record):
    """At which stops a folder's pictures were taken. ``told``: how many tell their aperture;
    ``skipped``: how many could not be read.
    """

    pictures: int
    told: int
    skipped: int
    stops: tuple[StopShare, ...]


MARKED_STOPS = (1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0, 32.0)
USUAL_SHARE = 0.05
"""One picture in twenty: a rarer aperture would count dust that is hardly ever seen."""


def by_stop(habits: Habits) -> PictureHabits:
    """Counts at the nearest marked stop, from the first used to the last; none where none tells."""
    counts: Counter[float] = Counter()
    for value, count in habits.f_numbers.items():
        counts[min(MARKED_STOPS, key=lambda n: abs(math.log(n / float(value))))] += count
    told = counts.total()
    used = [n for n in MARKED_STOPS if min(counts, default=0) <= n <= max(counts, default=0)]
    return PictureHabits(
        pictures=habits.pictures,
        told=told,
        skipped=len(habits.skipped),
        stops=tuple(
            StopShare(
                f_number=n,
                pictures=counts[n],
                share=round(counts[n] / told, 4),
                usual=counts[n] >= USUAL_SHARE * told,
            )
            for n in used
        ),
    )


def count_habits(facts: Iterable[FrameFacts], skipped: Iterable[SkippedPicture]) -> Habits:
    """Count f-numbers, and focal lengths in millimetres; empty counts where no file tells."""
    f_numbers: Counter[float] = Counter()
    focal_mm: Counter[float] = Counter()
    pictures = 0
    for one in facts:
        pictures += 1
        if one.f_number:
            f_numbers[round(one.f_number, 2)] += 1
        if one.focal_length_mm:
            focal_mm[_millimetres(one.focal_length_mm)] += 1
    return Habits(
        pictures=pictures,
        f_numbers=_ascending(f_numbers),
        focal_mm=_ascending(focal_mm),
        skipped=tuple(skipped),
    )


def _millimetres(focal_mm: float) -> float:
    """Whole millimetres; of the short lenses of small cameras also tenths."""
    return round(focal_mm) if focal_mm >= 10 else round(focal_mm, 1)


def _ascending(counts: Counter[float]) -> dict[str, int]:
    return {f"{value:g}": counts[value] for value in sorted(counts)}
