"""Random situations hold all rules of the bench; the bench itself notices what breaks them."""

from __future__ import annotations

import pytest
from bench.judgement import EACH, HAZARDS, bolder, violations

from bench import judgement
from neatpatch.core.advice import Facts, advise
from neatpatch.core.common.decisions import CONTACT
from neatpatch.simulation.situations import Draw, random_facts
from tests.core.advice.situations import facts

TRIED = 400


def test_random_situations_are_judged_without_fault() -> None:
    wrong = [
        (seed, text)
        for seed in range(TRIED)
        for text in (*violations(random_facts(seed)), *bolder(random_facts(seed), seed))
    ]
    assert not wrong


def test_the_situations_reach_all_kinds_of_decisions_and_miss_facts() -> None:
    seen = {advise(random_facts(seed)).decision for seed in range(TRIED)}
    assert {"reshoot", "prepare", "air", "auto_clean", "service", "clean_lens"} <= seen
    assert set(CONTACT) & seen
    bare = random_facts(1, Draw(missing=1.0))
    assert bare.camera.access is None
    assert bare.room.moving_air is None
    assert random_facts(5) == random_facts(5) != random_facts(6)


def test_every_hazard_is_tried_in_turn() -> None:
    tried = {
        list(HAZARDS)[(n * EACH + i) % len(HAZARDS)] for n in range(TRIED) for i in range(EACH)
    }
    assert tried == set(HAZARDS)


def test_bold_advice_is_noticed(monkeypatch: pytest.MonkeyPatch) -> None:
    risky = Facts.model_validate(
        facts(
            camera={"stabilised": True, "under_guarantee": None},
            room={"moving_air": True},
            frame={"site_proved": False},
        )
    )
    lift = advise(Facts.model_validate(facts()))
    assert lift.decision == "lift"
    monkeypatch.setattr(judgement, "advise", lambda _facts: lift)
    found = set(violations(risky))
    assert {"lift: hold unknown", "lift: warranty", "lift: room", "lift: place unproved"} <= found
