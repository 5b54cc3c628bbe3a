"""Whether the marks are on the sensor: what keeps its place while the target changes is.

Frames of a visit prove it by themselves: two without a step between them, or those around a step
that touched nothing. What stays at its photosites while the camera moved is on the sensor, what
travels belongs to the target. A pair from one place, as on a tripod, proves nothing. Where nearly
nothing keeps its place, nothing is concluded: it may be another camera, another session or the
target, and only the user can say which.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from neatpatch.core.common.records import Record, Spot, SpotMap
from neatpatch.core.common.words import counted
from neatpatch.core.compare.comparing_maps import marks_of
from neatpatch.core.compare.comparison import STILL_THERE, Comparison
from neatpatch.core.compare.refusals import NOTHING_IN_COMMON
from neatpatch.core.compare.spot_alignment import align_by_spots
from neatpatch.core.visit.outcomes import Comparer
from neatpatch.core.visit.trail import TrailEntry, TrailFrame, TrailStep, relevant_spots

_MUST_SHOW_SNR = 12.0
"""Fainter marks may be missed in the other frame, and are no one's for that."""
_ENOUGH = 0.6
"""Share of the visible spots that must keep their place; the rest may have come since."""
_MOST_SHIFT = 0.015
"""Of the frame's diagonal: frames laid by their marks alone that lie farther apart than a lens
moves its shadows were laid by the marks of the target."""
_ELSEWHERE = ("gone", "new", "moved")
_TOGETHER_PX = 8.0
"""Marks of a target agree so well in two frames; a little perspective is allowed for."""
_MANY = 4
"""So many gone and so many like them new are hardly dust that moved."""

_CHANCE_PAIRS = 2
"""Between unlike frames of some hundred marks so many fall on each other by chance."""
_CHANCE_SHARE = 0.1
"""Of the marks of the poorer frame, likewise; a camera used for a year keeps far more."""
_FEW = 4
"""Below so many marks a single one that keeps its place is more than chance."""

State = Literal[
    "one_frame", "not_moved", "not_measured", "unproved", "proved", "nothing", "unexplained"
]
Moved = Callable[[TrailFrame, TrailFrame], bool | None]
"""Whether the camera moved between two frames."""
Travelled = tuple[set[str], set[str]]
"""Ids of spots in the earlier and in the later of two frames."""
Travelling = Callable[[TrailFrame, TrailFrame, Comparison], Travelled]


class PlaceFinding(Record):
    """What the frames of a visit tell of the newest one's marks.

    ``on_sensor``, ``wall``: ids of its spots that are proved to be on the sensor, and that belong
    to the target. ``words``: the finding as a sentence. ``unexplained``: the entries of the two
    frames that have nothing in common, the earlier first, while the user has not said why.
    ``hidden``: by the user's word the newest frame's marks are the target's, so what lies on the
    sensor is not known.
    """

    state: State
    words: str
    on_sensor: tuple[str, ...] = ()
    wall: tuple[str, ...] = ()
    unexplained: tuple[int, int] | None = None
    hidden: bool = False

    @property
    def proved(self) -> bool | None:
        """None where there is nothing to prove."""
        return None if self.state == "nothing" else self.state == "proved"


@dataclass
class FrameSpots:
    """What is known of one frame's spots: ids of those on the sensor, and of the target's."""

    kept: set[str] = field(default_factory=set)
    wall: set[str] = field(default_factory=set)


@dataclass
class FrameRelations:
    """What the frames of a trail tell of each other, by entry. ``newest``: the last fit one.

    ``pairs``: how many could be aligned. ``moved``: the camera, before the newest.
    ``unexplained``: the newest two frames have nothing in common, and the user has not said why.
    """

    frames: dict[int, FrameSpots] = field(default_factory=dict)
    newest: TrailFrame | None = None
    pairs: int = 0
    moved: bool | None = None
    unexplained: tuple[int, int] | None = None

    @property
    def walls(self) -> dict[int, set[str]]:
        """Ids of the target's marks, by entry."""
        return {entry: known.wall for entry, known in self.frames.items()}


