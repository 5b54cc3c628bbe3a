"""The order of every guide: nothing in the way, nothing let go, nothing opened too early."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.common.decisions import CONTACT, OPENS, Decision
from neatpatch.core.common.facts import Access, KitItem, Power, Schools
from neatpatch.core.guide.guidance import guidance
from neatpatch.core.guide.hand_plan import HandContext, hand_plan
from neatpatch.core.guide.instruction import Act, Instruction, Setting
from neatpatch.core.guide.opening import why_not
from neatpatch.core.guide.sequence import faults
from neatpatch.core.visit.body import Body
from tests.core.made_maps import spot

STEPS: tuple[Decision, ...] = ("auto_clean", "clean_lens", *OPENS)
TOOLS: dict[str, list[KitItem | None]] = {
    "air": [None, KitItem(item="bulb_blower"), KitItem(item="gas_can")],
    "brush": [KitItem(item="charged_brush"), KitItem(item="lens_brush", clean=True)],
    "lift": [KitItem(item="gel_stick", tip_mm=(8, 6)), None],
    "dry_swab": [KitItem(item="dry_swab", width_mm=24), KitItem(item="sterile_pad")],
    "dry_followup": [KitItem(item="dry_swab", width_mm=16), KitItem(item="sterile_pad")],
    "wet_swab": [
        KitItem(item="wet_swab", width_mm=24),
        KitItem(item="wet_swab", width_mm=10),
        KitItem(item="cloth_wand", width_mm=24),
        KitItem(item="sterile_pad"),
        KitItem(item="moist_wipe"),
    ],
    "corner_swab": [KitItem(item="corner_swab"), None],
}
GRID = [spot(f"s{i}", 300.0 + 500 * i, 300.0 + 300 * i) for i in range(5)]


def maybe(values: Any) -> st.SearchStrategy[Any]:
    return st.sampled_from([None, *values])


BODIES = st.builds(
    Body,
    name=st.just("Any"),
    sensor_mm=st.just((36.0, 24.0)),
    access=st.sampled_from([a for a in get_args(Access) if a != "fixed_lens"]),
    stabilised=maybe([True, False]),
    hold_rule=maybe(get_args(Power)),
    closes_when_off=maybe([True, False]),
    cleaning_note=st.sampled_from(["", "Tools, then Sensor"]),
)


def planned(step: Decision, body: Body, tool: KitItem | None, *, by_face: bool = False) -> Setting:
    """What a step is done with: this tool, and a plan for a few spots."""
    bench = HandContext(sensor_mm=(36, 24), tool=tool, schools=Schools(edges_by_face=by_face))
    return Setting(body, plan=hand_plan(step, GRID, bench), tool=tool, fluid="mild")


@given(BODIES, st.sampled_from(STEPS), st.data(), st.booleans())
def test_every_guide_of_every_body_is_in_order(
    body: Body, step: Decision, data: st.DataObject, by_face: bool
) -> None:
    tool = data.draw(st.sampled_from(TOOLS.get(step, [None])))
    instructions = guidance(step, planned(step, body, tool, by_face=by_face))
    assert faults(instructions, body) == []
    acts = [act for i in instructions for act in i.acts]
    if why_not(step, body):
        assert not instructions
        assert step in CONTACT
        return
    assert acts[-1] == "retest"
    assert ("touch" in acts) == (step in CONTACT)
    assert ("air" in acts) == (step == "air")
    if step in OPENS:
        assert sum(i.opens for i in instructions) == sum(i.closes for i in instructions) > 0


def run(acts: Sequence[Act], **body: Any) -> list[str]:
    known = {"name": "B", "sensor_mm": (36, 24), "stabilised": False, "closes_when_off": False}
    instructions = [Instruction(text="Do.", acts=(act,)) for act in acts]
    return faults(instructions, Body.model_validate({**known, **body}))


BROKEN: list[tuple[list[Act], dict[str, Any], str]] = [
    (["open", "air", "close"], {}, "before everything is ready"),
    (["gather", "air"], {}, "closed camera"),
    (["gather", "open", "air", "close"], {"access": "mirror"}, "the mirror is in the way"),
    (["gather", "open", "air", "close"], {"closes_when_off": True}, "a shutter may be in the way"),
    (["gather", "open", "air", "close"], {"closes_when_off": None}, "a shutter may be in the way"),
    (
        ["gather", "power_on", "menu_open", "open", "touch", "power_off", "close"],
        {"access": "mirror"},
        "goes while the camera lies open",
    ),
    (
        ["gather", "power_on", "menu_open", "open", "power_off", "close"],
        {"closes_when_off": True},
        "goes while the camera lies open",
    ),
    (
        ["gather", "power_on", "open", "touch", "power_off", "close"],
        {"stabilised": True, "hold_rule": "on"},
        "goes while the camera lies open",
    ),
    (
        ["gather", "power_on", "open", "touch", "close"],
        {"stabilised": True, "hold_rule": "off"},
        "not held",
    ),
    (["gather", "open", "wet", "even", "touch", "close"], {}, "while the camera lies open"),
    (["gather", "wet", "open", "even", "touch", "close"], {}, "before the drops are even"),
    (["gather", "open", "touch"], {}, "left open"),
    (["gather", "open", "touch", "close"], {}, "does not lie on its back"),
    (["gather", "lay_back", "open", "air", "close"], {}, "falls back in"),
    (["gather", "turn_down", "open", "clear", "air", "close"], {}, "beside an open camera"),
    (["gather", "turn_down", "shake", "lens_to_cap", "retest"], {}, "no lens"),
    (["gather", "open", "touch", "close", "retest"], {}, "no lens"),
]


@pytest.mark.parametrize(("acts", "body", "fault"), BROKEN)
def test_a_wrong_order_is_noticed(acts: list[Act], body: dict[str, Any], fault: str) -> None:
    assert any(fault in found for found in run(acts, **body))


AFTER_THE_CAP: list[Act] = ["wet", "even", "open", "touch", "sheen", "close", "lens_on"]


def test_a_right_order_has_no_fault() -> None:
    assert run(["gather", "lens_to_cap", "lay_back", *AFTER_THE_CAP]) == []


def test_the_owners_own_notes_are_read_out() -> None:
    body = Body(
        name="Study",
        sensor_mm=(36, 24),
        stabilised=False,
        closes_when_off=True,
        cleaning_note="Tools, page 2",
        shake_note="Tools, page 1",
    )
    lift = " ".join(i.text for i in guidance("lift", Setting(body)))
    assert "You noted: Tools, page 2." in lift
    assert "page 1" in " ".join(i.text for i in guidance("auto_clean", Setting(body)))
    latch = body.model_copy(update={"access": "fixed_mirror", "latch_note": "small lever, left"})
    assert "small lever" in " ".join(i.text for i in guidance("air", Setting(latch)))


def test_what_may_not_be_touched_says_why() -> None:
    body = Body(name="S", sensor_mm=(36, 24), stabilised=True)
    assert "not known how this sensor is locked" in why_not("lift", body)
    assert why_not("air", body) == ""
    collides = body.model_copy(update={"hold_rule": "off", "closes_when_off": True})
    assert "handbook" in why_not("wet_swab", collides)
    assert guidance("wet_swab", Setting(collides)) == ()


@pytest.mark.parametrize(("turns", "word"), [(0, "blow the glass"), (1, "brush"), (2, "wipe")])
def test_the_lens_has_one_way_a_turn(turns: int, word: str) -> None:
    body = Body(name="S", sensor_mm=(36, 24))
    words = " ".join(i.text for i in guidance("clean_lens", Setting(body, lens_turns=turns)))
    assert word in words
    assert ("lens wipe" in words) == (turns == 2)
