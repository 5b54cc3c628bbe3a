"""Laying frames by their marks alone, and refusing what chance could do."""

from __future__ import annotations

import numpy as np
import pytest

from neatpatch.core.compare.alignment import Marks
from neatpatch.core.compare.spot_alignment import align_by_spots
from neatpatch.core.sensor.placement import Placement, centre_of

SHAPE = (2000, 3000)


def marks(count: int, seed: int, shape: tuple[int, int] = SHAPE) -> Marks:
    rng = np.random.default_rng(seed)
    places = rng.uniform([30, 30], [shape[1] - 30, shape[0] - 30], (count, 2))
    return Marks(places=places, losses=np.exp(rng.uniform(0, 6, count)))


def seen(mine: Marks, place: Placement, kept: int, noise_px: float = 0.3) -> Marks:
    at = place.apply(mine.places[:kept])
    inside = (at > 5).all(axis=1) & (at < np.array(place.there[::-1]) - 5).all(axis=1)
    at = at[inside] + np.random.default_rng(1).normal(0, noise_px, (int(inside.sum()), 2))
    return Marks(places=at, losses=mine.losses[:kept][inside] * place.zoom**2)


def joined(a: Marks, b: Marks) -> Marks:
    return Marks(
        places=np.vstack([a.places, b.places]), losses=np.concatenate([a.losses, b.losses])
    )


@pytest.mark.parametrize(
    "place",
    [
        Placement(here=SHAPE, there=SHAPE),
        Placement(here=SHAPE, there=SHAPE, turn=2),
        Placement(here=SHAPE, there=(3000, 2000), turn=1),
        Placement(here=SHAPE, there=(3000, 2000), turn=3),
        Placement(here=SHAPE, there=(1000, 1500), zoom=0.5),
        Placement(here=SHAPE, there=(1300, 1900), shift_px=(310.0, -140.0)),
        Placement(here=SHAPE, there=(1700, 1200), turn=1, shift_px=(-90.0, 200.0)),
        Placement(here=SHAPE, there=(1100, 1300), zoom=0.63, shift_px=(150.0, 60.0)),
    ],
)
def test_turns_crops_and_zooms_are_found_among_strangers(place: Placement) -> None:
    mine = marks(60, 3)
    later = joined(seen(mine, place, 40), marks(8, 9, place.there))
    found = align_by_spots(mine, later, (SHAPE, place.there))
    assert found.proven
    middle = place.inverse().apply(centre_of(place.there)[None])
    error = found.alignment.apply(middle) - centre_of(place.there)
    assert float(np.hypot(*error[0])) < 2.0


@pytest.mark.long
@pytest.mark.parametrize("counts", [(40, 30), (12, 5), (3, 3), (400, 400)])
def test_strangers_are_never_laid_on_each_other(counts: tuple[int, int]) -> None:
    for seed in range(4):
        found = align_by_spots(marks(counts[0], seed), marks(counts[1], seed + 50), (SHAPE, SHAPE))
        assert not found.proven


def test_two_marks_that_stayed_where_they_were_prove_a_retest() -> None:
    mine = marks(30, 4)
    same = Placement(here=SHAPE, there=SHAPE)
    assert align_by_spots(mine, seen(mine, same, 2), (SHAPE, SHAPE)).proven


def test_without_marks_nothing_is_proven() -> None:
    none = Marks(places=np.zeros((0, 2)), losses=np.zeros(0))
    assert not align_by_spots(none, marks(9, 1), (SHAPE, SHAPE)).proven
    assert not align_by_spots(marks(9, 1), none, (SHAPE, SHAPE)).proven


def test_placements_undo_and_follow_each_other() -> None:
    a = Placement(here=SHAPE, there=(1700, 1200), turn=1, zoom=0.7, shift_px=(-90.0, 200.0))
    b = Placement(here=(1700, 1200), there=(900, 800), turn=2, shift_px=(12.0, 7.0))
    points = np.array([[10.0, 20.0], [2900.0, 1500.0]])
    assert np.allclose(a.inverse().apply(a.apply(points)), points)
    assert np.allclose(a.then(b).apply(points), b.apply(a.apply(points)))
