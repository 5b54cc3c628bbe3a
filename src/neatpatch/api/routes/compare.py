"""Two frames compared."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.services.common.fingerprints import registration_between
from neatpatch.services.common.lookups import measured_map
from neatpatch.services.common.loss_fields import fields_between

router = APIRouter(prefix="/api")

_SIZE_BANDS_UM = (20, 50, 100)


class FrameComparison(BaseModel):
    """Two frames aligned, and how many of which zone, kind and size."""

    comparison: Comparison
    before: SpotMap
    after: SpotMap
    by_zone: dict[str, dict[str, int]]
    by_kind: dict[str, dict[str, int]]
    by_size: dict[str, dict[str, int]]


@router.get("/frames/{before_id}/against/{after_id}")
def compare_frames(
    before_id: Id,
    after_id: Id,
    library: LibraryDep,
    works_at: Annotated[float, Query(ge=0.7, le=64)] = 16.0,
) -> FrameComparison:
    """Lay two frames on each other: gone, stayed, moved, new."""
    before, after = (measured_map(library, i, works_at) for i in (before_id, after_id))
    with library.database.read() as connection:
        place = registration_between(connection, before_id, after_id)
        fields = fields_between(library, connection, before_id, after_id)
    found = compare(before, after, place, fields)
    return FrameComparison(
        comparison=found,
        before=before,
        after=after,
        by_zone=_tally(found, before, after, lambda s: s.zone),
        by_kind=_tally(found, before, after, lambda s: s.kind),
        by_size=dict(sorted(_tally(found, before, after, _size_words).items(), key=_by_band)),
    )


def _size_words(spot: Spot) -> str:
    """Which band of particle sizes a spot belongs to."""
    if spot.particle_um is None:
        return "size unknown"
    band = next((b for b in _SIZE_BANDS_UM if spot.particle_um < b), None)
    return f"over {_SIZE_BANDS_UM[-1]} µm" if band is None else f"under {band} µm"


_BANDS = [
    *(f"under {band} µm" for band in _SIZE_BANDS_UM),
    f"over {_SIZE_BANDS_UM[-1]} µm",
    "size unknown",
]


def _by_band(row: tuple[str, dict[str, int]]) -> int:
    """The smallest first."""
    return _BANDS.index(row[0])


def _tally(
    comparison: Comparison, before: SpotMap, after: SpotMap, group: Callable[[Spot], str]
) -> dict[str, dict[str, int]]:
    old, new = ({s.id: s for s in m.spots} for m in (before, after))
    table: dict[str, dict[str, int]] = {}
    for c in comparison.spots:
        spot = new[c.after] if c.after else old[c.before or ""]
        row = table.setdefault(group(spot), {})
        row[c.status] = row.get(c.status, 0) + 1
    return table
