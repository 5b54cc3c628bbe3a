"""The judge itself: what counts as found, false, fragment."""

from __future__ import annotations

from typing import Any

from bench.scoring import Row, Score, pair_up, score


def truth(name: str, x: float, y: float, **more: Any) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "speck",
        "x_px": x,
        "y_px": y,
        "outer_px": 20.0,
        "snr": 50.0,
        "size_um": 30.0,
        **more,
    }


def test_each_truth_takes_one_row_the_closest() -> None:
    truths = [truth("a", 100, 100), truth("b", 112, 100)]
    rows = [Row(101, 100, 20), Row(111, 100, 20), Row(104, 100, 20)]
    assert sorted(pair_up(truths, rows)) == [(0, 0), (1, 1)]


def test_found_false_and_fragments() -> None:
    truths = [truth("a", 100, 100), truth("b", 500, 500), truth("faint", 900, 900, snr=8.0)]
    rows = [Row(100, 101, 20, particle_um=33.0), Row(107, 104, 6), Row(300, 40, 9)]
    result = score(truths, rows, "frame")
    assert (result.wanted, result.found, result.false, result.fragments) == (2, 1, 1, 1)
    assert result.missed == ["frame:b speck snr 50"]
    assert result.position == [1.0]
    assert [round(e, 3) for e in result.size] == [0.1]


def test_faint_truths_are_not_wanted_but_their_rows_are_not_false() -> None:
    result = score([truth("faint", 50, 50, snr=8.0)], [Row(50, 50, 20)])
    assert (result.wanted, result.false, result.fragments) == (0, 0, 0)


def test_kinds_and_sites_are_judged_in_our_words() -> None:
    lens = truth("l", 10, 10, kind="lens", outer_px=150.0)
    result = score([lens], [Row(12, 9, 140, kind="soft", site="lens")])
    assert (result.kind_right, result.site_right) == ([True], [True])
    assert result.position == []


def test_nothing_and_nothing() -> None:
    result = score([], [])
    assert (result.wanted, result.rows, result.frames) == (0, 0, 1)


def test_scores_add_up() -> None:
    total = Score()
    for _ in range(3):
        total += score([truth("a", 100, 100)], [Row(100, 100, 20)])
    assert (total.frames, total.wanted, total.found) == (3, 3, 3)
    assert total.by_kind == {"speck": [3, 3]}
