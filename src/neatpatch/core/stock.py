"""What a step takes from the kit."""

from __future__ import annotations

from collections.abc import Sequence

from neatpatch.core.advice.facts import KitItem, Step
from neatpatch.core.visit import StepUse

_SINGLE_USE: dict[Step, tuple[str, ...]] = {
    "dry_swab": ("dry_swab",), "dry_followup": ("dry_swab",),
    "wet_swab": ("wet_swab", "moist_wipe"), "corner_swab": ("corner_swab",),
    "clean_lens": ("lens_wipe",),
}  # fmt: skip


def after_step(kit: Sequence[KitItem], step: Step, use: StepUse) -> list[tuple[int, KitItem]]:
    """Kit items that a step changes, by their place in ``kit``; never below zero.

    A swab step takes one swab unless told otherwise; lifting takes a fresh patch for each dab.
    """
    if step == "lift":
        return _taken(kit, ("gel_stick", "silicone_pad"), "fresh_patches", use.dabs or 1)
    names = _SINGLE_USE.get(step, ())
    return _taken(kit, names, "quantity", use.swabs if use.swabs is not None else 1)


def _taken(
    kit: Sequence[KitItem], names: tuple[str, ...], field: str, wanted: float
) -> list[tuple[int, KitItem]]:
    for place, item in enumerate(kit):
        left = getattr(item, field)
        if item.item in names and left:
            return [(place, item.model_copy(update={field: max(0, left - wanted)}))]
    return []
