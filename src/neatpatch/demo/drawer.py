"""The reading room's drawer, calendar and prices. Days are told from the day the demo is made."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from neatpatch.core.common.facts import KitItem, ServiceFacts
from neatpatch.core.kit.costs import Prices
from neatpatch.core.kit.readiness import BookedJob
from neatpatch.core.kit.stock import KitEntry
from neatpatch.store.exposures import ExposureKind

WRITTEN_ON = date(2026, 11, 25)
"""The day on which the archive's year was written; it is shifted to end when the demo is made."""
STORE = "Lantern Street supplies"
DEMO_PRICES = Prices(
    currency="€", service_fee=38, postage=9, membership_fee=49, membership_cleans=2
)
DEMO_SERVICE = ServiceFacts(turnaround_days=4, membership_includes_clean=False)


def days_later(day: str, today: date) -> str:
    """A day of the written year, moved with it."""
    return (date.fromisoformat(day) + (today - WRITTEN_ON)).isoformat()


def demo_kit(today: date) -> tuple[KitEntry, ...]:
    """The drawer as it was at the start of the year; bodies are told by their place, from 1."""

    def day(offset: int) -> date:
        return today + timedelta(days=offset)

    def own(item: str, about: dict[str, Any], **rest: Any) -> KitEntry:
        return KitEntry(item=KitItem.model_validate({"item": item, **about}), **rest)

    bought: dict[str, Any] = {"source": STORE}
    return (
        own("bulb_blower", {}, pack_price=14, note="Reading room drawer"),
        own(
            "gel_stick",
            {
                "fresh_patches": 72,
                "tip_mm": (8, 6),
                "patches_per_sheet": 12,
                "matched_coating": True,
            },
            pack_size=72,
            pack_price=32,
            lead_days=9,
            opened_on=day(-300),
            best_before=day(240),
            suits=(1, 2, 3),
            **bought,
        ),
        own(
            "dry_swab",
            {"width_mm": 24, "quantity": 8},
            pack_size=12,
            pack_price=26,
            lead_days=5,
            **bought,
        ),
        own(
            "dry_swab",
            {"width_mm": 16, "quantity": 8},
            pack_size=12,
            pack_price=24,
            lead_days=5,
            **bought,
        ),
        own(
            "wet_swab",
            {"width_mm": 24, "quantity": 3},
            pack_size=12,
            pack_price=31,
            lead_days=8,
            **bought,
        ),
        own(
            "wet_swab",
            {"width_mm": 16, "quantity": 7},
            pack_size=12,
            pack_price=29,
            lead_days=8,
            **bought,
        ),
        own("corner_swab", {"width_mm": 4, "quantity": 6}, pack_size=10, pack_price=12),
        own(
            "moist_wipe",
            {"quantity": 5},
            pack_size=20,
            pack_price=18,
            note="For the digital back",
            suits=(4,),
        ),
        own(
            "fluid",
            {"kind": "mild", "kit_own": True, "quantity": 12},
            pack_size=15,
            pack_price=19,
            opened_on=day(-150),
            best_before=day(215),
            **bought,
        ),
        own(
            "fluid",
            {"kind": "oil_dissolving", "kit_own": True, "quantity": 9},
            pack_size=15,
            pack_price=22,
            opened_on=day(-300),
            best_before=day(-20),
            **bought,
        ),
        own(
            "loupe",
            {"focus_mm": (38, 46)},
            pack_price=49,
            note="Lit; places the tool, proves nothing",
        ),
        own("carbon_pen", {}, note="Found in a drawer"),
        own("cross_driver_0", {}, note="For the pocket camera"),
        own("screw_tray", {}, note="With its printed mat"),
        own("lint_free_bud", {"quantity": 20}, note="For the pocket camera's glass"),
    )


def demo_jobs(today: date) -> tuple[BookedJob, ...]:
    """Two jobs ahead; bodies are told by their place, from 1."""
    return (
        BookedJob(
            name="Estuary soundings, sheets 12 to 40",
            body_ids=(1, 3),
            starts_on=today + timedelta(days=6),
        ),
        BookedJob(
            name="Harbour board atlases",
            note="Two stands and the back",
            body_ids=(2, 3, 4),
            starts_on=today + timedelta(days=23),
        ),
    )


@dataclass(frozen=True)
class DemoExposure:
    """What may have brought dust to a body, told by its place from 1."""

    body: int
    days_ago: int
    kind: ExposureKind
    place: str = ""


_STORE = "the tide store"
DEMO_EXPOSURES = (
    DemoExposure(1, 48, "dusty_day", _STORE),
    DemoExposure(1, 92, "dusty_day", _STORE),
    DemoExposure(1, 230, "lens_change"),
    DemoExposure(2, 110, "lens_change"),
    DemoExposure(2, 160, "lens_change"),
    DemoExposure(3, 75, "dusty_day", _STORE),
    DemoExposure(3, 130, "dusty_day", _STORE),
)
