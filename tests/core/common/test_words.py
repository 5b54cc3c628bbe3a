"""Quantities in words, each against worked values in both units."""

from __future__ import annotations

import pytest

from neatpatch.core.common.words import (
    counted,
    distance,
    duration,
    exposure,
    length,
    lengths,
    speaking,
    temperatures,
    with_room,
)
from neatpatch.core.plans.drying import plan_drying
from neatpatch.core.plans.loupe import plan_loupe


def test_one_is_no_plural() -> None:
    assert [counted(n, "spot") for n in (0, 1, 2)] == ["0 spots", "1 spot", "2 spots"]
    assert counted(3, "press", "presses") == "3 presses"


@pytest.mark.parametrize(
    ("units", "words"),
    [
        ("metric", ["24 mm", "0.35 mm", "36 x 24 mm", "33 cm", "18 to 21 °C"]),
        ("inch", ["0.94 in", "0.01 in", "1.42 x 0.94 in", "13 in", "64 to 70 °F"]),
    ],
)
def test_lengths_and_temperatures_in_the_readers_units(units: str, words: list[str]) -> None:
    with speaking("inch" if units == "inch" else "metric"):
        told = [length(24), length(0.351), lengths(36, 24, link=" x "), distance(328)]
        assert [*told, temperatures(18, 21)] == words
        assert with_room("at {room}.") == f"at {words[-1]}."


def test_units_hold_for_their_block_alone() -> None:
    with speaking("inch"):
        assert "0.13 in" in plan_loupe(20, (23.2, 23.2)).why
        assert "64 to 70 °F" in plan_drying(5, 40).why
    assert "3.2 mm" in plan_loupe(20, (23.2, 23.2)).why


def test_times() -> None:
    assert [duration(s) for s in (45, 89.6, 600)] == ["45 s", "90 s", "10 min"]
    assert [exposure(s) for s in (0.004, 0.4, 2.5, 300)] == ["1/250 s", "0.4 s", "2.5 s", "5 min"]
