"""The life of each spot of a camera, over all its visits: first seen, moved, gone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from neatpatch.core.common.records import Record, SpotMap
from neatpatch.core.compare.comparison import ComparedSpot, Comparison

Seen = Literal["first", "new", "stayed", "moved", "gone"]
"""``first``: no frame before could have told; ``new``: the one before does not show it."""
_SITES = ("sensor", "unsure")


class FrameLink(Record):
    """A fit frame, and what became of the spots since the fit frame before it.

    ``before_id`` is None where nothing lays it on an earlier one. ``fates``: the spot before, the
    spot here, what became of it.
    """

    frame_id: int
    before_id: int | None
    fates: tuple[tuple[str | None, str | None, Seen], ...]


@dataclass(frozen=True, slots=True)
class Sighting:
    """What a frame showed of a spot; ``spot`` is its id there, None once it is gone."""

    frame_id: int
    spot: str | None
    seen: Seen


@dataclass(frozen=True, slots=True)
class SpotHistory:
    """One spot through all frames, the oldest first. A life that does not end with ``gone`` and
    not in the newest frame was lost from sight: a later frame could not have shown it.
    """

    sightings: tuple[Sighting, ...]


def link_of(
    frame_id: int, spot_map: SpotMap, before_id: int | None, found: Comparison | None
) -> FrameLink:
    """A frame linked to the one before; ``found``: the two compared, None where there is none."""
    if before_id is None or found is None or not found.comparable:
        here = [s.id for s in spot_map.spots if s.site in _SITES]
        return FrameLink(
            frame_id=frame_id, before_id=None, fates=tuple((None, i, "first") for i in here)
        )
    return FrameLink(
        frame_id=frame_id,
        before_id=before_id,
        fates=tuple(fate for c in found.spots if (fate := _fate_of(c)) is not None),
    )


def _fate_of(c: ComparedSpot) -> tuple[str | None, str | None, Seen] | None:
    """A row as a link holds it; None for what is lost from sight, found in the later frame neither
    by a spot nor as gone.
    """
    if c.after is None:
        return (c.before, None, "gone") if c.status == "gone" else None
    if c.before is None:
        return (None, c.after, "new" if c.status == "new" else "first")
    return (c.before, c.after, "moved" if c.status == "moved" else "stayed")


def histories_of_spots(links: Sequence[FrameLink]) -> list[SpotHistory]:
    """Lives chained through the frames of a camera, the oldest frame first; none gives none."""
    lives: list[list[Sighting]] = []
    running: dict[tuple[int | None, str], list[Sighting]] = {}
    for link in links:
        for before, here, seen in link.fates:
            life = running.pop((link.before_id, before), None) if before is not None else None
            if life is None:
                if here is None:
                    continue
                lives.append(life := [])
                seen = "new" if seen == "new" else "first"
            life.append(Sighting(link.frame_id, here, seen))
            if here is not None:
                running[link.frame_id, here] = life
    return [SpotHistory(tuple(life)) for life in lives]
