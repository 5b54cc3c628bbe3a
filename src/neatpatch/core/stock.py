"""What a step takes from the kit."""

from __future__ import annotations

from collections.abc import Sequence

from neatpatch.core.advice.facts import KitItem, Step
from neatpatch.core.visit import StepUse

_USES: dict[Step, tuple[str, ...]] = {
    "dry_swab": ("dry_swab",), "dry_followup": ("dry_swab",),
    "wet_swab": ("wet_swab", "moist_wipe"), "corner_swab": ("corner_swab",),
    "clean_lens": ("lens_wipe",), "lift": ("gel_stick", "silicone_pad"),
}  # fmt: skip


def after_step(
    kit: Sequence[KitItem], step: Step, use: StepUse, short_side_mm: float
) -> list[tuple[int, KitItem]]:
    """Kit items that a step changes, by their place in ``kit``; never below zero.

    A swab step takes one swab unless told otherwise, of the width nearest to the sensor's short
    side; lifting takes a fresh patch for each dab.
    """
    names = _USES.get(step, ())
    field = "fresh_patches" if step == "lift" else "quantity"
    taken = use.dabs if step == "lift" else use.swabs
    wanted = 1 if taken is None else taken
    stocked = [p for p, item in enumerate(kit) if item.item in names and getattr(item, field)]
    if not stocked:
        return []
    place = min(stocked, key=lambda p: abs((kit[p].width_mm or short_side_mm) - short_side_mm))
    left = max(0, getattr(kit[place], field) - wanted)
    return [(place, kit[place].model_copy(update={field: left}))]
