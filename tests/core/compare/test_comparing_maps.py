"""Gone, stayed, moved, new: on maps made by hand, and on frames shot before and after."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from bench.comparing import score_pairs

from neatpatch.core.common.records import Check, Spot, SpotMap
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.core.sensor.placement import Placement
from neatpatch.core.sensor.registration import Registration
from tests.core.made_maps import HEIGHT, WIDTH, spot, spot_map


def strewn(count: int, seed: int = 3) -> list[Spot]:
    rng = np.random.default_rng(seed)
    places = rng.uniform([100, 100], [WIDTH - 100, HEIGHT - 100], (count, 2))
    sizes = [3 + 0.31 * i for i in range(count)]
    return [
        spot(f"s{i}", float(x), float(y), particle_px=size, depth=min(0.9, (size / 12) ** 2))
        for i, ((x, y), size) in enumerate(zip(places, sizes, strict=True))
    ]


def seen_through(spots: list[Spot], scale: float, dx: float, dy: float) -> list[Spot]:
    """The same dust with another exit pupil, under other names."""
    cx, cy = (WIDTH - 1) / 2, (HEIGHT - 1) / 2
    return [
        s.model_copy(
            update={
                "id": f"t{s.id}",
                "x_px": cx + scale * (s.x_px - cx) + dx,
                "y_px": cy + scale * (s.y_px - cy) + dy,
            }
        )
        for s in spots
    ]


def with_check(check: Check, *spots: Spot) -> SpotMap:
    return spot_map(*spots).model_copy(update={"checks": (check,)})


def moved_by(place: Placement, s: Spot) -> Spot:
    x, y = place.apply(np.array([[s.x_px, s.y_px]]))[0]
    return s.model_copy(update={"id": f"t{s.id}", "x_px": float(x), "y_px": float(y)})


def test_the_same_dust_stays_under_another_exit_pupil() -> None:
    mine = strewn(20)
    found = compare(spot_map(*mine), spot_map(*seen_through(mine, 0.9965, 0.7, -0.5)))
    assert found.comparable
    assert found.summary.stayed == 20
    assert found.alignment.scale == pytest.approx(0.9965, abs=2e-4)
    assert found.alignment.shift_px == pytest.approx((0.7, -0.5), abs=0.2)


def test_half_gone_some_new_and_one_moved() -> None:
    mine = strewn(24)
    left = seen_through(mine[:12], 1.002, 0.3, 0.3)
    wanderer = mine[20].model_copy(update={"id": "w", "x_px": mine[20].x_px + 90.0})
    fresh = [spot("n1", 1500, 150, particle_px=30.0), spot("n2", 2800, 1800, particle_px=41.0)]
    found = compare(spot_map(*mine), spot_map(*left, wanderer, *fresh))
    s = found.summary
    assert (s.before, s.after, s.gone, s.stayed, s.moved, s.new) == (24, 15, 11, 12, 1, 2)
    assert s.removed_percent == pytest.approx(45.8)
    moved = next(c for c in found.spots if c.status == "moved")
    assert (moved.before, moved.after) == ("s20", "w")
    assert moved.moved_um is not None
    assert moved.moved_um == pytest.approx(90 * 12.0, rel=0.3)


def test_what_more_noise_hides_is_not_called_gone() -> None:
    faint = [s.model_copy(update={"snr": 15.0, "depth": 0.03}) for s in strewn(8)]
    clear = [s.model_copy(update={"id": f"c{s.id}"}) for s in strewn(14, 9)]
    noisy = Check(
        code="grainy", level="note", measured=0.035, limit=0.05, message="noise", remedy="less ISO"
    )
    later = with_check(noisy, *seen_through(clear, 1.0, 0, 0))
    quiet = noisy.model_copy(update={"level": "ok", "measured": 0.01})
    found = compare(with_check(quiet, *faint, *clear), later)
    assert found.comparable
    assert found.summary.gone == 0
    assert {c.before for c in found.spots if c.status == "unseen"} == {s.id for s in faint}


def test_another_aperture_gives_no_figures() -> None:
    mine = strewn(8)
    found = compare(spot_map(*mine), spot_map(*mine, f_number=5.6))
    assert not found.comparable
    assert "Shoot the second again at f/22" in found.why_not[0]
    assert found.spots == ()
    assert found.summary.before == found.summary.gone == found.summary.unseen == 0


def test_a_spot_outside_the_later_frame_is_not_called_gone() -> None:
    mine = strewn(10)
    corner = spot("c", 2999.0, 1999.0, particle_px=9.0)
    found = compare(spot_map(*mine, corner), spot_map(*seen_through(mine, 1.006, 0.0, 0.0)))
    assert [c.before for c in found.spots if c.status == "unseen"] == ["c"]


def test_two_specks_that_run_together_hide_no_loss() -> None:
    a, b = spot("a", 800, 800, particle_px=8.0), spot("b", 812, 800, particle_px=8.0)
    both = spot("ab", 806, 800, particle_px=11.4, outer_px=30.0)
    others = strewn(8)
    found = compare(spot_map(a, b, *others), spot_map(both, *seen_through(others, 1.0, 0, 0)))
    assert found.summary.gone == 0
    assert found.summary.unseen == 1


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"camera": "Tarn Meridian S"}, "two cameras"),
        ({"sensor_mm": (23.5, 15.6)}, "different size"),
    ],
)
def test_frames_that_do_not_belong_together(changes: dict[str, Any], words: str) -> None:
    found = compare(spot_map(*strewn(5)), spot_map(*strewn(5), **changes))
    assert not found.comparable
    assert words in " ".join(found.why_not)


def test_scene_marks_are_left_out_and_empty_maps_compare() -> None:
    mark = spot("m", 500, 500, site="scene")
    found = compare(spot_map(mark), spot_map())
    assert found.spots == ()
    assert found.summary.before == 0
    assert found.summary.removed_percent == 0


def test_frames_without_marks_in_common_are_not_compared() -> None:
    for later in (spot_map(), spot_map(*strewn(14, 8))):
        found = compare(spot_map(*strewn(20)), later)
        assert not found.comparable
        assert found.same_sensor is None
        assert "too few marks in common" in found.why_not[0]
        assert "full-size files" in found.why_not[0]
        assert found.spots == ()


def test_a_spotless_retest_is_compared_where_the_sensor_is_its_own_witness() -> None:
    shape = (HEIGHT, WIDTH)
    told = Registration(True, 900.0, 60.0, Placement(here=shape, there=shape))
    found = compare(spot_map(*strewn(6)), spot_map(camera="Tarn Meridian S"), told)
    assert found.comparable
    assert found.same_sensor is True
    assert found.fingerprint.strength == 900.0
    assert (found.summary.gone, found.summary.removed_percent) == (6, 100.0)


def test_another_sensor_is_said_first_and_gives_no_figures() -> None:
    found = compare(
        spot_map(*strewn(6)), spot_map(camera="Tarn Meridian S"), Registration(False, 24.0, 60.0)
    )
    assert not found.comparable
    assert found.same_sensor is False
    assert "two sensors" in found.why_not[0]


@pytest.mark.parametrize("turn", [1, 2, 3])
def test_a_turned_retest_is_laid_by_its_constellation(turn: int) -> None:
    mine = strewn(14)
    there = (WIDTH, HEIGHT) if turn % 2 else (HEIGHT, WIDTH)
    place = Placement(here=(HEIGHT, WIDTH), there=there, turn=turn)
    later = [moved_by(place, s) for s in mine[:9]]
    found = compare(spot_map(*mine), spot_map(*later, width_px=there[1], height_px=there[0]))
    assert found.comparable
    assert (found.summary.stayed, found.summary.gone) == (9, 5)
    assert found.alignment.turn_deg == 90 * turn


def test_what_lies_outside_a_crop_could_not_be_seen() -> None:
    mine = strewn(30)
    place = Placement(here=(HEIGHT, WIDTH), there=(1200, 1500), shift_px=(240.0, -130.0))
    later = [moved_by(place, s) for s in mine]
    inside = [s for s in later if 0 <= s.x_px < 1500 and 0 <= s.y_px < 1200]
    found = compare(spot_map(*mine), spot_map(*inside, width_px=1500, height_px=1200))
    assert found.comparable
    assert found.summary.stayed == len(inside)
    assert found.summary.gone == 0
    assert found.summary.unseen == 30 - len(inside)
    assert found.alignment.shift_px == pytest.approx((240.0, -130.0), abs=0.5)


def test_a_frame_of_other_size_is_compared_in_the_later_ones_pixels() -> None:
    mine = strewn(12)
    half = [
        s.model_copy(
            update={
                "x_px": s.x_px / 2,
                "y_px": s.y_px / 2,
                "outer_px": s.outer_px / 2,
                "particle_px": s.particle_px / 2,
            }
        )
        for s in mine
    ]
    found = compare(spot_map(*half, width_px=1500, height_px=1000, pitch_um=24.0), spot_map(*mine))
    assert found.summary.stayed == 12


def smaller(s: Spot, zoom: float, paler: float = 1.0) -> Spot:
    changes = {k: getattr(s, k) * zoom for k in ("x_px", "y_px", "outer_px", "particle_px")}
    return s.model_copy(update={**changes, "id": f"t{s.id}", "depth": s.depth * paler})


def test_one_that_moved_is_known_in_a_smaller_and_paler_picture() -> None:
    mine = [s.model_copy(update={"snr": 300.0}) for s in strewn(24)]
    wanderer = mine[20].model_copy(update={"x_px": mine[20].x_px + 60.0})
    later = [smaller(s, 0.5, 0.9) for s in (*mine[:14], wanderer)]
    found = compare(spot_map(*mine), spot_map(*later, width_px=1500, height_px=1000, pitch_um=24.0))
    assert found.summary.stayed == 14
    assert [s.before for s in found.spots if s.status == "moved"] == ["s20"]


def test_a_known_lens_correction_lays_even_two_marks() -> None:
    """No radial term could be told from so few; the fingerprint knows it already."""
    mine = [spot("a", 300, 250), spot("b", 2600, 1700), spot("c", 1500, 1000)]
    lens = Correction(1.02, -0.03)
    centre = np.array([(WIDTH - 1) / 2, (HEIGHT - 1) / 2])
    reach = float(np.hypot(WIDTH, HEIGHT)) / 2
    places = centre + lens.apply(np.array([[s.x_px, s.y_px] for s in mine]) - centre, reach)
    later = [
        s.model_copy(update={"id": f"t{s.id}", "x_px": float(x), "y_px": float(y)})
        for s, (x, y) in list(zip(mine, places, strict=True))[:2]
    ]
    shape = (HEIGHT, WIDTH)
    told = Registration(True, 300.0, 60.0, Placement(here=shape, there=shape), lens)
    found = compare(spot_map(*mine), spot_map(*later), told)
    assert (found.summary.stayed, found.summary.gone) == (2, 1)
    assert found.alignment.radial == pytest.approx(-0.03, abs=0.002)
    spotless = compare(spot_map(*mine), spot_map(), told)
    assert (spotless.summary.gone, spotless.alignment.radial) == (3, -0.03)


@pytest.mark.long
def test_unseen_pairs_of_frames(tmp_path: Path) -> None:
    result = score_pairs(tmp_path, seed=77_000, count=2)
    assert np.mean(result.right) >= 0.98
    assert max(result.misplaced_px) <= 1.0


def test_a_map_compared_with_itself_changes_nothing() -> None:
    mine = spot_map(*strewn(30))
    found = compare(mine, mine)
    assert {c.status for c in found.spots} == {"stayed"}
    assert found.alignment.scale == pytest.approx(1.0)
