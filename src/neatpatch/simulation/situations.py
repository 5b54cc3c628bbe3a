"""Random situations to judge: every field of the facts, each of them missing now and then.

Drawn around a cleaning that goes well, so that all rungs are reached; how often a field leaves the
usual value, or is not known at all, is set by `Draw`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, get_args

import numpy as np

from neatpatch.core.common.facts import (
    Access,
    Experience,
    Facts,
    FrameSite,
    Item,
    Observed,
    Power,
    Result,
    Step,
    Where,
)
from neatpatch.core.common.records import FluidKind, Kind

_USUAL_KIT: tuple[dict[str, Any], ...] = (
    {"item": "bulb_blower"},
    {"item": "electric_blower", "filtered": True},
    {"item": "gel_stick", "matched_coating": True, "fresh_patches": 12},
    {"item": "silicone_pad", "fresh_patches": 20},
    {"item": "dry_swab", "width_mm": 24, "quantity": 4},
    {"item": "wet_swab", "width_mm": 24, "quantity": 4},
    {"item": "wet_swab", "width_mm": 16, "quantity": 2},
    {"item": "cloth_wand", "width_mm": 24, "quantity": 5},
    {"item": "corner_swab", "quantity": 3},
    {"item": "sterile_pad", "quantity": 6},
    {"item": "moist_wipe", "quantity": 3},
    {"item": "charged_brush"},
    {"item": "lens_brush", "clean": True},
    {"item": "gas_can", "inverted": False},
    {"item": "fluid", "kind": "fast_drying", "kit_own": True},
    {"item": "fluid", "kind": "oil_dissolving", "kit_own": True},
    {"item": "fluid", "kind": "mild", "kit_own": False},
    {"item": "cross_driver_0"},
    {"item": "screw_tray"},
)
_SCHOOLS: dict[str, tuple[Any, ...]] = {
    "act_on": ("visible", "work_affected"),
    "check": ("evidence", "calendar_service"),
    "air": ("soft_first", "strong", "skip"),
    "gas_can": ("never", "allowed"),
    "brush": ("never", "charged", "clean_lens_brush"),
    "contact_order": (
        ("lift", "wet_swab"),
        ("wet_swab",),
        ("dry_swab", "wet_swab"),
        ("dry_wet_dry",),
        ("wet_swab", "lift", "dry_swab"),
    ),
    "lift_area": ("spots", "whole"),
    "stroke": ("same_way", "circles"),
    "swab_width": ("matched", "narrower_ok"),
    "fluid": ("by_stain", "alcohol_free", "kit_only"),
    "contact_by": ("self", "self", "send_out"),
    "damp_air": ("never", "dry_work_only"),
    "pad_on_finger": (True, False),
    "files_first": (True, False),
}


@dataclass(frozen=True)
class Draw:
    """Shares: of fields that are not known, and of fields that leave the usual value."""

    missing: float = 0.02
    unusual: float = 0.07


class _Dice:
    def __init__(self, rng: np.random.Generator, draw: Draw) -> None:
        self.rng, self.draw = rng, draw

    def happens(self, share: float) -> bool:
        return bool(self.rng.random() < share)

    def one_of(self, values: Any) -> Any:
        return values[int(self.rng.integers(len(values)))]

    def field(self, usual: Any, others: Any) -> Any:
        """The usual value, another one now and then, or nothing."""
        if self.happens(self.draw.missing):
            return None
        return self.one_of(others) if self.happens(self.draw.unusual) else usual


def random_facts(seed: int, draw: Draw | None = None) -> Facts:
    """One situation; the same seed gives the same one."""
    d = _Dice(np.random.default_rng(seed), draw or Draw())
    return Facts.model_validate(
        {
            "camera": _camera(d),
            "frame": None if d.happens(0.02) else _frame(d),
            "observed": _observed(d),
            "work": {"apertures": d.field((8, 16), ((22,), (5.6,), ())) or ()},
            "done": _done(d),
            "kit": _kit(d),
            "room": _room(d),
            "operator": {
                "experience": d.field("practised", get_args(Experience)),
                "asks_for": d.one_of(("retouch", "service", "defer", "teardown", "wet_swab"))
                if d.happens(0.08)
                else None,
            },
            "schools": {
                name: d.one_of(values) for name, values in _SCHOOLS.items() if d.happens(0.15)
            },
            "job_in_days": d.one_of((0, 1, 2, 9)) if d.happens(0.2) else None,
            "service": {
                "turnaround_days": d.field(4, (1, 12)),
                "membership_includes_clean": d.field(False, (True,)),
                "months_since_service": d.field(5, (14,)),
            },
            "photos_waiting": d.field(0, (40,)),
        }
    )


def _camera(d: _Dice) -> dict[str, Any]:
    access = d.field("mirrorless", get_args(Access))
    hold = d.field(d.one_of(get_args(Power)), (None,))
    stabilised = d.field(d.one_of((True, False)), (True, False))
    usual_power = hold if stabilised else "on"
    return {
        "access": access,
        "sensor_mm": d.field((36.0, 24.0), ((23.5, 15.6), (17.3, 13.0))),
        "stabilised": stabilised,
        "hold_rule": hold,
        "closes_when_off": d.field(False, (True,)),
        "filter_removed": d.field(False, (True,)),
        "contact_allowed_by_modifier": d.one_of((True, False, None)),
        "self_clean": d.field(True, (False,)),
        "under_guarantee": d.field(False, (True,)),
        "power": d.field(usual_power, get_args(Power)),
        "battery_percent": d.field(100, (55, 94)),
        "mains": d.field(False, (True,)),
        "mirror_up": d.field(True, (False,)),
        "temperature_c": d.field(20, (2, 12)),
    }


def _frame(d: _Dice) -> dict[str, Any]:
    kind = d.field("speck", get_args(Kind)) or "speck"
    count = int(d.one_of((0, 1, 3, 6, 6, 6, 12, 30)))
    other = d.one_of(get_args(Kind))
    kinds = {kind: count, **({other: 2} if other != kind and d.happens(0.2) else {})}
    total = sum(kinds.values())
    change = None
    if d.happens(0.3):
        change = {k: int(d.rng.integers(5)) for k in ("gone", "stayed", "moved", "new")}
    return {
        "fit": d.field(True, (False,)),
        "f_number": d.field(22, (10, 16, 32)),
        "comparable": d.field(True, (False,)),
        "spots": {
            "total": d.field(total, (total + 3,)),
            "relevant": d.field(count, (0, max(0, count - 2))),
            "by_kind": d.field(kinds, ({},)) or {},
        },
        "site": d.field("sensor", get_args(FrameSite)),
        "site_proved": d.field(True, (False,)),
        "lens_marks": d.field(0, (1, 3)),
        "where": d.field("spread", get_args(Where)),
        "change": change,
    }


def _observed(d: _Dice) -> list[str]:
    return [d.one_of(get_args(Observed))] if d.happens(0.12) else []


def _done(d: _Dice) -> list[dict[str, Any]]:
    steps = ["auto_clean"] if d.happens(0.9) else []
    steps += ["air"] * int(d.one_of((0, 1, 1, 2, 2)))
    steps += [d.one_of(get_args(Step)) for _ in range(int(d.one_of((0, 0, 0, 1, 1, 2, 4))))]
    return [_step(d, step) for step in steps]


def _step(d: _Dice, step: str) -> dict[str, Any]:
    touchless = step in ("auto_clean", "air", "clean_lens")
    likely = ("no_change", "no_change", "fewer") if touchless else get_args(Result)
    return {
        "step": step,
        "tested": d.field(True, (False,)) if d.happens(0.3) else True,
        "result": d.field(d.one_of(likely), get_args(Result)),
        "opening": d.field("down", ("up",)),
        "runs": d.field(5, (2,)) if step == "auto_clean" else None,
        "fluid": d.field("fast_drying", get_args(FluidKind)) if step == "wet_swab" else None,
        "drops": d.field(2, (5,)) if step == "wet_swab" else None,
        "tip_bent": d.field(False, (True,)),
        "temperature_c": d.field(20, (12,)),
        "humidity_percent": d.field(45, (75,)),
        "waited_s": d.field(8, (60,)),
        "item": d.field("bulb_blower", ("electric_blower",)) if step == "air" else None,
    }


def _kit(d: _Dice) -> list[dict[str, Any]]:
    kit = []
    for thing in _USUAL_KIT:
        if d.happens(0.35):
            continue
        changes: dict[str, Any] = {}
        if d.happens(0.12):
            changes = d.one_of(
                (
                    {"expired": True},
                    {"used": True},
                    {"quantity": 0},
                    {"quantity": 1},
                    {"fresh_patches": 2},
                    {"matched_coating": None},
                    {"for_sensor": False},
                    {"suits_body": False},
                    {"clean": False},
                    {"inverted": True},
                    {"width_mm": None},
                    {"kind": None},
                )
            )
        kit.append({**thing, **changes})
    kit += [{"item": d.one_of(get_args(Item))}] if d.happens(0.2) else []
    return kit


def _room(d: _Dice) -> dict[str, Any]:
    return {
        "temperature_c": d.field(20, (12, 31)),
        "humidity_percent": d.field(45, (66, 80)),
        "moving_air": d.field(False, (True,)),
        "surface": d.field("bare", ("fabric",)),
        "clean": d.field(True, (False,)),
    }
