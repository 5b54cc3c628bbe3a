"""Lives of spots chained through the frames of a camera."""

from __future__ import annotations

from collections import Counter
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.stats.spot_histories import FrameLink, Seen, histories_of_spots, link_of
from tests.core.made_maps import spot, spot_map

HERE = [spot(f"s{i}", 300 + 400 * i, 300 + 150 * i) for i in range(6)]


def test_nothing_linked_gives_no_lives() -> None:
    assert histories_of_spots([]) == []


def test_a_frame_that_nothing_lays_on_one_before_begins_anew() -> None:
    first = link_of(1, spot_map(*HERE), None, None)
    alone = link_of(2, spot_map(*HERE[:2]), 1, None)
    assert (alone.before_id, len(alone.fates)) == (None, 2)
    lives = histories_of_spots([first, alone])
    assert [len(life.sightings) for life in lives] == [1] * 8
    assert {life.sightings[0].seen for life in lives} == {"first"}


def test_marks_of_lens_and_target_have_no_life() -> None:
    wall = spot("w", 900, 900, site="scene")
    assert [f[1] for f in link_of(1, spot_map(*HERE[:1], wall), None, None).fates] == ["s0"]


def test_what_two_frames_show_is_carried_on() -> None:
    fresh = spot("n", 2600, 300)
    maps = [spot_map(*HERE), spot_map(*HERE[1:]), spot_map(*HERE[2:], fresh)]
    links = [link_of(1, maps[0], None, None)]
    for number, (old, new) in enumerate(pairwise(maps), 2):
        links.append(link_of(number, new, number - 1, compare(old, new)))
    told = Counter(tuple(s.seen for s in life.sightings) for life in histories_of_spots(links))
    assert told == {
        ("first", "gone"): 1,
        ("first", "stayed", "gone"): 1,
        ("first", "stayed", "stayed"): 4,
        ("new",): 1,
    }


def test_a_spot_lost_from_sight_ends_without_being_gone() -> None:
    links = [
        FrameLink(frame_id=1, before_id=None, fates=((None, "a", "first"),)),
        FrameLink(frame_id=2, before_id=1, fates=()),
        FrameLink(frame_id=3, before_id=2, fates=((None, "b", "new"),)),
    ]
    assert [[s.seen for s in life.sightings] for life in histories_of_spots(links)] == [
        ["first"],
        ["new"],
    ]


def test_a_fate_whose_beginning_is_not_known_begins_here_and_an_end_alone_is_no_life() -> None:
    link = FrameLink(frame_id=2, before_id=1, fates=(("x", "a", "stayed"), ("y", None, "gone")))
    [life] = histories_of_spots([link])
    assert [(s.spot, s.seen) for s in life.sightings] == [("a", "first")]


FATES = st.lists(
    st.lists(st.sampled_from(["stayed", "moved", "gone"]), min_size=0, max_size=6), max_size=6
)


@given(FATES, st.integers(0, 3))
def test_every_spot_of_every_frame_has_one_life(fates: list[list[Seen]], come: int) -> None:
    links: list[FrameLink] = []
    here = [f"s{i}" for i in range(come)]
    links.append(
        FrameLink(frame_id=0, before_id=None, fates=tuple((None, s, "first") for s in here))
    )
    for number, wanted in enumerate(fates, 1):
        told: list[tuple[str | None, str | None, Seen]] = []
        after = []
        for i, name in enumerate(here):
            seen: Seen = wanted[i] if i < len(wanted) else "stayed"
            kept = None if seen == "gone" else f"f{number}-{i}"
            told.append((name, kept, seen))
            after += [kept] if kept else []
        told += [(None, f"new{number}", "new")]
        after.append(f"new{number}")
        links.append(FrameLink(frame_id=number, before_id=number - 1, fates=tuple(told)))
        here = after
    lives = histories_of_spots(links)
    sightings = [(s.frame_id, s.spot) for life in lives for s in life.sightings if s.spot]
    shown = [(link.frame_id, here) for link in links for _, here, _ in link.fates if here]
    assert sorted(sightings) == sorted(shown)
    for life in lives:
        assert life.sightings[0].seen in ("first", "new")
        assert all(s.seen not in ("first", "new") for s in life.sightings[1:])
        assert all(s.seen != "gone" for s in life.sightings[:-1])
