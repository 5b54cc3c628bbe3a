"""How a body is opened, by what it is: dust must fall out, and nobody wipes blind."""

from __future__ import annotations

from typing import Any

import pytest

from neatpatch.core.common.decisions import CONTACT, Decision
from neatpatch.core.guide.instruction import Setting
from neatpatch.core.guide.opening import (
    capped,
    closed,
    made_ready,
    opened,
    recipe_words,
    why_not,
)
from neatpatch.core.visit.body import Body
from tests.core.made_maps import spot_map


def body(**facts: Any) -> Body:
    return Body(name="B", sensor_mm=(36.0, 24.0), **{"stabilised": False, **facts})


def made(**facts: Any) -> Setting:
    return Setting(body=body(**facts))


def ready(step: Decision, **facts: Any) -> list[str]:
    return [i.text for i in made_ready(step, Setting(body=body(**facts)), "A loupe helps.")]


def test_air_goes_into_an_opening_that_looks_down_and_contact_into_one_that_looks_up() -> None:
    assert "opening straight down" in opened("air", made()).text
    assert "on its back" not in opened("air", made()).text
    for step in CONTACT:
        assert "on its back" in opened(step, made()).text
        assert "down" not in opened(step, made()).text


def test_a_digital_back_is_held_glass_down_for_air_and_laid_glass_up_for_contact() -> None:
    back = made(access="digital_back")
    assert "hold it glass down" in opened("air", back).text
    assert "lay it glass up on the bare table" in opened("wet_swab", back).text
    assert list(capped(back)) == []


def test_from_the_cap_only_the_cap_comes_off() -> None:
    assert opened("wet_swab", made(), from_cap=True).text.startswith("Take the cap off.")


@pytest.mark.parametrize(
    ("access", "closes", "asks", "looks"),
    [
        ("mirrorless", None, True, True),
        ("mirrorless", True, False, False),
        ("mirrorless", False, False, False),
        ("mirror", None, False, True),
    ],
)
def test_who_does_not_know_whether_a_shutter_covers_the_sensor_is_told_to_look(
    access: str, closes: bool | None, asks: bool, looks: bool
) -> None:
    first = opened("air", made(access=access, closes_when_off=closes))
    assert ("do you see the bare glass?" in first.text) == asks
    assert ("stop: cap on" in first.heed) == asks
    assert ("look" in first.acts) == looks


def test_nothing_is_touched_while_it_is_not_known_how_the_sensor_is_held() -> None:
    floating = {"stabilised": True, "access": "mirrorless"}
    for step in CONTACT:
        assert "not known how this sensor is locked" in why_not(step, body(**floating))
        assert why_not(step, body(**floating, hold_rule="on")) == ""
    assert why_not("air", body(**floating)) == ""
    assert why_not("wet_swab", body(stabilised=None)) != ""
    assert why_not("wet_swab", body(stabilised=None, access="digital_back")) == ""


def test_what_is_held_by_power_off_and_closes_without_power_is_left_to_the_handbook() -> None:
    held = {"stabilised": True, "hold_rule": "off"}
    assert "closes over it" in why_not("wet_swab", body(**held, closes_when_off=True))
    assert "closes over it" in why_not("wet_swab", body(**held, access="mirror"))
    assert why_not("wet_swab", body(**held, closes_when_off=False)) == ""
    on = {"stabilised": True, "hold_rule": "on"}
    assert why_not("wet_swab", body(**on, closes_when_off=True)) == ""


@pytest.mark.parametrize(
    ("rule", "words"),
    [("on", "Power on"), ("off", "Power off"), ("battery_out", "Battery out")],
)
def test_a_floating_sensor_is_held_before_contact_but_not_for_air(rule: str, words: str) -> None:
    facts: dict[str, Any] = {"stabilised": True, "hold_rule": rule, "closes_when_off": False}
    assert any(t.startswith(words) for t in ready("wet_swab", **facts))
    assert not any(t.startswith(words) for t in ready("air", **facts))


def test_a_mirror_is_raised_by_what_raises_it() -> None:
    assert any("cleaning lock-up" in t for t in ready("air", access="mirror"))
    assert any("hand latch" in t for t in ready("air", access="fixed_mirror"))
    assert not any("mirror" in t for t in ready("air", access="mirrorless"))


def test_swabs_stay_sealed_until_all_is_in_reach() -> None:
    def sealed(step: Decision) -> bool:
        return any("Leave the swab sealed" in t for t in ready(step))

    assert sealed("wet_swab")
    assert not sealed("lift")
    assert not sealed("air")


def test_covered_first_then_switched_off_then_the_lens() -> None:
    mirror = [i.acts for i in closed("wet_swab", made(access="mirror"))]
    assert mirror == [("close",), ("power_off",), ("lens_on",)]
    assert [i.acts for i in closed("air", made())] == [("close",), ("lens_on",)]
    cover = [i.acts for i in closed("air", made(closes_when_off=True))]
    assert cover == [("close",), ("power_off",), ("lens_on",)]
    latch = [i.acts for i in closed("air", made(access="fixed_mirror"))]
    assert latch == [("latch_down",), ("close",), ("lens_on",)]
    back = [i.acts for i in closed("air", made(access="digital_back"))]
    assert back == [("close",)]


def test_corners_are_looked_at_after_contact_only() -> None:
    assert "four corners" in next(closed("wet_swab", made())).text
    assert "four corners" not in next(closed("air", made())).text


def test_the_recipe_repeats_what_the_file_says_and_nothing_it_does_not() -> None:
    record = spot_map().frames[0]
    bare = record.model_copy(
        update={"f_number": 16.0, "iso": None, "exposure_s": None, "focal_length_mm": None}
    )
    assert recipe_words(bare) == "f/16, lowest ISO"
    full = bare.model_copy(update={"iso": 200, "exposure_s": 0.5, "focal_length_mm": 85.0})
    assert recipe_words(full) == "f/16, ISO 200, 0.5 s, the same lens at 85 mm"
    assert recipe_words(None).startswith("f/22, or the smallest")
    assert recipe_words(bare.model_copy(update={"f_number": None})) == recipe_words(None)
