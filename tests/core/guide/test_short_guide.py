"""The guide for the practised: fewer screens and words, no act less, nothing out of order."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.facts import KitItem
from neatpatch.core.guide.guidance import guidance
from neatpatch.core.guide.instruction import Instruction, Setting
from neatpatch.core.guide.sequence import faults
from neatpatch.core.visit.body import Body
from tests.core.guide.test_sequence import BODIES, STEPS, TOOLS, planned

PLAIN = Body(name="B", sensor_mm=(36, 24), stabilised=False, closes_when_off=False)
MIRROR = PLAIN.model_copy(update={"access": "mirror"})


def words(instructions: tuple[Instruction, ...]) -> int:
    return sum(len(f"{i.text} {i.heed}".split()) for i in instructions)


def both(step: Decision, setting: Setting) -> tuple[tuple[Instruction, ...], ...]:
    return guidance(step, setting), guidance(step, setting, "short")


@given(BODIES, st.sampled_from(STEPS), st.data())
def test_the_short_guide_does_all_the_full_one_does_in_the_same_order(
    body: Body, step: Decision, data: st.DataObject
) -> None:
    tool = data.draw(st.sampled_from(TOOLS.get(step, [None])))
    full, short = both(step, planned(step, body, tool))
    assert [a for i in short for a in i.acts] == [a for i in full for a in i.acts]
    assert faults(short, body) == []
    assert len(short) <= len(full)
    assert sum(i.shows_plan for i in short) == sum(i.shows_plan for i in full)
    assert [i.first for i in short if i.shows_plan] == [i.first for i in full if i.shows_plan]
    for screen in short:
        assert not (screen.raises and screen.lowers)


@pytest.mark.parametrize(
    ("step", "tool", "body", "screens"),
    [
        ("wet_swab", KitItem(item="wet_swab", width_mm=24), PLAIN, 4),
        ("wet_swab", KitItem(item="wet_swab", width_mm=24), MIRROR, 5),
        ("air", KitItem(item="bulb_blower"), PLAIN, 2),
        ("air", KitItem(item="bulb_blower"), MIRROR, 3),
        ("lift", KitItem(item="gel_stick", tip_mm=(8, 6)), PLAIN, 2),
        ("dry_swab", KitItem(item="dry_swab", width_mm=24), PLAIN, 2),
    ],
)
def test_so_many_screens(step: Decision, tool: KitItem, body: Body, screens: int) -> None:
    full, short = both(step, planned(step, body, tool))
    assert len(short) == screens
    assert words(short) < 0.7 * words(full)


def test_the_mirror_is_raised_on_a_screen_of_its_own_so_that_its_clock_is_right() -> None:
    raising = next(i for i in guidance("wet_swab", Setting(MIRROR), "short") if i.raises)
    assert raising.acts[-1] == "menu_open"
    assert "cleaning lock-up" in raising.text
    assert "the mirror falls on the tool" in raising.heed


def test_what_closes_when_off_is_opened_on_a_screen_of_its_own_with_its_warning() -> None:
    body = PLAIN.model_copy(update={"closes_when_off": True})
    first = guidance("air", Setting(body), "short")[0]
    assert first.acts[-1] == "menu_open"
    assert "do not switch off until the cap is on" in first.heed


def test_drops_and_strokes_are_counted_in_the_short_guide_too() -> None:
    tool = KitItem(item="wet_swab", width_mm=24)
    short = guidance("wet_swab", planned("wet_swab", PLAIN, tool), "short")
    assert [i.count for i in short if i.count] == ["drops", "strokes"]
    assert [i.timer_s is not None for i in short] == [True, False, True, False]


def test_hands_washed_within_the_hour_are_not_washed_again() -> None:
    first = guidance("air", Setting(PLAIN))
    again = guidance("air", Setting(PLAIN, made_ready=True))
    assert len(again) == len(first) - 1
    assert "Wash" in first[0].text
    assert not any("Wash" in i.text or "blown-out" in i.text for i in again)


def test_the_recipe_is_told_at_length_only_when_it_changed() -> None:
    told = guidance("air", Setting(PLAIN), "short")[-1].text
    again = guidance("air", Setting(PLAIN, recipe_told=True), "short")[-1].text
    assert "lowest ISO" in told
    assert "as before" in again
    assert "lowest ISO" not in again
    assert "lowest ISO" in guidance("air", Setting(PLAIN, recipe_told=True))[-1].text


def test_strong_air_and_the_electric_blower_have_their_own_words() -> None:
    def blow(setting: Setting) -> str:
        return next(i.text for i in guidance("air", setting) if "air" in i.acts)

    soft = blow(Setting(PLAIN, tool=KitItem(item="bulb_blower")))
    strong = blow(Setting(PLAIN, tool=KitItem(item="bulb_blower"), strong_air=True))
    electric = blow(Setting(PLAIN, tool=KitItem(item="electric_blower")))
    assert "softly and from afar" in soft
    for words_ in (strong, electric):
        assert "bursts" in words_
        assert "two hands away" in words_
        assert "slanting" in words_
