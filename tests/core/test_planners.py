"""Plans for the hand against worked values, brute force and properties."""

from __future__ import annotations

from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from neatpatch.core.errors import BadArgumentError
from neatpatch.core.planners.dab import DabPlan, Target, plan_dabs, plan_whole, targets_of
from neatpatch.core.planners.dry import (
    ETHANOL,
    WATER,
    dew_point_c,
    plan_drying,
    vapour_pressure_pa,
)  # fmt: skip
from neatpatch.core.planners.loupe import plan_loupe
from neatpatch.core.planners.shoot import plan_shoot
from neatpatch.core.planners.swab import LEAST_OVERLAP_MM, StrokeSchool, plan_swab
from tests.core.maps import spot

SENSOR = (36.0, 24.0)
TIP = (8.0, 6.0)
SCHOOLS: tuple[StrokeSchool, ...] = (
    "same_way", "return_other_face", "across_and_back", "circles",
)  # fmt: skip


@given(
    st.floats(5, 60), st.floats(4, 60), st.floats(2, 60), st.sampled_from(SCHOOLS),
)  # fmt: skip
def test_strokes_cover_the_whole_sensor_and_nothing_outside(
    width: float, height: float, swab: float, school: StrokeSchool
) -> None:
    plan = plan_swab((width, height), swab, school)
    long, short = max(width, height), min(width, height)
    if swab > short + 1:
        assert not plan.fits
        assert plan.strokes == ()
        return
    half = min(swab, short) / 2
    lanes = sorted({s.from_[1] for s in plan.strokes})
    assert lanes[0] - half <= -short / 2 + 0.51
    assert lanes[-1] + half >= short / 2 - 0.51
    for low, high in pairwise(lanes):
        assert high - low <= swab - LEAST_OVERLAP_MM + 1e-2
    for number in {s.swab for s in plan.strokes}:
        mine = [s for s in plan.strokes if s.swab == number]
        assert {s.face for s in mine} == {"first", "second"}
        ends = [x for s in mine for x in (s.from_[0], s.to[0])]
        assert min(ends) == pytest.approx(-long / 2, abs=1e-3)
        assert max(ends) == pytest.approx(long / 2, abs=1e-3)


def test_a_matched_swab_needs_one_lane_and_the_same_way_twice() -> None:
    plan = plan_swab(SENSOR, 24)
    assert (plan.lanes, plan.swabs, plan.overlap_mm) == (1, 1, 0)
    assert [(s.face, s.from_, s.to) for s in plan.strokes] == [
        ("first", (-18, 0), (18, 0)), ("second", (-18, 0), (18, 0)),
    ]  # fmt: skip
    assert (plan.drops.least, plan.drops.usual, plan.drops.most) == (1, 2, 3)
    assert plan_swab(SENSOR, 24, tool="cloth_wand").drops.most == 5
    assert plan_swab(SENSOR, 24, "return_other_face").strokes[1].from_ == (18, 0)


def test_a_narrow_swab_goes_in_lanes_and_says_so() -> None:
    plan = plan_swab(SENSOR, 16)
    assert plan.lanes == 2
    assert plan.overlap_mm == 8
    assert "strip may stay" in plan.warnings[0]
    assert not plan_swab((23.5, 15.6), 24).fits
    assert "does not fit" in plan_swab((23.5, 15.6), 24).warnings[0]
    with pytest.raises(BadArgumentError, match="outside 2 to 80 mm"):
        plan_swab(SENSOR, -1)


def strewn(count: int, seed: int, width_mm: float = 0.3) -> list[Target]:
    rng = np.random.default_rng(seed)
    places = rng.uniform([-17.6, -11.6], [17.6, 11.6], (count, 2))
    return [Target(f"s{i}", float(x), float(y), width_mm) for i, (x, y) in enumerate(places)]


def fewest_by_force(targets: list[Target]) -> int:
    """Try all sets of canonical places, written independently of the planner."""
    limit_x, limit_y = (SENSOR[0] - TIP[0]) / 2, (SENSOR[1] - TIP[1]) / 2
    places = [
        (min(max(a.x_mm + (TIP[0] - a.width_mm) / 2, -limit_x), limit_x),
         min(max(b.y_mm + (TIP[1] - b.width_mm) / 2, -limit_y), limit_y))
        for a in targets for b in targets
    ]  # fmt: skip
    sets = {
        frozenset(
            t.id
            for t in targets
            if abs(t.x_mm - x) <= (TIP[0] - t.width_mm) / 2 + 1e-6
            and abs(t.y_mm - y) <= (TIP[1] - t.width_mm) / 2 + 1e-6
        )
        for x, y in places
    }
    wanted = {t.id for t in targets}
    for size in range(1, len(targets) + 1):
        for chosen in combinations(sets, size):
            if set().union(*chosen) == wanted:
                return size
    raise AssertionError("cannot be covered")


def assert_covered(plan: DabPlan, targets: list[Target]) -> None:
    under = [name for dab in plan.dabs for name in dab.covers]
    assert sorted(under) == sorted(t.id for t in targets)
    by_id = {t.id: t for t in targets}
    for dab in plan.dabs:
        assert abs(dab.x_mm) <= (SENSOR[0] - TIP[0]) / 2 + 1e-3
        assert abs(dab.y_mm) <= (SENSOR[1] - TIP[1]) / 2 + 1e-3
        for name in dab.covers:
            t = by_id[name]
            assert abs(t.x_mm - dab.x_mm) <= (TIP[0] - t.width_mm) / 2 + 2e-3
            assert abs(t.y_mm - dab.y_mm) <= (TIP[1] - t.width_mm) / 2 + 2e-3


