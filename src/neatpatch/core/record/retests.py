"""What each step of a visit did to each kind of spot."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from neatpatch.core.common.records import Kind, SpotMap
from neatpatch.core.history.odds import Retest
from neatpatch.core.maps.comparison import Comparison
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
            if waiting and before and found and found.comparable:
                rows += [
                    (waiting.id, Retest(body_id=body_id, step=waiting.step, kind=kind, **counts))
                    for kind, counts in _by_kind(found, before, entry.spot_map).items()
                ]
            waiting, before = None, entry.spot_map
    return rows


def _by_kind(found: Comparison, before: SpotMap, after: SpotMap) -> dict[Kind, dict[str, int]]:
    """Counts of each fate by kind: that of the spot before, or of the new one."""
    old, new = ({s.id: s for s in m.spots if s.site in _SITES} for m in (before, after))
    names = {"gone": "removed", "stayed": "stayed", "moved": "moved", "new": "new"}
    counts: Counter[tuple[Kind, str]] = Counter()
    for c in found.spots:
        spot = old.get(c.before or "") or new.get(c.after or "")
        if spot is not None:
            counts[spot.kind, names[c.status]] += 1
    kinds = {kind for kind, _ in counts}
    return {kind: {name: counts[kind, name] for name in names.values()} for kind in sorted(kinds)}
