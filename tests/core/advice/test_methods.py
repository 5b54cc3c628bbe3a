"""Methods people follow: what each changes about the advice, and about the hand's instructions."""

from __future__ import annotations

from typing import Any

import pytest

from neatpatch.core.common.facts import KitItem, Schools
from neatpatch.core.guide.guidance import guidance
from neatpatch.core.guide.hand_plan import HandContext, hand_plan
from neatpatch.core.guide.instruction import Setting
from neatpatch.core.visit.body import Body
from tests.core.advice.situations import BLOWN, BULB, FAST, SHAKEN, STICK, WET, judged

BRUSH = {"item": "charged_brush", "for_sensor": True, "clean": True}
STREAKED = {"step": "wet_swab", "tested": True, "result": "streaks"}
RESIDUE = {"spots": {"total": 2, "relevant": 2, "by_kind": {"residue": 2}}}
STILL = Body(name="B", sensor_mm=(36, 24), stabilised=False, closes_when_off=False)
FLOATS = STILL.model_copy(update={"stabilised": True, "hold_rule": "off"})
SWAB = KitItem(item="wet_swab", width_mm=24)


@pytest.mark.parametrize(
    ("order", "decision"),
    [
        (["lift", "brush"], "lift"),
        (["brush", "lift"], "brush"),
        (["lift", "dry_swab"], "brush"),
        (None, "brush"),
    ],
)
def test_the_order_of_contact_says_when_a_charged_brush_goes_first(
    order: list[str] | None, decision: str
) -> None:
    kit = [BULB, BRUSH, STICK]
    assert judged(kit=kit, schools={"contact_order": order}).decision == decision


def test_a_brush_that_is_not_owned_holds_nothing_up() -> None:
    found = judged(kit=[BULB, STICK], schools={"contact_order": ["brush", "lift"]})
    assert found.decision == "lift"


def test_a_second_swab_of_the_pack_is_a_dry_swab_only_where_the_method_says_so() -> None:
    facts: dict[str, Any] = {
        "kit": [BULB, WET, FAST],
        "done": [SHAKEN, BLOWN, STREAKED],
        "frame": RESIDUE,
    }
    assert judged(**facts).decision == "prepare"
    told = judged(**facts, schools={"second_swab_dry": True})
    assert told.decision == "dry_followup"
    dry = KitItem.model_validate(WET)
    guide = guidance("dry_followup", Setting(STILL, tool=dry))
    assert any("leave it dry" in i.text for i in guide)


def test_calendar_service_without_a_date_asks_for_it() -> None:
    calendar = {"check": "calendar_service"}
    assert any("when that was last done" in w for w in judged(schools=calendar).why)
    told = judged(schools=calendar, service={"months_since_service": 3})
    assert not any("last done" in w for w in told.why)


def wet(body: Body, tool: KitItem = SWAB, **schools: Any) -> str:
    methods = Schools.model_validate(schools)
    plan = hand_plan("wet_swab", [], HandContext((36, 24), tool, methods))
    setting = Setting(body, plan=plan, tool=tool, schools=methods, fluid="mild")
    return " ".join(f"{i.text} {i.heed}" for i in guidance("wet_swab", setting))


@pytest.mark.parametrize(
    ("pressure", "words"),
    [
        (None, "Lightly"),
        ("barely", "Barely touching"),
        ("pencil", "pencil's weight"),
        ("moderate", "moderate pressure"),
    ],
)
def test_pressure_as_the_method_says_but_barely_on_a_sensor_that_floats(
    pressure: str | None, words: str
) -> None:
    assert words in wet(STILL, pressure=pressure)
    assert ("Barely touching" if pressure else "Lightly") in wet(FLOATS, pressure=pressure)


def test_one_face_is_wetted_or_both_and_the_makers_own_number_of_drops_counts() -> None:
    assert "2 drops of the mild fluid on the swab's edge." in wet(STILL)
    assert "edge, shared by both faces" in wet(STILL, faces_wetted="both")
    own = SWAB.model_copy(update={"drops": 4})
    text = wet(STILL, own)
    assert "4 drops" in text
    assert "Not more than 4." in text


def test_across_and_back_is_two_strokes_of_one_face() -> None:
    text = wet(STILL, stroke="across_and_back")
    assert "across and back with one face, in two strokes. Done." in text
    plan = hand_plan("wet_swab", [], HandContext((36, 24), SWAB, Schools(stroke="across_and_back")))
    assert len(plan.strokes) == 2


def test_the_handle_is_tilted_by_sixty_degrees() -> None:
    assert "tilted to 60 degrees" in wet(STILL)


def test_a_moist_wipe_goes_over_a_wand_without_any_fluid() -> None:
    wipe = {"item": "moist_wipe", "quantity": 3, "sealed": True}
    wand = {"item": "cloth_wand", "width_mm": 24, "quantity": 2}
    first = {"contact_order": ["wet_swab"]}
    assert judged(kit=[BULB, wipe], schools=first).decision == "prepare"
    found = judged(kit=[BULB, wipe, wand], schools=first)
    assert found.decision == "wet_swab"
    tool, kit = KitItem.model_validate(wipe), [KitItem.model_validate(wand)]
    plan = hand_plan("wet_swab", [], HandContext((36, 24), tool, Schools()))
    text = " ".join(
        i.text for i in guidance("wet_swab", Setting(STILL, plan=plan, tool=tool, kit=kit))
    )
    assert "fold it over the wand" in text
    assert "drop" not in text


def test_the_makers_own_number_of_drops_is_not_blamed_for_a_streak() -> None:
    streaked = {**STREAKED, "drops": 5, "fluid": "fast_drying"}
    done = [SHAKEN, BLOWN, streaked]
    blamed = judged(done=done, kit=[BULB, WET, FAST], frame=RESIDUE)
    assert any("5 drops" in w for w in blamed.why)
    own = judged(done=done, kit=[BULB, {**WET, "drops": 5}, FAST], frame=RESIDUE)
    assert not any("5 drops" in w for w in own.why)
