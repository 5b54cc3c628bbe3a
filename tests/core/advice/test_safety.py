"""Properties that hold for every situation, however odd."""

from __future__ import annotations

from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.advice import Advice, Facts, advise
from neatpatch.core.common.decisions import CONTACT
from neatpatch.core.common.facts import (
    Access,
    Experience,
    FrameSite,
    Item,
    Observed,
    Power,
    Result,
    Step,
    Where,
)
from tests.core.advice.situations import facts, spots


def pick(kind: Any) -> st.SearchStrategy[Any]:
    return st.sampled_from(get_args(kind))


def maybe(strategy: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    return st.none() | strategy


CAMERAS = st.fixed_dictionaries(
    {
        "access": maybe(pick(Access)),
        "stabilised": maybe(st.booleans()),
        "hold_rule": maybe(pick(Power)),
        "power": maybe(pick(Power)),
        "battery_percent": maybe(st.sampled_from([0, 55, 94, 95, 100])),
        "mains": maybe(st.booleans()),
        "mirror_up": maybe(st.booleans()),
        "self_clean": maybe(st.booleans()),
        "filter_removed": maybe(st.booleans()),
        "temperature_c": maybe(st.sampled_from([-10, 5, 20])),
        "under_guarantee": maybe(st.booleans()),
        "sensor_mm": maybe(st.sampled_from([(36.0, 24.0), (23.5, 15.6), (6.2, 4.6)])),
    }
)
KIT = st.lists(
    st.fixed_dictionaries(
        {
            "item": pick(Item),
            "width_mm": st.sampled_from([12, 16, 24, None]),
            "quantity": st.sampled_from([0, 1, 4, None]),
            "matched_coating": maybe(st.booleans()),
            "used": maybe(st.booleans()),
            "kind": st.sampled_from(["mild", "oil_dissolving", "fast_drying", "unknown", None]),
        }
    ),
    max_size=7,
)
DONE = st.lists(
    st.fixed_dictionaries(
        {
            "step": pick(Step),
            "tested": maybe(st.booleans()),
            "result": maybe(pick(Result)),
            "opening": st.sampled_from(["down", "up", None]),
        }
    ),
    max_size=6,
)
COUNTS = st.sampled_from([0, 1, 3, 30, None])
FRAMES = st.fixed_dictionaries(
    {
        "fit": maybe(st.booleans()),
        "comparable": maybe(st.booleans()),
        "spots": st.fixed_dictionaries(
            {
                "total": COUNTS,
                "relevant": COUNTS,
                "by_kind": st.dictionaries(
                    st.sampled_from(["speck", "fibre", "droplet", "residue"]), st.integers(0, 30)
                ),
            }
        ),
        "site": maybe(pick(FrameSite)),
        "where": maybe(pick(Where)),
    }
)
SITUATIONS = st.fixed_dictionaries(
    {
        "camera": CAMERAS,
        "kit": KIT,
        "done": DONE,
        "frame": maybe(FRAMES),
        "observed": st.lists(pick(Observed), max_size=2),
        "operator": st.fixed_dictionaries(
            {
                "experience": maybe(pick(Experience)),
                "asks_for": st.sampled_from([None, "wet_swab", "air"]),
            }
        ),
        "schools": st.sampled_from(
            [
                {},
                {"contact_by": "self"},
                {"contact_order": ["wet_swab"], "contact_by": "self"},
                {"air": "skip", "contact_by": "self"},
                {"swab_width": "narrower_ok"},
            ]
        ),
    }
)


@pytest.mark.long
@given(SITUATIONS)
def test_contact_only_when_everything_is_right(given_facts: dict[str, Any]) -> None:
    known = Facts.model_validate(given_facts)
    found = advise(known)
    assert found.decision not in {b.action for b in found.barred}
    if found.decision not in CONTACT:
        return
    camera, frame = known.camera, known.frame
    assert frame is not None
    assert frame.fit is True
    assert frame.site in (None, "sensor")
    assert frame.spots.relevant != 0
    if camera.stabilised is not False and camera.access != "digital_back":
        assert camera.hold_rule is not None
        assert camera.power == camera.hold_rule
    if camera.access in ("mirror", None):
        assert camera.mains or (camera.battery_percent or 0) >= 95
    assert not camera.under_guarantee
    assert any(d.step == "air" and d.tested and d.opening != "up" for d in known.done)
    assert known.done[-1].tested is True
    assert not {"scratch_suspected", "saliva"} & set(known.observed)
    if found.decision in ("dry_swab", "wet_swab", "dry_followup"):
        name = "dry_swab" if found.decision == "dry_followup" else found.decision
        usable = [k for k in known.kit if k.item == name and k.used is not True and k.quantity != 0]
        wipes = camera.access == "digital_back" and any(k.item == "moist_wipe" for k in known.kit)
        assert wipes or any(
            k.width_mm and camera.sensor_mm and k.width_mm <= min(camera.sensor_mm) + 1
            for k in usable
        )


@pytest.mark.long
@given(SITUATIONS, st.integers(1, 40))
def test_more_dirt_never_makes_the_advice_bolder(given_facts: dict[str, Any], more: int) -> None:
    known = Facts.model_validate(given_facts)
    if known.frame is None or not known.frame.spots.relevant:
        return
    kinds = {k: v * (1 + more) for k, v in known.frame.spots.by_kind.items()}
    dirtier = known.frame.spots.model_copy(
        update={"relevant": known.frame.spots.relevant * (1 + more), "by_kind": kinds}
    )
    frame = known.frame.model_copy(update={"spots": dirtier})
    before, after = advise(known), advise(known.model_copy(update={"frame": frame}))
    assert after.decision == before.decision or after.decision in ("service", "defer")


STEP_OF = {"stop_done": None, "defer": None, "service": None, "teardown": None, "retouch": None}


@pytest.mark.long
@given(st.lists(pick(Result), min_size=40, max_size=40), st.sampled_from(["speck", "residue"]))
def test_every_visit_comes_to_an_end(results: list[str], kind: str) -> None:
    """Following the advice, whatever each retest says, ends within twenty turns."""
    done: list[dict[str, Any]] = []
    left = 8
    for result in results:
        found = _next(done, left, kind)
        if found.decision in STEP_OF or found.decision == "prepare":
            return
        left = 0 if result == "cleared" else left
        done.append({"step": found.decision, "tested": True, "result": result, "opening": "down"})
        assert len(done) <= 20
    raise AssertionError("no end")


def _next(done: list[dict[str, Any]], left: int, kind: str) -> Advice:
    return advise(
        Facts.model_validate(facts(done=done, frame={"spots": spots(left, **{kind: left})}))
    )
