"""Who moved, by odds."""

from __future__ import annotations

import math

import numpy as np
import pytest

from neatpatch.core.common.records import Spot
from neatpatch.core.compare.moved_spots import MAY_HAVE_MOVED, MOVED, Pair, moved_pairs
from tests.core.made_maps import spot

MM = 0.012
"""To a pixel of a sensor of 36 by 24 mm."""
DIAGONAL_MM = 43.3


def speck(name: str, x: float, y: float, depth: float, snr: float = 200.0) -> Spot:
    made = spot(name, x, y, particle_px=12.0 * depth**0.5)
    return made.model_copy(update={"depth": depth, "snr": snr})


def pairs(gone: list[Spot], new: list[Spot]) -> list[Pair]:
    places = tuple(MM * np.array([[s.x_px, s.y_px] for s in v]).reshape(-1, 2) for v in (gone, new))
    return moved_pairs(gone, new, (places[0], places[1]), DIAGONAL_MM)


def strangers(count: int, seed: int) -> list[Spot]:
    rng = np.random.default_rng(seed)
    places = rng.uniform([50, 50], [2950, 1950], (count, 2))
    depths = np.exp(rng.uniform(-4, -0.3, count))
    return [
        speck(f"{seed}-{i}", float(x), float(y), float(depth))
        for i, ((x, y), depth) in enumerate(zip(places, depths, strict=True))
    ]


def test_the_same_size_nearby_has_moved() -> None:
    gone = [speck("a", 500, 500, 0.31), *strangers(12, 31)]
    new = [speck("b", 580, 470, 0.312), *strangers(3, 2)]
    found = [p for p in pairs(gone, new) if p.moved]
    assert [(p.gone, p.new) for p in found] == [(0, 0)]


def test_a_like_size_far_away_or_another_size_nearby_has_not() -> None:
    far = pairs([speck("a", 100, 100, 0.3)], [speck("b", 2800, 1900, 0.3)])
    other = pairs([speck("a", 500, 500, 0.3)], [speck("b", 520, 500, 0.15)])
    assert [p for p in far + other if p.moved] == []


def test_two_that_could_both_have_moved_are_doubtful() -> None:
    twins = [speck("a", 500, 500, 0.2), speck("b", 560, 500, 0.2)]
    found = pairs(twins, [speck("c", 530, 540, 0.2)])
    assert [p.moved for p in found] == []


def test_one_with_a_fainter_twin_has_moved_and_it_is_told_whence() -> None:
    gone = [speck("a", 500, 500, 0.2), speck("b", 560, 500, 0.192), *strangers(12, 31)]
    found = pairs(gone, [speck("c", 530, 540, 0.2), *strangers(3, 2)])
    assert [(p.gone, p.new) for p in found if p.moved] == [(0, 0)]
    assert MAY_HAVE_MOVED <= found[0].probability < MOVED <= found[0].of_any


def test_moves_of_up_to_three_millimetres_are_called_and_strangers_are_not() -> None:
    """Fifteen went, three of them moved, three came; sizes are known to 2 % at best."""
    called = right = moved = 0
    for seed in range(60):
        rng = np.random.default_rng(seed + 500)
        gone = strangers(15, 3 * seed + 1000)
        new = []
        for old in gone[:3]:
            turn, far = rng.uniform(0, 6.28), rng.uniform(0.3, 3.0) / MM
            x, y = old.x_px + far * math.cos(turn), old.y_px + far * math.sin(turn)
            snr = 25 + 600 * old.depth
            depth = old.depth * math.exp(rng.normal(0, math.hypot(0.012, 1.2 / snr)))
            new.append(speck(f"m{old.id}", x, y, depth, snr))
        found = [
            p for p in pairs(gone, new + strangers(3, 3 * seed + 1001)) if p.probability >= MOVED
        ]
        called += len(found)
        right += sum(p.gone == p.new < 3 for p in found)
        moved += 3
    assert right >= 0.95 * called
    assert right >= 0.9 * moved


def test_what_dried_on_never_moves() -> None:
    ring = spot("r", 400, 400, kind="droplet", particle_px=30.0)
    same = ring.model_copy(update={"id": "q", "x_px": 430.0})
    assert pairs([ring], [same]) == []
    assert pairs([], [same]) == []


@pytest.mark.long
def test_strangers_seldom_pass_for_one_that_moved() -> None:
    called = sum(
        p.moved
        for seed in range(400)
        for p in pairs(strangers(12, 2 * seed + 100), strangers(4, 2 * seed + 101))
    )
    assert called <= 0.025 * 400 * 4


@pytest.mark.parametrize("count", [400])
def test_many_are_decided_at_once(count: int) -> None:
    found = pairs(strangers(count, 7), strangers(count, 8))
    assert len({p.gone for p in found}) == len(found) == len({p.new for p in found})
