from __future__ import annotations

import math

import numpy as np
import pytest

from neatpatch.core.common import optics


def test_blur_is_height_over_f_number() -> None:
    assert optics.blur_um(1.5, 16.0, 1e9) == pytest.approx(93.75, abs=0.01)
    assert optics.height_mm(optics.blur_um(1.5, 22.0), 22.0) == pytest.approx(1.5)


def test_a_nearer_exit_pupil_spreads_the_light_wider() -> None:
    assert optics.blur_um(2.0, 16.0, 50.0) == pytest.approx(125.0 * 50 / 48)


@pytest.mark.parametrize("height_mm", [79.9, 80.0, 100.0])
def test_a_height_at_the_pupil_itself_is_no_fault(height_mm: float) -> None:
    assert 0 < optics.blur_um(height_mm, 22.0) < 1e5


@pytest.mark.parametrize(
    ("marked", "true"),
    [(22.0, 22.627), (11.0, 11.314), (5.6, 5.657), (16.0, 16.0), (18.0, 17.96), (3.5, 3.564)],
)
def test_marked_stops_stand_for_thirds(marked: float, true: float) -> None:
    assert optics.true_stop(marked) == pytest.approx(true, abs=0.002)


@pytest.mark.parametrize("given", [22.63, 11.31, 6.7, 19.0, 9.5])
def test_what_is_no_mark_stands_for_itself(given: float) -> None:
    assert optics.true_stop(given) == given


def test_depth_falls_with_the_square_of_the_f_number() -> None:
    shallow = optics.central_depth(10.0, optics.blur_um(1.5, 8.0))
    deep = optics.central_depth(10.0, optics.blur_um(1.5, 16.0))
    assert deep / shallow == pytest.approx(4.0)


@pytest.mark.parametrize(
    ("particle", "blur", "depth"), [(0.0, 50.0, 0.0), (60.0, 50.0, 1.0), (5.0, 0.0, 1.0)]
)
def test_depth_at_the_ends(particle: float, blur: float, depth: float) -> None:
    assert optics.central_depth(particle, blur) == depth


def test_disc_overlap_inside_apart_and_half_way() -> None:
    inside, apart = optics.disc_overlap(4.0, 10.0, [0.0, 8.0])
    assert inside == pytest.approx(math.pi * 4)
    assert apart == 0.0
    same = optics.disc_overlap(2.0, 2.0, [1.0])[0]
    assert same == pytest.approx(2 * math.pi / 3 - math.sqrt(3) / 2)


@pytest.mark.parametrize(
    ("particle", "blur", "softness"), [(6.0, 17.0, 1.0), (30.0, 17.0, 1.5), (2.0, 40.0, 2.0)]
)
def test_profile_integrates_to_one(particle: float, blur: float, softness: float) -> None:
    radius = np.linspace(0, particle + blur + 8 * softness, 4000)
    profile = optics.unit_profile(radius, particle, blur, softness)
    total = np.trapezoid(2 * np.pi * radius * profile, radius)
    assert total == pytest.approx(1.0, abs=0.005)


def test_profile_matches_the_overlap_of_two_discs_when_nearly_sharp() -> None:
    radius = np.linspace(0, 20, 50)
    exact = optics.disc_overlap(8.0, 20.0, radius) / (math.pi * 16 * math.pi * 100)
    soft = optics.unit_profile(radius, 8.0, 20.0, 1.0)
    assert np.max(np.abs(soft - exact)) < 0.06 * exact.max()


def test_small_shadows_need_more_depth_to_be_noticed() -> None:
    assert optics.needed_depth(10.0, 36.0) == pytest.approx(optics.NOTICED_DEPTH * 1.8)
    assert optics.needed_depth(400.0, 36.0) == optics.NOTICED_DEPTH
    assert optics.needed_depth(400.0, None) == optics.NOTICED_DEPTH
