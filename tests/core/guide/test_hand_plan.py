"""The plan of a step in the mount view, whatever the pose and whichever the hand."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from neatpatch.core.common.facts import KitItem, Schools
from neatpatch.core.guide.guidance import guidance, loupe_words, preparation
from neatpatch.core.guide.hand_plan import HandContext, HandPlan, hand_plan
from neatpatch.core.guide.instruction import Setting
from neatpatch.core.maps.mount_view import POSES, aims, to_mount
from neatpatch.core.plans.drying import DryPlan, Film, plan_drying
from neatpatch.core.plans.power import plan_power
from neatpatch.core.visit.body import Body
from tests.core.made_maps import spot

BODY = Body(name="Study", sensor_mm=(36, 24), stabilised=False, works_at=(8, 16))
GRID = [spot(f"s{i}", 300.0 + 220 * i, 300.0 + 130 * i, particle_px=4.0 + i) for i in range(10)]
STICK = KitItem(item="gel_stick", tip_mm=(8, 6), fresh_patches=30, patches_per_sheet=12)
SWAB = KitItem(item="wet_swab", width_mm=24, quantity=2)
NARROW = KitItem(item="wet_swab", width_mm=16, quantity=2)


def bench(*kit: KitItem, **changes: Any) -> HandContext:
    tool = kit[0] if kit else None
    return HandContext(**{"sensor_mm": (36.0, 24.0), "tool": tool, "schools": Schools(), **changes})


@pytest.mark.parametrize("pose", POSES)
def test_presses_lie_inside_and_cover_their_spots_in_every_pose(pose: Any) -> None:
    b = bench(STICK, pose=pose)
    plan = hand_plan("lift", GRID, b)
    assert 1 <= len(plan.presses) <= len(GRID)
    assert sorted(n for p in plan.presses for n in p.covers) == sorted(s.id for s in GRID)
    places = {s.id: to_mount(s.x_mm or 0, s.y_mm or 0, pose) for s in GRID}
    for p in plan.presses:
        assert abs(p.x_mm) + p.width_mm / 2 <= b.view_mm[0] / 2 + 1e-6
        assert abs(p.y_mm) + p.height_mm / 2 <= b.view_mm[1] / 2 + 1e-6
        for name in p.covers:
            assert abs(places[name][0] - p.x_mm) <= p.width_mm / 2
            assert abs(places[name][1] - p.y_mm) <= p.height_mm / 2
    count = len(hand_plan("lift", GRID, bench(STICK)).presses)
    assert len(plan.presses) == count


@pytest.mark.parametrize("pose", POSES)
@pytest.mark.parametrize("hand", ["right", "left"])
def test_strokes_begin_far_from_the_hand_and_pass_every_spot(pose: Any, hand: Any) -> None:
    b = bench(NARROW, pose=pose, hand=hand)
    plan = hand_plan("wet_swab", GRID, b)
    width, height = b.view_mm
    assert plan.swabs == 2
    first = plan.strokes[0]
    lying = width > height
    assert first.y1_mm == pytest.approx(-4 if lying else -18)
    away = -1 if hand == "right" else 1
    assert first.x1_mm == pytest.approx(away * (18 if lying else 4))
    assert {n for s in plan.strokes for n in s.passes} == {s.id for s in GRID}
    ends = [(abs(s.x2_mm - s.x1_mm), abs(s.y2_mm - s.y1_mm)) for s in plan.strokes]
    assert all(e == pytest.approx((36, 0) if lying else (0, 36)) for e in ends)


def test_the_whole_sensor_begins_at_the_corner_of_the_hand() -> None:
    whole = Schools(lift_area="whole")
    right = hand_plan("lift", [], bench(STICK, schools=whole))
    left = hand_plan("lift", [], bench(STICK, schools=whole, hand="left"))
    assert len(right.presses) == len(left.presses) == right.patches == 20
    assert (right.presses[0].x_mm, left.presses[0].x_mm) == (-14, 14)
    assert right.sheets == 2
    assert right.note == "20 fresh patches (2 sheets); 30 are left."
    told = guidance("lift", Setting(BODY, plan=right))
    assert any("places 1 to 20" in i.text for i in told)


def test_after_a_retest_only_the_survivors_are_pressed() -> None:
    plan = hand_plan("lift", GRID[:1], bench(STICK))
    assert [p.covers for p in plan.presses] == [("s0",)]
    assert plan.note == "1 fresh patch (1 sheet); 30 are left."


def test_the_corner_swab_goes_along_the_edges_that_hold_spots() -> None:
    edge = [spot("e", 1500, 4), spot("m", 1500, 1000)]
    plan = hand_plan("corner_swab", edge, bench(KitItem(item="corner_swab", width_mm=4)))
    (stroke,) = plan.strokes
    assert stroke.passes == ("e",)
    assert stroke.y1_mm == stroke.y2_mm == pytest.approx(10)
    around = [spot(f"e{i}", x, y) for i, (x, y) in enumerate([(700, 4), (2200, 4), (4, 500)])]
    three = hand_plan("corner_swab", around, bench())
    assert [s.swab for s in three.strokes] == [1, 1, 2]
    assert three.swabs == 2
    told = guidance("corner_swab", Setting(BODY, plan=three))
    assert any("2 swabs in all" in i.heed for i in told)
    for s in three.strokes:
        assert max(abs(s.x1_mm), abs(s.x2_mm)) <= 18
        assert max(abs(s.y1_mm), abs(s.y2_mm)) <= 12
    wet = hand_plan("wet_swab", edge, bench(SWAB))
    assert wet.corner == ("e",)
    assert "1 spot lies at an edge" in wet.note


def test_drops_follow_the_fluid_and_two_lanes_are_told() -> None:
    water = hand_plan("wet_swab", GRID, bench(NARROW, fluid="pure_water"))
    told = guidance("wet_swab", Setting(BODY, plan=water))
    drops = next(i for i in told if i.count == "drops")
    assert (drops.target, "Not more than 2" in drops.heed) == (1, True)
    lanes = [i for i in told if i.count == "strokes"]
    assert [i.first for i in lanes] == [0, 2]
    assert "Lane 2 of 2." in lanes[1].text
    dry = guidance("dry_swab", Setting(BODY, plan=water))
    assert any("2 lanes, far one first" in i.text for i in dry)


def test_a_swab_too_wide_for_the_chamber_gives_no_strokes() -> None:
    plan = hand_plan(
        "dry_swab",
        GRID,
        bench(KitItem(item="dry_swab", width_mm=24), chamber_mm=23.0, sensor_mm=(34.0, 22.7)),
    )
    assert plan.strokes == ()
    assert "does not fit" in plan.note


def test_what_is_missing_for_a_plan_is_said() -> None:
    bare = bench(KitItem(item="gel_stick", fresh_patches=3))
    assert "tip's size" in hand_plan("lift", GRID, bare).note
    assert "width" in hand_plan("dry_swab", GRID, bare).note
    assert hand_plan("air", GRID, bare) == HandPlan()
    assert hand_plan("lift", GRID, bench()).presses == ()
    with pytest.raises(ValidationError, match="tip_mm"):
        KitItem(item="gel_stick", tip_mm=(0, 6))


def test_a_digital_back_is_wiped_and_never_has_its_lens_taken_off() -> None:
    wipe = KitItem(item="moist_wipe", quantity=3)
    plan = hand_plan("wet_swab", GRID, bench(wipe, sensor_mm=(43.8, 32.9)))
    assert (plan.swabs, plan.drops and plan.drops.most, len(plan.strokes)) == (1, 0, 2)
    back = BODY.model_copy(update={"access": "digital_back", "sensor_mm": (43.8, 32.9)})
    told = " ".join(i.text for i in guidance("wet_swab", Setting(back, plan=plan)))
    assert "moist wipe" in told
    assert "drops" not in told
    assert "Take the back off the camera" in told
    assert "lens off" not in told


@pytest.mark.parametrize(
    ("school", "words"),
    [
        ("same_way", "the same way again"),
        ("return_other_face", "sweep back"),
        ("across_and_back", "with one face"),
        ("circles", "small circles"),
    ],
)
def test_the_words_follow_the_school_of_the_stroke(school: Any, words: str) -> None:
    plan = hand_plan("wet_swab", GRID, bench(SWAB, schools=Schools(stroke=school)))
    for step in ("wet_swab", "dry_swab"):
        told = guidance(step, Setting(BODY, plan=plan))
        assert any(words in i.text for i in told)


def test_gel_is_never_pressed_on_droplets_or_films() -> None:
    mixed = [
        spot("dust", 300.0, 300.0),
        spot("oil", 900.0, 700.0, kind="droplet"),
        spot("tide", 600.0, 500.0, kind="residue"),
        spot("hair", 1500.0, 900.0, kind="fibre"),
    ]
    plan = hand_plan("lift", mixed, bench(STICK))
    assert sorted(n for p in plan.presses for n in p.covers) == ["dust", "hair"]
    assert plan.left_out == ("oil", "tide")
    assert "1 droplet and 1 smear are not pressed." in plan.note
    only_dust = hand_plan("lift", mixed[:1], bench(STICK))
    assert (only_dust.left_out, "not pressed" in only_dust.note) == ((), False)


def test_one_swab_with_a_face_for_each_edge() -> None:
    by_face = Schools(edges_by_face=True)
    plan = hand_plan("dry_swab", GRID, bench(NARROW, schools=by_face))
    assert plan.swabs == 1
    assert len({s.y1_mm for s in plan.strokes}) == len(plan.strokes) == 2
    told = guidance("dry_swab", Setting(BODY, plan=plan))
    assert any("along the upper edge" in i.text for i in told)
    assert hand_plan("dry_swab", GRID, bench(SWAB, schools=by_face)).swabs == 1


def test_pads_wands_wipes_and_brushes_have_words_of_their_own() -> None:
    pad = KitItem(item="sterile_pad", quantity=4)
    plan = hand_plan("wet_swab", GRID, bench(pad))
    assert "fingertip" in plan.note
    assert plan.strokes == ()

    def told(step: Any, tool: KitItem, plan: HandPlan | None = None) -> str:
        setting = Setting(BODY, plan=plan or HandPlan(), tool=tool, fluid="fast_drying")
        return " ".join(f"{i.text} {i.heed}" for i in guidance(step, setting))

    wet = told("wet_swab", pad, plan)
    assert "1 drop of the fast-drying fluid on the pad" in wet
    assert "the dry pad, in small circles" in wet
    wand = KitItem(item="cloth_wand", width_mm=24, quantity=3)
    wand_plan = hand_plan("wet_swab", GRID, bench(wand))
    assert wand_plan.drops is not None
    assert wand_plan.drops.most == 5
    assert "Fold a fresh cloth over the wand" in told("wet_swab", wand, wand_plan)
    assert "charge" in told("brush", KitItem(item="charged_brush"))
    assert "charge" not in told("brush", KitItem(item="lens_brush", clean=True))
    assert "purge it" in told("air", KitItem(item="gas_can"))


def test_air_comes_from_the_inside_out() -> None:
    seen = aims([("a", -15.0, -10.0), ("b", -14.0, -10.0), ("c", 0.0, 0.0)], 36, 24, "top_away")
    assert [a.come_from for a in seen] == [
        "slanting, from the upper right",
        "slanting, from any side",
    ]
    (blow,) = [i for i in guidance("air", Setting(BODY, aims=seen)) if "Blow upward" in i.text]
    assert "lower left" in blow.text
    assert "from the upper right" in blow.text


def test_the_loupe_is_told_for_this_body() -> None:
    loupe = KitItem(item="loupe", focus_mm=(38, 46))
    shallow = BODY.model_copy(update={"flange_mm": 18.0})
    assert "spacer of 24 mm" in loupe_words(shallow, [loupe])
    deep = BODY.model_copy(update={"flange_mm": 44.0})
    assert loupe_words(deep, [loupe]) == "The loupe focuses on this sensor from the mount."
    assert loupe_words(BODY, [loupe]) == ""
    assert loupe_words(deep, [KitItem(item="loupe")]) == ""
    told = guidance("lift", Setting(shallow, kit=[loupe]))
    assert any("spacer of 24 mm" in i.heed for i in told)
    with pytest.raises(ValidationError, match="growing lengths"):
        KitItem(item="loupe", focus_mm=(46, 38))


def test_what_is_worth_knowing_before_the_camera_is_opened() -> None:
    mirror = BODY.model_copy(update={"access": "mirror", "flange_mm": 44.0})
    loupe = KitItem(item="loupe", focus_mm=(38, 46))
    lift = Setting(
        mirror, plan=hand_plan("lift", GRID, bench(STICK)), power=plan_power(20, 100), kit=[loupe]
    )
    told = preparation("lift", lift)
    assert told[0].endswith("presses cover 10 spots.")
    assert "fresh patches" in told[1]
    assert told[2] == "The lock-up holds 20 min: finish within 10 min."
    assert told[3].startswith("The loupe focuses")
    wet = Setting(BODY, plan=hand_plan("wet_swab", GRID, bench(SWAB)), drying=plan_drying(20, 45))
    assert preparation("wet_swab", wet)[0] == "2 strokes with 1 swab, 2 drops on each."
    assert "dries in 30 s to 15 min here" in preparation("wet_swab", wet)[-1]
    dry = preparation("dry_swab", Setting(BODY, plan=wet.plan))
    assert dry[0] == "2 strokes with 1 swab."
    seen = aims([("a", -15.0, -10.0)], 36, 24, "overhead")
    assert preparation("air", Setting(BODY, aims=seen))[0].startswith("Aim ")
    assert preparation("auto_clean", Setting(BODY)) == ()


def test_after_fluid_one_looks_for_the_sheen_and_waits_a_minute_at_most() -> None:
    def wait(drying: DryPlan | None) -> int | None:
        told = guidance("wet_swab", Setting(BODY, drying=drying))
        return next(i.timer_s for i in told if "No sheen left? Go on." in i.text)

    assert wait(None) == 60
    assert wait(plan_drying(12, 70)) == 60
    fast = plan_drying(28, 30, "fast_drying", Film(thickness_um=(1, 2), air_m_s=(0.2, 0.5)))
    assert fast.minutes.most < 1
    assert wait(fast) == max(10, int(fast.minutes.most * 60))


def test_among_droplets_only_the_specks_are_lifted_even_by_the_whole() -> None:
    whole = bench(STICK, schools=Schools(lift_area="whole"))
    wet = GRID[1].model_copy(update={"id": "wet", "kind": "droplet"})
    plan = hand_plan("lift", [GRID[0], wet], whole)
    assert [p.covers for p in plan.presses] == [(GRID[0].id,)]
