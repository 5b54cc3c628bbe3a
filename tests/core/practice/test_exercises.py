"""Exercises: what is asked is answerable, what is judged is true, weak points come first."""

from __future__ import annotations

import math

from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.advice import advise
from neatpatch.core.common.facts import Facts
from neatpatch.core.maps.mount_view import POSES, from_mount, mount_size
from neatpatch.core.practice.moves import MOVE_TOPICS, move_debrief, move_question
from neatpatch.core.practice.places import (
    LEVELS,
    NEAR_MM,
    PlaceQuestion,
    place_debrief,
    place_question,
)
from neatpatch.core.practice.progress import progress_of, weakest_first
from neatpatch.core.practice.situations import drawn_situation, situation_lines
from neatpatch.simulation.situations import random_facts

SEEDS = st.integers(0, 2**31 - 1)


@given(SEEDS)
def test_the_advised_move_is_among_the_choices_once_and_right(seed: int) -> None:
    facts = random_facts(seed)
    advice = advise(facts)
    question = move_question(seed, facts, advice)
    assert question == move_question(seed, facts, advice)
    assert len(set(question.choices)) == len(question.choices) == 5
    assert question.choices.count(advice.decision) == 1
    assert question.topic in MOVE_TOPICS
    told = move_debrief(advice, advice.decision)
    assert (told.right, told.unsafe, told.also_sound) == (True, False, False)


@given(SEEDS)
def test_no_choice_is_sound_and_unsafe_at_once(seed: int) -> None:
    facts = random_facts(seed)
    advice = advise(facts)
    barred = {b.action for b in advice.barred}
    for chosen in move_question(seed, facts, advice).choices:
        told = move_debrief(advice, chosen)
        assert told.right + told.unsafe + told.also_sound <= 1
        assert told.unsafe == (chosen in barred and chosen != advice.decision)
        assert bool(told.bar) == (chosen in barred)


def test_every_topic_is_drawn() -> None:
    found = set()
    for seed in range(300):
        facts = random_facts(seed)
        found.add(move_question(seed, facts, advise(facts)).topic)
    assert found == set(MOVE_TOPICS)


@given(SEEDS)
def test_a_situation_is_told_in_whole_sentences(seed: int) -> None:
    lines = situation_lines(random_facts(seed))
    assert {line.about for line in lines} >= {"frame", "camera", "kit", "you"}
    for line in lines:
        assert line.words.endswith(".")
        assert "_" not in line.words
        assert "None" not in line.words


def test_what_is_not_known_is_said_where_it_matters_and_else_left_out() -> None:
    told = " ".join(line.words for line in situation_lines(Facts()))
    assert "There is no test frame yet." in told
    assert "how it is held is not known" in told
    assert "Warranty unknown." in told
    assert "There is nothing to clean with." in told
    assert not any(line.about == "room" for line in situation_lines(Facts()))


@given(SEEDS)
def test_a_place_that_nobody_knows_is_never_told_as_proved(seed: int) -> None:
    facts = random_facts(seed)
    frame = [line.words for line in situation_lines(facts) if line.about == "frame"]
    known = facts.frame is not None and facts.frame.site not in (None, "unsure")
    assert known or not any("(proved)" in words for words in frame)


@given(SEEDS)
def test_what_is_drawn_is_what_is_told(seed: int) -> None:
    facts = random_facts(seed)
    drawn = drawn_situation(facts)
    told = " ".join(line.words for line in situation_lines(facts))
    assert all(thing.words.lower() in told.lower() for thing in drawn.kit)
    assert drawn.framed == ("There is no test frame yet." not in told)
    assert sum(drawn.by_kind.values()) == sum(
        facts.frame.spots.by_kind.values() if facts.frame else ()
    )


def truth_of(question: PlaceQuestion) -> tuple[float, float]:
    truth = place_debrief(question, 0.0, 0.0).truth
    return truth.x_mm, truth.y_mm


@given(SEEDS, st.integers(1, LEVELS), st.booleans())
def test_a_place_is_on_the_sensor_and_its_truth_is_met_without_error(
    seed: int, level: int, loupe: bool
) -> None:
    question = place_question(seed, level, loupe=loupe)
    plain = place_question(seed, level, loupe=False)
    assert question.model_copy(update={"glints": ()}) == plain
    assert all(0 < share < 1 for share in question.spot)
    assert question.view_mm == mount_size(*question.sensor_mm, question.pose)
    truth = truth_of(question)
    met = place_debrief(question, *truth)
    assert (met.error_mm, met.right) == (0.0, True)
    assert all(abs(t) <= s / 2 for t, s in zip(truth, question.view_mm, strict=True))
    if loupe:
        near = min(math.dist((g.x_mm, g.y_mm), truth) for g in question.glints)
        assert near < 1.5
        assert len(question.glints) == 5


@given(SEEDS, st.integers(1, LEVELS), st.floats(0, 60), st.floats(0, 2 * math.pi))
def test_the_error_is_the_distance_on_the_sensor(
    seed: int, level: int, off: float, way: float
) -> None:
    question = place_question(seed, level, loupe=False)
    x, y = truth_of(question)
    told = place_debrief(question, x + off * math.cos(way), y + off * math.sin(way))
    assert math.isclose(told.error_mm, off, abs_tol=1e-9)
    assert told.right == (told.error_mm <= NEAR_MM)


def test_the_truth_is_the_picture_turned_as_the_camera_lies() -> None:
    for seed in range(40):
        for level in range(1, LEVELS + 1):
            question = place_question(seed, level, loupe=False)
            truth = truth_of(question)
            back = from_mount(*truth, question.pose)
            wanted = [
                (share - 0.5) * side
                for share, side in zip(question.spot, question.sensor_mm, strict=True)
            ]
            assert all(math.isclose(a, b, abs_tol=1e-9) for a, b in zip(back, wanted, strict=True))


def test_every_pose_is_practised() -> None:
    drawn = {
        place_question(seed, level, loupe=False).pose
        for seed in range(30)
        for level in range(1, LEVELS + 1)
    }
    assert drawn == set(POSES)


def test_weak_points_come_first_and_the_last_tries_count_most() -> None:
    good, bad = (True, False), (False, True)
    assert progress_of("a", []).skill == 0.5
    assert (
        progress_of("a", [bad] * 3 + [good] * 3).skill
        > progress_of("a", [good] * 3 + [bad] * 3).skill
    )
    assert progress_of("a", [good, bad]).unsafe == 1
    ordered = weakest_first(["a", "b", "c"], {"a": [good] * 4, "b": [bad] * 2})
    assert [p.topic for p in ordered] == ["b", "c", "a"]


@given(st.lists(st.tuples(st.booleans(), st.booleans()), max_size=30))
def test_a_skill_is_never_certain(tries: list[tuple[bool, bool]]) -> None:
    assert 0 < progress_of("a", tries).skill < 1
