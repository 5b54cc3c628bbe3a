"""Kit items by the names people use for them."""

from __future__ import annotations

from neatpatch.core.common.facts import Item, KitItem
from neatpatch.core.common.words import length

NAMES: dict[Item, str] = {
    "bulb_blower": "rubber bulb blower",
    "electric_blower": "electric blower",
    "gas_can": "gas can",
    "charged_brush": "sensor brush",
    "lens_brush": "lens brush",
    "gel_stick": "gel stick",
    "silicone_pad": "silicone pad",
    "dry_swab": "dry swab",
    "wet_swab": "wet swab",
    "corner_swab": "corner swab",
    "sterile_pad": "sterile pad",
    "moist_wipe": "moist wipe",
    "fluid": "fluid",
    "lens_wipe": "lens wipe",
    "cloth": "cloth",
    "carbon_pen": "carbon-tip pen",
    "tweezers": "tweezers",
    "cloth_wand": "cloth wand",
    "loupe": "loupe",
    "cross_driver_0": "cross-head driver",
    "screw_tray": "screw tray",
    "lint_free_bud": "lint-free bud",
}


def thing_words(item: KitItem) -> str:
    """A thing in a few words, with its size."""
    kind = f"{item.kind.replace('_', '-')} " if item.item == "fluid" and item.kind else ""
    width = f", {length(item.width_mm)}" if item.width_mm else ""
    return f"{kind}{NAMES[item.item]}{width}"
