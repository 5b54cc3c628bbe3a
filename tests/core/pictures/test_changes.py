"""What differs between a copy and its original: told places, and what is not told."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from neatpatch.core.pictures.changes import ToldWindow, changes

ORIGINAL = np.full((200, 300, 3), 120, np.uint8)


def disc(x: int, y: int, radius: int, by: int = 9) -> NDArray[Any]:
    rows, columns = np.mgrid[:200, :300]
    out = ORIGINAL.copy()
    out[np.hypot(columns - x, rows - y) <= radius] += np.uint8(by % 256)
    return out


def test_what_a_copy_tells_is_what_differs() -> None:
    found = changes(ORIGINAL, disc(80, 60, 10), [ToldWindow(80, 60, 23), ToldWindow(9, 9, 5)], 1)
    [place] = found.places
    assert (found.same_outside, found.told) == (True, True)
    assert (place.x_px, place.y_px, place.outer_px) == (80, 60, 21)
    assert place.changed_px == pytest.approx(np.pi * 100, rel=0.05)


def test_one_pixel_elsewhere_is_found_out() -> None:
    copy = disc(80, 60, 10)
    copy[150, 250, 1] += 1
    found = changes(ORIGINAL, copy, [ToldWindow(80, 60, 23)], 1)
    assert not found.same_outside
    assert (found.places[1].x_px, found.places[1].y_px) == (250, 150)
    assert not changes(ORIGINAL, copy, None, 1).same_outside


def test_a_block_of_a_coding_changes_as_a_whole() -> None:
    copy = ORIGINAL.copy()
    copy[48:64, 64:96] += 1
    told = [ToldWindow(80, 56, 7)]
    assert changes(ORIGINAL, copy, told, 16).same_outside
    assert not changes(ORIGINAL, copy, told, 1).same_outside


def test_of_a_copy_that_tells_nothing_round_places_that_became_lighter_pass() -> None:
    found = changes(ORIGINAL, disc(80, 60, 10), None, 1)
    assert (found.same_outside, found.told, len(found.places)) == (True, False, 1)
    assert not changes(ORIGINAL, disc(80, 60, 10, by=-9), None, 1).same_outside
    line = ORIGINAL.copy()
    line[100, 20:280] += 5
    assert not changes(ORIGINAL, line, None, 1).same_outside


def test_two_that_are_the_same_have_no_places() -> None:
    assert changes(ORIGINAL, ORIGINAL.copy(), None, 1).model_dump(by_alias=True) == {
        "schema": "neatpatch.verify/1",
        "same_outside": True,
        "told": False,
        "places": (),
    }
