"""What follows from a trail: facts, outcomes, guidance, stock."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from neatpatch.core.advice import advise
from neatpatch.core.common.facts import KitItem, Schools
from neatpatch.core.common.records import Spot
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.guide.guidance import guidance
from neatpatch.core.guide.instruction import Setting
from neatpatch.core.maps.mount_view import aims
from neatpatch.core.plans.power import plan_power
from neatpatch.core.sensor.placement import Placement
from neatpatch.core.sensor.registration import Registration
from neatpatch.core.visit.body import Body, VisitConditions, mismatches
from neatpatch.core.visit.facts import VisitContext, facts_of, where_of
from neatpatch.core.visit.outcomes import step_outcomes
from neatpatch.core.visit.trail import StepUse, TrailEntry, TrailFrame, TrailStep, closing_words
from tests.conditions import OWN_HANDS
from tests.core.made_maps import HEIGHT, WIDTH, spot, spot_map

BODY = Body(name="Study", sensor_mm=(36, 24), stabilised=False, self_clean=True, works_at=(8, 16))
KIT = [
    KitItem(item="bulb_blower"),
    KitItem(item="gel_stick", matched_coating=True, fresh_patches=9),
]
GRID = [spot(f"s{i}", 300.0 + 220 * i, 300.0 + 130 * i, particle_px=4.0 + i) for i in range(10)]


def frame(number: int, *spots: Spot, **changes: Any) -> TrailFrame:
    return TrailFrame(id=number, spot_map=spot_map(*spots, **changes))


def test_what_lies_inside_the_filter_is_told_apart_from_what_can_be_reached() -> None:
    reached, inside = spot("a", 300, 300), spot("in", 900, 900, inside_filter=True)
    facts = facts_of(BODY, OWN_HANDS, [frame(1, reached, inside)])
    assert facts.frame is not None
    assert (facts.frame.spots.relevant, facts.frame.inside_filter) == (1, 1)
    alone = facts_of(BODY, OWN_HANDS, [frame(1, inside)])
    assert advise(alone).decision != "stop_done"


def test_facts_of_a_first_frame() -> None:
    facts = facts_of(
        BODY, OWN_HANDS, [frame(1, *GRID)], VisitContext(kit=KIT, under_guarantee=False)
    )
    assert facts.frame is not None
    assert (facts.frame.spots.total, facts.frame.spots.relevant) == (10, 10)
    assert facts.frame.spots.by_kind == {"speck": 10}
    assert facts.frame.site == "sensor"
    assert facts.done == ()
    assert advise(facts).decision == "auto_clean"


def test_only_what_shows_in_the_work_is_relevant() -> None:
    hidden = [s.model_copy(update={"shows_from_f": 20.0}) for s in GRID]
    facts = facts_of(BODY, OWN_HANDS, [frame(1, *hidden)])
    assert facts.frame is not None
    assert (facts.frame.spots.total, facts.frame.spots.relevant) == (10, 0)


def test_a_dirty_lens_is_told_from_a_clean_sensor() -> None:
    blob = spot("b", 900, 900, kind="soft", site="lens", outer_px=300.0)
    facts = facts_of(BODY, OWN_HANDS, [frame(1, blob)])
    assert facts.frame is not None
    assert facts.frame.site == "rear_lens"
    assert advise(facts).decision == "clean_lens"


@pytest.mark.parametrize(
    ("left", "step", "result"),
    [
        ([], "air", "cleared"),
        (GRID[:5], "air", "fewer"),
        (GRID, "air", "no_change"),
        (
            [
                *GRID,
                *(spot(f"n{i}", 2000.0, 200.0 + 200 * i, particle_px=30.0 + i) for i in range(6)),
            ],
            "air",
            "stirred",
        ),
        (
            [
                *GRID,
                *(spot(f"n{i}", 2000.0, 200.0 + 200 * i, particle_px=30.0 + i) for i in range(6)),
            ],
            "lift",
            "worse",
        ),
        (
            [
                *GRID[:3],
                spot(
                    "r", 2000, 500, kind="residue", outer_px=300.0, particle_px=40.0, width_px=30.0
                ),
            ],
            "wet_swab",
            "streaks",
        ),
    ],
    ids=["cleared", "fewer", "no change", "stirred", "worse", "streaks"],
)
def test_what_a_step_did_follows_from_the_frames(left: list[Spot], step: Any, result: str) -> None:
    trail: list[TrailEntry] = [frame(1, *GRID), TrailStep(id=2, step=step), frame(3, *left)]
    outcome = step_outcomes(trail, 16, on_one_sensor)[2]
    assert outcome.tested
    assert outcome.result == result


def on_one_sensor(before: TrailFrame, after: TrailFrame) -> Comparison:
    """Frames whose fingerprints lay them on each other as they are."""
    assert before.spot_map is not None
    assert after.spot_map is not None
    shape = (HEIGHT, WIDTH)
    told = Registration(True, 900.0, 60.0, Placement(here=shape, there=shape))
    return compare(before.spot_map, after.spot_map, told)


def test_a_step_without_a_frame_after_it_is_untested() -> None:
    trail: list[TrailEntry] = [frame(1, *GRID), TrailStep(id=2, step="auto_clean")]
    facts = facts_of(BODY, OWN_HANDS, trail, VisitContext(kit=KIT))
    assert facts.done[0].tested is False
    assert advise(facts).decision == "reshoot"


def test_two_steps_in_a_row_leave_the_first_untested() -> None:
    trail: list[TrailEntry] = [
        frame(1, *GRID),
        TrailStep(id=2, step="auto_clean"),
        TrailStep(id=3, step="air"),
        frame(4, *GRID[:4]),
    ]
    outcomes = step_outcomes(trail, 16)
    assert not outcomes[2].tested
    assert outcomes[3].tested


def test_a_retest_at_another_aperture_is_asked_for_again() -> None:
    trail: list[TrailEntry] = [
        frame(1, *GRID),
        TrailStep(id=2, step="air", use=StepUse(opening="down")),
        frame(3, *GRID[:4], f_number=11.0),
    ]
    facts = facts_of(BODY, OWN_HANDS, trail, VisitContext(kit=KIT))
    assert facts.frame is not None
    assert facts.frame.comparable is False
    assert advise(facts).decision == "reshoot"


def test_a_frame_still_being_measured_counts_for_nothing() -> None:
    facts = facts_of(BODY, OWN_HANDS, [TrailFrame(id=1, spot_map=None)])
    assert facts.frame is None


def test_the_visits_own_school_wins() -> None:
    facts = facts_of(
        BODY, OWN_HANDS, [], VisitContext(schools=Schools(contact_by="send_out", air="strong"))
    )
    assert facts.schools.contact_by == "self"
    assert facts.schools.air == "strong"


@pytest.mark.parametrize(
    ("places", "words"),
    [
        ([(1500, 1000)], "single"),
        ([(20, 900), (2980, 300), (1500, 15), (1500, 1000)], "edges"),
        ([(1500, 1000), (1400, 900), (1600, 1100)], "middle"),
        ([(1500, 1000), (600, 400), (2400, 1600), (500, 1500)], "spread"),
        ([], "spread"),
    ],
)
def test_where_spots_lie(places: list[tuple[float, float]], words: str) -> None:
    spots = [spot(f"s{i}", float(x), float(y)) for i, (x, y) in enumerate(places)]
    assert where_of(spots, spot_map(*spots)) == words


def test_a_frame_of_another_camera_is_questioned() -> None:
    body = BODY.model_copy(update={"camera_name": "Tarn Meridian S", "pitch_um": 8.0})
    reasons = mismatches(body, spot_map())
    assert "Fennick Judge D" in reasons[0]
    assert "12.00 µm" in reasons[1]
    assert mismatches(body, spot_map(width_px=2000))[1].startswith("The picture is 1.00 times")
    assert mismatches(BODY, spot_map()) == ()


def test_a_body_is_checked_at_the_door() -> None:
    with pytest.raises(ValidationError, match="3 to 120 mm"):
        Body(name="x", sensor_mm=(36, 0))
    with pytest.raises(ValidationError, match="working aperture"):
        Body(name="x", sensor_mm=(36, 24), works_at=())


@pytest.mark.parametrize(
    "step",
    [
        "auto_clean",
        "clean_lens",
        "air",
        "brush",
        "lift",
        "dry_swab",
        "wet_swab",
        "dry_followup",
        "corner_swab",
    ],
)
def test_guidance_opens_closes_and_ends_with_the_retest(step: Any) -> None:
    seen = aims([("s1", -10.0, -8.0)], 36, 24, "top_away")
    body = BODY.model_copy(update={"access": "mirror", "lockup_note": "tools, page two"})
    told = guidance(
        step,
        Setting(body, seen, power=plan_power(20, 100), recipe=spot_map(f_number=16.0).frames[0]),
    )
    assert told[-1].text.startswith(
        "Shoot the test frame again: f/16, ISO 100, 1 s, the same lens at 85 mm"
    )
    assert sum(i.opens for i in told) == sum(i.closes for i in told)
    if step not in ("auto_clean", "clean_lens"):
        texts = [i.text for i in told]
        assert any("tools, page two" in t for t in texts)
        assert any("Finish within 10 min" in i.heed for i in told)
        assert texts.index(next(t for t in texts if "mirror goes up" in t)) < next(
            n for n, i in enumerate(told) if i.opens
        )


def test_guidance_names_the_hold_rule_and_the_place() -> None:
    body = BODY.model_copy(update={"stabilised": True, "hold_rule": "battery_out"})
    seen = aims([("s1", -10.0, -8.0), ("s2", -11.0, -8.0)], 36, 24, "top_away")
    text = " ".join(i.text for i in guidance("lift", Setting(body, seen)))
    assert "Battery out" in text
    assert "lower left, near the camera's base and near the grip side" in text
    assert guidance("service", Setting(body, seen)) == ()


def test_leaving_the_bench() -> None:
    words = closing_words(
        "sent", VisitConditions(mirror_up=True), [TrailStep(id=1, step="wet_swab")]
    )
    assert [w.split()[0] for w in words] == ["Bin", "Switch", "Cap", "Pack"]


def test_a_frame_that_is_not_fit_blocks_nothing() -> None:
    trail: list[TrailEntry] = [
        frame(1, *GRID),
        TrailStep(id=2, step="air"),
        frame(3, *GRID[:2], fit=False),
        frame(4, *GRID[:6]),
    ]
    assert step_outcomes(trail[:3], 16)[2].tested is False
    assert advise(facts_of(BODY, OWN_HANDS, trail[:3])).decision == "reshoot"
    outcome = step_outcomes(trail, 16)[2]
    assert (outcome.tested, outcome.result) == (True, "fewer")
    facts = facts_of(BODY, OWN_HANDS, trail)
    assert facts.frame is not None
    assert facts.frame.comparable is True
