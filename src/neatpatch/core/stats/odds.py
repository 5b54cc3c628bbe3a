"""What a rung has done to a kind of spot, from one's own retests, with how sure that is.

Each spot before a step is removed, stays, or moves. A camera's own share p of an outcome is drawn
from a Beta distribution with a mean common to all cameras and a strength that says how alike they
are; both are unknown and are summed over (partial pooling). A camera with few cases borrows from
the others, one with many stands by its own. Beta-Binomial model, its hyperparameters on a grid:
A. Gelman et al., Bayesian Data Analysis, 3rd ed., section 5.3, https://doi.org/10.1201/b16018.
How many come new with a step is a Poisson count with a Gamma prior (section 2.6 there).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Kind, Record

LEVEL = 0.95
"""Of intervals: one in twenty lies beside the truth."""
_MEANS = np.linspace(0.01, 0.99, 40)
"""Grid of the common mean; all are as likely before anything was seen."""
_STRENGTHS = np.geomspace(1.0, 400.0, 12)
"""Grid of the strength, in cases that the common mean is worth: from cameras that tell nothing of
each other to cameras that are all alike, every order of magnitude as likely as the next."""
_NEW_SHAPE, _NEW_RATE = 0.5, 0.01
"""Prior of what comes new: worth a hundredth of a step."""
_NO_WEIGHT = 1e-5
"""Less says nothing of a twentieth."""
_HALVINGS = 11
"""Ends of intervals to a part in 2,000: shown in whole per cent."""

Counts = tuple[int, int]
"""How often an outcome happened, of how many cases."""


class Retest(Record):
    """What one step did to one kind of spot on one camera, by the frames around it."""

    body_id: int
    step: Step
    kind: Kind
    removed: int
    stayed: int
    moved: int
    new: int


class Share(Record):
    """A share with the interval that holds it at `LEVEL`, all of 0 to 1, and what was counted."""

    count: int
    cases: int
    mean: float
    low: float
    high: float


class KindOdds(Record):
    """What a rung has done to one kind. ``steps``: how often it was retested with such spots.

    ``new_a_step``: how many of the kind came new with a step: mean, low, high.
    """

    kind: Kind
    steps: int
    removed: Share
    stayed: Share
    moved: Share
    new_a_step: tuple[float, float, float]


class RungOdds(Record):
    """All that is known of one rung, kinds with most cases first."""

    step: Step
    kinds: tuple[KindOdds, ...]


@dataclass(frozen=True)
class _Mixture:
    """Beta distributions with their weights."""

    weights: NDArray[np.float64]
    a: NDArray[np.float64]
    b: NDArray[np.float64]

    def quantile(self, q: float) -> float:
        from scipy.special import betainc  # slow to load, and a server starts often

        low, high = 0.0, 1.0
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            below = float((self.weights * betainc(self.a, self.b, middle)).sum())
            low, high = (middle, high) if below < q else (low, middle)
        return (low + high) / 2


@dataclass(frozen=True)
class OutcomePool:
    """Cases of one outcome from several cameras, and what they say of the common mean."""

    cases: Mapping[int, Counts]

    @cached_property
    def _weights(self) -> NDArray[np.float64]:
        """Posterior of mean and strength over their grid, a sum of one."""
        from scipy.special import betaln

        a, b = self._shapes
        logs = np.zeros_like(a)
        for (happened, cases), times in Counter(self.cases.values()).items():
            logs += times * (betaln(a + happened, b + cases - happened) - betaln(a, b))
        weights = np.exp(logs - logs.max())
        return np.asarray(weights / weights.sum())

    @cached_property
    def _shapes(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        mean, strength = np.meshgrid(_MEANS, _STRENGTHS, indexing="ij")
        return mean * strength, (1 - mean) * strength

    def share_of(self, body_id: int | None) -> Share:
        """The share on one camera; for None on one not seen yet, with the counts of all."""
        own, cases = (0, 0) if body_id is None else self.cases.get(body_id, (0, 0))
        a, b = self._shapes
        a, b = a + own, b + cases - own
        heard = self._weights > _NO_WEIGHT
        beyond = _Mixture(self._weights[heard], a[heard], b[heard])
        tail = (1 - LEVEL) / 2
        return Share(
            count=own if body_id is not None else sum(c for c, _ in self.cases.values()),
            cases=cases if body_id is not None else sum(n for _, n in self.cases.values()),
            mean=float((self._weights * a / (a + b)).sum()),
            low=beyond.quantile(tail),
            high=beyond.quantile(1 - tail),
        )


class _RetestsOfKind:
    """All retests of one rung and kind."""

    def __init__(self, rows: Sequence[Retest]) -> None:
        self.steps = Counter(r.body_id for r in rows)
        self.new: Counter[int] = Counter()
        cases_by_outcome: tuple[dict[int, Counts], ...] = ({}, {}, {})
        for r in rows:
            self.new[r.body_id] += r.new
            outcomes = r.removed, r.stayed, r.moved
            for cases, happened in zip(cases_by_outcome, outcomes, strict=True):
                before = cases.get(r.body_id, (0, 0))
                cases[r.body_id] = before[0] + happened, before[1] + sum(outcomes)
        self._pools = tuple(OutcomePool(cases) for cases in cases_by_outcome)

    def odds(self, kind: Kind, body_id: int | None) -> KindOdds | None:
        steps = self.steps.total() if body_id is None else self.steps[body_id]
        if not steps:
            return None
        removed, stayed, moved = (pool.share_of(body_id) for pool in self._pools)
        new = self.new.total() if body_id is None else self.new[body_id]
        return KindOdds(
            kind=kind,
            steps=steps,
            removed=removed,
            stayed=stayed,
            moved=moved,
            new_a_step=rate_interval(new, steps),
        )


class OddsBook:
    """Retests read once, to be asked for any camera."""

    def __init__(self, retests: Iterable[Retest]) -> None:
        groups: dict[Step, dict[Kind, list[Retest]]] = {}
        for r in retests:
            groups.setdefault(r.step, {}).setdefault(r.kind, []).append(r)
        self._heard = {
            step: {kind: _RetestsOfKind(rows) for kind, rows in kinds.items()}
            for step, kinds in groups.items()
        }
        self._worked_out: dict[tuple[int | None, Step | None], tuple[RungOdds, ...]] = {}

    def rungs(self, body_id: int | None = None, only: Step | None = None) -> tuple[RungOdds, ...]:
        """Odds on one camera; for None on one not seen yet, with the counts of all together.

        Rungs and kinds that were never retested there are left out; no retests give none. Worked
        out once for each camera.
        """
        asked = body_id, only
        if asked not in self._worked_out:
            self._worked_out[asked] = self._work_out(body_id, only)
        return self._worked_out[asked]

    def _work_out(self, body_id: int | None, only: Step | None) -> tuple[RungOdds, ...]:
        rungs = []
        for step, kinds in self._heard.items():
            if only is not None and step != only:
                continue
            found = [heard.odds(kind, body_id) for kind, heard in kinds.items()]
            known = [k for k in found if k is not None]
            if known:
                by_cases = sorted(known, key=lambda k: -k.removed.cases)
                rungs.append(RungOdds(step=step, kinds=tuple(by_cases)))
        return tuple(rungs)


def rate_interval(came: float, exposure: float, level: float = LEVEL) -> tuple[float, float, float]:
    """A Poisson rate for each unit of exposure: mean, and the interval that holds it."""
    from scipy.special import gammaincinv

    shape, rate = came + _NEW_SHAPE, exposure + _NEW_RATE
    low, high = (float(gammaincinv(shape, q)) / rate for q in ((1 - level) / 2, (1 + level) / 2))
    return shape / rate, low, high


def percent_words(share: Share) -> str:
    """An interval in whole per cent, as ``62 to 88 %``; outwards, so that it never says more."""
    return f"{math.floor(100 * share.low)} to {math.ceil(100 * share.high)} %"
