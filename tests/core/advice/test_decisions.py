"""What a careful practitioner decides, situation by situation."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from neatpatch.core.advice import Facts, advise
from neatpatch.core.advice.document import judgement_text
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

ROOT = Path(__file__).parents[3]
CASES = sorted((Path(__file__).parent / "cases").glob("*.json"))


@pytest.mark.parametrize("path", CASES, ids=lambda p: p.stem)
def test_situations_of_practitioners(path: Path) -> None:
    case = json.loads(path.read_text())
    found = advise(Facts.model_validate(case["facts"]))
    assert found.decision == case["expect"]["decision"]
    assert set(case["expect"]["cautions"]) <= codes(found)
    assert set(case["expect"]["barred"]) <= bars(found)


WETTED = {"step": "wet_swab", "tested": True, "result": "fewer", "drops": 2}
STREAKED = {**WETTED, "result": "streaks", "drops": 5}
DECISIONS: list[tuple[str, dict[str, Any], str, set[str], set[str]]] = [
    (
        "nothing there",
        {"frame": {"spots": spots(0)}, "done": []},
        "stop_done",
        {"recheck_before_job"},
        {"lift"},
    ),
    (
        "there, but not in the work",
        {"frame": {"spots": spots(0, 4)}, "done": []},
        "defer",
        {"wide_aperture_hides"},
        {"wet_swab"},
    ),
    (
        "visible is enough for some",
        {"frame": {"spots": spots(0, 4)}, "schools": {"act_on": "visible"}},
        "lift",
        set(),
        set(),
    ),
    (
        "clean after a step",
        {"frame": {"spots": spots(0, 1)}},
        "stop_done",
        {"keep_covered"},
        {"dry_swab"},
    ),
    (
        "nobody looked yet",
        {"done": [SHAKEN, {**BLOWN, "tested": False}]},
        "reshoot",
        {"retest_each_step"},
        {"wet_swab", "stop_done"},
    ),
    (
        "retest at another aperture",
        {"frame": {"comparable": False}},
        "reshoot",
        {"retest_each_step"},
        {"lift"},
    ),
    (
        "place unproved",
        {"frame": {"site": "unsure"}},
        "reshoot",
        {"same_place_is_sensor"},
        {"lift"},
    ),
    (
        "marks of the wall",
        {"frame": {"site": "scene"}},
        "stop_done",
        {"same_place_is_sensor"},
        {"lift"},
    ),
    ("rear lens", {"frame": {"site": "rear_lens"}}, "clean_lens", {"grit_scratch"}, {"wet_swab"}),
    (
        "no shake in the body",
        {"camera": {"self_clean": False}, "done": []},
        "air",
        {"gravity"},
        {"lift"},
    ),
    (
        "air helped: once more",
        {"done": [SHAKEN, {**BLOWN, "result": "fewer"}]},
        "air",
        set(),
        {"lift"},
    ),
    (
        "stuck specks",
        {},
        "lift",
        {"no_slide", "fresh_patch", "matched_gel"},
        {"wet_swab", "reuse_swab"},
    ),
    (
        "wrong gel",
        {"kit": [BULB, DRY, {**STICK, "matched_coating": False}]},
        "dry_swab",
        {"matched_gel"},
        {"lift"},
    ),
    (
        "oil",
        {"frame": {"spots": spots(4, droplet=4)}},
        "wet_swab",
        {"fluid_excess", "fluid_hazard"},
        {"lift", "dry_swab"},
    ),
    (
        "oil everywhere",
        {"frame": {"spots": spots(25, droplet=25)}},
        "service",
        {"provider_liability"},
        {"wet_swab"},
    ),
    (
        "swab too wide",
        {"camera": {"sensor_mm": [23.5, 15.6]}, "kit": [BULB, WET, FAST]},
        "prepare",
        {"right_width"},
        {"wet_swab"},
    ),
    (
        "narrow swab, narrow school",
        {"kit": [BULB, {**WET, "width_mm": 16}, FAST], "schools": {"swab_width": "narrower_ok"}},
        "wet_swab",
        set(),
        set(),
    ),
    (
        "only the kit's own fluid",
        {"kit": [BULB, WET, {**FAST, "kit_own": False}], "schools": {"fluid": "kit_only"}},
        "prepare",
        {"kit_fluid_only"},
        {"wet_swab", "fluid:fast_drying"},
    ),
    (
        "alcohol-free coating",
        {
            "kit": [BULB, WET, FAST, {"item": "fluid", "kind": "alcohol_free"}],
            "schools": {"fluid": "alcohol_free", "contact_order": ["wet_swab"]},
        },
        "wet_swab",
        set(),
        {"fluid:fast_drying"},
    ),
    (
        "cold room, fluid",
        {"schools": {"contact_order": ["wet_swab"]}, "room": {"temperature_c": 12}},
        "prepare",
        {"drying_room"},
        {"wet_swab"},
    ),
    ("cold room, dry work", {"room": {"temperature_c": 12}}, "lift", set(), set()),
    ("fan on", {"room": {"moving_air": True}}, "prepare", {"keep_covered"}, {"lift"}),
    ("bedspread", {"room": {"surface": "fabric"}}, "prepare", {"shedding_surface"}, {"lift"}),
    (
        "floating sensor, no rule",
        {"camera": {"stabilised": True}},
        "prepare",
        {"hold_rule"},
        {"lift"},
    ),
    (
        "held by power, power off",
        {"camera": {"stabilised": True, "hold_rule": "on"}},
        "prepare",
        {"hold_rule", "full_power"},
        {"lift"},
    ),
    (
        "held by the battery out",
        {"camera": {"stabilised": True, "hold_rule": "battery_out", "power": "battery_out"}},
        "lift",
        {"hold_rule", "light_pressure"},
        set(),
    ),
    (
        "mirror, half a battery",
        {"camera": {"access": "mirror", "battery_percent": 50}},
        "prepare",
        {"full_power", "mirror_drop"},
        {"raise_mirror", "lift"},
    ),
    (
        "mirror, mains",
        {"camera": {"access": "mirror", "battery_percent": 50, "mains": True, "mirror_up": True}},
        "lift",
        {"mirror_drop"},
        set(),
    ),
    (
        "mirror still down",
        {"camera": {"access": "mirror", "mirror_up": False}},
        "prepare",
        {"mirror_in_way"},
        {"lift"},
    ),
    (
        "filter taken out",
        {"camera": {"filter_removed": True}},
        "prepare",
        {"ask_modifier"},
        {"lift"},
    ),
    (
        "grit, only swabs",
        {"observed": ["grit"], "kit": [BULB, WET, DRY, FAST]},
        "prepare",
        {"grit_scratch"},
        {"wet_swab", "dry_swab"},
    ),
    (
        "grit, stronger air to hand",
        {"observed": ["grit"], "kit": [{"item": "electric_blower"}, WET]},
        "air",
        {"grit_scratch"},
        {"wet_swab"},
    ),
    (
        "owner of a sensor brush",
        {"kit": [BULB, STICK, {"item": "charged_brush"}]},
        "brush",
        {"brush_clean", "hair_shed"},
        {"lens_brush"},
    ),
    (
        "no brush by school",
        {"kit": [BULB, STICK, {"item": "charged_brush"}], "schools": {"brush": "never"}},
        "lift",
        set(),
        set(),
    ),
    (
        "can allowed",
        {"done": [SHAKEN], "kit": [{"item": "gas_can"}], "schools": {"gas_can": "allowed"}},
        "air",
        {"propellant", "frostbite"},
        {"mouth_air"},
    ),
    (
        "streaks, dry swab to hand",
        {"done": [SHAKEN, BLOWN, STREAKED]},
        "dry_followup",
        {"streak_causes", "more_fluid_worse"},
        {"wet_swab"},
    ),
    (
        "two bad turns",
        {"done": [SHAKEN, BLOWN, STREAKED, {**WETTED, "result": "worse"}]},
        "service",
        set(),
        {"wet_swab", "dry_swab"},
    ),
    (
        "third wet swab",
        {"done": [SHAKEN, BLOWN, WETTED, WETTED], "frame": {"spots": spots(3, residue=3)}},
        "service",
        {"more_fluid_worse"},
        {"wet_swab"},
    ),
    (
        "pushed to the edges",
        {
            "done": [SHAKEN, BLOWN, WETTED],
            "frame": {"where": "edges"},
            "kit": [BULB, WET, FAST, {"item": "corner_swab", "quantity": 2}],
        },
        "corner_swab",
        {"edges_pushed", "single_use"},
        {"reuse_swab"},
    ),
    ("novice", {"operator": {"experience": "novice"}}, "service", {"provider_liability"}, {"lift"}),
    (
        "novice who insists",
        {"operator": {"experience": "novice"}, "schools": {"contact_by": "self"}},
        "lift",
        {"own_risk"},
        set(),
    ),
    (
        "service would miss the job",
        {"operator": {"experience": "novice"}, "job_in_days": 2, "service": {"turnaround_days": 4}},
        "defer",
        {"contact_adds_risk", "lead_time"},
        {"lift"},
    ),
    ("hours before a job", {"job_in_days": 0}, "defer", {"contact_adds_risk"}, {"lift"}),
    ("under guarantee", {"camera": {"under_guarantee": True}}, "service", {"guarantee"}, {"lift"}),
    (
        "household fluid",
        {"kit": [BULB, WET, {"item": "fluid", "kind": "mild", "for_sensor": False}]},
        "prepare",
        {"kit_fluid_only"},
        {"wet_swab", "fluid:mild"},
    ),
    ("gel left behind", {"observed": ["gel_left"]}, "wet_swab", {"matched_gel"}, {"lift"}),
    ("spit", {"observed": ["saliva"]}, "service", {"moisture"}, {"wet_swab", "mouth_air"}),
    ("scratch", {"observed": ["scratch_suspected"]}, "service", {"scratch_possible"}, {"dry_swab"}),
    (
        "glint in the loupe",
        {"observed": ["loupe_glint"], "frame": {"spots": spots(0)}},
        "stop_done",
        {"stray_light"},
        set(),
    ),
    (
        "sealed compact",
        {"camera": {"access": "fixed_lens", "self_clean": False}},
        "service",
        {"flash_charge"},
        {"lift"},
    ),
    (
        "digital back, air did not do",
        {
            "camera": {"access": "digital_back", "stabilised": None},
            "kit": [BULB, {"item": "moist_wipe", "quantity": 3}],
            "frame": {"spots": spots(3, residue=3)},
        },
        "wet_swab",
        {"single_use"},
        set(),
    ),
    (
        "membership pays",
        {"kit": [BULB], "service": {"membership_includes_clean": True}},
        "service",
        set(),
        set(),
    ),
    ("kit empty", {"kit": [BULB]}, "prepare", set(), set()),
    (
        "by the calendar",
        {"schools": {"check": "calendar_service"}, "service": {"months_since_service": 14}},
        "service",
        set(),
        {"lift"},
    ),
    (
        "pictures first, but the job is today",
        {
            "schools": {"files_first": True},
            "photos_waiting": 9,
            "job_in_days": 0,
            "operator": {"experience": "expert"},
        },
        "defer",
        {"contact_adds_risk"},
        {"lift"},
    ),
    (
        "eve of a job",
        {"job_in_days": 1},
        "defer",
        {"contact_adds_risk", "recheck_before_job"},
        {"lift"},
    ),
    ("air on the eve of a job", {"job_in_days": 1, "done": [SHAKEN]}, "air", {"gravity"}, {"lift"}),
    (
        "novice facing fluid",
        {
            "operator": {"experience": "novice"},
            "schools": {"contact_by": "self", "contact_order": ["wet_swab"]},
        },
        "service",
        {"provider_liability"},
        {"wet_swab"},
    ),
]


@pytest.mark.parametrize(
    ("changes", "decision", "cautions", "barred"),
    [row[1:] for row in DECISIONS],
    ids=[row[0] for row in DECISIONS],
)
def test_decisions(
    changes: dict[str, Any], decision: str, cautions: set[str], barred: set[str]
) -> None:
    found = require(changes, decision, cautions, barred)
    assert found.title
    assert all(found.why)


def test_nothing_known_asks_for_a_frame() -> None:
    found = advise(Facts())
    assert found.decision == "reshoot"
    assert found.title == "Shoot a test frame"
    assert {"brush", "lift", "dry_swab", "wet_swab", "corner_swab"} <= bars(found)


def test_unknown_fields_are_refused_by_name() -> None:
    with pytest.raises(ValidationError, match="colour"):
        Facts.model_validate({"camera": {"colour": "black"}})
    with pytest.raises(ValidationError, match="above zero"):
        Facts.model_validate({"camera": {"sensor_mm": [0, 24]}})


def test_the_page_of_rules_is_written_from_the_rules() -> None:
    page = (ROOT / "docs" / "judgement.md").read_text("utf-8")
    assert page == judgement_text(), "run 'make judgement'"


def test_a_camera_from_the_cold_waits_before_it_is_opened() -> None:
    advice = judged(camera={"temperature_c": 2})
    assert advice.decision == "prepare"
    assert any("warmed up" in need for need in advice.needs)
    assert "moisture" in codes(advice)
    assert judged(camera={"temperature_c": 18}).decision != "prepare"
