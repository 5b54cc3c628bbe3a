"""Situations to judge: a plain starting point, and small changes to it."""

from __future__ import annotations

from typing import Any

from neatpatch.core.advice import Advice, Facts, advise

SHAKEN = {"step": "auto_clean", "tested": True, "result": "no_change", "runs": 5}
BLOWN = {"step": "air", "tested": True, "result": "no_change", "opening": "down"}
BULB = {"item": "bulb_blower"}
WET = {"item": "wet_swab", "width_mm": 24, "quantity": 4}
DRY = {"item": "dry_swab", "width_mm": 24, "quantity": 4}
STICK = {"item": "gel_stick", "matched_coating": True, "fresh_patches": 10}
FAST = {"item": "fluid", "kind": "fast_drying", "kit_own": True}
ROOM = {
    "temperature_c": 20,
    "humidity_percent": 45,
    "moving_air": False,
    "surface": "bare",
    "clean": True,
}
CAMERA = {
    "access": "mirrorless",
    "sensor_mm": [36.0, 24.0],
    "stabilised": False,
    "hold_rule": None,
    "filter_removed": False,
    "self_clean": True,
    "under_guarantee": False,
    "power": "off",
    "battery_percent": 100,
    "mains": False,
    "mirror_up": None,
}


def spots(relevant: int, total: int | None = None, **kinds: int) -> dict[str, Any]:
    return {
        "total": relevant if total is None else total,
        "relevant": relevant,
        "by_kind": kinds or {"speck": relevant},
    }


def facts(**changes: Any) -> dict[str, Any]:
    """A practised owner, five stuck specks, shaken and blown, a full kit."""
    base: dict[str, Any] = {
        "camera": CAMERA,
        "frame": {
            "fit": True,
            "f_number": 22,
            "comparable": True,
            "spots": spots(5),
            "site": "sensor",
            "where": "spread",
            "change": None,
        },
        "done": [SHAKEN, BLOWN],
        "kit": [BULB, WET, DRY, STICK, FAST],
        "room": ROOM,
        "operator": {"experience": "practised"},
    }
    for name, value in changes.items():
        if isinstance(value, dict) and isinstance(base.get(name), dict):
            base[name] = {**base[name], **value}
        else:
            base[name] = value
    return base


def judged(**changes: Any) -> Advice:
    return advise(Facts.model_validate(facts(**changes)))


def codes(advice: Advice) -> set[str]:
    return {c.code for c in advice.cautions}


def bars(advice: Advice) -> set[str]:
    return {b.action for b in advice.barred}


def require(changes: dict[str, Any], decision: str, cautions: set[str], barred: set[str]) -> Advice:
    """Judge a changed situation and hold it against what is expected of it."""
    found = judged(**changes)
    assert found.decision == decision, found.rule
    assert cautions <= codes(found), cautions - codes(found)
    assert barred <= bars(found), barred - bars(found)
    return found