def relate_frames(
    trail: Sequence[TrailEntry],
    comparer: Comparer,
    moved: Moved,
    travelling: Travelling | None = None,
) -> FrameRelations:
    """Lay the fit frames of a trail on each other, one after the other.

    ``travelling``: `moved_as_one` from a memory.
    """
    travelling = travelling or moved_as_one
    found = FrameRelations()
    stepped = False
    for entry in trail:
        if isinstance(entry, TrailStep):
            stepped = True
        elif entry.spot_map is not None and entry.spot_map.fit:
            own = found.frames[entry.id] = _in_series(entry.spot_map)
            before = found.newest
            found.unexplained = None
            if before is not None:
                found.moved = moved(before, entry)
                comparison = comparer(before, entry)
                pair = _Pair(before, entry, stepped, found.moved)
                as_one = travelling(before, entry, comparison)
                if _have_nothing_in_common(pair, comparison, as_one):
                    if not entry.explained:
                        found.unexplained = before.id, entry.id
                elif comparison.comparable and _laid_by_sensor(pair, comparison):
                    _carry(pair, comparison, as_one, found.frames[before.id], own)
                found.pairs += comparison.comparable
            elif len(entry.spot_map.frames) > 1:
                found.moved, found.pairs = entry.spot_map.moved, 1
            found.newest, stepped = entry, False
    return found


def find_place(known: FrameRelations, works_at: float) -> PlaceFinding | None:
    """Judge the newest fit frame by what is known; None without one."""
    frame = known.newest
    if frame is None:
        return None
    if known.unexplained is not None:
        return PlaceFinding(state="unexplained", words=_UNEXPLAINED, unexplained=known.unexplained)
    if frame.explained == "target" and _plain_marks(frame):
        return PlaceFinding(state="unproved", words=_TARGET_HIDES, hidden=True)
    return _finding(frame, known.frames[frame.id], works_at, (known.pairs, known.moved))


_UNEXPLAINED = (
    "The last two frames have nothing in common, and no step lies between them. Say first why: "
    "another camera, the camera cleaned or used in between, or marks of the target."
)
_TARGET_HIDES = (
    "Marks of the target hide what is on the sensor. Shoot one more frame of a blank, even target, "
    "the camera moved."
)


def _have_nothing_in_common(pair: _Pair, comparison: Comparison, as_one: Travelled) -> bool:
    """Whether no more marks keep their place than by chance, with no step to explain it.

    Marks that travel as one are a target's and speak neither way. Frames that must not be compared
    for another reason (aperture, fitness) are not judged here.
    """
    if pair.stepped or not (comparison.comparable or comparison.why_not == (NOTHING_IN_COMMON,)):
        return False
    before = set() if pair.before.explained == "target" else _plain_marks(pair.before) - as_one[0]
    after = _plain_marks(pair.after) - as_one[1]
    same = [s for s in comparison.spots if s.before and s.after]
    kept = sum(1 for s in same if s.before in before or s.after in after)
    most = max(len(before), len(after))
    by_chance = max(_CHANCE_PAIRS, _CHANCE_SHARE * min(len(before), len(after)))
    return most > 0 and kept <= (0 if most < _FEW else by_chance)


def _plain_marks(frame: TrailFrame) -> set[str]:
    """Ids of the marks that any frame of this sensor would show again."""
    assert frame.spot_map is not None
    return {
        s.id
        for s in frame.spot_map.spots
        if s.site in ("sensor", "unsure") and s.snr >= _MUST_SHOW_SNR
    }


def _in_series(spot_map: SpotMap) -> FrameSpots:
    """What a frame that was measured with others proves by itself."""
    if spot_map.moved is not True:
        return FrameSpots()
    return FrameSpots(
        kept={s.id for s in spot_map.spots if s.seen_in > 1},
        wall={s.id for s in spot_map.spots if s.site == "scene"},
    )


@dataclass(frozen=True)
class _Pair:
    """Two frames in a row. ``stepped``: a step lies between them."""

    before: TrailFrame
    after: TrailFrame
    stepped: bool
    moved: bool | None


