"""The frames of a visit prove the place by themselves."""

from __future__ import annotations

from typing import Any

import pytest

from neatpatch.core.advice import advise
from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.sensor.placement import as_they_are
from neatpatch.core.sensor.registration import Registration
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.facts import VisitContext, facts_of
from neatpatch.core.visit.outcomes import step_outcomes
from neatpatch.core.visit.place import PlaceFinding, find_place, relate_frames
from neatpatch.core.visit.trail import Explanation, TrailEntry, TrailFrame, TrailStep
from tests.core.made_maps import HEIGHT, WIDTH, spot, spot_map

DUST = [spot(f"d{i}", 300.0 + 260 * i, 250.0 + 150 * i) for i in range(8)]
WALL = [spot(f"w{i}", 500.0 + 310 * i, 1700.0 - 190 * i + 40 * (i % 3)) for i in range(6)]
SAME = Registration(True, 500.0, 59.0, as_they_are((HEIGHT, WIDTH), (HEIGHT, WIDTH)))


def shifted(spots: list[Spot], x: float, y: float) -> list[Spot]:
    return [
        s.model_copy(update={"id": f"{s.id}'", "x_px": s.x_px + x, "y_px": s.y_px + y})
        for s in spots
    ]


def by_sensor(before: TrailFrame, after: TrailFrame) -> Comparison:
    assert before.spot_map is not None
    assert after.spot_map is not None
    return compare(before.spot_map, after.spot_map, SAME)


def trail(*entries: SpotMap | Step) -> list[TrailEntry]:
    return [
        TrailStep(id=i, step=e) if isinstance(e, str) else TrailFrame(id=i, spot_map=e)
        for i, e in enumerate(entries, 1)
    ]


def found(*entries: SpotMap | Step, moved: bool | None = True) -> PlaceFinding:
    finding = find_place(relate_frames(trail(*entries), by_sensor, lambda _a, _b: moved), 16.0)
    assert finding is not None
    return finding


def test_one_frame_proves_nothing() -> None:
    finding = found(spot_map(*DUST))
    assert finding.state == "one_frame"
    assert finding.proved is False
    assert "camera moved" in finding.words


def test_what_keeps_its_place_while_the_target_changes_is_on_the_sensor() -> None:
    finding = found(spot_map(*DUST), spot_map(*DUST))
    assert finding.proved is True
    assert set(finding.on_sensor) == {s.id for s in DUST}
    assert "8 of 8" in finding.words


@pytest.mark.parametrize(("moved", "state"), [(False, "not_moved"), (None, "not_measured")])
def test_a_pair_that_is_not_known_to_have_moved_proves_nothing(
    moved: bool | None, state: str
) -> None:
    finding = found(spot_map(*DUST), spot_map(*DUST), moved=moved)
    assert finding.state == state
    assert finding.on_sensor == ()


def test_what_travels_belongs_to_the_target_and_leaves_the_counts() -> None:
    first, second = spot_map(*DUST, *WALL), spot_map(*DUST, *shifted(WALL, 140, -60))
    finding = found(first, second)
    assert finding.proved is True
    assert set(finding.wall) == {f"{s.id}'" for s in WALL}
    assert "6 marks belong to the target" in finding.words
    body = Body(name="B", sensor_mm=(36, 24), works_at=(16,))
    facts = facts_of(body, VisitConditions(), trail(first, second), VisitContext(place=finding))
    assert facts.frame is not None
    assert facts.frame.site_proved is True
    assert facts.frame.spots.total == facts.frame.spots.relevant == len(DUST)


def test_frames_around_a_touchless_step_prove_it_as_well() -> None:
    finding = found(spot_map(*DUST), "air", spot_map(*DUST[:6]))
    assert finding.proved is True
    assert finding.wall == ()


def test_dust_that_came_with_air_is_not_the_targets() -> None:
    fresh = [spot("n1", 2500.0, 300.0), spot("n2", 200.0, 1800.0)]
    finding = found(spot_map(*DUST), "air", spot_map(*DUST, *fresh))
    assert finding.wall == ()
    assert finding.proved is True


def test_a_target_that_travels_during_a_step_is_told_by_its_shape() -> None:
    before, after = spot_map(*DUST, *WALL), spot_map(*DUST, *shifted(WALL, 140, -60))
    finding = found(before, "air", after, moved=None)
    assert set(finding.wall) == {f"{s.id}'" for s in WALL}
    assert finding.proved is True


def test_many_gone_and_as_many_new_leave_the_place_unproved() -> None:
    others = [spot(f"n{i}", 2800.0 - 250 * i, 1900.0 - 40 * i * i) for i in range(6)]
    finding = found(spot_map(*DUST), "air", spot_map(*DUST[:2], *others))
    assert finding.state == "unproved"
    assert finding.proved is False


def test_what_was_proved_stays_proved_through_contact_and_a_tripod() -> None:
    calls: list[bool | None] = [True, False]
    entries = trail(spot_map(*DUST), spot_map(*DUST), "lift", spot_map(*DUST[:5]))
    finding = find_place(relate_frames(entries, by_sensor, lambda _a, _b: calls.pop(0)), 16.0)
    assert finding is not None
    assert finding.proved is True


def test_marks_of_the_target_that_laid_the_frames_prove_nothing() -> None:
    """Without the sensor's pattern, frames laid on the wall's marks would call dust the wall."""

    def by_marks(before: TrailFrame, after: TrailFrame) -> Comparison:
        assert before.spot_map is not None
        assert after.spot_map is not None
        return compare(before.spot_map, after.spot_map)

    entries = trail(spot_map(*DUST[:1], *WALL), spot_map(*DUST[:1], *shifted(WALL, 140, -60)))
    finding = find_place(relate_frames(entries, by_marks, lambda _a, _b: True), 16.0)
    assert finding is not None
    assert finding.on_sensor == ()


