"""Drawings agree with the state model: none shows what cannot be."""

from __future__ import annotations

from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.common.decisions import CONTACT, OPENS, Decision
from neatpatch.core.guide.guidance import guidance
from neatpatch.core.guide.instruction import Act, Instruction, Scene, Setting
from neatpatch.core.guide.scenes import drawn, main_act
from neatpatch.core.visit.body import Body
from tests.core.guide.test_sequence import BODIES, STEPS, TOOLS, planned


def scenes(step: Decision, body: Body, tool: Any = None) -> list[Scene]:
    found = [i.scene for i in guidance(step, planned(step, body, tool))]
    assert None not in found, "an instruction without a drawing"
    return [scene for scene in found if scene]


@given(BODIES, st.sampled_from(STEPS), st.data())
def test_every_instruction_has_a_drawing_that_can_be(
    body: Body, step: Decision, data: st.DataObject
) -> None:
    tool = data.draw(st.sampled_from(TOOLS.get(step, [None])))
    for scene in scenes(step, body, tool):
        mirrored = body.access in ("mirror", "fixed_mirror")
        assert (scene.mirror is not None) == mirrored
        assert scene.words.endswith(".")
        assert "{" not in scene.words
        if scene.act in ("air", "touch"):
            assert scene.mouth == "open"
            assert scene.mirror != "down"
            assert not scene.covered
            assert scene.lies == ("down" if scene.act == "air" else "back")
            assert scene.tool
        if scene.act in ("wet", "even") and body.access != "digital_back":
            assert scene.mouth == "cap"
        if scene.act == "retest":
            assert scene.lies == "aimed"
            assert scene.mouth == "lens"
        if scene.act == "open":
            assert scene.was != "open"
            assert scene.mouth == "open"


def test_the_short_guide_keeps_a_drawing_on_each_screen() -> None:
    body = Body(name="B", sensor_mm=(36, 24), stabilised=False, closes_when_off=False)
    for step in (*OPENS, "auto_clean"):
        setting = planned(step, body, TOOLS.get(step, [None])[0])
        assert all(i.scene for i in guidance(step, setting, "short"))


MIRROR = Body(name="M", sensor_mm=(36, 24), access="mirror", stabilised=False)
SHUTS = Body(name="S", sensor_mm=(36, 24), stabilised=False, closes_when_off=True)


def test_a_mirror_is_down_until_power_raises_it_and_after_it_goes() -> None:
    seen = [(s.act, s.mirror) for s in scenes("lift", MIRROR, TOOLS["lift"][0])]
    assert seen[0] == ("wash", "down")
    assert ("menu_open", "up") in seen
    assert ("touch", "up") in seen
    assert seen[-1] == ("retest", "down")


def test_a_shutter_lies_over_the_sensor_while_it_is_off() -> None:
    covered = {s.act: s.covered for s in scenes("air", SHUTS)}
    assert covered["wash"]
    assert not covered["air"]
    assert covered["retest"]


def test_what_comes_off_is_what_was_on() -> None:
    plain = Body(name="P", sensor_mm=(36, 24), stabilised=False, closes_when_off=False)
    by_step = {s: next(x for x in scenes(s, plain) if x.act == "open") for s in ("air", "wet_swab")}
    assert by_step["air"].was == "lens"
    assert "the lens off" in by_step["air"].words
    assert by_step["wet_swab"].was == "cap"
    assert "the cap off" in by_step["wet_swab"].words


@pytest.mark.parametrize("step", CONTACT)
def test_the_tool_drawn_is_the_tool_chosen(step: Decision) -> None:
    body = Body(name="P", sensor_mm=(36, 24), stabilised=False, closes_when_off=False)
    for tool in TOOLS[step]:
        drawing = next(s for s in scenes(step, body, tool) if s.act == "touch")
        if tool is not None:
            assert drawing.tool == tool.item


@pytest.mark.parametrize("act", get_args(Act))
def test_every_act_can_be_drawn_and_told(act: Act) -> None:
    body = Body(name="P", sensor_mm=(36, 24), stabilised=False, closes_when_off=False)
    scene = drawn([Instruction(text="Do.", acts=(act,))], "wet_swab", Setting(body))[0].scene
    assert scene is not None
    assert scene.act == act
    assert scene.words.count(".") == 1


def test_an_instruction_without_an_act_has_no_main_one() -> None:
    assert main_act(()) is None
    assert main_act(("open", "look")) == "open"
