"""One thread is one thing, however it bends; tide marks and droplets are told once, too."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
import pytest

from neatpatch.core.common.filters import Mask, smoothed
from neatpatch.core.common.frame import Image
from neatpatch.core.measure.joined_things import MeasuredThing, joined
from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.region_splitting import parts_of
from neatpatch.core.measure.threads import thread_of
from tests.core.measure.test_region_measures import measured, speck

WIDTH = 9
ANGLES = np.linspace(0, 2 * np.pi, 80)
CURLED = {
    "straight": [(20, 100), (180, 104)],
    "hook": [(30, 30), (90, 40), (120, 80), (100, 120), (60, 130)],
    "loop": [
        (20, 150),
        *((100 + 40 * np.cos(a), 90 + 55 * np.sin(a)) for a in ANGLES + 2),
        (180, 20),
    ],
    "s": [(100 + 60 * np.sin(a), 30 + 22 * a) for a in ANGLES],
}


def drawn(*lines: Sequence[tuple[float, float]], depth: float = 0.3) -> Image:
    """Loss of threads drawn on a window of 200 pixels, blurred as a pupil would."""
    out = np.zeros((200, 200), np.float32)
    for line in lines:
        one = np.zeros((200, 200), np.uint8)
        points = np.round(np.array(line)).astype(np.int32).reshape(-1, 1, 2)
        cv2.polylines(one, [points], False, 1, WIDTH)
        out = 1 - (1 - out) * (1 - depth * one.astype(np.float32))
    return smoothed(out, 1.5)


def region(loss: Image) -> Mask:
    return np.asarray(loss > 0.03)


def discs(*places: tuple[int, int], across: int = 24) -> Image:
    out = np.zeros((200, 200), np.float32)
    for place in places:
        one = np.zeros((200, 200), np.uint8)
        cv2.circle(one, place, across // 2, 1, -1)
        out = np.maximum(out, 0.4 * one.astype(np.float32))
    return smoothed(out, 2.0)


@pytest.mark.parametrize("name", CURLED)
def test_a_thread_is_one_thing_however_it_curls(name: str) -> None:
    loss = drawn(CURLED[name])
    (part,) = parts_of(loss, region(loss), 0.002)
    assert part.thread is not None
    steps = np.diff(np.array(CURLED[name], float), axis=0)
    assert part.thread.length == pytest.approx(np.hypot(*steps.T).sum(), rel=0.15)
    assert part.thread.width == pytest.approx(WIDTH, abs=3)


def test_threads_that_cross_are_one_thing() -> None:
    loss = drawn([(30, 60), (170, 140)], [(60, 170), (140, 30)])
    parts = parts_of(loss, region(loss), 0.002)
    assert len(parts) == 1
    assert parts[0].thread is not None


def test_the_course_of_crossing_threads_reaches_all_four_ends() -> None:
    ends = [(30, 60), (170, 140), (60, 170), (140, 30)]
    loss = drawn(ends[:2], ends[2:])
    thread = thread_of(loss, region(loss))
    assert thread is not None
    for end in ends:
        assert np.hypot(*(thread.course - end).T).min() < WIDTH
    steps = np.hypot(*np.diff(thread.course, axis=0).T)
    assert steps.max() < 2.5 * WIDTH, "a walk along the threads, without a leap"


def test_a_dark_speck_on_a_thread_is_told_apart() -> None:
    loss = np.maximum(drawn(CURLED["straight"], depth=0.2), discs((150, 103)) * 2)
    parts = parts_of(loss, region(loss), 0.002)
    assert [p.thread is not None for p in parts] == [True, False]
    ys, xs = np.nonzero(parts[1].mask)
    assert np.hypot(xs.mean() - 150, ys.mean() - 103) < 3


@pytest.mark.parametrize(
    "places", [((100, 100),), ((70, 100), (98, 100)), ((60, 100), (88, 100), (116, 100))]
)
def test_specks_side_by_side_are_no_thread(places: tuple[tuple[int, int], ...]) -> None:
    loss = discs(*places)
    parts = parts_of(loss, region(loss), 0.002)
    assert len(parts) == len(places)
    assert all(p.thread is None for p in parts)


def test_a_ring_is_no_thread() -> None:
    loss = drawn([(100 + 50 * np.cos(a), 100 + 50 * np.sin(a)) for a in ANGLES])
    assert [p.thread for p in parts_of(loss, region(loss), 0.002)] == [None]


def test_pale_smears_that_cross_are_two() -> None:
    loss = drawn([(10, 60), (190, 140)], [(60, 190), (140, 10)], depth=0.04)
    assert len(parts_of(loss, np.asarray(loss > 0.008), 0.001)) == 2


def thing() -> RegionMeasures:
    return measured(speck(12, 14, 0.3))


def arc(first: float, last: float, radius: float = 100.0) -> MeasuredThing:
    """A part of a ring about (500, 400), angles in radians."""
    a = np.linspace(first, last, 9)
    points = np.column_stack([500 + radius * np.cos(a), 400 + radius * np.sin(a)])
    x, y = points.mean(axis=0)
    m = replace(
        thing(),
        x_px=float(x),
        y_px=float(y),
        fwhm_px=12.0,
        length_px=radius * (last - first),
        course_px=points - (x, y),
        loss_px2=40.0,
        snr=80.0,
    )
    return MeasuredThing(m, "fibre", "sensor")


def test_arcs_of_one_ring_are_one_tide_mark() -> None:
    (mark,) = joined([arc(0.1, 1.4), arc(2.0, 3.5), arc(4.0, 5.2)])
    assert mark.kind == "residue"
    assert mark.measured.loss_px2 == pytest.approx(120)
    assert mark.measured.length_px == pytest.approx(400, rel=0.01)
    assert np.hypot(mark.measured.x_px - 500, mark.measured.y_px - 400) < 40


def test_an_arc_that_turns_more_than_half_around_is_a_tide_mark() -> None:
    assert [t.kind for t in joined([arc(0.0, 4.2)])] == ["residue"]
    assert [t.kind for t in joined([arc(0.0, 2.4)])] == ["fibre"]


def test_straight_threads_and_other_rings_stay_apart() -> None:
    away = replace(arc(2.0, 3.5).measured, x_px=900.0)
    assert len(joined([arc(0.1, 1.4), MeasuredThing(away, "fibre", "sensor")])) == 2
    line = np.column_stack([np.linspace(-60, 60, 7), np.zeros(7)])
    straight = replace(arc(0.1, 1.4).measured, x_px=500.0, y_px=500.0, course_px=line)
    assert len(joined([arc(4.2, 5.4), MeasuredThing(straight, "fibre", "sensor")])) == 2


def test_the_dark_middle_of_a_droplet_is_no_row_of_its_own() -> None:
    ring = replace(thing(), x_px=300.0, y_px=200.0, extent_px=60.0)
    core = replace(thing(), x_px=302.0, y_px=199.0, extent_px=20.0)
    beside = replace(core, x_px=318.0)
    both = [MeasuredThing(ring, "droplet", "sensor"), MeasuredThing(core, "speck", "sensor")]
    assert [t.kind for t in joined(both)] == ["droplet"]
    assert len(joined([both[0], MeasuredThing(beside, "speck", "sensor")])) == 2