def _carry(
    pair: _Pair, comparison: Comparison, as_one: Travelled, old: FrameSpots, new: FrameSpots
) -> None:
    """Add to what is known of both frames: what stayed known, and what the pair shows."""
    went, came = as_one
    proved = pair.moved is True or bool(went)
    says = bool(proved or old.kept or old.wall)
    for s in comparison.spots if says else ():
        if s.after is None:
            continue
        if s.status in STILL_THERE and (proved or s.before in old.kept):
            new.kept.add(s.after)
        elif s.status in STILL_THERE and s.before in old.wall:
            new.wall.add(s.after)
        elif s.status == "moved" and s.before in old.kept:
            new.kept.add(s.after)
    if not pair.stepped and pair.moved is True:
        apart = [s for s in comparison.spots if s.status in _ELSEWHERE]
        went = {s.id for s in _spots(pair.before, {s.before for s in apart})}
        came = {s.id for s in _spots(pair.after, {s.after for s in apart})}
    new.wall |= came - new.kept
    old.wall |= went - old.kept


def _laid_by_sensor(pair: _Pair, comparison: Comparison) -> bool:
    """The frames lie on each other by the sensor, not by the marks of a target that moved."""
    if comparison.same_sensor:
        return True
    assert pair.after.spot_map is not None
    record = pair.after.spot_map.frames[0]
    x, y = comparison.alignment.shift_px
    return math.hypot(x, y) <= _MOST_SHIFT * math.hypot(record.width_px, record.height_px)


def moved_as_one(before: TrailFrame, after: TrailFrame, comparison: Comparison) -> Travelled:
    """Ids in the earlier and in the later frame of what moved as one: a target."""
    assert before.spot_map is not None
    assert after.spot_map is not None
    apart = [s for s in comparison.spots if s.status in _ELSEWHERE]
    gone = _spots(before, {s.before for s in apart})
    new = _spots(after, {s.after for s in apart})
    if min(len(gone), len(new)) < _MANY:
        return set(), set()
    frames = before.spot_map.frames[0], after.spot_map.frames[0]
    shapes = tuple((f.height_px, f.width_px) for f in frames)
    alignment = align_by_spots(marks_of(gone), marks_of(new), (shapes[0], shapes[1]))
    if not alignment.proven:
        return set(), set()
    off = alignment.alignment.apply(marks_of(gone).places)[:, None] - marks_of(new).places[None]
    apart_px = np.hypot(off[..., 0], off[..., 1])
    together = np.argwhere(apart_px < _TOGETHER_PX)
    return {gone[i].id for i in together[:, 0]}, {new[j].id for j in together[:, 1]}


def _spots(entry: TrailFrame, ids: set[str | None]) -> list[Spot]:
    assert entry.spot_map is not None
    return [s for s in entry.spot_map.spots if s.id in ids and s.snr >= _MUST_SHOW_SNR]


def _finding(
    frame: TrailFrame, known: FrameSpots, works_at: float, seen: tuple[int, bool | None]
) -> PlaceFinding:
    assert frame.spot_map is not None
    pairs, moved = seen
    visible = [s for s in relevant_spots(frame.spot_map, works_at) if s.id not in known.wall]
    kept = [s for s in visible if s.id in known.kept]
    wall = sum(1 for s in frame.spot_map.spots if s.id in known.wall)
    beside = f" {counted(wall, 'mark belongs', 'marks belong')} to the target." if wall else ""
    state, words = _state(len(visible), len(kept), pairs, moved)
    return PlaceFinding(
        state=state,
        words=words + beside,
        on_sensor=tuple(sorted(known.kept - known.wall)),
        wall=tuple(sorted(known.wall)),
    )


def _state(visible: int, kept: int, pairs: int, moved: bool | None) -> tuple[State, str]:
    if not visible:
        return "nothing", "No visible spot has a place to prove."
    if kept >= _ENOUGH * visible:
        spots = "spot keeps its place" if kept == 1 else "spots keep their place"
        return "proved", f"On the sensor: {kept} of {visible} {spots} while the target changes."
    if not pairs:
        return (
            "one_frame",
            "One frame does not prove that these marks are on the sensor. One more, the camera "
            "moved in between, does.",
        )
    if moved is False:
        return (
            "not_moved",
            "The camera was not moved between the last two frames, so they prove nothing about "
            "the place. Shoot one more from elsewhere.",
        )
    if moved is None:
        return (
            "not_measured",
            "Whether the camera moved between the last two frames cannot be told. Shoot one more "
            "with the same lens and aperture from elsewhere.",
        )
    return (
        "unproved",
        f"Only {kept} of {visible} spots kept their place; the others came since, or belong to the "
        "target. Shoot one more frame, the camera moved.",
    )
