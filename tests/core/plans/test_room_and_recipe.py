"""Drying, battery, recipe and loupe against worked values and tables."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Check
from neatpatch.core.plans.drying import (
    ETHANOL,
    WATER,
    Film,
    dew_point_c,
    plan_drying,
    vapour_pressure_pa,
    warming,
    wet_bulb_c,
)
from neatpatch.core.plans.loupe import plan_loupe
from neatpatch.core.plans.power import plan_power
from neatpatch.core.plans.test_frame import (
    HAND_MM_S,
    LONGEST_S,
    TrialExposure,
    plan_shoot,
    trial_exposure_of,
)
from tests.core.made_maps import spot_map


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


def test_a_drying_film_cools_to_the_wet_bulb_of_tables() -> None:
    assert wet_bulb_c(WATER, 20, 45) == pytest.approx(13.1, abs=0.8)
    assert wet_bulb_c(WATER, 30, 50) == pytest.approx(22.0, abs=0.8)
    assert wet_bulb_c(WATER, 20, 97) == pytest.approx(19.7, abs=0.3)
    plan = plan_drying(20, 45, film=Film(thickness_um=(10, 10), air_m_s=(0.1, 0.1)))
    assert 2 < plan.minutes.most / plan.minutes.least < 4


def test_film_and_air_can_be_set_and_are_told() -> None:
    usual = plan_drying(20, 45)
    thick = plan_drying(20, 45, film=Film(thickness_um=(6, 30)))
    assert thick.minutes.most == pytest.approx(2 * usual.minutes.most, rel=0.03)
    assert thick.assumed.startswith("A film 6 to 30 µm thick")
    windy = plan_drying(20, 45, film=Film(air_m_s=(0.2, 0.8)))
    assert windy.minutes.most == pytest.approx(usual.minutes.most / 2, rel=0.03)
    with pytest.raises(BadArgumentError, match="two growing thicknesses"):
        plan_drying(20, 45, film=Film(thickness_um=(9, 3)))
    with pytest.raises(BadArgumentError, match="two growing speeds"):
        plan_drying(20, 45, film=Film(air_m_s=(0, 3)))


def test_a_cold_camera_waits_until_no_dew_can_settle() -> None:
    found = warming(20, 45, 2)
    wanted = dew_point_c(20, 45) + 2
    assert found.minutes is not None
    for tau, minutes in zip((54, 135), (found.minutes.least, found.minutes.most), strict=True):
        warmed = 20 - (20 - 2) * np.exp(-minutes / tau)
        assert warmed == pytest.approx(wanted, abs=0.6)
    assert not warming(20, 45, 15).dew
    assert warming(20, 98, 5).minutes is None
    assert plan_drying(20, 45).camera is None
    with pytest.raises(BadArgumentError, match="outside -40 to 60"):
        warming(20, 45, -80)


def test_time_for_the_lockup_by_the_owners_note() -> None:
    plan = plan_power(20, 100)
    assert (plan.lasts_s, plan.warn_s, plan.stop_s) == (1200, 600, 900)
    assert "Finish within 10 min" in plan.why
    low = plan_power(20, 12)
    assert (low.lasts_s, low.warn_s) == (144, 72)
    assert low.why == "The battery is at 12 %: charge it fully first."
    assert plan_power(20, 100, mains=True).warn_s is None
    assert "not noted" in plan_power(None, 100).why
    assert "not told" in plan_power(20, None).why
    with pytest.raises(BadArgumentError, match="outside 0 to 600"):
        plan_power(-3, 100)
    with pytest.raises(BadArgumentError, match="outside 0 to 100 %"):
        plan_power(20, 130)


def test_a_trial_frame_puts_the_exposure_right() -> None:
    trial = TrialExposure(f_number=11, iso=400, exposure_s=0.1, level=0.4)
    plan = plan_shoot(100, 22, trial=trial)
    assert plan.exposure_s == pytest.approx(0.1 * 4 * 4 * 0.5)
    assert plan.move_mm_s == pytest.approx(plan.move_mm / 0.8, rel=0.1)
    assert any("0.8 s" in s for s in plan.steps)
    assert any(plan.hold[1:] in s for s in plan.steps)
    with pytest.raises(BadArgumentError, match="too far off"):
        plan_shoot(100, 22, trial=TrialExposure(f_number=11, iso=100, exposure_s=1, level=0.99))
    dark = Check(code="too_dark", level="ok", measured=0.3, limit=None, message="", remedy="")
    measured = spot_map().model_copy(update={"checks": (dark,)})
    assert trial_exposure_of(measured) == TrialExposure(
        f_number=22, iso=100, exposure_s=1, level=0.3
    )
    assert trial_exposure_of(spot_map()) is None


@pytest.mark.parametrize("focal_mm", [24, 50, 85, 200])
@pytest.mark.parametrize("ev100", [-6, 4, 5, 10, 13, 16, 22])
def test_the_movement_asked_for_is_one_that_a_hand_can_make(focal_mm: float, ev100: float) -> None:
    plan = plan_shoot(focal_mm, ev100=ev100)
    assert plan.exposure_s is not None
    assert plan.exposure_s == pytest.approx(22**2 / 2**ev100, rel=0.01)
    assert plan.move_mm <= HAND_MM_S * plan.exposure_s * 1.05
    steps = " ".join(plan.steps)
    assert ("a hand gets about" in steps) == ("In dimmer light" in steps)
    assert ("So dark" in steps) == (plan.exposure_s > LONGEST_S)


def test_short_and_long_times_are_told_as_on_a_dial_with_what_to_change() -> None:
    short = plan_shoot(85, ev100=15)
    assert "hand gets about 3 mm far in 1/68 s" in short.move
    assert any("EV 12 or less" in s for s in short.steps)
    assert plan_shoot(85, ev100=12).move.endswith("within that 1/8 s.")
    assert any("EV 5 at least" in s for s in plan_shoot(85, ev100=-6).steps)
    assert "517 min" in plan_shoot(85, ev100=-6).move


def test_loupes() -> None:
    assert plan_loupe(44, (40, 46)).spacer_mm == 0
    shallow = plan_loupe(18, (40, 46))
    assert (shallow.fits, shallow.spacer_mm) == (False, 25)
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
    for focal, smallest, ev in ((0, None, None), (85, 500, None), (85, 22, 90)):
        with pytest.raises(BadArgumentError, match="outside"):
            plan_shoot(focal, smallest, ev)