def test_a_series_is_proved_by_itself_only_where_the_camera_moved() -> None:
    def series(moved: bool | None) -> SpotMap:
        twice = [s.model_copy(update={"seen_in": 2}) for s in DUST]
        scene = [s.model_copy(update={"site": "scene"}) for s in WALL]
        return spot_map(*twice, *scene).model_copy(
            update={"moved": moved, "frames": spot_map(*DUST).frames * 2}
        )

    assert found(series(True)).proved is True
    assert set(found(series(True)).wall) == {s.id for s in WALL}
    assert found(series(False)).state == "not_moved"


@pytest.mark.parametrize("entries", [(), ("air",), (spot_map(*DUST, fit=False),)])
def test_without_a_fit_frame_there_is_nothing_to_find(entries: Any) -> None:
    known = relate_frames(trail(*entries), by_sensor, lambda _a, _b: True)
    assert find_place(known, 16.0) is None


def test_a_clean_frame_has_no_place_to_prove() -> None:
    assert found(spot_map(), spot_map()).proved is None


def test_marks_that_went_a_little_way_without_a_step_are_the_targets() -> None:
    """Near enough to be taken for dust that moved, were there a step that could have moved it."""
    near = shifted(WALL, 30, 10)
    finding = found(spot_map(*DUST, *WALL), spot_map(*DUST, *near))
    assert set(finding.wall) == {s.id for s in near}
    assert finding.proved is True


def test_marks_of_the_target_count_in_no_steps_outcome() -> None:
    entries = trail(spot_map(*DUST, *WALL), "air", spot_map(*DUST[:6], *shifted(WALL, 140, -60)))
    known = relate_frames(entries, by_sensor, lambda _a, _b: True)
    assert set(known.walls[1]) == {s.id for s in WALL}
    (with_wall,) = step_outcomes(entries, 16.0, by_sensor).values()
    (outcome,) = step_outcomes(entries, 16.0, by_sensor, known.walls).values()
    assert with_wall.result == "stirred"
    assert outcome.result == "fewer"
    assert outcome.comparison is not None
    counts = outcome.comparison.summary
    assert (counts.before, counts.after, counts.gone, counts.stayed) == (8, 6, 2, 6)
    assert (counts.moved, counts.new, counts.removed_percent) == (0, 0, 25.0)


BODY = Body(name="Judge", access="mirrorless", sensor_mm=(23.5, 15.6), works_at=(16.0,))
OTHER = [spot(f"o{i}", 450.0 + 190 * i, 1500.0 - 120 * i + 70 * (i % 2)) for i in range(9)]


@pytest.mark.parametrize("moved", [True, False, None])
def test_where_nothing_keeps_its_place_nothing_is_concluded(moved: bool | None) -> None:
    finding = found(spot_map(*DUST), spot_map(*OTHER), moved=moved)
    assert finding.state == "unexplained"
    assert finding.unexplained == (1, 2)
    assert finding.wall == finding.on_sensor == ()


@pytest.mark.parametrize(
    ("before", "after"), [(DUST, []), ([], OTHER), (DUST[:1], []), (DUST[:2], OTHER[:2])]
)
def test_marks_that_all_vanish_or_appear_without_a_step_are_asked_about(
    before: list[Spot], after: list[Spot]
) -> None:
    assert found(spot_map(*before), spot_map(*after)).state == "unexplained"


def test_what_a_step_or_a_common_mark_explains_is_not_asked_about() -> None:
    assert found(spot_map(*DUST), "wet_swab", spot_map()).unexplained is None
    assert found(spot_map(*DUST, *WALL), spot_map(*DUST)).unexplained is None
    assert found(spot_map(*DUST[:2]), spot_map(*DUST[:1])).unexplained is None
    assert found(spot_map(), spot_map()).unexplained is None


def explained(why: Explanation, *entries: SpotMap) -> PlaceFinding:
    first, second = entries
    shots = [
        TrailFrame(id=1, spot_map=first),
        TrailFrame(id=2, spot_map=second, explained=why),
    ]
    finding = find_place(relate_frames(shots, by_sensor, lambda _a, _b: True), 16.0)
    assert finding is not None
    return finding


def test_another_session_leaves_the_newer_frame_to_speak_for_itself() -> None:
    finding = explained("session", spot_map(*DUST), spot_map(*OTHER))
    assert finding.unexplained is None
    assert finding.wall == ()
    assert finding.proved is False


def test_marks_of_the_target_hide_the_sensor_and_never_make_it_clean() -> None:
    finding = explained("target", spot_map(*DUST), spot_map(*OTHER))
    assert finding.hidden
    assert finding.wall == ()
    beside = VisitContext(place=finding)
    facts = facts_of(BODY, VisitConditions(), trail(spot_map(*DUST), spot_map(*OTHER)), beside)
    assert advise(facts).decision == "reshoot"
    assert explained("target", spot_map(*DUST), spot_map()).proved is None


def test_the_visit_waits_until_it_is_explained() -> None:
    shots = trail(spot_map(*DUST), spot_map())
    finding = find_place(relate_frames(shots, by_sensor, lambda _a, _b: True), 16.0)
    advice = advise(facts_of(BODY, VisitConditions(), shots, VisitContext(place=finding)))
    assert advice.decision == "reshoot"
    assert advice.rule == "nothing in common"
