"""Frames to learn from: what is said to be there is there; the second frame shows what moves."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest

from neatpatch.simulation.lesson import (
    FLAWS,
    LESSON_CAMERA,
    MARK_KINDS,
    LessonMark,
    flawed_frame,
    flawed_shot,
    lesson_frame,
    lesson_marks,
)

SEEDS = range(60)


def contrast(picture: np.ndarray, mark: LessonMark, reach: int = 14) -> float:
    """How far the darkest or brightest of a mark stands off from its surroundings."""
    x, y = int(mark.x_px), int(mark.y_px)
    near = picture[max(0, y - reach) : y + reach + 1, max(0, x - reach) : x + reach + 1].astype(
        float
    )
    around = picture[max(0, y - 60) : y + 61, max(0, x - 60) : x + 61]
    return float(np.abs(near - np.median(around)).max())


def test_marks_of_every_kind_lie_apart_and_inside() -> None:
    kinds = set()
    for seed in SEEDS:
        marks = lesson_marks(seed)
        assert marks == lesson_marks(seed)
        assert 6 <= len(marks) <= 9
        kinds |= {m.kind for m in marks}
        for a, b in combinations(marks, 2):
            assert math.dist((a.x_px, a.y_px), (b.x_px, b.y_px)) > 120
        for m in marks:
            assert 0 < m.x_px < LESSON_CAMERA.width_px
            assert 0 < m.y_px < LESSON_CAMERA.height_px
    assert kinds == set(MARK_KINDS)


@pytest.mark.parametrize("seed", [3, 4])
def test_only_marks_of_the_wall_move_between_the_frames(seed: int) -> None:
    first, second = (lesson_frame(seed, second=s) for s in (False, True))
    assert np.array_equal(first, lesson_frame(seed, second=False))
    for m in lesson_marks(seed):
        if m.kind in ("residue", "droplet"):
            continue
        assert contrast(first, m) > 25
        assert (contrast(second, m) > 25) == (m.kind != "wall")


def test_frames_are_flawed_as_they_are_said_to_be() -> None:
    found = {flawed_shot(seed).flaw: seed for seed in SEEDS}
    assert set(found) == set(FLAWS)
    pictures = {flaw: flawed_frame(seed).astype(float) for flaw, seed in found.items()}
    middle = {flaw: float(np.median(p)) for flaw, p in pictures.items()}
    grain = {flaw: float(np.std(np.diff(p[..., 1], axis=1))) for flaw, p in pictures.items()}
    assert middle["too_bright"] == 255
    assert middle["too_dark"] < 40 < middle["none"] < 200
    assert grain["grainy"] > 3 * grain["none"]
    columns = {flaw: np.median(p[..., 1], axis=0) for flaw, p in pictures.items()}
    steps = {flaw: float(np.abs(c[60:] - c[:-60]).max()) for flaw, c in columns.items()}
    assert steps["window"] > 2 * steps["none"]
    assert flawed_shot(found["open_aperture"]).f_number < 8
    assert flawed_shot(found["none"]).f_number == 22
