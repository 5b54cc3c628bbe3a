"""What comparing two frames gives: each spot's fate, the alignment, the counts."""

from __future__ import annotations

from typing import Literal, get_args

from pydantic import ConfigDict, Field

from neatpatch.core.common.records import Record

Status = Literal["gone", "stayed", "moved", "new", "fainter", "unseen"]


STILL_THERE: tuple[Status, ...] = ("stayed", "fainter")


class ComparedSpot(Record):
    """One thing in both frames, or in one. Pixels are the later frame's.

    ``may_be``: of what is gone or new, the spot of the other frame that it may have moved to or
    from, where that is likelier than not but not sure. Depths are shares of the light lost, each
    with one standard error, found there or measured at the place; None where a frame tells none.
    ``fainter``: still there, less deep beyond its errors. ``unseen``: neither frame decides.
    """

    status: Status
    before: str | None
    after: str | None
    x_px: float
    y_px: float
    moved_um: float | None
    may_be: str | None = None
    depth_before: float | None = None
    depth_before_error: float | None = None
    depth_after: float | None = None
    depth_after_error: float | None = None


class FingerprintRecord(Record):
    """Agreement of the two sensors' own patterns, and what chance exceeds once in a million."""

    strength: float
    limit: float


class AlignmentRecord(Record):
    """``later = centre + scale * (1 + radial * rho^2) * turned(earlier - centre) + shift``.

    In the later frame's pixels; ``rho`` is the distance from the sensor's centre over half its
    diagonal; ``turn_deg`` is counter-clockwise, in quarter turns.
    """

    scale: float
    shift_px: tuple[float, float]
    radial: float = 0.0
    turn_deg: int = 0
    residual_px: float


class ComparisonSummary(Record):
    """Counts; ``removed_percent`` is the share of the earlier spots that are gone.

    ``unseen``: places that neither frame decides, counted nowhere else.
    """

    before: int
    after: int
    gone: int
    stayed: int
    moved: int
    new: int
    fainter: int = 0
    removed_percent: float
    unseen: int = 0

    @property
    def told(self) -> int:
        """Spots that were there before and whose fate is told: those of which some are removed."""
        return self.gone + self.stayed + self.fainter + self.moved


class Comparison(Record):
    """Two frames aligned."""

    schema_: Literal["neatpatch.compare/1"] = Field("neatpatch.compare/1", alias="schema")
    comparable: bool
    why_not: tuple[str, ...]
    same_sensor: bool | None = None
    fingerprint: FingerprintRecord = FingerprintRecord(strength=0.0, limit=0.0)
    alignment: AlignmentRecord
    spots: tuple[ComparedSpot, ...]
    summary: ComparisonSummary

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


def without(comparison: Comparison, before: set[str], after: set[str]) -> Comparison:
    """A comparison with spots of either frame, by their ids, left out of its figures."""
    if not (before or after) or not comparison.comparable:
        return comparison
    spots = tuple(s for s in comparison.spots if s.before not in before and s.after not in after)
    left = [s for s in comparison.spots if s not in spots]
    count = {name: sum(s.status == name for s in spots) for name in get_args(Status)}
    old = comparison.summary
    earlier = old.before - sum(s.before is not None for s in left)
    gone = 100 * count["gone"] / earlier if earlier else 0.0
    summary = ComparisonSummary(
        before=earlier,
        after=old.after - sum(s.after is not None for s in left),
        removed_percent=round(gone, 1),
        **count,
    )
    return comparison.model_copy(update={"spots": spots, "summary": summary})
