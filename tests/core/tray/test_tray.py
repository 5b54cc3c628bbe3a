"""The tray by its properties: nothing is skipped, counts match, back is out in reverse; the mat."""

from __future__ import annotations

import re
from collections import Counter
from io import BytesIO

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError
from pypdf import PageObject, PdfReader

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.tray.mat import PAPER_MM, Paper, mat_svg
from neatpatch.core.tray.plan import (
    Ribbon,
    ScrewGroup,
    Stage,
    TrayPlan,
    TrayPoint,
    fields_of,
    spread,
)
from neatpatch.core.tray.steps import Done, all_steps, corrected, objection, tray_now
from neatpatch.demo.compact import COMPACT_PLAN
from neatpatch.services.tray.mats import mat_file

MM_PER_POINT = 25.4 / 72
SIDES = st.sampled_from(["left", "right", "top", "bottom", "front", "back", "inside"])


@st.composite
def plans(draw: st.DrawFn) -> TrayPlan:
    stages = []
    number = 0
    for n in range(draw(st.integers(1, 4))):
        groups = []
        for _ in range(draw(st.integers(0, 2))):
            number += 1
            groups.append(
                ScrewGroup(name=f"g{number}", side=draw(SIDES), count=draw(st.integers(1, 6)))
            )
        ribbons = [Ribbon(name=f"r{n}{i}") for i in range(draw(st.integers(0, 2)))]
        clips = draw(st.integers(0 if groups or ribbons else 1, 3))
        stages.append(
            Stage(name=f"stage {n}", screws=tuple(groups), ribbons=tuple(ribbons), clips=clips)
        )
    return TrayPlan(model="m", outline=TrayPoint(x_mm=110, y_mm=60), stages=tuple(stages))


def walked(plan: TrayPlan) -> list[Done]:
    """Everything done rightly, one after the other."""
    done: list[Done] = []
    while (step := tray_now(plan, done).step) is not None:
        new = Done(step_id=step.id, count=step.count)
        assert objection(plan, done, new) == ""
        done.append(new)
    return done


@pytest.mark.long
@given(plans())
def test_a_walk_ends_with_every_screw_back_and_nothing_left(plan: TrayPlan) -> None:
    done = walked(plan)
    now = tray_now(plan, done)
    assert now.left == ()
    assert [d.step_id for d in done] == [s.id for s in all_steps(plan)]
    for g in now.groups:
        assert g.out == g.back == g.count
    assert (
        objection(plan, done, Done(step_id="x"))
        == "Everything is done already. Shoot the test frame."
    )


@given(plans())
def test_back_is_out_in_reverse_and_ids_are_told_apart(plan: TrayPlan) -> None:
    steps = all_steps(plan)
    assert max(Counter(s.id for s in steps).values()) == 1
    out = [s.field for s in steps if s.kind == "screws_out"]
    assert [s.field for s in steps if s.kind == "screws_in"] == out[::-1]
    assert [s.stage for s in steps if s.kind == "lift"] == [
        s.stage for s in steps if s.kind == "seat"
    ][::-1]
    unlatched = [s.id for s in steps if s.kind == "unlatch"]
    latched = [s.id.replace("latch", "unlatch") for s in steps if s.kind == "latch"]
    assert latched == unlatched[::-1]
    for stage in plan.stages:
        mine = [s.kind for s in steps if s.stage == stage.name and s.phase == "out"]
        assert mine[0] == "photo"
        assert mine[-1] == "lift"
    warned = [s for s in steps if s.kind == "warned"]
    assert steps[: len(warned)] == tuple(warned)
    assert "flash" in warned[0].words


