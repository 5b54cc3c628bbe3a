"""The tables of the judgement are whole: every code of the contract has its words and its use."""

from __future__ import annotations

from typing import get_args

import pytest

from neatpatch.core.advice.advise import TITLES
from neatpatch.core.advice.bars import NEVER, NOT_FOR_SENSORS, STEP_BARS
from neatpatch.core.advice.cautions import CAUTIONS
from neatpatch.core.advice.gates import GATES, WANTS
from neatpatch.core.advice.rules import RULES, RUNG_REASONS
from neatpatch.core.advice.tools import FLUID_RANKS
from neatpatch.core.common.decisions import CONTACT, OPENS, CautionCode, Decision
from neatpatch.core.common.records import FluidKind
from tests.core.advice.situations import BULB, FAST, STICK, WET, bars, codes, judged, spots


def test_every_caution_of_the_contract_can_be_given() -> None:
    assert {row.code for row in CAUTIONS} == set(get_args(CautionCode))


def test_every_decision_has_a_title_and_every_rung_a_reason() -> None:
    assert set(TITLES) == set(get_args(Decision))
    assert set(OPENS) | {"auto_clean", "service"} == set(RUNG_REASONS)
    assert set(WANTS) == set(OPENS)


def test_rules_have_names_of_their_own_and_say_when_they_hold() -> None:
    names = [rule.name for rule in RULES]
    assert len(set(names)) == len(names)
    assert all(rule.reads for rule in RULES)
    assert RULES[-1].reads == "otherwise"


def test_gates_bar_steps_and_say_how_to_open_them() -> None:
    assert len({gate.code for gate in GATES}) == len(GATES)
    for gate in GATES:
        assert set(gate.steps) <= set(OPENS)
        assert gate.need.endswith(".")
        assert gate.cautions


def test_words_are_sentences_for_people() -> None:
    texts = [row.text for row in CAUTIONS] + [bar.text for bar in STEP_BARS]
    texts += [text for _, _, text in NEVER + NOT_FOR_SENSORS]
    for text in texts:
        assert text.endswith("."), text
        assert "_" not in text
        assert len(text) < 130


def test_fluids_are_ranked_for_every_stain() -> None:
    for ranks in FLUID_RANKS.values():
        assert set(ranks) <= set(get_args(FluidKind))
        assert max(ranks.values()) == 2


@pytest.mark.parametrize("asked", [*CONTACT, "air", "stop_done", "something else"])
def test_asking_for_a_thing_never_makes_it_safe(asked: str) -> None:
    plain = judged(done=[])
    found = judged(done=[], operator={"experience": "practised", "asks_for": asked})
    assert found.decision == plain.decision == "auto_clean"
    assert bars(found) == bars(plain)


@pytest.mark.parametrize("safe", ["service", "defer"])
def test_a_safe_wish_is_granted(safe: str) -> None:
    found = judged(operator={"experience": "practised", "asks_for": safe})
    assert found.decision == safe


def test_alternatives_are_safe_ones_only() -> None:
    found = judged(kit=[BULB, STICK, WET, FAST])
    assert found.decision == "lift"
    offered = {a.decision for a in found.alternatives}
    assert {"service", "defer"} <= offered
    wet = judged(kit=[BULB, STICK, WET, FAST], schools={"contact_order": ["wet_swab"]})
    assert "lift" in {a.decision for a in wet.alternatives}
    shaky = judged(kit=[BULB, STICK, WET, FAST], camera={"stabilised": True})
    assert not {a.decision for a in shaky.alternatives} & set(CONTACT)


def test_waiting_pictures_are_offered_as_another_way() -> None:
    found = judged(photos_waiting=40)
    assert "retouch" in {a.decision for a in found.alternatives}
    assert judged(photos_waiting=40, frame={"spots": spots(0)}).decision == "stop_done"


def test_the_last_comparison_is_told_with_its_figures() -> None:
    change = {"gone": 6, "stayed": 4, "moved": 1, "new": 0}
    found = judged(frame={"change": change})
    assert found.why[1] == "The last step: 6 removed, 4 stayed, 1 moved."
    assert "5 of 5 spots are visible" in found.why[0]


def test_the_title_says_what_the_next_frame_is_for() -> None:
    assert judged(frame={"site_proved": False}).title == "One more frame, the camera moved"
    assert judged(frame={"fit": False}).title == "Shoot the test frame again"
    assert judged(frame=None).title == "Shoot a test frame"


def test_streaks_are_remembered_with_the_next_fluid() -> None:
    done = [
        {"step": "auto_clean", "tested": True, "result": "no_change"},
        {"step": "air", "tested": True, "result": "no_change", "opening": "down"},
        {"step": "wet_swab", "tested": True, "result": "streaks", "drops": 5},
        {"step": "dry_followup", "tested": True, "result": "no_change"},
    ]
    found = judged(done=done, frame={"spots": spots(2, residue=2)})
    assert found.decision == "service"
    assert {"streak_causes", "more_fluid_worse"} <= codes(found)
