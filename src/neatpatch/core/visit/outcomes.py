"""What a step did: never entered by hand, it follows from the frames before and after it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from neatpatch.core.common.facts import (
    Result,
    Step,
)
from neatpatch.core.common.records import (
    Record,
    SpotMap,
)
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison, without
from neatpatch.core.visit.trail import TrailEntry, TrailFrame, TrailStep, relevant_spots

_SAME_COUNT = 0.2
"""Counts within this are the same: faint spots come and go between frames."""
_STIRRED_SHARE = 0.4
"""So many elsewhere, and air only moved them; less calls ordinary arrivals stirring."""
_FEWER_SHARE = 0.05
"""Fewer than this went is no change."""


class StepOutcome(Record):
    """What a step did, by the frames around it."""

    tested: bool
    result: Result | None
    comparison: Comparison | None


Comparer = Callable[[TrailFrame, TrailFrame], Comparison]


def _compare_now(before: TrailFrame, after: TrailFrame) -> Comparison:
    assert before.spot_map is not None
    assert after.spot_map is not None
    return compare(before.spot_map, after.spot_map)


def step_outcomes(
    trail: Sequence[TrailEntry],
    works_at: float,
    comparer: Comparer = _compare_now,
    walls: Mapping[int, set[str]] | None = None,
) -> dict[int, StepOutcome]:
    """What each step did. A step is tested once a fit frame follows before the next step; a frame
    that is not fit blocks nothing.

    ``comparer`` lays two measured frames on each other; one that remembers saves doing it again.
    ``walls``: ids of the target's marks by entry, which no step moves: they count nowhere.
    """
    walls = walls or {}
    outcomes: dict[int, StepOutcome] = {}
    visible = {
        e.id: _visible(e.spot_map, works_at, walls.get(e.id, set()))
        for e in trail
        if isinstance(e, TrailFrame) and e.spot_map is not None
    }

    def own(before: TrailFrame, after: TrailFrame) -> Comparison:
        away = walls.get(before.id, set()), walls.get(after.id, set())
        return without(comparer(before, after), *away)

    before: TrailFrame | None = None
    waiting: TrailStep | None = None
    for entry in trail:
        if isinstance(entry, TrailStep):
            if waiting is not None:
                outcomes[waiting.id] = StepOutcome(tested=False, result=None, comparison=None)
            waiting = entry
        elif entry.spot_map is not None and entry.spot_map.fit:
            if waiting is not None:
                outcomes[waiting.id] = _outcome(waiting.step, before, entry, visible, own)
                waiting = None
            before = entry
    if waiting is not None:
        outcomes[waiting.id] = StepOutcome(tested=False, result=None, comparison=None)
    return outcomes


def _visible(spot_map: SpotMap, works_at: float, wall: set[str]) -> int:
    relevant = relevant_spots(spot_map, works_at)
    return len(relevant) - sum(s.id in wall for s in relevant) if wall else len(relevant)


def _outcome(
    step: Step,
    before: TrailFrame | None,
    after: TrailFrame,
    visible: Mapping[int, int],
    comparer: Comparer,
) -> StepOutcome:
    new = after.spot_map
    assert new is not None
    if before is None:
        return StepOutcome(tested=True, result="unknown", comparison=None)
    comparison = comparer(before, after)
    if not comparison.comparable:
        return StepOutcome(tested=True, result="unknown", comparison=comparison)
    return StepOutcome(
        tested=True,
        comparison=comparison,
        result=_result_of(step, comparison, new, (visible[before.id], visible[after.id])),
    )


def _result_of(
    step: Step, comparison: Comparison, after: SpotMap, visible: tuple[int, int]
) -> Result:
    """One word for what a step did; ``visible``: spots that matter before and after it."""
    old, new = visible
    if new == 0:
        return "cleared"
    names = {s.id: s for s in after.spots}
    fresh = [names[c.after] for c in comparison.spots if c.status == "new" and c.after in names]
    if step in ("wet_swab", "corner_swab") and any(s.kind == "residue" for s in fresh):
        return "streaks"
    elsewhere = len(fresh) + comparison.summary.moved
    if step == "air" and elsewhere >= _STIRRED_SHARE * old and new >= (1 - _SAME_COUNT) * old:
        return "stirred"
    if new > old * (1 + _SAME_COUNT / 2) + 1:
        return "worse"
    return "fewer" if new < old - max(1.0, _FEWER_SHARE * old) + 0.5 else "no_change"
