"""Never claim more than is known, never contradict the plan: situations beyond the plain ladder."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.advice.situations import (
    BLOWN,
    BULB,
    DRY,
    FAST,
    ROOM,
    SHAKEN,
    STICK,
    WET,
    bars,
    judged,
    require,
    spots,
)

LENS = {"step": "clean_lens", "tested": True, "result": "no_change"}
WETTED = {"step": "wet_swab", "tested": True, "result": "no_change", "fluid": "fast_drying"}
LIFTED = {"step": "lift", "tested": True, "result": "no_change"}
DRIED = {"step": "dry_followup", "tested": True, "result": "no_change"}
ELECTRIC = {"item": "electric_blower", "filtered": True}
OIL = {"item": "fluid", "kind": "oil_dissolving", "kit_own": True}
MILD = {"item": "fluid", "kind": "mild", "kit_own": True}
PADS = {"item": "sterile_pad", "quantity": 4}
WAND = {"item": "cloth_wand", "width_mm": 24, "quantity": 3}
UNPROVED = {"site_proved": False}
MIXED = {"spots": spots(8, speck=6, soft=2), "lens_marks": 2}
WET_ONLY = {"contact_order": ["wet_swab"]}

DECISIONS: list[tuple[str, dict[str, Any], str, set[str], set[str]]] = [
    # the place
    ("unproved, shake", {"frame": UNPROVED, "done": []}, "auto_clean", set(), {"lift"}),
    ("unproved, air", {"frame": UNPROVED, "done": [SHAKEN]}, "air", set(), {"lift", "wet_swab"}),
    (
        "unproved, contact next",
        {"frame": UNPROVED},
        "reshoot",
        {"same_place_is_sensor"},
        {"lift", "wet_swab"},
    ),
    (
        "air that moved five of six has stirred, whatever the label says",
        {
            "frame": {"spots": spots(6), "change": {"gone": 0, "stayed": 1, "moved": 5, "new": 0}},
            "done": [SHAKEN, BLOWN],
        },
        "air",
        set(),
        {"wet_swab"},
    ),
    (
        "three turns of air helped and one stirred: air goes on",
        {
            "done": [
                SHAKEN,
                *[{**BLOWN, "result": "fewer"}] * 3,
                {**BLOWN, "result": "stirred"},
            ]
        },
        "air",
        set(),
        {"wet_swab"},
    ),
    (
        "a few droplets among more specks: nothing dry is led over them",
        {
            "frame": {"spots": spots(7, speck=4, droplet=3)},
            "kit": [BULB, WET, DRY, {"item": "charged_brush"}, FAST],
        },
        "wet_swab",
        set(),
        {"dry_swab", "brush"},
    ),
    (
        "the specks among them are lifted",
        {"frame": {"spots": spots(7, speck=4, residue=3)}},
        "lift",
        set(),
        {"dry_swab"},
    ),
    (
        "all that shows lies inside the filter",
        {"frame": {"spots": spots(0, 2), "inside_filter": 2}},
        "service",
        set(),
        set(),
    ),
    (
        "inside the filter, and a service too slow for the job",
        {
            "frame": {"spots": spots(0, 2), "inside_filter": 2},
            "service": {"turnaround_days": 10},
            "job_in_days": 3,
        },
        "defer",
        set(),
        set(),
    ),
    (
        "inside the filter, and dust on the glass besides",
        {"frame": {"inside_filter": 2}, "done": [SHAKEN]},
        "air",
        set(),
        set(),
    ),
    (
        "place not told",
        {"frame": {"site": None}},
        "reshoot",
        {"same_place_is_sensor"},
        {"lift", "dry_swab"},
    ),
    (
        "many vanished and as many appeared",
        {"frame": {"change": {"gone": 6, "stayed": 1, "moved": 0, "new": 5}}},
        "reshoot",
        {"same_place_is_sensor"},
        {"lift", "wet_swab"},
    ),
    (
        "as many appeared, but two frames agree",
        {"frame": {"site_proved": True, "change": {"gone": 6, "stayed": 1, "new": 5}}},
        "lift",
        set(),
        set(),
    ),
    (
        "many went and few came",
        {"frame": {"change": {"gone": 9, "stayed": 4, "new": 1}}},
        "lift",
        set(),
        set(),
    ),
    ("place given, not doubted", {"frame": {"site_proved": None}}, "lift", set(), set()),
    # what the frame could have shown
    (
        "clean at f/10, work at f/22",
        {"frame": {"f_number": 10, "spots": spots(0)}, "work": {"apertures": [22]}},
        "reshoot",
        {"wide_aperture_hides"},
        {"stop_done"},
    ),
    (
        "clean at no known aperture",
        {"frame": {"f_number": None, "spots": spots(0)}},
        "reshoot",
        set(),
        {"stop_done"},
    ),
    (
        "clean at f/16, work at f/8",
        {"frame": {"f_number": 16, "spots": spots(0)}, "work": {"apertures": [5.6, 8]}},
        "stop_done",
        set(),
        set(),
    ),
    # lens first
    ("lens and sensor", {"frame": MIXED, "done": []}, "clean_lens", {"grit_scratch"}, {"lift"}),
    ("lens twice", {"frame": MIXED, "done": [LENS, LENS]}, "clean_lens", set(), {"lift"}),
    ("lens three times", {"frame": MIXED, "done": [LENS] * 3}, "auto_clean", set(), {"lift"}),
    (
        "lens alone, three times",
        {"frame": {"site": "rear_lens"}, "done": [LENS] * 3},
        "service",
        set(),
        {"lift"},
    ),
    # each rung to its end
    ("short shake", {"done": [{**SHAKEN, "runs": 2}]}, "auto_clean", {"gravity"}, {"lift"}),
    ("three short shakes", {"done": [{**SHAKEN, "runs": 2}] * 3}, "air", set(), {"lift"}),
    ("stronger air owned", {"kit": [BULB, ELECTRIC, STICK]}, "air", {"gravity"}, {"lift"}),
    (
        "electric tried",
        {
            "kit": [BULB, ELECTRIC, STICK],
            "done": [SHAKEN, {**BLOWN, "item": "electric_blower"}],
        },
        "lift",
        set(),
        set(),
    ),
    ("air made it worse", {"done": [SHAKEN, {**BLOWN, "result": "worse"}]}, "air", set(), {"lift"}),
    (
        "brush shed a hair",
        {
            "done": [SHAKEN, BLOWN, {"step": "brush", "tested": True, "result": "fewer"}],
            "frame": {"spots": spots(2, fibre=1, speck=1), "change": {"new": 1}},
        },
        "air",
        {"gravity"},
        {"lift"},
    ),
    (
        "only contact counts as a bad turn",
        {"done": [SHAKEN, {**BLOWN, "result": "worse"}, {**BLOWN, "result": "worse"}, BLOWN]},
        "lift",
        set(),
        set(),
    ),
    (
        "a good turn wipes an old bad one out",
        {
            "done": [
                SHAKEN,
                BLOWN,
                {**LIFTED, "result": "worse"},
                {**BLOWN, "result": "fewer"},
                BLOWN,
                {**LIFTED, "result": "worse"},
                BLOWN,
            ]
        },
        "lift",
        set(),
        set(),
    ),
    (
        "bad, air in vain, bad",
        {
            "done": [
                SHAKEN,
                BLOWN,
                {**LIFTED, "result": "worse"},
                BLOWN,
                {**LIFTED, "result": "worse"},
            ]
        },
        "service",
        set(),
        {"lift"},
    ),
    # fluids
    (
        "the right other fluid, once",
        {
            "done": [SHAKEN, BLOWN, {**WETTED, "fluid": "mild"}],
            "frame": {"spots": spots(4, droplet=4)},
            "kit": [BULB, WET, MILD, OIL],
        },
        "wet_swab",
        {"more_fluid_worse"},
        {"fluid:mild"},
    ),
    (
        "the right other fluid is not owned",
        {
            "done": [SHAKEN, BLOWN, {**WETTED, "fluid": "mild"}],
            "frame": {"spots": spots(4, droplet=4)},
            "kit": [BULB, WET, MILD],
        },
        "prepare",
        {"kit_fluid_only"},
        {"fluid:mild", "wet_swab"},
    ),
    (
        "the right fluid failed",
        {
            "done": [SHAKEN, BLOWN, {**WETTED, "fluid": "oil_dissolving"}],
            "frame": {"spots": spots(4, droplet=4)},
            "kit": [BULB, WET, FAST, OIL],
        },
        "service",
        {"more_fluid_worse"},
        {"wet_swab"},
    ),
    (
        "streak left in the corners",
        {
            "done": [SHAKEN, BLOWN, {**WETTED, "result": "streaks"}, DRIED],
            "frame": {"spots": spots(3, residue=3), "where": "edges"},
            "kit": [BULB, WET, DRY, MILD, {"item": "corner_swab", "quantity": 1}],
        },
        "corner_swab",
        {"edges_pushed"},
        {"lift"},
    ),
    (
        "streak left in the middle",
        {
            "done": [SHAKEN, BLOWN, {**WETTED, "result": "streaks"}, DRIED],
            "frame": {"spots": spots(3, residue=3)},
            "kit": [BULB, WET, DRY, FAST],
        },
        "service",
        {"streak_causes"},
        {"wet_swab"},
    ),
    # gel, grit, service
    (
        "droplets are never pressed",
        {"frame": {"spots": spots(5, droplet=3, residue=2)}},
        "wet_swab",
        set(),
        {"lift"},
    ),
    ("softness is never pressed", {"frame": {"spots": spots(5, soft=5)}}, "dry_swab", set(), set()),
    (
        "grit that nothing lifts",
        {"observed": ["grit"], "done": [SHAKEN, BLOWN, BLOWN, LIFTED]},
        "service",
        {"grit_scratch"},
        {"wet_swab", "dry_swab"},
    ),
    (
        "scratch before a job",
        {
            "observed": ["scratch_suspected"],
            "job_in_days": 1,
            "service": {"turnaround_days": 4},
        },
        "defer",
        {"scratch_possible", "recheck_before_job"},
        {"lift"},
    ),
    (
        "can that was upside down",
        {
            "done": [SHAKEN],
            "kit": [{"item": "gas_can", "inverted": True}],
            "schools": {"gas_can": "allowed"},
        },
        "air",
        {"propellant", "frostbite"},
        set(),
    ),
    # schools
    ("air skipped", {"done": [SHAKEN], "schools": {"air": "skip"}}, "lift", set(), set()),
    (
        "air skipped, but grit",
        {"done": [SHAKEN], "observed": ["grit"], "schools": {"air": "skip"}},
        "air",
        {"grit_scratch"},
        {"wet_swab"},
    ),
    (
        "strong air at once is the end of air",
        {"kit": [ELECTRIC, STICK], "schools": {"air": "strong"}},
        "lift",
        set(),
        set(),
    ),
    (
        "damp, dry work allowed",
        {"room": {**ROOM, "humidity_percent": 70}},
        "lift",
        {"moisture"},
        {"wet_swab"},
    ),
    (
        "damp, dry air only",
        {"room": {**ROOM, "humidity_percent": 70}, "schools": {"damp_air": "never"}},
        "prepare",
        {"moisture"},
        {"lift"},
    ),
    (
        "pad on a finger",
        {
            "kit": [BULB, PADS, FAST],
            "schools": {"pad_on_finger": True, "contact_order": ["dry_swab", "wet_swab"]},
        },
        "dry_swab",
        {"single_use"},
        set(),
    ),
    (
        "pads, another school",
        {"kit": [BULB, PADS, FAST], "schools": {"contact_order": ["dry_swab"]}},
        "prepare",
        {"single_use"},
        {"dry_swab"},
    ),
    ("cloth wand", {"kit": [BULB, WAND, FAST], "schools": WET_ONLY}, "wet_swab", set(), {"cloth"}),
    (
        "dry, wet, dry with one dry swab",
        {
            "kit": [BULB, {**DRY, "quantity": 1}, WET, FAST],
            "schools": {"contact_order": ["dry_wet_dry"]},
        },
        "prepare",
        {"single_use"},
        {"dry_swab", "wet_swab"},
    ),
    # kit and room
    (
        "narrow swabs, too few for the lanes",
        {
            "kit": [BULB, {**WET, "width_mm": 16, "quantity": 1}, FAST],
            "schools": {**WET_ONLY, "swab_width": "narrower_ok"},
        },
        "prepare",
        {"right_width"},
        {"wet_swab"},
    ),
    (
        "fewer patches than presses",
        {"kit": [BULB, {**STICK, "fresh_patches": 2}], "planned_presses": 4},
        "prepare",
        {"fresh_patch"},
        {"lift"},
    ),
    (
        "one press takes several specks",
        {"kit": [BULB, {**STICK, "fresh_patches": 2}], "planned_presses": 2},
        "lift",
        set(),
        set(),
    ),
    ("room not told", {"room": {"clean": None}}, "prepare", {"shedding_surface"}, {"lift"}),
    (
        "drying not told",
        {"room": {"humidity_percent": None}, "schools": WET_ONLY},
        "prepare",
        {"drying_room"},
        {"wet_swab"},
    ),
    # the body
    (
        "warranty not told",
        {"camera": {"under_guarantee": None}},
        "prepare",
        {"guarantee"},
        {"lift"},
    ),
    (
        "closes when off, off",
        {"camera": {"closes_when_off": True}, "done": [SHAKEN]},
        "prepare",
        {"full_power"},
        {"lift"},
    ),
    (
        "closes when off, on",
        {"camera": {"closes_when_off": True, "power": "on"}},
        "lift",
        set(),
        set(),
    ),
    (
        "off holds it and off closes it",
        {
            "camera": {
                "closes_when_off": True,
                "stabilised": True,
                "hold_rule": "off",
                "power": "on",
            }
        },
        "prepare",
        {"hold_rule"},
        {"lift", "wet_swab"},
    ),
    (
        "modifier allows",
        {"camera": {"filter_removed": True, "contact_allowed_by_modifier": True}},
        "lift",
        {"ask_modifier"},
        set(),
    ),
    (
        "modifier forbids",
        {"camera": {"filter_removed": True, "contact_allowed_by_modifier": False}},
        "service",
        {"ask_modifier"},
        {"lift"},
    ),
    # wishes
    (
        "patch first",
        {"operator": {"experience": "practised", "asks_for": "retouch"}, "photos_waiting": 9},
        "retouch",
        {"same_body_only"},
        {"lift"},
    ),
    (
        "nothing to patch",
        {"operator": {"experience": "practised", "asks_for": "retouch"}, "photos_waiting": 0},
        "lift",
        set(),
        set(),
    ),
    (
        "teardown without the tools",
        {
            "camera": {"access": "fixed_lens", "self_clean": False},
            "operator": {"experience": "expert", "asks_for": "teardown"},
        },
        "prepare",
        set(),
        {"teardown", "lift"},
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
    assert not {a.decision for a in found.alternatives} & bars(found)


def test_marks_of_the_lens_are_counted_apart() -> None:
    done = [LENS, LENS, LENS, SHAKEN, BLOWN]
    found = judged(frame=MIXED, done=done)
    assert found.decision == "lift"
    assert found.why[0].startswith("6 of 8 spots are visible in the work on the sensor.")
    assert "2 soft marks are on the lens and not counted here." in found.why
    first = judged(frame=MIXED, done=[])
    assert "2 soft shadows come from the lens glass" in first.why[0]
    assert {a.decision for a in first.alternatives} == {"auto_clean"}


@pytest.mark.parametrize(
    ("done", "tool"), [(0, "blower"), (1, "soft lens brush"), (2, "lens wipe")]
)
def test_the_lens_takes_three_steps_not_one(done: int, tool: str) -> None:
    found = judged(frame={"site": "rear_lens"}, done=[LENS] * done)
    assert found.decision == "clean_lens"
    assert tool in found.needs[0]


MISSING: list[tuple[dict[str, Any], str]] = [
    (
        {
            "kit": [BULB, WET, {**OIL, "expired": True, "best_before": "2026-11-06"}, MILD],
            "frame": {"spots": spots(3, droplet=3)},
        },
        "Oil-dissolving fluid: yours expired 6 Nov 2026.",
    ),
    (
        {"kit": [BULB, WET, {"item": "fluid"}], "schools": WET_ONLY},
        "Mild or fast-drying fluid: the kind of yours is not entered.",
    ),
    (
        {"kit": [BULB, {**WET, "width_mm": 16}, FAST], "schools": WET_ONLY},
        "An unused wet swab 24 mm wide: yours is 16 mm wide, your method wants 24 mm.",
    ),
    (
        {"kit": [BULB, {**WET, "used": True}, FAST], "schools": WET_ONLY},
        "An unused wet swab 24 mm wide: yours has been used.",
    ),
    (
        {"kit": [BULB, WET, {**FAST, "quantity": 0.04}], "schools": WET_ONLY},
        "Mild or fast-drying fluid: yours holds too little for the drops.",
    ),
    (
        {"kit": [BULB, {**STICK, "matched_coating": None}]},
        "A gel stick that suits this sensor's coating, or a pad: yours is not known to suit this "
        "sensor's coating.",
    ),
    ({"kit": [STICK], "done": [SHAKEN]}, "A rubber bulb blower, or an electric one with a filter"),
    (
        {
            "kit": [BULB, {**DRY, "quantity": 1}, WET, FAST],
            "schools": {"contact_order": ["dry_wet_dry"]},
        },
        "2 dry swabs for all passes and lanes: 1 left.",
    ),
]


@pytest.mark.parametrize(("changes", "words"), MISSING, ids=[words[:30] for _, words in MISSING])
def test_what_is_missing_is_named_with_its_reason(changes: dict[str, Any], words: str) -> None:
    found = judged(**changes)
    assert found.decision == "prepare"
    assert any(need.startswith(words) for need in found.needs), found.needs


def test_the_fluid_that_will_be_used_is_named() -> None:
    found = judged(
        kit=[BULB, WET, MILD, OIL], frame={"spots": spots(3, droplet=3)}, schools=WET_ONLY
    )
    assert found.decision == "wet_swab"
    assert found.needs[0].endswith("Of your fluids: the oil-dissolving one.")


CAUSES: list[tuple[dict[str, Any], dict[str, Any], str]] = [
    ({"drops": 5, "tip_bent": True}, {}, "5 drops"),
    ({"tip_bent": True, "temperature_c": 12}, {}, "the bent tip"),
    ({"waited_s": 60, "humidity_percent": 75}, {}, "the wait"),
    ({}, {"observed": ["fluid_stood"]}, "the wait"),
    ({"temperature_c": 12, "humidity_percent": 45}, {}, "the air (12 °C, 45 %)"),
    ({"fluid": "oil_dissolving"}, {}, "the fluid: oil-dissolving"),
]


@pytest.mark.parametrize(("used", "facts", "words"), CAUSES)
def test_the_likeliest_cause_of_a_streak_comes_first(
    used: dict[str, Any], facts: dict[str, Any], words: str
) -> None:
    streaked = {"step": "wet_swab", "tested": True, "result": "streaks", **used}
    found = judged(done=[SHAKEN, BLOWN, streaked], frame={"spots": spots(3, residue=3)}, **facts)
    assert found.decision == "dry_followup"
    told = [why for why in found.why if "streaked" in why]
    assert told == [why for why in told if words in why] != []


def test_a_streak_without_a_record_is_not_explained() -> None:
    streaked = {"step": "wet_swab", "tested": True, "result": "streaks"}
    found = judged(done=[SHAKEN, BLOWN, streaked], frame={"spots": spots(3, residue=3)})
    assert not any("streaked" in why for why in found.why)


def test_five_drops_are_few_on_a_wand_and_many_on_a_swab() -> None:
    def causes(item: str | None) -> list[str]:
        wet = {"step": "wet_swab", "tested": True, "result": "streaks", "drops": 5, "item": item}
        found = judged(done=[SHAKEN, BLOWN, wet], frame={"spots": spots(3, residue=3)})
        return [why for why in found.why if "drops" in why]

    assert causes("cloth_wand") == []
    assert causes(None) == causes("wet_swab") != []


def test_a_can_that_was_upside_down_is_told_to_be_purged() -> None:
    def needs(inverted: bool) -> str:
        can = {"item": "gas_can", "inverted": inverted}
        return judged(done=[SHAKEN], kit=[can], schools={"gas_can": "allowed"}).needs[0]

    assert "which was upside down" in needs(True)
    assert "which was upside down" not in needs(False)


FIXES: list[tuple[dict[str, Any], tuple[str, ...]]] = [
    ({"camera": {"under_guarantee": None}}, ("camera",)),
    ({"room": {"clean": None}}, ("conditions",)),
    ({"kit": [BULB]}, ("kit",)),
    ({"room": {"clean": None}, "camera": {"stabilised": None}}, ("conditions", "camera")),
    ({"kit": [BULB, STICK]}, ()),
]


@pytest.mark.parametrize(("changes", "places"), FIXES)
def test_it_is_told_where_what_is_missing_is_entered(
    changes: dict[str, Any], places: tuple[str, ...]
) -> None:
    assert judged(**changes).fix_in == places
