"""When dust came and went, from what pictures say: dating, stacking, scenes, lenses."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from neatpatch.core.arrivals.dating import PictureScore, date_mark
from neatpatch.core.arrivals.depth import depth_in, usual_depth
from neatpatch.core.arrivals.lenses import align_lens, place_under, to_reference, turn_of
from neatpatch.core.arrivals.marks import Mark, marks_in, merged
from neatpatch.core.arrivals.marks_as_map import marks_as_map
from neatpatch.core.arrivals.picture_scores import lens_at, on_grid, scores_of
from neatpatch.core.arrivals.records import Arrivals, ArrivedSpot
from neatpatch.core.arrivals.scenes import scene_key_of, scenes_of
from neatpatch.core.arrivals.stacks import Runs, Stack
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.patching.fitting import patchable
from neatpatch.core.patching.plan import check_map
from neatpatch.core.sensor.placement import as_they_are
from neatpatch.images.transfer import srgb_curve
from tests import dusty_pictures as dusty

SHAPE = (200, 300)
NOON = datetime(2026, 5, 1, 12)


@given(
    st.integers(0, 39),
    st.integers(0, 39),
    st.integers(0, 10_000),
    st.floats(0.6, 5),
)
def test_a_stay_is_bracketed_by_pictures_that_could_tell(
    one: int, other: int, seed: int, size: float
) -> None:
    first, last = min(one, other), max(one, other)
    rng = np.random.default_rng(seed)
    q = np.where(rng.random(40) < 0.6, rng.uniform(4, 6, 40), rng.uniform(0, 0.2, 40)) / size
    there = (np.arange(40) >= first) & (np.arange(40) <= last)
    z = there * q * size + 0.5 * rng.standard_normal(40)
    clear = q * size > 3.5
    found = date_mark([PictureScore(float(a), float(b), 1.0) for a, b in zip(z, q, strict=True)])
    if (clear & there).sum() < 2:
        return
    assert found is not None
    assert first <= found.first_with <= found.last_with <= last
    assert found.last_without is None or found.last_without < first
    assert found.first_without_again is None or found.first_without_again > last
    assert set(found.seen) <= set(found.could_see)


def test_no_mark_gives_no_stay_worth_telling() -> None:
    rng = np.random.default_rng(3)
    found = date_mark([PictureScore(float(z), 5.0, 1.0) for z in rng.standard_normal(60)])
    assert found is None or found.odds < 14


def test_a_tripod_speaks_with_one_voice() -> None:
    once = date_mark([PictureScore(5.0, 4.0, 1.0), *[PictureScore(0.0, 4.0, 1.0)] * 3])
    series = date_mark([*[PictureScore(5.0, 4.0, 0.1)] * 10, *[PictureScore(0.0, 4.0, 1.0)] * 3])
    assert once is not None
    assert series is not None
    assert series.scenes == pytest.approx(1.0)
    assert series.odds == pytest.approx(once.odds, rel=0.3)


def bump(z: np.ndarray, x: int, y: int, height: float) -> None:
    yy, xx = np.mgrid[: z.shape[0], : z.shape[1]]
    z += height * np.exp(-((xx - x) ** 2 + (yy - y) ** 2) / 8).astype(np.float32)


def test_marks_add_up_over_runs_and_chance_does_not() -> None:
    rng = np.random.default_rng(5)
    runs, found = Runs(SHAPE), []
    q = np.full(SHAPE, 2.0, np.float32)
    for i in range(40):
        z = rng.standard_normal(SHAPE).astype(np.float32)
        if 12 <= i < 28:
            bump(z, 220, 90, 2.5)
        for stack in runs.add(z, q, 1.0):
            found += marks_in(stack.z(), 6.0)
    for stack in runs.rest():
        found += marks_in(stack.z(), 6.0)
    [mark] = merged(found)
    assert mark.x == pytest.approx(220, abs=1.5)
    assert mark.y == pytest.approx(90, abs=1.5)


def test_one_striking_thing_in_one_picture_is_no_mark() -> None:
    stack = Stack.empty(SHAPE)
    q = np.full(SHAPE, 2.0, np.float32)
    for i in range(10):
        z = np.random.default_rng(i).standard_normal(SHAPE).astype(np.float32)
        if i == 4:
            bump(z, 100, 100, 60)
        stack.add(z, q, 1.0)
    assert marks_in(stack.z(), 6.0) == []


def light(seed: int, even: float = 0.3) -> NDArray[np.float32]:
    tones = dusty.picture((), seed, even=even)
    return np.asarray(srgb_curve(256)[tones].mean(axis=2), np.float32)


@pytest.mark.long
def test_bursts_and_tripods_are_one_scene_and_other_subjects_are_not() -> None:
    first, second = light(1), light(2)
    scene_keys = [
        scene_key_of(first, NOON),
        scene_key_of(
            np.roll(first, (3, -4), (0, 1)) * np.float32(0.9), NOON + timedelta(seconds=1)
        ),
        scene_key_of(second, NOON + timedelta(seconds=2)),
        scene_key_of(first * np.float32(1.2), NOON + timedelta(days=3)),
    ]
    scenes = scenes_of(scene_keys)
    assert scenes[0] == scenes[1] == scenes[3] != scenes[2]
    assert scenes_of([]) == []


def test_an_even_wall_is_one_scene_within_minutes_and_dust_alone_makes_none() -> None:
    rng = np.random.default_rng(1)

    def wall(tilt: float) -> NDArray[np.float32]:
        ramp = np.linspace(0.3, 0.3 + tilt, 600, dtype=np.float32)[None].repeat(400, 0)
        plain = ramp * (1 + 0.01 * rng.standard_normal((400, 600)).astype(np.float32))
        plain[100:106, 200:206] *= 0.7
        return plain

    soon = [scene_key_of(wall(0.1), NOON), scene_key_of(wall(0.1), NOON + timedelta(minutes=2))]
    later = [scene_key_of(wall(0.1), NOON), scene_key_of(wall(-0.1), NOON + timedelta(days=2))]
    assert len(set(scenes_of(soon))) == 1
    assert len(set(scenes_of(later))) == 2


@pytest.mark.long
def test_a_witness_shows_dust_at_its_place_and_says_nothing_wide_open() -> None:
    tones = dusty.picture(dusty.dust(), 31, 11.0, even=0.95)
    grid = (796, 1200)
    plain = on_grid(np.asarray(srgb_curve(256)[tones].mean(axis=2), np.float32), grid)
    witness = scores_of(plain, lens_at(11.0, 23.5, 1200))
    clear = max(
        (p for p in dusty.dust() if p.kind == "speck" and p.y_mm < 2), key=lambda p: p.size_um
    )
    x, y = (round(v * 1200 / 23.5 + n / 2) for v, n in ((clear.x_mm, 1200), (clear.y_mm, 796)))
    assert witness.z()[y - 6 : y + 7, x - 6 : x + 7].max() > 6
    assert witness.q().shape == grid
    spread = 1.4826 * float(np.median(np.abs(witness.z()[:300])))
    assert spread < 1.6
    assert scores_of(plain, lens_at(0.9, 23.5, 1200)).scores.any() == np.False_


@pytest.mark.long
@pytest.mark.parametrize(("scale", "radial"), [(0.985, 0.0), (1.0, 0.025), (1.012, -0.02)])
def test_a_lens_is_laid_on_the_reference(scale: float, radial: float) -> None:
    shape = (796, 1200)
    rng = np.random.default_rng(8)
    marks = [
        Mark(float(x), float(y), 20.0)
        for x, y in zip(rng.uniform(40, 1160, 30), rng.uniform(40, 756, 30), strict=True)
    ]
    true = Alignment(placement=as_they_are(shape, shape), scale=scale, radial=radial)
    z = rng.standard_normal(shape).astype(np.float32)
    for m in marks:
        x, y = place_under(true, m.x, m.y)
        bump(z, round(x), round(y), 14)
    found = align_lens(marks, z)
    assert found is not None
    corner = place_under(found, 1100, 700)
    assert np.hypot(*np.subtract(corner, place_under(true, 1100, 700))) < 1.5
    back = to_reference(z, found)
    at = marks[0]
    assert back[round(at.y), round(at.x)] > 8
    assert align_lens(marks, rng.standard_normal(shape).astype(np.float32)) is None


def test_a_turned_picture_is_told_where_marks_show_and_left_where_not() -> None:
    marks = [Mark(60.0, 50.0, 9.0), Mark(220.0, 120.0, 9.0), Mark(150.0, 30.0, 9.0)]
    q = {t: np.full(SHAPE, 4.0, np.float32) for t in (1, 3)}
    z = {t: np.zeros(SHAPE, np.float32) for t in (1, 3)}
    assert turn_of(z, q, marks, None, None) is None
    for m in marks:
        bump(z[3], int(m.x), int(m.y), 6)
    assert turn_of(z, q, marks, None, None) == 3
    same = {0: z[1], 2: z[1]}
    assert turn_of(same, {0: q[1], 2: q[1]}, marks, None, 0) == 0


def test_a_depth_is_read_from_the_light() -> None:
    lens = lens_at(11.0, 23.5, 1200)
    plain = np.full((120, 120), 0.4, np.float32)
    yy, xx = np.mgrid[:120, :120]
    plain[np.hypot(xx - 60, yy - 60) < lens.blur_px / 2] *= 0.8
    assert depth_in(plain, (60.0, 60.0), lens) == pytest.approx(0.2, abs=0.01)
    assert depth_in(np.zeros((120, 120), np.float32), (60.0, 60.0), lens) is None
    assert usual_depth([0.1, 0.2, 0.9], [1, 1, 4]) == pytest.approx(0.2)
    assert usual_depth([], []) is None


def test_marks_become_a_map() -> None:
    def spot(name: str, before: str | None, after: str | None) -> ArrivedSpot:
        return ArrivedSpot(
            id=name,
            x_px=500,
            y_px=300,
            depth=0.25,
            outer_px=40,
            seen_in=9,
            could_see=10,
            confidence=0.99,
            dates_confidence=0.9,
            last_without=before,
            first_with="2026-05-02T00:00:00",
            last_with="2026-05-09T00:00:00",
            first_without_again=after,
        )

    found = Arrivals(
        spots=(spot("m1", None, None), spot("m2", "2026-05-01T00:00:00", "2026-05-10T00:00:00")),
        frames_used=20,
        frames_skipped=(),
        width_px=1800,
        height_px=1200,
        sensor_mm=(23.5, 15.6),
        f_number=16.0,
    )
    whole = marks_as_map(found)
    check_map(whole)
    assert [s.id for s in patchable(whole)] == ["m1", "m2"]
    assert whole.spots[0].particle_px == pytest.approx((whole.optics.blur_px or 0) / 2)


def test_a_line_that_all_subjects_have_in_common_is_no_dust() -> None:
    z = np.zeros(SHAPE, np.float32)
    z[120:123, 40:260] = 9
    bump(z, 150, 60, 12)
    [mark] = marks_in(z, 6.0)
    assert (round(mark.x), round(mark.y)) == (150, 60)
