"""The hand by its properties: dirt is conserved, nothing comes from nowhere, coverage is true."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.simulation.hand import Result, grains, work_over
from neatpatch.simulation.touch import (
    BENT_N,
    DRIES_S,
    MOST_DROPS,
    Cling,
    Grain,
    HandTool,
    Sample,
    Setup,
    Stroke,
)

SENSOR = (23.5, 15.6)
GENTLE_N = 0.6
COORDINATES = st.floats(-14, 14)
SAMPLES = st.builds(
    Sample,
    st.floats(0, 60),
    COORDINATES,
    COORDINATES,
    st.floats(0, 3),
    st.none() | st.floats(0, 90),
)


@st.composite
def strokes(draw: st.DrawFn) -> Stroke:
    samples = draw(st.lists(SAMPLES, max_size=8))
    return Stroke(draw(st.integers(0, 3)), tuple(sorted(samples, key=lambda s: s.t_s)))


SETUPS = st.builds(
    Setup,
    tool=st.sampled_from(["wet_swab", "dry_swab", "lift"]),
    width_mm=st.floats(4, 24),
    drops=st.integers(0, 8),
    wait_s=st.floats(0, 60),
    used=st.booleans(),
)
DIRT = st.builds(
    lambda loose, stuck, greasy, seed: grains(
        {"loose": loose, "stuck": stuck, "greasy": greasy}, SENSOR, seed
    ),
    st.integers(0, 6),
    st.integers(0, 6),
    st.integers(0, 4),
    st.integers(0, 10_000),
)


def along(y: float = 0.0, *, force: float = GENTLE_N, face: int = 0, mm_s: float = 20) -> Stroke:
    """One even stroke from edge to edge."""
    xs = [-11.7 + 23.4 * i / 20 for i in range(21)]
    return Stroke(face, tuple(Sample((x + 11.7) / mm_s, x, y, force) for x in xs))


def press(x: float, y: float, *, face: int = 0, slide: float = 0.0) -> Stroke:
    return Stroke(face, (Sample(0, x, y, GENTLE_N), Sample(0.5, x + slide, y, GENTLE_N)))


def setup(tool: HandTool = "wet_swab", **more: object) -> Setup:
    plain = Setup(tool=tool, width_mm=16, drops=2 if tool == "wet_swab" else 0)
    return replace(plain, **more)  # type: ignore[arg-type]


def one(cling: Cling, strength: float, x: float = 0.0, y: float = 0.0) -> list[Grain]:
    return [Grain(name="g", x_mm=x, y_mm=y, cling=cling, strength=strength)]


def names(found: list[Grain]) -> list[str]:
    return sorted(g.name for g in found)


@given(DIRT, st.lists(strokes(), max_size=6), SETUPS)
def test_every_grain_ends_in_one_place(
    dirt: tuple[Grain, ...], done: list[Stroke], held: Setup
) -> None:
    end = work_over(dirt, done, held, SENSOR)
    assert names([*end.glass, *end.taken, *end.rim]) == names(list(dirt))
    assert end == work_over(dirt, done, held, SENSOR)


@given(DIRT, st.lists(strokes(), max_size=6), SETUPS)
def test_what_came_has_a_cause_and_what_was_not_touched_lies_where_it_lay(
    dirt: tuple[Grain, ...], done: list[Stroke], held: Setup
) -> None:
    end = work_over(dirt, done, held, SENSOR)
    assert {b.cause for b in end.brought} <= set(end.faults)
    before = {g.name: g for g in dirt}
    for grain in end.glass:
        if grain.name not in end.touched:
            assert grain == before[grain.name]
        if grain != before[grain.name]:
            assert grain.name in end.dragged
        assert abs(grain.x_mm) <= SENSOR[0] / 2
        assert abs(grain.y_mm) <= SENSOR[1] / 2


@given(DIRT, SETUPS)
def test_a_hand_that_does_nothing_changes_nothing(dirt: tuple[Grain, ...], held: Setup) -> None:
    for idle in ([], [Stroke(0, ())]):
        end = work_over(dirt, idle, held, SENSOR)
        assert end.glass == list(dirt)
        assert (end.taken, end.rim, end.brought, end.faults) == ([], [], [], [])


@given(st.lists(strokes(), max_size=5), st.floats(4, 24))
def test_coverage_only_grows_and_strips_are_what_is_left(done: list[Stroke], width: float) -> None:
    held = setup("dry_swab", width_mm=width)
    shares = [work_over((), done[:n], held, SENSOR).covered for n in range(len(done) + 1)]
    assert shares[0] == 0.0
    assert all(a <= b for a, b in pairwise(shares))
    end = work_over((), done, held, SENSOR)
    if end.covered == 1.0:
        assert end.strips == []
    if end.covered < 0.9:
        assert end.strips != []
    assert sum(b - a for a, b in end.strips) <= SENSOR[1] + 1e-6


@given(st.floats(8, 13))
def test_a_strip_that_a_narrow_swab_leaves_is_as_wide_as_what_it_lacks(width: float) -> None:
    """Along the upper edge only: below it lies what the width does not reach."""
    y = -SENSOR[1] / 2 + width / 2
    [strip] = work_over((), [along(y)], setup(width_mm=width), SENSOR).strips
    wanted = SENSOR[1] / 2 - 1.0 - (y + width / 2)
    assert strip[1] - strip[0] == pytest.approx(wanted, abs=0.8)


def test_a_good_wet_stroke_takes_what_it_should_and_leaves_nothing() -> None:
    dirt = grains({"loose": 4, "stuck": 3, "greasy": 2}, SENSOR, 3)
    end = work_over(dirt, [along()], setup(), SENSOR)
    assert end.faults == []
    assert end.covered == 1.0
    assert (end.brought, end.strips) == ([], [])
    assert len(end.taken) >= 7


@pytest.mark.parametrize(
    ("held", "stroke", "fault", "brings"),
    [
        (setup(drops=MOST_DROPS + 1), along(), "too_wet", True),
        (setup(), along(force=BENT_N + 0.1), "bent", True),
        (setup("dry_swab"), along(force=BENT_N + 0.1), "bent", False),
        (setup(), along(mm_s=2), "standing", True),
        (setup(wait_s=0.2), along(), "not_even", True),
        (setup(wait_s=DRIES_S + 1), along(), "dried", True),
        (setup(drops=0), along(), "no_fluid", False),
        (setup(used=True), along(), "used", True),
        (setup(), along(mm_s=200), "fast", False),
        (setup(), along(y=2.0), "over_edge", True),
    ],
)
def test_each_mistake_is_told_and_leaves_its_mark(
    held: Setup, stroke: Stroke, fault: str, brings: bool
) -> None:
    end = work_over((), [stroke], held, SENSOR)
    assert fault in end.faults
    assert [b.cause for b in end.brought] == ([fault] if brings else [])


def test_a_faint_touch_is_told_and_takes_less() -> None:
    dirt = one("stuck", 0.5)
    assert work_over(dirt, [along(force=0.05)], setup(), SENSOR).faults == ["faint"]
    assert names(work_over(dirt, [along(force=0.05)], setup(), SENSOR).glass) == ["g"]
    assert names(work_over(dirt, [along()], setup(), SENSOR).taken) == ["g"]


def test_a_dry_swab_leaves_grease_and_pushes_what_is_loose_to_the_rim() -> None:
    assert names(work_over(one("greasy", 0.5), [along()], setup("dry_swab"), SENSOR).glass) == ["g"]
    held = setup("dry_swab")
    pushed = work_over(one("loose", 0.9), [along(force=0.05)], held, SENSOR)
    assert names(pushed.rim) == ["g"]
    assert pushed.dragged == {"g"}


def test_turning_back_brings_back_what_clung_to_the_face_by_little() -> None:
    out = along().samples
    back = tuple(Sample(out[-1].t_s + 0.1 + s.t_s, -s.x_mm, 0.0, GENTLE_N) for s in out)
    there_and_back = Stroke(0, (*out, *back))
    dirt = one("stuck", 0.85)
    assert names(work_over(dirt, [along()], setup(), SENSOR).taken) == ["g"]
    end = work_over(dirt, [there_and_back], setup(), SENSOR)
    assert "turned_back" in end.faults
    assert end.dragged == {"g"}
    again = work_over(dirt, [along(), along()], setup(), SENSOR)
    assert "face_again" in again.faults
    fresh = work_over(dirt, [along(), along(face=1)], setup(), SENSOR)
    assert fresh.faults == []
    assert fresh.dragged == set()


def test_a_gel_stick_presses_and_never_slides() -> None:
    dirt = one("stuck", 0.5, 3.0, 2.0)
    held = setup("lift")
    assert names(work_over(dirt, [press(3.5, 2.0)], held, SENSOR).taken) == ["g"]
    missed = work_over(dirt, [press(-3.0, 2.0)], held, SENSOR)
    assert (names(missed.glass), missed.touched) == (["g"], set())
    slid = work_over(dirt, [press(0.0, 2.0, slide=4.0)], held, SENSOR)
    assert slid.faults == ["slid"]
    assert names(slid.glass) == ["g"]
    grease = work_over(one("greasy", 0.5, 3.0, 2.0), [press(3.0, 2.0)], held, SENSOR)
    assert [b.cause for b in grease.brought] == ["lift_on_grease"]


def test_a_full_pad_holds_less_until_it_is_cleaned() -> None:
    dirt = [Grain(name=f"g{i}", x_mm=0, y_mm=0, cling="stuck", strength=0.6) for i in range(8)]
    full: Result = work_over(dirt, [press(0, 0)], setup("lift"), SENSOR)
    assert "pad_full" in full.faults
    assert len(full.taken) < 8
    clean = work_over(dirt, [press(0, 0), press(0, 0, face=1)], setup("lift"), SENSOR)
    assert len(clean.taken) > len(full.taken)