def test_presses_are_as_few_as_brute_force_finds_on_hundreds_of_maps() -> None:
    for seed in range(200):
        targets = strewn(2 + seed % 6, seed)
        plan = plan_dabs(SENSOR, TIP, targets)
        assert len(plan.dabs) == fewest_by_force(targets), seed
        assert plan.patches == len(plan.dabs)
        assert_covered(plan, targets)


@pytest.mark.parametrize("count", [60, 400])
def test_many_spots_are_all_covered_by_fewer_presses_than_the_grid(count: int) -> None:
    targets = strewn(count, 5, 0.2)
    plan = plan_dabs(SENSOR, TIP, targets)
    assert_covered(plan, targets)
    assert len(plan.dabs) <= len(plan_whole(SENSOR, TIP).dabs) + 1


def test_a_spot_at_the_very_edge_and_one_wider_than_the_tip() -> None:
    edge = Target("e", 17.95, 0.0, 0.4)
    wide = Target("w", 0.0, 0.0, 7.0)
    plan = plan_dabs(SENSOR, TIP, [edge, wide])
    assert [d.covers for d in plan.dabs] == [("w",), ("e",)]
    assert plan.dabs[1].x_mm == 14.0
    assert plan.wide == ("w",)


def test_nothing_to_lift_and_bad_sizes() -> None:
    assert plan_dabs(SENSOR, TIP, []).dabs == ()
    with pytest.raises(BadArgumentError, match="larger than the sensor"):
        plan_dabs((6.2, 4.6), TIP, [])
    with pytest.raises(BadArgumentError, match="larger than nothing"):
        plan_whole(SENSOR, (0, 3))


def test_the_whole_sensor_as_a_grid_goes_to_and_fro() -> None:
    plan = plan_whole(SENSOR, TIP)
    assert len(plan.dabs) == 5 * 4
    assert plan.dabs[4].x_mm == plan.dabs[5].x_mm == 14.0


def test_only_what_lies_on_the_sensor_is_lifted() -> None:
    spots = [spot("a", 100, 100), spot("l", 200, 200, site="lens"), spot("n", 3, 3, x_mm=None)]
    assert [t.id for t in targets_of(spots)] == ["a"]


def test_vapour_pressures_and_dew_points_as_in_tables() -> None:
    assert vapour_pressure_pa(WATER, 20) == pytest.approx(2339, rel=0.01)
    assert vapour_pressure_pa(ETHANOL, 20) == pytest.approx(5850, rel=0.03)
    assert dew_point_c(20, 45) == pytest.approx(7.7, abs=0.3)
    assert dew_point_c(25, 100) == pytest.approx(25, abs=1e-6)
    assert dew_point_c(20, 0) == -90


@settings(max_examples=60)
@given(st.floats(0, 34), st.floats(0, 95))
def test_warmer_and_drier_dries_faster(temperature: float, humidity: float) -> None:
    here = plan_drying(temperature, humidity)
    assert plan_drying(temperature + 5, humidity).relative_rate >= here.relative_rate
    assert plan_drying(temperature, humidity + 5).relative_rate <= here.relative_rate
    assert here.minutes.least < here.minutes.most


def test_verdicts_of_the_room() -> None:
    assert plan_drying(20, 45).relative_rate == 1
    assert plan_drying(20, 45).verdict == "good"
    assert plan_drying(14, 45).verdict == "slow"
    assert plan_drying(20, 68).verdict == "slow"
    assert plan_drying(20, 90).verdict == "no"
    assert plan_drying(5, 40).verdict == "no"
    assert plan_drying(20, 45, "fast_drying").minutes.most < plan_drying(20, 45).minutes.most
    with pytest.raises(BadArgumentError, match="outside 0 to 100"):
        plan_drying(20, 130)
    with pytest.raises(BadArgumentError, match="outside -10 to 50"):
        plan_drying(80, 40)


def test_loupes() -> None:
    assert plan_loupe(44, (40, 46)).spacer_mm == 0
    shallow = plan_loupe(18, (40, 46))
    assert (shallow.fits, shallow.spacer_mm) == (False, 22)
    deep = plan_loupe(60, (40, 46))
    assert (deep.fits, deep.spacer_mm) == (False, None)
    with pytest.raises(BadArgumentError, match="no range"):
        plan_loupe(18, (46, 40))
    with pytest.raises(BadArgumentError, match="1 to 400"):
        plan_loupe(0, (40, 46))


def test_the_recipe_of_the_test_frame() -> None:
    plan = plan_shoot(85, 32, 9)
    assert plan.f_number == 22
    assert plan.exposure_s == pytest.approx(22**2 / 2**9, rel=0.01)
    blur_mm = 85**2 / (22 * plan.target_distance_m * 1000)
    assert blur_mm == pytest.approx(0.5, rel=0.02)
    wide = plan_shoot(24, 11)
    assert wide.exposure_s is None
    assert wide.f_number == 11
    assert any("hides small dust" in s for s in wide.steps)
    assert any("wide lens" in s for s in wide.steps)
    for bad in ({"focal_mm": 0}, {"smallest_f": 500}, {"ev100": 90}):
        with pytest.raises(BadArgumentError, match="outside"):
            plan_shoot(**bad)
