"""Corners of the judgement that practice has shown: each as it should be decided."""

from __future__ import annotations

from typing import Any

import pytest

from neatpatch.core.advice import Advice
from tests.core.advice.situations import (
    BLOWN,
    BULB,
    DRY,
    FAST,
    SHAKEN,
    STICK,
    WET,
    bars,
    codes,
    judged,
    require,
    spots,
)

OIL = {"spots": spots(4, droplet=4)}
MARKS = {"spots": spots(3, residue=3)}
LENS = {"step": "clean_lens", "tested": True, "result": "no_change"}
SWAB_ONLY = {"contact_order": ["wet_swab"]}
STREAK = {"step": "wet_swab", "tested": True, "result": "streaks", "drops": 6, "fluid": "mild"}
FOLLOWED = {"step": "dry_followup", "tested": True, "result": "no_change"}
SERVED = {"step": "service", "tested": True, "result": "fewer"}


def asked_aperture(found: Advice) -> str:
    return next(need for need in found.needs if "f/" in need)


@pytest.mark.parametrize("worked", [(2.8,), (8.0,), (2.8, 5.6, 8.0)])
def test_a_retest_never_asks_for_a_wide_aperture_of_the_work(worked: tuple[float, ...]) -> None:
    found = judged(frame=None, work={"apertures": worked}, done=[])
    assert found.decision == "reshoot"
    assert "f/22" in asked_aperture(found)
    assert all(f"f/{n:g}" not in asked_aperture(found) for n in worked)


def test_a_retest_asks_for_the_aperture_of_the_frame_before() -> None:
    untested = [SHAKEN, {**BLOWN, "tested": False, "result": None}]
    assert "f/16" in asked_aperture(judged(frame={"f_number": 16}, done=untested))
    assert "f/22" in asked_aperture(judged(frame={"f_number": 11}, done=untested))
    too_wide = judged(frame={"f_number": 16, "spots": spots(0)}, work={"apertures": [22]}, done=[])
    assert "f/22" in asked_aperture(too_wide)
    assert "Shoot it at f/22" in " ".join(too_wide.why)


def test_air_once_more_is_the_first_alternative_after_one_turn_in_vain() -> None:
    once = judged()
    assert once.decision == "lift"
    assert once.alternatives[0].decision == "air"
    assert "nearer" in once.alternatives[0].why
    assert all(o.decision != "air" for o in judged(done=[SHAKEN, BLOWN, BLOWN]).alternatives)
    assert all(o.decision != "air" for o in judged(kit=[STICK]).alternatives)


@pytest.mark.parametrize("item", ["moist_wipe", "sterile_pad"])
def test_an_open_wipe_is_not_used(item: str) -> None:
    camera = {"access": "digital_back", "self_clean": False}
    schools = {**SWAB_ONLY, "pad_on_finger": True}
    opened = {"item": item, "quantity": 5, "sealed": False}
    found = judged(camera=camera, frame=MARKS, schools=schools, kit=[BULB, opened])
    assert found.decision == "prepare"
    sealed = {**opened, "sealed": True}
    fluid = {"item": "fluid", "kind": "mild"}
    ready = judged(camera=camera, frame=MARKS, schools=schools, kit=[BULB, sealed, fluid])
    assert ready.decision == "wet_swab"


@pytest.mark.parametrize("school", [{}, {"fluid": "alcohol_free"}])
@pytest.mark.parametrize("kind", ["pure_water", "alcohol_free"])
def test_oil_is_not_wiped_with_water(kind: str, school: dict[str, str]) -> None:
    found = judged(frame=OIL, schools=school, kit=[BULB, WET, {"item": "fluid", "kind": kind}])
    assert found.decision == "prepare"
    assert any("Oil-dissolving fluid" in need for need in found.needs)
    assert f"fluid:{kind}" in bars(found)


def test_after_three_cleans_of_the_lens_there_is_an_end() -> None:
    alone = judged(frame={"site": "rear_lens"}, done=[LENS] * 3)
    assert alone.decision == "service"
    assert "Another lens" in alone.why[0]
    assert {o.decision for o in alone.alternatives} >= {"reshoot", "defer"}
    in_a_hurry = judged(
        frame={"site": "rear_lens"},
        done=[LENS] * 3,
        job_in_days=2,
        service={"turnaround_days": 5},
    )
    assert in_a_hurry.decision == "defer"


