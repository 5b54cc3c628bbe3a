"""Apertures and focal lengths counted: all that tell, ascending, nothing made up."""

from __future__ import annotations

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.pictures.habits import by_stop, count_habits
from neatpatch.core.pictures.skipped import SkippedPicture


def shot(f_number: float | None, focal_mm: float | None = None) -> FrameFacts:
    return FrameFacts(
        format="JPEG", width_px=60, height_px=40, f_number=f_number, focal_length_mm=focal_mm
    )


def test_apertures_and_focal_lengths_are_counted_ascending() -> None:
    shots = [shot(8.0, 50.0), shot(5.6, 50.2), shot(8.0, 4.25), shot(None, 105.0), shot(11.0)]
    found = count_habits(shots, [SkippedPicture(path="torn.jpg", why="cut short")])
    assert found.pictures == 5
    assert list(found.f_numbers.items()) == [("5.6", 1), ("8", 2), ("11", 1)]
    assert list(found.focal_mm.items()) == [("4.2", 1), ("50", 2), ("105", 1)]
    assert found.skipped[0].path == "torn.jpg"
    assert found.model_dump(by_alias=True)["schema"] == "neatpatch.habits/1"


@given(st.lists(st.none() | st.floats(0.9, 45.0), max_size=30))
def test_every_picture_that_tells_counts_once(f_numbers: Sequence[float | None]) -> None:
    found = count_habits([shot(f) for f in f_numbers], [])
    assert found.pictures == len(f_numbers)
    assert sum(found.f_numbers.values()) == sum(f is not None for f in f_numbers)
    assert found.focal_mm == {}


def test_apertures_are_counted_at_the_nearest_marked_stop_and_rare_ones_are_not_usual() -> None:
    facts = [shot(2.8)] * 60 + [shot(7.1)] * 20 + [shot(9.0)] * 15 + [shot(22.0)] * 5
    found = by_stop(count_habits([*facts, shot(None)], []))
    assert (found.pictures, found.told) == (101, 100)
    assert {s.f_number: s.pictures for s in found.stops} == {
        **{2.8: 60, 4.0: 0, 5.6: 0},
        **{8.0: 35, 11.0: 0, 16.0: 0, 22.0: 5},
    }
    assert [s.f_number for s in found.stops if s.usual] == [2.8, 8.0, 22.0]
    assert sum(s.share for s in found.stops) == pytest.approx(1)


def test_pictures_that_tell_no_aperture_are_no_habit() -> None:
    found = by_stop(count_habits([shot(None)] * 3, []))
    assert (found.pictures, found.told, found.stops) == (3, 0, ())
