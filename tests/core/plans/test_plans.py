"""Strokes and presses against worked values, brute force and properties."""

from __future__ import annotations

from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import FluidKind
from neatpatch.core.plans.dab import DabPlan, Target, plan_dabs, plan_whole, targets_of
from neatpatch.core.plans.swab import (
    CHAMBER_PLAY_MM,
    EDGE_PLAY_MM,
    LEAST_OVERLAP_MM,
    StrokeSchool,
    Tool,
    Wiping,
    drops_for,
    plan_corner,
    plan_swab,
)
from tests.core.made_maps import spot

SENSOR = (36.0, 24.0)
TIP = (8.0, 6.0)
SCHOOLS: tuple[StrokeSchool, ...] = (
    "same_way",
    "return_other_face",
    "across_and_back",
    "circles",
)


@given(
    st.floats(5, 60),
    st.floats(4, 60),
    st.floats(2, 60),
    st.sampled_from(SCHOOLS),
)
def test_strokes_cover_the_whole_sensor_and_nothing_outside(
    width: float, height: float, swab: float, school: StrokeSchool
) -> None:
    plan = plan_swab((width, height), swab, Wiping(stroke=school))
    long, short = max(width, height), min(width, height)
    if swab > short + CHAMBER_PLAY_MM:
        assert not plan.fits
        assert plan.strokes == ()
        return
    half = min(swab, short) / 2
    lanes = sorted({s.from_[1] for s in plan.strokes})
    assert lanes[0] - half <= -short / 2 + EDGE_PLAY_MM + 1e-3
    assert lanes[-1] + half >= short / 2 - EDGE_PLAY_MM - 1e-3
    for low, high in pairwise(lanes):
        assert high - low <= swab - LEAST_OVERLAP_MM + 1e-2
    for number in {s.swab for s in plan.strokes}:
        mine = [s for s in plan.strokes if s.swab == number]
        faces = {"first"} if school == "across_and_back" else {"first", "second"}
        assert {s.face for s in mine} == faces
        ends = [x for s in mine for x in (s.from_[0], s.to[0])]
        assert min(ends) == pytest.approx(-long / 2, abs=1e-3)
        assert max(ends) == pytest.approx(long / 2, abs=1e-3)


def test_a_matched_swab_needs_one_lane_and_the_same_way_twice() -> None:
    plan = plan_swab(SENSOR, 24)
    assert (plan.lanes, plan.swabs, plan.overlap_mm) == (1, 1, 0)
    assert [(s.face, s.from_, s.to) for s in plan.strokes] == [
        ("first", (-18, 0), (18, 0)),
        ("second", (-18, 0), (18, 0)),
    ]
    assert (plan.drops.least, plan.drops.usual, plan.drops.most) == (1, 2, 3)
    assert plan_swab(SENSOR, 24, Wiping(tool="cloth_wand")).drops.most == 5
    assert plan_swab(SENSOR, 24, Wiping(stroke="return_other_face")).strokes[1].from_ == (18, 0)


def test_a_narrow_swab_goes_in_lanes_and_says_so() -> None:
    plan = plan_swab(SENSOR, 16)
    assert plan.lanes == 2
    assert plan.overlap_mm == 8
    assert "strip may stay" in plan.warnings[0]
    assert plan_swab((17.3, 13), 12).lanes == 2
    assert [plan_swab((22.3, 14.9), w).fits for w in (16, 17)] == [True, False]
    assert not plan_swab((23.5, 15.6), 24).fits
    assert "does not fit" in plan_swab((23.5, 15.6), 24).warnings[0]
    with pytest.raises(BadArgumentError, match="outside 2 to 80 mm"):
        plan_swab(SENSOR, -1)


@settings(max_examples=60)
@given(st.floats(4, 25), st.sampled_from(SCHOOLS), st.integers(0, 10_000))
def test_every_spot_is_passed_twice(swab: float, school: StrokeSchool, seed: int) -> None:
    """By both faces; across and back passes it twice with the one."""
    targets = strewn(25, seed)
    plan = plan_swab(SENSOR, swab, Wiping(stroke=school), targets)
    if school == "across_and_back":
        there, back = plan.strokes[::2], plan.strokes[1::2]
        assert all(a.passes == b.passes for a, b in zip(there, back, strict=True))
    for face in ("first",) if school == "across_and_back" else ("first", "second"):
        passed = {n for s in plan.strokes if s.face == face for n in s.passes}
        assert passed == {t.id for t in targets}


def test_a_stroke_passes_only_what_lies_under_it() -> None:
    spots = [Target("far", 0, -10, 0.2), Target("near", 0, 10, 0.2), Target("seam", 5, 0, 0.2)]
    plan = plan_swab(SENSOR, 16, targets=spots)
    assert [s.passes for s in plan.strokes[::2]] == [("far", "seam"), ("near", "seam")]


def test_swabs_for_each_school_the_hand_and_the_chamber() -> None:
    needed = plan_swab(SENSOR, 16).swabs_needed
    assert (needed.dry, needed.wet, needed.dry_wet_dry) == (2, 2, 6)
    assert plan_swab(SENSOR, 24, Wiping(hand="left")).strokes[0].from_ == (18, 0)
    assert plan_swab(SENSOR, 25.5, Wiping(chamber_mm=26)).fits
    tight = plan_swab(SENSOR, 24.5, Wiping(chamber_mm=24.2))
    assert not tight.fits
    assert "walls 24.2 mm apart" in tight.warnings[0]
    with pytest.raises(BadArgumentError, match="a chamber 20 mm wide cannot be"):
        plan_swab(SENSOR, 24, Wiping(chamber_mm=20))


