"""What each step of a visit did to each kind of spot."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from neatpatch.core.common.records import Kind, SpotMap
from neatpatch.core.compare.comparison import Comparison, Status
from neatpatch.core.compare.refusals import reasons_not_to_compare
from neatpatch.core.stats.odds import Retest
from neatpatch.core.visit.outcomes import StepOutcome
from neatpatch.core.visit.trail import TrailEntry, TrailFrame, TrailStep

_SITES = ("sensor", "unsure")


def retests_of(
    trail: Sequence[TrailEntry], outcomes: Mapping[int, StepOutcome], body_id: int
) -> list[tuple[int, Retest]]:
    """One row for each step and kind that comparable frames tell of, with the step's entry."""
    rows: list[tuple[int, Retest]] = []
    before: SpotMap | None = None
    waiting: TrailStep | None = None
    for entry in trail:
        if isinstance(entry, TrailStep):
            waiting = entry
        elif isinstance(entry, TrailFrame) and entry.spot_map and entry.spot_map.fit:
            outcome = outcomes.get(waiting.id) if waiting else None
            found = outcome.comparison if outcome else None
            counted = None
            if waiting and before and found and found.comparable:
                counted = _by_kind(found, before, entry.spot_map)
            elif waiting and before and found and nothing_left(found, before, entry.spot_map):
                counted = _all_removed(before)
            if waiting and counted:
                rows += [
                    (waiting.id, Retest(body_id=body_id, step=waiting.step, kind=kind, **counts))
                    for kind, counts in counted.items()
                ]
            waiting, before = None, entry.spot_map
    return rows


def nothing_left(found: Comparison, before: SpotMap, after: SpotMap) -> bool:
    """A frame without any spot needs no place on the one before: wherever it lies, all went.

    Only where nothing else speaks against the two: sensors, apertures, sizes of the frames.
    """
    old, new = before.frames[0], after.frames[0]
    return (
        found.same_sensor is not False
        and not any(s.site in _SITES for s in after.spots)
        and not reasons_not_to_compare(before, after)
        and {old.width_px, old.height_px} == {new.width_px, new.height_px}
    )


def _all_removed(before: SpotMap) -> dict[Kind, dict[str, int]]:
    kinds = Counter(s.kind for s in before.spots if s.site in _SITES)
    return {
        kind: {"removed": kinds[kind], "stayed": 0, "moved": 0, "new": 0} for kind in sorted(kinds)
    }


def _by_kind(found: Comparison, before: SpotMap, after: SpotMap) -> dict[Kind, dict[str, int]]:
    """Counts of each fate by kind: that of the spot before, or of the new one.

    What neither frame decides counts for nothing.
    """
    old, new = ({s.id: s for s in m.spots if s.site in _SITES} for m in (before, after))
    names: dict[Status, str] = {
        "gone": "removed",
        "stayed": "stayed",
        "fainter": "stayed",
        "moved": "moved",
        "new": "new",
    }
    counts: Counter[tuple[Kind, str]] = Counter()
    for c in found.spots:
        spot = old.get(c.before or "") or new.get(c.after or "")
        if spot is not None and c.status in names:
            counts[spot.kind, names[c.status]] += 1
    kinds = {kind for kind, _ in counts}
    told = dict.fromkeys(names.values())
    return {kind: {name: counts[kind, name] for name in told} for kind in sorted(kinds)}
