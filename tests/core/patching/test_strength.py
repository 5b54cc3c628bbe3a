"""A shadow's strength: quick ways against plain ones."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.patching import strength
from neatpatch.core.patching.strength import StrengthPrior

FREE = StrengthPrior(strength=0.5, place_px=0.7)


def one_by_one(values: strength.Values, design: strength.Values) -> float:
    """Two rounds of reweighted least squares, written out."""
    prior = np.diag([0.5**-2.0, 0.7**-2.0, 0.7**-2.0] + [20.0**-2.0] * (len(design) - 3))
    spread = max(1.4826 * upper_middle(np.abs(values - upper_middle(values))), 1.5e-3)
    weight = np.full(len(values), spread**-2.0)
    model = np.zeros(len(design))
    for _ in range(2):
        normal = (design * weight) @ design.T + prior
        model = np.linalg.solve(normal, (design * weight) @ values)
        rest = values - model @ design
        spread = max(1.4826 * upper_middle(np.abs(rest)), 1.5e-3)
        variance = spread**2 + (0.15 * design[0]) ** 2
        weight = 4.0 / (3.0 + rest**2 / variance) / variance
    return float(model[0])


def upper_middle(values: strength.Values) -> float:
    return float(np.sort(values)[len(values) // 2])


@pytest.mark.parametrize("terms", [3, 9])
def test_several_places_at_once_are_solved_as_one_by_one(terms: int) -> None:
    rng = np.random.default_rng(terms)
    design = rng.normal(0, 0.05, (terms, 500))
    values = rng.standard_t(3, (8, 500)) * 0.02 + rng.uniform(0, 1, (8, 1)) * design[0]
    found = strength._roughly_solved(values, design, FREE)
    assert found == pytest.approx([one_by_one(v, design) for v in values], abs=1e-9)


def test_too_few_values_or_no_shadow_tell_nothing() -> None:
    design = np.ones((3, 30))
    assert strength._roughly_solved(np.ones((2, 20)), design[:, :20], FREE) == []
    assert strength._roughly_solved(np.ones((2, 30)), 0 * design, FREE) == []
