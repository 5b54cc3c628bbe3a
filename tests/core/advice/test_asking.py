"""What a visit is asked before its next step, and what would equip it."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.advice.situations import BULB, CAMERA, DRY, FAST, ROOM, STICK, WET, judged

HELD = {**CAMERA, "stabilised": True, "hold_rule": "on"}


@pytest.mark.parametrize(
    ("changes", "asked"),
    [
        ({"operator": {"experience": None}}, ("experience",)),
        (
            {"room": {**ROOM, "moving_air": None, "surface": None}},
            ("moving_air", "surface", "room_clean"),
        ),
        ({"camera": {**HELD, "power": None}}, ("power", "battery_percent")),
        (
            {"camera": {**CAMERA, "access": "mirror", "battery_percent": 40}},
            ("battery_percent", "mains"),
        ),
    ],
)
def test_what_bars_the_next_step_is_asked_in_order(
    changes: dict[str, Any], asked: tuple[str, ...]
) -> None:
    found = judged(**changes)
    assert found.asks[: len(asked)] == asked


def test_a_fluid_step_asks_how_it_dries() -> None:
    oil = {"frame": {"spots": {"total": 3, "relevant": 3, "by_kind": {"droplet": 3}}}}
    kit = [BULB, WET, DRY, STICK, {**FAST, "kind": "oil_dissolving"}]
    known = judged(**oil, kit=kit)
    assert known.decision == "wet_swab"
    assert known.asks == ()
    room = {**ROOM, "temperature_c": None, "humidity_percent": None}
    found = judged(**oil, kit=kit, room=room)
    assert found.decision == "prepare"
    assert found.asks == ("temperature_c", "humidity_percent")


def test_nothing_is_asked_where_nothing_hangs_on_it() -> None:
    empty = {"moving_air": None, "surface": None, "clean": None, "temperature_c": None}
    clean = judged(
        frame={"spots": {"total": 0, "relevant": 0, "by_kind": {}}},
        room={**ROOM, **empty},
        operator={"experience": None},
    )
    assert clean.decision == "stop_done"
    assert clean.asks == ()


@pytest.mark.parametrize(
    ("changes", "lacks"),
    [
        ({"done": [], "camera": {**CAMERA, "self_clean": False}, "kit": []}, ("bulb_blower",)),
        ({"kit": [BULB]}, ("gel_stick",)),
        (
            {
                "kit": [BULB],
                "frame": {"spots": {"total": 3, "relevant": 3, "by_kind": {"droplet": 3}}},
            },
            ("wet_swab", "fluid"),
        ),
        ({}, ()),
    ],
)
def test_what_would_equip_the_step_is_named(
    changes: dict[str, Any], lacks: tuple[str, ...]
) -> None:
    assert judged(**changes).lacks == lacks
