"""The sensor as its own witness: same, another, unknown; frames laid by it alone."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.sensor.fingerprint import Fingerprint, added, fingerprint_of, match
from neatpatch.core.sensor.registration import register, register_frames

SHAPE = (1600, 2400)
Light = NDArray[np.float32]


@lru_cache(maxsize=4)
def pattern(body: int) -> Light:
    rng = np.random.default_rng([body, 4711])
    return np.asarray(1 + 0.003 * rng.standard_normal(SHAPE), np.float32)


def shot(body: int, seed: int, noise: float = 0.008, tone: float = 0.35) -> Light:
    """An even target with falloff, dust, a hot pixel and noise, as one sensor sees it."""
    rng = np.random.default_rng(seed)
    yy, xx = np.mgrid[-1 : 1 : SHAPE[0] * 1j, -1 : 1 : SHAPE[1] * 1j]
    light = tone * (1 - 0.2 * (yy**2 + xx**2)) * (1 + 0.02 * xx * float(rng.normal()))
    for _ in range(12):
        y, x, r = rng.integers(60, 1500), rng.integers(60, 2300), int(rng.integers(4, 30))
        cv2.circle(light, (int(x), int(y)), r, float(light[y, x]) * 0.5, -1)
    light = light * pattern(body) * (1 + noise * rng.standard_normal(SHAPE))
    light[100, 100] = 1.0
    return np.asarray(light, np.float32)


def frame(light: Light, quality: float | None = 94) -> Frame:
    height, width = light.shape
    facts = FrameFacts(width_px=width, height_px=height, format="JPEG", jpeg_quality=quality)
    return Frame(light=light, facts=facts)


def printed(light: Light, quality: float | None = 94) -> Fingerprint:
    found = fingerprint_of(frame(light, quality))
    assert found is not None
    return found


@pytest.mark.long
def test_one_sensor_is_told_and_another_as_well() -> None:
    mine = printed(shot(1, 1))
    same = match(mine, printed(shot(1, 2, tone=0.2)))
    assert same.same is True
    assert same.strength > 4 * same.limit
    assert same.turn == 0
    assert same.shift == pytest.approx((0.0, 0.0), abs=0.2)
    other = match(mine, printed(shot(2, 3)))
    assert other.same is False
    assert other.strength < other.limit


@pytest.mark.long
def test_too_little_tells_nothing() -> None:
    mine = printed(shot(1, 1))
    assert match(mine, printed(shot(2, 3, noise=0.3))).same is None
    assert match(mine, printed(shot(2, 3), quality=70)).same is None
    assert fingerprint_of(frame(np.ones(SHAPE, np.float32))) is None
    assert fingerprint_of(frame(np.full(SHAPE, 0.3, np.float32))) is None
    assert fingerprint_of(frame(shot(1, 1)[:90, :90])) is None


@pytest.mark.long
@pytest.mark.parametrize("shape", [(1, 1), (1, 500), (500, 1), (3, 3), (5, 3000), (3000, 2)])
def test_pictures_of_any_size_tell_nothing_and_break_nothing(shape: tuple[int, int]) -> None:
    light = np.random.default_rng(1).uniform(0.2, 0.5, shape).astype(np.float32)
    assert fingerprint_of(frame(light)) is None
    assert register_frames(frame(shot(1, 1)), frame(light)).same is None
    assert register_frames(frame(light), frame(shot(1, 1))).same is None


@pytest.mark.long
def test_no_pair_of_strange_sensors_reaches_the_limit() -> None:
    prints = [printed(shot(body, body)) for body in range(10, 15)]
    for i, first in enumerate(prints):
        for second in prints[i + 1 :]:
            found = match(first, second)
            assert found.strength < 0.8 * found.limit


@pytest.mark.long
def test_saturated_parts_and_a_large_dark_thing_do_no_harm() -> None:
    light = shot(1, 5)
    light[:500, :900] = 1.0
    light[900:1400, 1200:1700] *= 0.05
    assert match(printed(shot(1, 1)), printed(light)).same is True


@pytest.mark.long
@pytest.mark.parametrize("turn", [0, 1, 2, 3])
def test_each_quarter_turn_is_told_apart(turn: int) -> None:
    later = np.ascontiguousarray(np.rot90(shot(1, 2), turn))
    found = register_frames(frame(shot(1, 1)), frame(later))
    assert found.same is True
    assert found.placement is not None
    assert found.placement.turn == turn
    x, y, w, h = 700.0, 300.0, SHAPE[1], SHAPE[0]
    at = found.placement.apply(np.array([[x, y]]))[0]
    for _ in range(turn):
        x, y, w, h = y, w - 1 - x, h, w
    assert at == pytest.approx((x, y), abs=0.5)


@pytest.mark.long
@pytest.mark.parametrize(("top", "left"), [(0, 0), (301, 417), (111, 902)])
def test_a_crop_is_laid_where_it_was_cut(top: int, left: int) -> None:
    cut = np.ascontiguousarray(shot(1, 2)[top : top + 1200, left : left + 1490])
    for first, second in ((shot(1, 1), cut), (cut, shot(1, 1))):
        found = register_frames(frame(first), frame(second))
        assert found.same is True
        assert found.placement is not None
        place = found.placement if second is cut else found.placement.inverse()
        assert place.apply(np.array([[700.0, 800.0]]))[0] == pytest.approx(
            (700.0 - left, 800.0 - top), abs=1.0
        )


@pytest.mark.long
@pytest.mark.parametrize(("top", "left", "turn"), [(301, 417, 0), (110, 902, 1), (241, 363, 2)])
def test_a_reference_that_is_but_a_part_is_found_in_a_larger_frame(
    top: int, left: int, turn: int
) -> None:
    part = printed(np.ascontiguousarray(shot(1, 2)[top : top + 1120, left : left + 1490]))
    found = register(part, frame(np.ascontiguousarray(np.rot90(shot(1, 3), turn))))
    assert found.same is True
    assert found.placement is not None
    there = found.placement.apply(np.array([[700.0 - left, 800.0 - top]]))[0]
    x, y, w, h = 700.0, 800.0, SHAPE[1], SHAPE[0]
    for _ in range(turn):
        x, y, w, h = y, w - 1 - x, h, w
    assert there == pytest.approx((x, y), abs=1.0)
    assert register(part, frame(shot(2, 3))).same is None
    assert register(part, frame(shot(1, 3)), corrected=False).same is None


@pytest.mark.long
def test_a_picture_made_smaller_is_laid_by_its_size() -> None:
    small = cv2.resize(shot(1, 2), (1680, 1120), interpolation=cv2.INTER_AREA)
    found = register_frames(frame(shot(1, 1)), frame(np.asarray(small, np.float32)))
    assert found.same is True
    assert found.placement is not None
    assert found.placement.zoom == pytest.approx(0.7)


@pytest.mark.long
def test_a_reference_of_several_frames_tells_more() -> None:
    noisy = printed(shot(1, 9, noise=0.05))
    one = printed(shot(1, 1))
    reference = one
    for seed in (2, 3, 4):
        reference = added(reference, printed(shot(1, seed)))
    assert reference.frames == 4
    assert match(reference, noisy).strength > 1.5 * match(one, noisy).strength
    assert register(reference, frame(shot(1, 8))).same is True
    assert register(reference, frame(shot(3, 8))).same is False


def test_prints_of_another_size_are_never_added() -> None:
    cut = fingerprint_of(frame(shot(1, 2)[:1200, :1500]))
    assert cut is not None
    with pytest.raises(ValueError, match="one size"):
        added(printed(shot(1, 1)), cut)
