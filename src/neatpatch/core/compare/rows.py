"""The rows of a comparison: one thing, its fate, and its depth in both frames."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.records import Spot
from neatpatch.core.compare.comparison import ComparedSpot, Status
from neatpatch.core.compare.places import Depth

Floats = NDArray[np.float64]
_DEPTH_NOISE, _DEPTH_MODEL = 1.3, 0.02
"""Error of a depth over its noise, and of a clear one: blur, outline and background."""
_FAINTER, _FAINTER_ERRORS = 0.75, 4.0
"""Less of this is told as fainter; another focus or lens takes a tenth."""


def error_of(spot: Spot) -> float:
    """One standard error of a found spot's depth."""
    return math.hypot(_DEPTH_NOISE * spot.depth / max(spot.snr, 1.0), _DEPTH_MODEL * spot.depth)


def own_depth(spot: Spot) -> Depth:
    """A found spot's depth, as a share of the light, with its error."""
    return Depth(spot.depth, error_of(spot))


def depths_of(before: Depth | None, after: Depth | None) -> dict[str, float | None]:
    """Both depths and their errors as a row holds them."""
    return {
        "depth_before": None if before is None else round(before.value, 5),
        "depth_before_error": None if before is None else round(before.error, 5),
        "depth_after": None if after is None else round(after.value, 5),
        "depth_after_error": None if after is None else round(after.error, 5),
    }


def is_fainter(expected: Depth, found: Depth) -> bool:
    """Still there, and less deep beyond what errors and another shape make of it."""
    error = math.hypot(expected.error, found.error)
    return (
        found.value < _FAINTER * expected.value
        and expected.value - found.value > _FAINTER_ERRORS * error
    )


def kept_spot(a: Spot, b: Spot, deeper: float) -> ComparedSpot:
    """A row of what both frames show; ``deeper``: how much deeper the later one draws it."""
    was, now = own_depth(a), own_depth(b)
    expected = Depth(was.value * deeper, was.error * deeper)
    return ComparedSpot(
        status="fainter" if is_fainter(expected, now) else "stayed",
        before=a.id,
        after=b.id,
        x_px=b.x_px,
        y_px=b.y_px,
        moved_um=None,
        **depths_of(was, now),
    )


def unfound_spot(status: Status, a: Spot, at: Floats, found: Depth | None) -> ComparedSpot:
    """A row of an earlier spot that the later frame has no spot; ``at``: its place there."""
    return ComparedSpot(
        status=status,
        before=a.id,
        after=None,
        x_px=round(float(at[0]), 3),
        y_px=round(float(at[1]), 3),
        moved_um=None,
        **depths_of(own_depth(a), found),
    )


def moved_spot(a: Spot, b: Spot, at: Floats, pitch_um: float | None) -> ComparedSpot:
    """A row of what left one place for another; ``at``: where it was (pixels)."""
    distance = math.hypot(b.x_px - at[0], b.y_px - at[1])
    return ComparedSpot(
        status="moved",
        before=a.id,
        after=b.id,
        x_px=b.x_px,
        y_px=b.y_px,
        moved_um=None if pitch_um is None else round(distance * pitch_um, 1),
        **depths_of(own_depth(a), own_depth(b)),
    )


def removed_spot(a: Spot, at: Floats, may_be: str | None, left: Depth | None) -> ComparedSpot:
    """A row of what the later frame denies; ``left``: what that holds at the place."""
    return ComparedSpot(
        status="gone",
        before=a.id,
        after=None,
        moved_um=None,
        x_px=round(float(at[0]), 3),
        y_px=round(float(at[1]), 3),
        may_be=may_be,
        **depths_of(own_depth(a), left),
    )


def new_spot(b: Spot, may_be: str | None, was: Depth | None) -> ComparedSpot:
    """A row of what the earlier frame denies; ``was``: what that holds at the place."""
    return ComparedSpot(
        status="new",
        before=None,
        after=b.id,
        x_px=b.x_px,
        y_px=b.y_px,
        moved_um=None,
        may_be=may_be,
        **depths_of(was, own_depth(b)),
    )
