"""A first look at a folder: the test frame nearest in time, on the safe side of a cleaning."""

from __future__ import annotations

import pytest

from neatpatch.services.pictures.folder_glance import nearest_map
from neatpatch.services.pictures.sets import MapChoice


def choice(frame_id: int, taken_at: str | None, *, fit: bool = True) -> MapChoice:
    return MapChoice(
        frame_id=frame_id, name="f", taken_at=taken_at, count=9, fit=fit, begins_visit=True
    )


MAPS = [
    choice(3, "2026-09-01T10:00:00"),
    choice(1, "2026-03-01T10:00:00"),
    choice(2, "2026-06-01T10:00:00"),
    choice(4, "2026-06-02T10:00:00", fit=False),
    choice(5, None),
]


@pytest.mark.parametrize(
    ("last_taken", "frame_id"),
    [
        ("2026-05-01T12:00:00", 2),
        ("2026-06-01T10:00:00", 2),
        ("2026-06-01T12:00:00", 3),
        ("2026-01-01T12:00:00", 1),
        ("2026-12-01T12:00:00", 3),
        (None, None),
    ],
)
def test_the_first_fit_frame_after_the_pictures_serves(
    last_taken: str | None, frame_id: int | None
) -> None:
    assert nearest_map(MAPS, last_taken) == frame_id


def test_without_a_dated_frame_none_is_chosen() -> None:
    assert nearest_map([choice(5, None)], "2026-05-01T12:00:00") is None
    assert nearest_map([], "2026-05-01T12:00:00") is None
