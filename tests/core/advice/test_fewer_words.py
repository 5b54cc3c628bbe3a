"""Advice in few words: what is new today first, nothing that was said or made sure of again."""

from __future__ import annotations

from typing import Any

import pytest

from neatpatch.core.advice import Advice, advise
from neatpatch.simulation.situations import random_facts
from tests.core.advice.situations import BLOWN, CAMERA, SHAKEN, STICK, WET, judged

MOST_WORDS = 150
TOLD = 5
WET_ONLY = {"contact_order": ["wet_swab"]}
MIRROR = {**CAMERA, "access": "mirror", "mirror_up": True, "power": "on"}


def fresh(found: Advice) -> list[str]:
    return [c.code for c in found.cautions if not c.said_before]


def words(found: Advice) -> int:
    told = [c.text for c in found.cautions if not c.said_before][:TOLD]
    return len(" ".join((found.title, *found.why, *found.needs, *told)).split())


def test_no_advice_takes_more_words_than_one_reads() -> None:
    long = {i: n for i in range(1500) if (n := words(advise(random_facts(i)))) > MOST_WORDS}
    assert long == {}


def test_every_caution_has_a_rank_and_what_was_said_comes_last() -> None:
    for seed in range(300):
        found = advise(random_facts(seed)).cautions
        assert [c.importance for c in found] == list(range(1, len(found) + 1))
        assert [c.said_before for c in found] == sorted(c.said_before for c in found)


def test_a_wet_swab_on_a_mirror_body_leads_with_what_this_rung_adds() -> None:
    found = judged(camera=MIRROR, schools=WET_ONLY)
    assert found.decision == "wet_swab"
    assert fresh(found)[:5] == [
        "own_risk",
        "fluid_hazard",
        "fluid_excess",
        "light_pressure",
        "single_use",
    ]
    said = {c.code for c in found.cautions if c.said_before}
    assert {"full_power", "mirror_drop", "drying_room", "right_width", "shedding_surface"} <= said
    assert words(found) <= 120


@pytest.mark.parametrize(
    ("changes", "code", "text"),
    [
        ({"observed": ["grit"], "done": [SHAKEN]}, "grit_scratch", "nothing may slide"),
        (
            {"camera": {**CAMERA, "filter_removed": True}, "done": [SHAKEN]},
            "ask_modifier",
            "taken out",
        ),
        ({"frame": {"site_proved": False}}, "same_place_is_sensor", "Moves with the target"),
    ],
)
def test_what_is_particular_today_comes_first(
    changes: dict[str, Any], code: str, text: str
) -> None:
    found = judged(**changes)
    first = next(c for c in found.cautions if c.code == code)
    assert text in first.text
    assert first.importance <= TOLD
    assert not first.said_before


def test_the_first_opening_of_a_mirror_body_tells_of_the_mirror() -> None:
    found = judged(camera=MIRROR, done=[SHAKEN])
    assert found.decision == "air"
    assert fresh(found)[:3] == ["mirror_drop", "no_touch_nozzle", "stirred"]


def test_own_risk_is_told_once_a_visit() -> None:
    lifted = {"step": "lift", "tested": True, "result": "fewer"}
    again = judged(done=[SHAKEN, BLOWN, lifted], kit=[WET, STICK], schools={})
    assert again.decision == "lift"
    assert "own_risk" not in fresh(again)
    assert "own_risk" in {c.code for c in again.cautions}


def test_what_no_gate_has_made_sure_of_is_told() -> None:
    closed = judged(camera={**MIRROR, "battery_percent": 12}, schools=WET_ONLY)
    assert closed.decision == "prepare"
    assert closed.cautions[0].code in ("full_power", "mirror_drop")
    assert {"full_power", "mirror_drop"} <= set(fresh(closed))


def test_a_cold_camera_is_told_of_dew_and_not_of_blowing_by_mouth() -> None:
    cold = judged(
        camera={**CAMERA, "temperature_c": -5}, room={"temperature_c": 20, "humidity_percent": 60}
    )
    assert cold.decision == "prepare"
    moisture = next(c for c in cold.cautions if c.code == "moisture")
    assert "Dew" in moisture.text
    assert not moisture.said_before


def test_fluids_without_alcohol_are_not_said_to_burn() -> None:
    for kind, burns in (("fast_drying", True), ("alcohol_free", False)):
        kit = [WET, {"item": "fluid", "kind": kind, "kit_own": True}, {"item": "bulb_blower"}]
        found = judged(kit=kit, schools=WET_ONLY)
        assert found.decision == "wet_swab"
        text = next(c.text for c in found.cautions if c.code == "fluid_hazard")
        assert ("burns" in text) is burns


def test_what_covers_a_mirrorless_sensor_is_not_called_a_mirror() -> None:
    found = judged(camera={**CAMERA, "closes_when_off": True})
    assert found.decision == "prepare"
    assert not any("mirror" in c.text for c in found.cautions)
    assert not any("arrive" in c.text for c in found.cautions)


def test_what_is_never_done_is_told_apart_from_what_is_not_done_now() -> None:
    found = judged(kit=[WET, STICK])
    always = {b.action for b in found.barred if b.always}
    assert {"mouth_air", "tweezers", "carbon_pen", "cloth", "lens_brush", "gas_can"} <= always
    assert not always & {"wet_swab", "lift", "stop_done", "raise_mirror"}
    allowed = judged(schools={"gas_can": "allowed"}, kit=[WET, {"item": "gas_can"}])
    assert "gas_can" not in {b.action for b in allowed.barred if b.always}


def test_what_the_step_before_did_can_be_left_out_of_the_reasons() -> None:
    change = {"gone": 4, "stayed": 5, "moved": 1, "new": 0}
    found = judged(done=[SHAKEN, BLOWN], frame={"change": change})
    assert "4 removed, 5 stayed, 1 moved" in found.last_step
    assert found.last_step in found.why
    assert judged().last_step == ""
