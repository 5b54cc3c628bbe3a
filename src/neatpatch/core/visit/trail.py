"""The trail of a visit: frame, step, frame, step; and what of a frame is visible in the work."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from neatpatch.core.common.facts import (
    Item,
    Step,
)
from neatpatch.core.common.records import (
    Flag,
    FluidKind,
    Given,
    Number,
    Record,
    Spot,
    SpotMap,
    Whole,
)
from neatpatch.core.visit.body import VisitConditions

Verdict = Literal["finished", "deferred", "sent", "given_up"]


class StepUse(Given):
    """What a step used, as far as it was counted, and what may have made it streak.

    ``waited_s``: from the drops to the stroke. The room is that of the visit at the time.
    ``assumed``: nothing was counted; what stands here is the usual.
    """

    opening: Literal["down", "up"] | None = None
    runs: Whole | None = Field(default=None, ge=0, le=1000)
    puffs: Whole | None = Field(default=None, ge=0, le=10_000)
    dabs: Whole | None = Field(default=None, ge=0, le=1000)
    strokes: Whole | None = Field(default=None, ge=0, le=1000)
    swabs: Whole | None = Field(default=None, ge=0, le=100)
    drops: Number | None = Field(default=None, ge=0, le=100)
    tip_bent: Flag | None = None
    fluid: FluidKind | None = None
    item: Item | None = None
    waited_s: Number | None = Field(default=None, ge=0, le=3600)
    temperature_c: Number | None = Field(default=None, ge=-40, le=60)
    humidity_percent: Number | None = Field(default=None, ge=0, le=100)
    open_s: Number | None = Field(default=None, ge=0, le=1e6)
    note: str | None = Field(default=None, max_length=400)
    assumed: Flag | None = None


Explanation = Literal["", "session", "target"]
"""Why a frame has nothing in common with the one before it: the camera was cleaned or used in
between, or the marks are the target's. Empty: nobody was asked, or nobody answered."""


class TrailFrame(Record):
    """A frame on the trail; ``spot_map`` is None while it is being measured.

    ``explained``: the user's word where it has nothing in common with the frame before it.
    """

    id: int
    spot_map: SpotMap | None
    explained: Explanation = ""


class TrailStep(Record):
    """A step on the trail."""

    id: int
    step: Step
    use: StepUse = StepUse()


TrailEntry = TrailFrame | TrailStep


def usual_use(step: Step) -> StepUse:
    """What a step usually uses."""
    return {
        "auto_clean": StepUse(runs=5, opening="down"),
        "air": StepUse(puffs=15, opening="down"),
        "lift": StepUse(dabs=6),
        "dry_swab": StepUse(swabs=1, strokes=2),
        "wet_swab": StepUse(swabs=1, drops=2, strokes=2),
    }.get(step, StepUse())


def works_relevant(spot: Spot, works_at: float) -> bool:
    """Whether a spot shows at the smallest aperture worked at."""
    return spot.shows_from_f is not None and spot.shows_from_f <= works_at


def relevant_spots(spot_map: SpotMap, works_at: float) -> list[Spot]:
    """Spots that are, or may be, on the sensor and show at the apertures worked at."""
    return [s for shows_from_f, s in spot_map.showing if shows_from_f <= works_at]


def closing_words(
    verdict: Verdict, conditions: VisitConditions, steps: Sequence[TrailStep]
) -> tuple[str, ...]:
    """What to do on leaving the bench, in order."""
    words = []
    if any(e.step in ("wet_swab", "dry_swab", "dry_followup", "corner_swab") for e in steps):
        words.append("Bin every used swab now; none is used twice.")
    if conditions.mirror_up is True:
        words.append("Switch off, so that the mirror comes down.")
    words.append("Cap or lens on, the cap blown out first.")
    if verdict == "sent":
        words.append("Pack the body with its cap on; keep this map to compare when it is back.")
    return tuple(words)
