"""Where a patched copy differs from its original, and whether nothing else does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from neatpatch.core.common.filters import Mask
from neatpatch.core.common.records import Record

_APART_PX = 6
"""Changed pixels no farther apart belong to one place: a faint rim changes some tones only."""
_LEAST_PX, _LONGEST = 12, 8.0
"""What is smaller, or more times longer than wide, is no shadow that was taken out."""
_LIGHTER = 0.9
"""Share of a place's pixels that are not darker, for light that was given back; grain and the
coding of a JPEG make some darker."""


class ChangedPlace(Record):
    """A changed place; pixels of the stored picture. ``changed_px``: how many pixels differ."""

    x_px: float
    y_px: float
    outer_px: float
    changed_px: int


class Verified(Record):
    """What differs between a copy and its original.

    ``same_outside``: nothing differs but the places where the copy says that light was given back;
    of a copy that says nothing, but round places that became lighter. ``told``: whether it says.
    """

    schema_: Literal["neatpatch.verify/1"] = Field("neatpatch.verify/1", alias="schema")
    same_outside: bool
    told: bool
    places: tuple[ChangedPlace, ...]

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


@dataclass(frozen=True)
class ToldWindow:
    """A square where a copy says it was changed: its middle and its side in pixels."""

    x_px: float
    y_px: float
    side_px: float


def changes(
    original: NDArray[Any], copy: NDArray[Any], told: Sequence[ToldWindow] | None, block_px: int
) -> Verified:
    """Compare tones (height, width) or (height, width, channels) of one shape.

    ``told``: what the copy says; None where it says nothing. ``block_px``: side of the squares that
    its coding changes as a whole, 1 for none.
    """
    differs = original != copy
    mask = np.asarray(differs.any(axis=2) if differs.ndim == 3 else differs, np.bool_)
    if told is None:
        return _untold(mask, original, copy)
    inside = np.zeros(mask.shape, np.bool_)
    places = []
    for window in told:
        box = _box(window, mask.shape, block_px)
        inside[box] = True
        place = _place(mask[box], box[1].start, box[0].start)
        if place is not None:
            places.append(place)
    strays = [p for p, _ in _found(mask & ~inside)]
    return Verified(same_outside=not strays, told=True, places=(*places, *strays))


def _untold(mask: Mask, original: NDArray[Any], copy: NDArray[Any]) -> Verified:
    found = _found(mask)
    alike = all(
        _is_shadow(place) and _became_lighter(original[box], copy[box]) for place, box in found
    )
    return Verified(same_outside=alike, told=False, places=tuple(place for place, _ in found))


Box = tuple[slice, slice]


def _box(window: ToldWindow, shape: tuple[int, ...], block_px: int) -> Box:
    """The window grown to whole blocks, within the picture."""
    sides = []
    for middle, most in ((window.y_px, shape[0]), (window.x_px, shape[1])):
        first = int(np.floor(middle - window.side_px / 2)) // block_px * block_px
        last = -(-int(np.ceil(middle + window.side_px / 2 + 1)) // block_px) * block_px
        # Colours that are stored coarser spread one pixel more when they are made finer again.
        room = 0 if block_px == 1 else 1
        sides.append(slice(max(0, first - room), min(most, max(0, last + room))))
    return sides[0], sides[1]


def _found(mask: Mask) -> list[tuple[ChangedPlace, Box]]:
    """Places of changed pixels that lie together."""
    if not mask.any():
        return []
    kernel = np.ones((2 * _APART_PX + 1,) * 2, np.uint8)
    grown = cv2.dilate(mask.astype(np.uint8), kernel)
    count, _, boxes, _ = cv2.connectedComponentsWithStats(grown, connectivity=8)
    found = []
    for left, top, wide, high, _ in boxes[1:count]:
        box = np.s_[int(top) : int(top + high), int(left) : int(left + wide)]
        place = _place(mask[box], int(left), int(top))
        if place is not None:
            found.append((place, box))
    return found


def _place(mask: Mask, left: int, top: int) -> ChangedPlace | None:
    y, x = np.nonzero(mask)
    if not len(x):
        return None
    return ChangedPlace(
        x_px=round(left + float(x.mean()), 1),
        y_px=round(top + float(y.mean()), 1),
        outer_px=float(max(np.ptp(x), np.ptp(y)) + 1),
        changed_px=len(x),
    )


def _is_shadow(place: ChangedPlace) -> bool:
    wide_enough = place.changed_px >= _LEAST_PX
    return wide_enough and place.changed_px * _LONGEST >= place.outer_px**2 / 4


def _became_lighter(original: NDArray[Any], copy: NDArray[Any]) -> bool:
    change = copy.astype(np.int32) - original.astype(np.int32)
    touched = change[change != 0]
    return bool((touched > 0).mean() >= _LIGHTER)