@pytest.mark.long
@given(plans(), st.data())
def test_a_wrong_count_or_step_out_of_turn_is_refused(plan: TrayPlan, data: st.DataObject) -> None:
    steps = all_steps(plan)
    done = walked(plan)
    at = data.draw(st.integers(0, len(steps) - 1))
    before = done[:at]
    for other in (steps[(at + 1) % len(steps)].id, "nonsense"):
        if other != steps[at].id:
            assert "Another step comes first" in objection(plan, before, Done(step_id=other))
    count = steps[at].count
    if count is None:
        return
    wrong = data.draw(st.integers(0, 60).filter(lambda n: n != count))
    told = objection(plan, before, Done(step_id=steps[at].id, count=wrong))
    assert steps[at].field in told
    assert str(abs(count - wrong)) in told
    assert "Count the screws" in objection(plan, before, Done(step_id=steps[at].id))


@pytest.mark.long
@given(plans(), st.data())
def test_a_lost_screw_blocks_nobody_and_is_told_to_the_end(
    plan: TrayPlan, data: st.DataObject
) -> None:
    counts = [s for s in all_steps(plan) if s.kind == "screws_in"]
    if not counts:
        return
    lost = data.draw(st.sampled_from(counts))
    assert lost.count is not None
    done: list[Done] = []
    while (step := tray_now(plan, done).step) is not None:
        short = step.id == lost.id
        new = Done(
            step_id=step.id,
            count=None if step.count is None else step.count - short,
            lost="fell between the boards" if short else "",
        )
        assert objection(plan, done, new) == ""
        done.append(new)
    [told] = tray_now(plan, done).left
    assert told.startswith("1 screw left over")
    assert f"field {lost.field}" in told


@pytest.mark.long
@given(plans(), st.data())
def test_what_was_lost_on_the_way_out_is_not_asked_for_on_the_way_back(
    plan: TrayPlan, data: st.DataObject
) -> None:
    counts = [s for s in all_steps(plan) if s.kind == "screws_out"]
    if not counts:
        return
    lost = data.draw(st.sampled_from(counts))
    assert lost.count is not None
    done: list[Done] = []
    while (step := tray_now(plan, done).step) is not None:
        short = step.id == lost.id
        if step.kind == "screws_in" and step.field == lost.field:
            assert step.count == lost.count - 1
        count = None if step.count is None else step.count - short
        new = Done(step_id=step.id, count=count, lost="it was gone already" if short else "")
        assert objection(plan, done, new) == ""
        done.append(new)
    [told] = tray_now(plan, done).left
    assert told.startswith("1 screw missing")
    assert f"field {lost.field}" in told


@given(plans(), st.integers(1, 9), st.data())
def test_a_corrected_count_changes_that_field_alone(
    plan: TrayPlan, count: int, data: st.DataObject
) -> None:
    fields = fields_of(plan)
    if not fields:
        assert corrected(plan, "A", count) == plan
        return
    chosen = data.draw(st.sampled_from(fields))
    after = {f.letter: f.group.count for f in fields_of(corrected(plan, chosen.letter, count))}
    assert after == {
        f.letter: count if f.letter == chosen.letter else f.group.count for f in fields
    }


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"stages": ()}, "at least 1"),
        ({"outline": {"x_mm": 10, "y_mm": 60}}, "30 to 300 mm"),
        ({"stages": [{"name": "a"}]}, "say what holds it"),
        ({"stages": [{"name": "a", "clips": 1}, {"name": "a", "clips": 1}]}, "the same name"),
        (
            {"stages": [{"name": "a", "screws": [{"name": "g", "side": "left", "count": 2,
                "places": [{"x_mm": 1, "y_mm": 1}]}]}]},
            "1 places are noted for 2",
        ),
        (
            {"stages": [{"name": "a", "screws": [{"name": "g", "side": "left", "count": 1,
                "places": [{"x_mm": 200, "y_mm": 1}]}]}]},
            "outside the outline",
        ),
    ],
)  # fmt: skip
def test_what_is_no_plan_is_refused(change: dict[str, object], words: str) -> None:
    plain = {
        "model": "m",
        "outline": {"x_mm": 110, "y_mm": 60},
        "stages": [{"name": "a", "clips": 1}],
    }
    TrayPlan.model_validate(plain)
    with pytest.raises(ValidationError, match=words):
        TrayPlan.model_validate({**plain, **change})


