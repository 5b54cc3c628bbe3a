"""Odds against simulated logbooks whose truth is known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binom

from neatpatch.core.stats.odds import (
    LEVEL,
    OddsBook,
    OutcomePool,
    Retest,
    percent_words,
    rate_interval,
)


def retest(body: int, removed: int, stayed: int, moved: int = 0, new: int = 0) -> Retest:
    return Retest(
        body_id=body, step="air", kind="speck", removed=removed, stayed=stayed, moved=moved, new=new
    )


def test_an_empty_logbook_has_no_odds() -> None:
    assert OddsBook([]).rungs() == ()
    assert OddsBook([retest(1, 3, 1)]).rungs(2) == ()


def test_what_was_counted_is_told_with_its_interval() -> None:
    [rung] = OddsBook([retest(1, 20, 5), retest(1, 11, 3, moved=1)]).rungs(1)
    [kind] = rung.kinds
    assert (kind.removed.count, kind.removed.cases, kind.steps) == (31, 40, 2)
    assert kind.removed.low < 31 / 40 < kind.removed.high
    assert percent_words(kind.removed) in ("62 to 88 %", "61 to 88 %", "61 to 87 %", "62 to 87 %")
    assert kind.removed.mean + kind.stayed.mean + kind.moved.mean == pytest.approx(1, abs=0.03)


def test_a_camera_with_few_cases_borrows_and_one_with_many_stands_by_its_own() -> None:
    alike = [retest(body, 80, 20) for body in range(2, 8)]
    few, many = [retest(1, 0, 2)], [retest(1, 20, 180)]
    [borrowed] = OddsBook([*alike, *few]).rungs(1)
    [own] = OddsBook([*alike, *many]).rungs(1)
    [alone] = OddsBook(few).rungs(1)
    assert alone.kinds[0].removed.mean < 0.4 < borrowed.kinds[0].removed.mean
    assert own.kinds[0].removed.mean == pytest.approx(0.1, abs=0.03)


def test_a_camera_not_seen_yet_is_told_less_surely_than_those_that_were() -> None:
    rows = [retest(body, 10 * body, 100 - 10 * body) for body in range(2, 9)]
    book = OddsBook(rows)
    [fresh], [known] = book.rungs(), book.rungs(5)
    width = [k.high - k.low for k in (fresh.kinds[0].removed, known.kinds[0].removed)]
    assert width[0] > 2 * width[1]
    assert fresh.kinds[0].removed.cases == 700


@pytest.mark.long
def test_the_interval_holds_the_truth_as_often_as_it_says() -> None:
    rng = np.random.default_rng(11)
    held, asked = 0, 0
    for _ in range(60):
        mean, strength = rng.uniform(0.1, 0.9), np.exp(rng.uniform(np.log(2), np.log(100)))
        truth = rng.beta(mean * strength, (1 - mean) * strength, 6)
        cases = {i: int(rng.integers(1, 40)) for i in range(6)}
        pool = OutcomePool({i: (int(rng.binomial(n, truth[i])), n) for i, n in cases.items()})
        shares = [pool.share_of(i) for i in range(6)]
        held += sum(s.low <= truth[i] <= s.high for i, s in enumerate(shares))
        asked += 6
    # Of so many tries chance leaves this range once in a thousand.
    low, high = binom.ppf((0.0005, 0.9995), asked, LEVEL)
    assert low <= held <= high


@given(st.integers(0, 30), st.integers(0, 30))
def test_an_interval_stays_between_nothing_and_all(happened: int, other: int) -> None:
    share = OutcomePool({1: (happened, happened + other)}).share_of(1)
    assert 0 <= share.low <= share.mean <= share.high <= 1


def test_rates_narrow_with_exposure() -> None:
    short, long = rate_interval(3, 10), rate_interval(300, 1000)
    assert short[1] < 0.3 < short[2]
    assert long[2] - long[1] < (short[2] - short[1]) / 5
    assert rate_interval(0, 100)[1] < 0.001


def test_what_comes_new_is_counted_a_step() -> None:
    [rung] = OddsBook([retest(1, 1, 1, new=4), retest(1, 1, 1, new=0)]).rungs(1)
    mean, low, high = rung.kinds[0].new_a_step
    assert mean == pytest.approx(2.24, abs=0.05)
    assert low < 2 < high