def test_after_a_streak_and_its_follow_up_the_right_fluid_is_tried_fresh_once() -> None:
    mild = {"item": "fluid", "kind": "mild", "kit_own": True}
    changes: dict[str, Any] = {"frame": MARKS, "kit": [BULB, WET, DRY, mild]}
    once = [SHAKEN, BLOWN, STREAK, FOLLOWED]
    require({**changes, "done": once}, "wet_swab", set(), set())
    again = [*once, {**STREAK, "result": "no_change"}]
    assert judged(**changes, done=again).decision == "service"
    wrong = [SHAKEN, BLOWN, {**STREAK, "fluid": "fast_drying"}, FOLLOWED]
    require({**changes, "done": wrong}, "wet_swab", set(), set())


def test_every_rung_is_said_to_be_tried_only_when_it_was() -> None:
    in_vain = {"tested": True, "result": "no_change"}
    rungs = ["lift", "lift", "lift", "dry_swab", "dry_swab"]
    tried = [SHAKEN, BLOWN, BLOWN, *({"step": r, **in_vain} for r in rungs)]
    wet = {"step": "wet_swab", **in_vain, "fluid": "fast_drying"}
    all_of_them = judged(done=[*tried, wet])
    assert all_of_them.decision == "service"
    assert all_of_them.why[0] == "Every rung that makes sense at home has been tried."
    smears = judged(frame=MARKS, done=[SHAKEN, BLOWN, {**wet, "fluid": "mild"}])
    assert smears.decision == "service"
    assert "Every rung" not in smears.why[0]


def test_a_mark_a_service_left_may_be_a_scratch() -> None:
    found = require(
        {"frame": MARKS, "done": [SERVED]}, "service", {"scratch_possible"}, {"wet_swab", "lift"}
    )
    assert "scratch" in found.why[0]
    unmoved = [{**SERVED, "result": "no_change"}]
    require({"done": unmoved}, "service", {"scratch_possible"}, {"dry_swab"})
    dust = judged(done=[SERVED, SHAKEN, BLOWN])
    assert dust.decision == "lift", "new specks after a service are dust"


@pytest.mark.parametrize(("percent", "decision"), [(100, "lift"), (95, "lift"), (94, "prepare")])
def test_a_battery_is_full_from_95_percent(percent: int, decision: str) -> None:
    camera = {"access": "mirror", "battery_percent": percent, "mirror_up": True}
    assert judged(camera=camera).decision == decision


def test_a_camera_is_taken_apart_only_with_all_that_it_takes() -> None:
    parts = [{"item": "cross_driver_0"}, {"item": "screw_tray"}, {"item": "lint_free_bud"}]
    changes: dict[str, Any] = {
        "camera": {"access": "fixed_lens"},
        "operator": {"experience": "expert", "asks_for": "teardown"},
    }
    assert judged(**changes, kit=parts).decision == "teardown"
    for missing in range(3):
        kit = [p for i, p in enumerate(parts) if i != missing]
        assert judged(**changes, kit=kit).decision == "prepare"


@pytest.mark.parametrize(
    "changes",
    [
        {"camera": {"closes_when_off": True, "power": "off"}},
        {"camera": {"temperature_c": -5}, "room": {"humidity_percent": 55}},
    ],
)
def test_no_air_into_a_closed_or_a_dewy_camera(changes: dict[str, Any]) -> None:
    found = judged(**changes, done=[SHAKEN])
    assert found.decision == "prepare"
    assert "air" in bars(found)
    assert "air" not in bars(judged(done=[SHAKEN]))


def test_files_first_patches_even_on_the_day_before_a_job() -> None:
    school = {"files_first": True}
    assert judged(schools=school, photos_waiting=300, job_in_days=1).decision == "retouch"
    assert judged(schools=school, photos_waiting=0, job_in_days=1).decision != "retouch"


def test_a_swab_that_does_not_fit_is_named_with_the_width_wanted() -> None:
    narrow, unmarked = {**WET, "width_mm": 16}, {"item": "wet_swab", "quantity": 2}
    found = judged(kit=[BULB, unmarked, narrow, FAST], schools=SWAB_ONLY)
    assert found.decision == "prepare"
    assert "yours is 16 mm wide, your method wants 24 mm" in " ".join(found.needs)
    assert "right_width" in codes(found)