Line = tuple[float, float, float, float]


def drawn_in(page: PageObject) -> tuple[list[Line], str]:
    """Straight lines of a page (mm from its lower left corner), and its words."""
    lines: list[Line] = []
    last = (0.0, 0.0)

    def see(operator: bytes, given: list[float], matrix: list[float], _text: object) -> None:
        nonlocal last
        if operator not in (b"m", b"l"):
            return
        a, b, c, d, e, f = (float(v) for v in matrix)
        x, y = (float(v) for v in given)
        at = tuple(round(v * MM_PER_POINT, 3) for v in (a * x + c * y + e, b * x + d * y + f))
        if operator == b"l":
            lines.append((*last, *at))  # type: ignore[arg-type]
        last = at  # type: ignore[assignment]

    return lines, page.extract_text(visitor_operand_before=see)


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_the_mats_true_size_is_read_back_from_its_pdf(paper: Paper) -> None:
    [page] = PdfReader(BytesIO(mat_file(COMPACT_PLAN, paper, "pdf"))).pages
    width, height = (float(v) * MM_PER_POINT for v in page.mediabox[2:])
    assert (width, height) == pytest.approx(PAPER_MM[paper], abs=0.05)
    lines, words = drawn_in(page)
    [bar] = [line for line in lines if abs(line[1] - 6) < 0.1 and line[1] == line[3]]
    assert bar[2] - bar[0] == pytest.approx(100, abs=0.05)
    assert (bar[0] + bar[2]) / 2 == pytest.approx(width / 2, abs=0.05)
    assert "Print at 100 %" in words
    for field in fields_of(COMPACT_PLAN):
        assert field.group.thread in words


def test_fields_lie_on_the_sheet_apart_and_beside_their_screws() -> None:
    drawn = mat_svg(COMPACT_PLAN, "a4")
    boxes = {
        name: tuple(float(v) for v in found)
        for name, *found in re.findall(
            r'<rect id="(field-\w+|outline)" x="([\d.]+)" y="([\d.]+)" width="([\d.]+)" '
            r'height="([\d.]+)"',
            drawn,
        )
    }
    camera = boxes.pop("outline")
    assert (camera[2], camera[3]) == (COMPACT_PLAN.outline.x_mm, COMPACT_PLAN.outline.y_mm)
    assert len(boxes) == len(COMPACT_PLAN.groups)
    places = [*boxes.values(), camera]
    for n, (x, y, w, h) in enumerate(places):
        assert 0 < x < x + w < PAPER_MM["a4"][0]
        assert 0 < y < y + h < PAPER_MM["a4"][1]
        for x2, y2, w2, h2 in places[n + 1 :]:
            assert x + w <= x2 or x2 + w2 <= x or y + h <= y2 or y2 + h2 <= y
    for f in fields_of(COMPACT_PLAN):
        x = boxes[f"field-{f.letter}"][0]
        if f.group.side == "left":
            assert x < camera[0]
        if f.group.side == "right":
            assert x > camera[0] + camera[2]


def test_too_many_fields_for_one_sheet_are_refused_with_what_to_do() -> None:
    groups = tuple(ScrewGroup(name=f"g{i}", side="left", count=2) for i in range(8))
    plan = TrayPlan(
        model="m",
        outline=TrayPoint(x_mm=110, y_mm=60),
        stages=(Stage(name="all", screws=groups),),
    )
    with pytest.raises(BadArgumentError, match="Join groups"):
        mat_svg(plan, "a4")


@pytest.mark.long
@given(plans())
def test_screws_without_places_are_drawn_inside_the_outline(plan: TrayPlan) -> None:
    for group in plan.groups:
        found = spread(group, plan.outline)
        assert len(found) == group.count
        assert all(0 <= p.x_mm <= 110 and 0 <= p.y_mm <= 60 for p in found)
