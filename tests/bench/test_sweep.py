"""The wide sweep draws what it says, the same again for the same seed, and can be measured."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from bench.sweep import measure, recipes


def test_the_same_seed_draws_the_same_frames_within_the_ranges() -> None:
    drawn = list(recipes(3, 60))
    assert drawn == list(recipes(3, 60))
    assert drawn != list(recipes(4, 60))
    assert {r.f_number for r in drawn} == {11, 16, 18, 22, 32}
    assert all(0.6 <= r.stack_mm <= 3.5 and 82 <= r.quality <= 98 for r in drawn)
    assert {r.dng for r in drawn} == {True, False}


def test_a_drawn_frame_is_scored(tmp_path: Path) -> None:
    (drawn,) = recipes(5, 1)
    small = replace(drawn, width_px=2000, f_number=22.0, quality=95, dng=False)
    scored, height = measure(small, tmp_path)
    assert scored.wanted > 0
    assert scored.found >= 0.9 * scored.wanted
    assert abs(height) < 0.1
    assert list(tmp_path.glob("*.jpg")) == []