def test_drops_by_tool_and_fluid() -> None:
    def drops(tool: Tool, fluid: FluidKind | None = None) -> tuple[int, int, int]:
        d = drops_for(tool, fluid)
        return d.least, d.usual, d.most

    assert drops("swab", "mild") == drops("swab", "fast_drying") == (1, 2, 3)
    assert drops("swab", "pure_water") == (1, 1, 2)
    assert drops("cloth_wand") == (2, 3, 5)
    assert drops("cloth_wand", "alcohol_free") == (2, 2, 4)
    assert drops("corner_swab", "pure_water") == (1, 1, 1)
    assert drops("moist_wipe") == (0, 0, 0)


def test_spots_within_reach_of_an_edge_get_a_corner_pass() -> None:
    spots = [
        Target("u", 3, -11.8, 0.2),
        Target("v", -4, -11.5, 0.2),
        Target("r", 17.5, 2, 0.2),
        Target("m", 0, 0, 0.2),
    ]
    assert plan_swab(SENSOR, 24, targets=spots).corner == ("u", "v", "r")
    strokes = plan_corner(SENSOR, spots)
    assert [(s.edge, s.passes) for s in strokes] == [
        ("upper", ("v",)),
        ("upper", ("u",)),
        ("right", ("r",)),
    ]
    assert strokes[1].to == (18, -10)
    assert plan_corner(SENSOR, spots[3:]) == ()


def strewn(count: int, seed: int, width_mm: float = 0.3) -> list[Target]:
    rng = np.random.default_rng(seed)
    places = rng.uniform([-17.6, -11.6], [17.6, 11.6], (count, 2))
    return [Target(f"s{i}", float(x), float(y), width_mm) for i, (x, y) in enumerate(places)]


def fewest_by_force(targets: list[Target]) -> int:
    """Try all sets of canonical places, written independently of the planner."""
    limit_x, limit_y = (SENSOR[0] - TIP[0]) / 2, (SENSOR[1] - TIP[1]) / 2
    places = [
        (
            min(max(a.x_mm + (TIP[0] - a.width_mm) / 2, -limit_x), limit_x),
            min(max(b.y_mm + (TIP[1] - b.width_mm) / 2, -limit_y), limit_y),
        )
        for a in targets
        for b in targets
    ]
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


@pytest.mark.long
def test_presses_are_as_few_as_brute_force_finds_on_hundreds_of_maps() -> None:
    for seed in range(200):
        targets = strewn(2 + seed % 6, seed)
        plan = plan_dabs(SENSOR, TIP, targets)
        assert len(plan.dabs) == fewest_by_force(targets), seed
        assert plan.patches == len(plan.dabs)
        assert_covered(plan, targets)


@pytest.mark.long
@pytest.mark.parametrize(("count", "seed"), [(80, 1), (120, 2), (200, 3), (400, 4)])
def test_above_sixty_spots_no_plan_can_do_with_two_presses_less(count: int, seed: int) -> None:
    targets = strewn(count, seed)
    plan = plan_dabs(SENSOR, TIP, targets)
    assert_covered(plan, targets)
    assert plan.proven_least >= 12
    assert plan.proven_least <= len(plan.dabs) <= plan.proven_least + 1


def test_a_planted_best_plan_above_sixty_spots_is_found() -> None:
    rng = np.random.default_rng(7)
    centres = [(x, y) for x in (-13.0, -1.0, 11.0) for y in (-8.5, 0.0, 8.5)]
    targets = [
        Target(f"s{i}", x + float(dx), y + float(dy), 0.2)
        for i, (x, y) in enumerate(centres * 9)
        for dx, dy in [rng.uniform([-3.8, -2.8], [3.8, 2.8])]
    ]
    apart = [Target(f"a{k}", x, y, 0.2) for k, (x, y) in enumerate(centres)]
    plan = plan_dabs(SENSOR, TIP, [*targets, *apart])
    assert len(targets) > 60
    assert len(plan.dabs) <= len(centres) + 1


def test_the_hand_begins_at_its_own_side_and_sheets_are_counted() -> None:
    targets = strewn(30, 3)
    right = plan_dabs(SENSOR, TIP, targets, patches_per_sheet=4)
    left = plan_dabs(SENSOR, TIP, targets, from_right=True)
    assert right.sheets == -(-right.patches // 4)
    assert left.sheets is None
    assert len(left.dabs) == len(right.dabs)
    assert left.dabs[0].x_mm > right.dabs[0].x_mm
    with pytest.raises(BadArgumentError, match="Give 1 or more"):
        plan_whole(SENSOR, TIP, patches_per_sheet=0)


@pytest.mark.long
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


def test_nothing_inside_the_filter_is_dabbed() -> None:
    spots = [spot("a", 300, 300), spot("in", 900, 900, inside_filter=True)]
    assert [t.id for t in targets_of(spots)] == ["a"]


def test_one_swab_serves_two_lanes_with_a_face_for_each() -> None:
    plan = plan_swab(SENSOR, 16, Wiping(edges_by_face=True))
    assert (plan.lanes, plan.swabs, plan.swabs_needed.dry_wet_dry) == (2, 1, 3)
    assert [s.face for s in plan.strokes] == ["first", "second"]
    assert {s.swab for s in plan.strokes} == {1}
    assert plan.strokes[0].from_[1] < 0 < plan.strokes[1].from_[1]
    assert "one face for the upper edge" in plan.warnings[0]
    matched_ = plan_swab(SENSOR, 24, Wiping(edges_by_face=True))
    assert matched_.strokes == plan_swab(SENSOR, 24).strokes
    three = plan_swab(SENSOR, 9, Wiping(edges_by_face=True))
    assert three.swabs == three.lanes > 2
