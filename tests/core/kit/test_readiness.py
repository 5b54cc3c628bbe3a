"""Jobs, bodies, kit and time, by days counted by hand."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.facts import Schools, ServiceFacts
from neatpatch.core.kit.readiness import (
    BodyNow,
    BookedJob,
    CleaningHabits,
    Readiness,
    check_job,
    readiness,
)
from neatpatch.core.kit.stock import KitEntry
from neatpatch.core.visit.body import Body
from tests.core.kit.test_stock import own

TODAY = date(2026, 11, 25)
BODY = Body(name="Study", sensor_mm=(36, 24), stabilised=False)
WHOLE_KIT = [
    own("bulb_blower"),
    own("gel_stick", fresh_patches=30, matched_coating=True, pack_size=30),
    own("dry_swab", width_mm=24, quantity=4),
    own(
        "wet_swab", width_mm=24, quantity=4, pack_size=10, pack_price=25, lead_days=5, source="shop"
    ),
    own("fluid", kind="mild", quantity=9),
]


def day(offset: int) -> str:
    return (TODAY + timedelta(days=offset)).isoformat()


def now(body_id: int = 1, **changes: Any) -> BodyNow:
    known = {"id": body_id, "body": BODY, "last_look_on": day(-2), "relevant": 0}
    return BodyNow(**{**known, **changes})


def dusty(body_id: int = 1, **changes: Any) -> BodyNow:
    return now(body_id, **{"relevant": 7, **changes})


def told(
    jobs: list[BookedJob],
    bodies: list[BodyNow],
    kit: list[KitEntry],
    schools: Schools | None = None,
    service: ServiceFacts | None = None,
) -> Readiness:
    numbered = [(i + 1, o) for i, o in enumerate(kit)]
    return readiness(
        jobs,
        bodies,
        numbered,
        CleaningHabits(schools=schools or Schools(), service=service or ServiceFacts()),
        TODAY,
    )


def job(offset: int, *body_ids: int, name: str = "Plates") -> BookedJob:
    return BookedJob(name=name, starts_on=day(offset), body_ids=body_ids or (1,))


def test_a_clean_body_is_ready_and_buys_nothing() -> None:
    found = told([job(5)], [now()], [])
    (one,) = found.jobs
    assert (one.state, one.days, one.kit, found.to_buy) == ("ready", 5, (), ())
    assert one.bodies[0].words == "Looked at on 23 Nov: nothing visible in the work."


def test_a_body_to_clean_holds_one_climb_in_reserve() -> None:
    found = told([job(5, 1, 2)], [now(1), dusty(2)], WHOLE_KIT)
    (one,) = found.jobs
    assert (one.state, found.to_buy) == ("act", ())
    assert [(k.thing, k.enough) for k in one.kit] == [
        ("rubber bulb blower or electric blower", True),
        ("gel stick", True),
        ("dry swab, 24 mm", True),
        ("wet swab, 24 mm", True),
        ("mild fluid", True),
    ]
    assert next(k for k in one.kit if k.thing.startswith("dry swab")).needed == 1


@pytest.mark.parametrize(
    ("changes", "state", "words"),
    [
        ({"relevant": 7}, "clean", "7 visible spots"),
        ({"open_visit_id": 3, "relevant": 7}, "busy", "Finish it first"),
        ({"last_look_on": None}, "look", "Never looked at"),
        ({"relevant": None}, "look", "how many spots are visible is unknown"),
        ({"last_look_on": day(-30)}, "look", "Shoot a test frame"),
    ],
)
def test_a_body_that_is_not_ready_says_why(changes: dict[str, Any], state: str, words: str) -> None:
    (one,) = told([job(5)], [now(**changes)], WHOLE_KIT).jobs
    assert one.bodies[0].state == state
    assert words in one.bodies[0].words
    assert one.state == "act"


def test_an_unknown_hold_is_told_before_the_job() -> None:
    floating = now(body=BODY.model_copy(update={"stabilised": None}))
    words = told([job(5)], [floating], WHOLE_KIT).jobs[0].bodies[0].words
    assert "What holds its sensor is not noted" in words
    held = now(body=BODY.model_copy(update={"stabilised": True, "hold_rule": "off"}))
    assert "not noted" not in told([job(5)], [held], WHOLE_KIT).jobs[0].bodies[0].words


def test_a_far_job_says_from_when_to_look() -> None:
    (one,) = told([job(40)], [now()], WHOLE_KIT).jobs
    assert (one.state, one.bodies[0].state) == ("later", "later")
    assert one.bodies[0].words == "Look at it from 21 Dec."


def test_the_look_leaves_time_for_a_service() -> None:
    stale = now(last_look_on=day(-90))
    (one,) = told([job(10)], [stale], WHOLE_KIT, service=ServiceFacts(turnaround_days=4)).jobs
    assert "by 30 Nov (in time for a service)" in one.bodies[0].words
    assert one.service == "A service of 4 days still fits if it is sent by 30 Nov."
    (soon,) = told([job(3)], [stale], WHOLE_KIT, service=ServiceFacts(turnaround_days=4)).jobs
    assert soon.service_fits is False
    assert "would not be back in time" in soon.service


def test_an_order_must_be_back_the_day_before() -> None:
    kit = [o for o in WHOLE_KIT if o.item.item != "wet_swab"]
    empty = own(
        "wet_swab", width_mm=24, quantity=0, pack_size=10, pack_price=25, lead_days=5, source="shop"
    )
    found = told([job(9)], [dusty()], [*kit, empty])
    (line,) = found.to_buy
    assert (line.thing, line.amount, line.packs, line.cost) == ("wet swab, 24 mm", 1, 1, 25)
    assert (line.order_by, line.late, line.source) == (day(3), False, "shop")
    late = told([job(5)], [dusty()], [*kit, empty])
    assert (late.to_buy[0].late, late.jobs[0].state) == (True, "late")
    never_owned = told([job(9)], [dusty()], kit)
    assert (never_owned.to_buy[0].lead_assumed, never_owned.to_buy[0].lead_days) == (True, 7)
    assert never_owned.to_buy[0].packs is None


def test_what_an_earlier_job_may_take_is_gone_for_the_later_one() -> None:
    kit = [o for o in WHOLE_KIT if o.item.item != "wet_swab"]
    three = own("wet_swab", width_mm=24, quantity=3, pack_size=2, lead_days=1)
    bodies = [dusty(1), dusty(2)]
    found = told([job(9, 1, 2, name="second"), job(4, 1, 2, name="first")], bodies, [*kit, three])
    assert [j.job.name for j in found.jobs] == ["first", "second"]
    assert [next(k for k in j.kit if "wet" in k.thing).there for j in found.jobs] == [3, 1]
    line = next(b for b in found.to_buy if "wet" in b.thing)
    assert (line.amount, line.packs, line.job) == (1, 1, "second")


def test_what_expires_before_the_job_does_not_count() -> None:
    kit = [o for o in WHOLE_KIT if o.item.item != "dry_swab"]
    old = own("dry_swab", width_mm=24, quantity=9, best_before=day(3))
    assert told([job(2)], [dusty()], [*kit, old]).to_buy == ()
    assert [b.thing for b in told([job(6)], [dusty()], [*kit, old]).to_buy] == ["dry swab, 24 mm"]


def test_a_stick_or_fluid_for_other_bodies_does_not_count() -> None:
    kit = [o for o in WHOLE_KIT if o.item.item not in ("gel_stick", "fluid")]
    foreign = [own("gel_stick", fresh_patches=30, suits=(9,)), own("fluid", quantity=9, suits=(9,))]
    things = {b.thing for b in told([job(5)], [dusty()], [*kit, *foreign]).to_buy}
    assert things == {"gel stick or silicone pad", "fluid"}


def test_bodies_need_what_their_ladder_has() -> None:
    back = dusty(body=BODY.model_copy(update={"access": "digital_back"}))
    lines = told([job(5)], [back], WHOLE_KIT).jobs[0].kit
    assert [(k.thing, k.enough) for k in lines][1] == ("moist wipe", False)
    sent = told([job(5)], [dusty()], WHOLE_KIT, Schools(contact_by="send_out")).jobs[0].kit
    assert [k.thing for k in sent] == ["rubber bulb blower or electric blower"]
    sealed = dusty(body=BODY.model_copy(update={"access": "fixed_lens"}))
    assert told([job(5)], [sealed], WHOLE_KIT).jobs[0].kit == ()
    narrow = [own("dry_swab", width_mm=16, quantity=1)]
    lanes = (
        told(
            [job(5)],
            [dusty()],
            narrow,
            Schools(contact_order=("dry_swab",), swab_width="narrower_ok"),
        )
        .jobs[0]
        .kit[1]
    )
    assert (lanes.needed, lanes.there, lanes.enough) == (2, 1, False)
    third = (
        told([job(5)], [dusty()], WHOLE_KIT, Schools(contact_order=("dry_wet_dry",))).jobs[0].kit
    )
    assert [(k.thing, k.needed) for k in third][1:3] == [
        ("dry swab, 24 mm", 2),
        ("wet swab, 24 mm", 1),
    ]


def test_jobs_that_passed_are_left_out_and_refused() -> None:
    assert told([job(-1)], [now()], WHOLE_KIT) == Readiness(jobs=(), to_buy=())
    with pytest.raises(BadArgumentError, match="24 Nov 2026, has passed"):
        check_job(job(-1), TODAY)
    for wrong in ("2026-02-31", "2026-99-99", "12 May", 20260512, "0001-01-01", None):
        with pytest.raises(ValidationError, match="starts_on"):
            BookedJob.model_validate({"name": "x", "starts_on": wrong})


@settings(max_examples=80)
@given(
    st.lists(st.tuples(st.integers(0, 60), st.integers(1, 3)), min_size=1, max_size=5),
    st.integers(0, 6),
)
def test_reserved_and_to_buy_add_up_to_what_is_needed(
    booked: list[tuple[int, int]], stock: int
) -> None:
    bodies = [dusty(i) for i in (1, 2, 3)]
    jobs = [job(d, *range(1, n + 1), name=f"j{k}") for k, (d, n) in enumerate(booked)]
    kit = [o for o in WHOLE_KIT if o.item.item != "dry_swab"]
    found = told(jobs, bodies, [*kit, own("dry_swab", width_mm=24, quantity=stock)])
    needed = sum(n for _, n in booked)
    bought = sum(b.amount for b in found.to_buy if b.thing.startswith("dry swab"))
    assert bought == max(0, needed - stock)


def test_patches_follow_the_logbook_once_it_knows() -> None:
    guessed = told([job(5)], [dusty()], WHOLE_KIT).jobs[0].kit[1]
    assert guessed.needed == 10
    numbered = [(i + 1, o) for i, o in enumerate(WHOLE_KIT)]
    learned = readiness([job(5)], [dusty()], numbered, CleaningHabits(patches=7), TODAY)
    assert learned.jobs[0].kit[1].needed == 7


def test_a_job_without_a_body_is_not_ready() -> None:
    for body_ids in ((), (77,)):
        nobody = BookedJob(name="Plates", starts_on=day(30), body_ids=body_ids)
        (one,) = told([nobody], [now()], WHOLE_KIT).jobs
        assert (one.state, one.bodies, one.kit) == ("act", (), ())


def test_other_methods_need_other_things() -> None:
    pads = [*WHOLE_KIT, own("sterile_pad", quantity=2)]
    found = told([job(5)], [dusty()], pads, Schools(pad_on_finger=True))
    needed = {k.thing: (k.needed, k.enough) for k in found.jobs[0].kit}
    assert needed["sterile pad"] == (3, False)
    assert not any("swab" in thing for thing in needed)
    narrow = [own("bulb_blower"), own("wet_swab", width_mm=16, quantity=1), WHOLE_KIT[-1]]
    by_face = Schools(contact_order=("wet_swab",), edges_by_face=True)
    assert all(k.enough for k in told([job(5)], [dusty()], narrow, by_face).jobs[0].kit)
    lanes = Schools(contact_order=("wet_swab",), swab_width="narrower_ok")
    assert not all(k.enough for k in told([job(5)], [dusty()], narrow, lanes).jobs[0].kit)
    wand = [own("bulb_blower"), own("cloth_wand", width_mm=24, quantity=1), WHOLE_KIT[-1]]
    wet = Schools(contact_order=("wet_swab",))
    assert all(k.enough for k in told([job(5)], [dusty()], wand, wet).jobs[0].kit)
