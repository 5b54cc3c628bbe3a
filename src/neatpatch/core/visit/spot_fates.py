"""What became of each spot along a trail: when it was first seen, and what each step did to it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Record
from neatpatch.core.compare.comparison import Comparison, Status
from neatpatch.core.visit.trail import TrailEntry, TrailFrame, TrailStep


class Fate(Record):
    """What a later frame showed of a spot. ``entry``: that frame's on the trail; ``steps``: what
    was done between it and the frame before.
    """

    entry: int
    steps: tuple[Step, ...]
    status: Status


class SpotTrail(Record):
    """One spot along a trail. ``first``: the entry of the frame that showed it first; ``traced``:
    that frame could be laid on an earlier one, which did not show it.
    """

    first: int
    traced: bool
    fates: tuple[Fate, ...]


class _OpenTrail:
    def __init__(self, first: int, *, traced: bool) -> None:
        self.first, self.traced = first, traced
        self.fates: list[Fate] = []

    def record(self) -> SpotTrail:
        return SpotTrail(first=self.first, traced=self.traced, fates=tuple(self.fates))


def spot_trails(
    trail: Sequence[TrailEntry], comparer: Callable[[TrailFrame, TrailFrame], Comparison]
) -> dict[int, Mapping[str, SpotTrail]]:
    """Lives of the spots of every fit frame, by the frame's entry and the spot's id.

    Where two frames cannot be compared, all
    spots of the later one count as seen first there, untraced.
    """
    lives: dict[int, dict[str, _OpenTrail]] = {}
    before: TrailFrame | None = None
    steps: list[Step] = []
    for entry in trail:
        if isinstance(entry, TrailStep):
            steps.append(entry.step)
            continue
        if entry.spot_map is None or not entry.spot_map.fit:
            continue
        found = None if before is None else comparer(before, entry)
        if before is not None and found is not None and found.comparable:
            lives[entry.id] = _carried(lives[before.id], found, entry.id, tuple(steps))
        else:
            lives[entry.id] = {
                s.id: _OpenTrail(entry.id, traced=False) for s in entry.spot_map.spots
            }
        before, steps = entry, []
    return {
        entry_id: {spot: life.record() for spot, life in of_frame.items()}
        for entry_id, of_frame in lives.items()
    }


def _carried(
    earlier: Mapping[str, _OpenTrail], found: Comparison, entry_id: int, steps: tuple[Step, ...]
) -> dict[str, _OpenTrail]:
    """Lives of a later frame's spots: those carried on, and those that begin there."""
    here: dict[str, _OpenTrail] = {}
    for spot in found.spots:
        life = earlier.get(spot.before) if spot.before is not None else None
        if life is None:
            life = _OpenTrail(entry_id, traced=spot.status == "new")
        else:
            life.fates.append(Fate(entry=entry_id, steps=steps, status=spot.status))
        if spot.after is not None:
            here[spot.after] = life
    return here
