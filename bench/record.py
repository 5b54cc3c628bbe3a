"""Do the intervals of odds, rates and forecasts hold the truth as often as they say?

Simulated logbooks and years whose truth is known; more of them than the tests go through.
"""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

from neatpatch.core.stats.dusty_days import place_dust
from neatpatch.core.stats.odds import LEVEL as ODDS_LEVEL
from neatpatch.core.stats.odds import OutcomePool
from neatpatch.core.stats.rates import (
    DUSTY_DAYS,
    LEVEL,
    SURE_ENOUGH,
    Interval,
    arrivals_of,
    believe,
    forecast_of,
)

_START = date(2026, 1, 1)
_BODIES = 6


def odds_held(logbooks: int, seed: int = 1) -> float:
    """Share of cameras whose true share of an outcome lies in its interval."""
    rng = np.random.default_rng(seed)
    held = 0
    for _ in range(logbooks):
        mean, strength = rng.uniform(0.05, 0.95), np.exp(rng.uniform(np.log(2), np.log(200)))
        truth = rng.beta(mean * strength, (1 - mean) * strength, _BODIES)
        cases = [int(n) for n in rng.integers(1, 60, _BODIES)]
        pool = OutcomePool({i: (int(rng.binomial(n, truth[i])), n) for i, n in enumerate(cases)})
        shares = [pool.share_of(i) for i in range(_BODIES)]
        held += sum(s.low <= t <= s.high for s, t in zip(shares, truth, strict=True))
    return held / (logbooks * _BODIES)


def rates_held(years: int, seed: int = 2) -> tuple[float, float]:
    """Share of true rates inside their interval, and of days of a look on which it was too late."""
    rng = np.random.default_rng(seed)
    held = late = 0
    for _ in range(years):
        truth = float(np.exp(rng.uniform(np.log(0.005), np.log(2.0))))
        days = int(rng.integers(60, 400))
        came = int(rng.poisson(truth * days))
        rows = [Interval(body_id=1, since=_START, until=_START + timedelta(days=days), came=came)]
        found = arrivals_of(believe(rows, 1), rows, 1)
        assert found is not None
        held += found.a_day.low <= truth <= found.a_day.high
        ahead = forecast_of(believe(rows, 1), visible=1, limit=6, looked_on=_START)
        look = ((ahead.look_on or _START + timedelta(days=730)) - _START).days
        late += 1 + rng.poisson(truth * look) > 6
    return held / years, late / years


def worth_held(places: int, seed: int = 4) -> float:
    """Share of places whose true worth, in ordinary days, lies in its interval."""
    rng = np.random.default_rng(seed)
    held = 0
    for _ in range(places):
        worth = float(np.exp(rng.normal(np.log(DUSTY_DAYS), np.log(3))))
        rows = []
        for body in range(1, 4):
            a_day = float(np.exp(rng.uniform(np.log(0.02), np.log(0.5))))
            for turn in range(int(rng.integers(2, 9))):
                days, dusty = int(rng.integers(20, 90)), int(rng.integers(1, 5)) * (turn % 2)
                came = int(rng.poisson(a_day * (days + (worth - 1) * dusty)))
                end = _START + timedelta(days=days)
                places_been = ("Quay",) * dusty
                rows.append(
                    Interval(body_id=body, since=_START, until=end, came=came, dusty=places_been)
                )
        [found] = place_dust(rows)
        held += found.worth.low <= worth <= found.worth.high
    return held / places


def main() -> None:
    held, late = rates_held(1000)
    print(f"worth of dusty days by place: that of {LEVEL:.0%} in {worth_held(1000):.1%}")
    print(f"odds: the interval of {ODDS_LEVEL:.0%} holds the truth in {odds_held(400):.1%}")
    print(f"arrival rates: that of {LEVEL:.0%} in {held:.1%}")
    print(f"next look: the limit is passed by then in {late:.1%}, wanted {SURE_ENOUGH:.0%}")


if __name__ == "__main__":
    main()
