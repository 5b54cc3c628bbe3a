"""What is owned and may be used: which tool a step takes, whether it suffices, what is missing.

What a step will use by its plan is asked of the stock before the camera is opened: swabs for every
lane and every pass of the school, a fresh patch for every press, fluid for the drops.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import get_args

from neatpatch.core.advice.turns import Turns
from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.facts import Facts, Item, KitItem
from neatpatch.core.common.items import NAMES
from neatpatch.core.common.records import FluidKind
from neatpatch.core.common.words import counted, day_words, length
from neatpatch.core.plans.swab import (
    DROP_ML,
    PLAN_TOOLS,
    drops_for,
    matched,
    swabs_for,
    too_wide,
)

FLUID_RANKS: dict[str, dict[str, int]] = {
    "oil": {"oil_dissolving": 2, "fast_drying": 1},
    "marks": {"mild": 2, "alcohol_free": 2, "pure_water": 2, "fast_drying": 1},
    "dust": {
        "mild": 2,
        "fast_drying": 2,
        "alcohol_free": 1,
        "pure_water": 1,
        "oil_dissolving": 1,
    },
}
"""How well each kind of fluid suits each stain; kinds not named are barred for it."""
_WANTED_FLUID = {
    "oil": "Oil-dissolving fluid",
    "marks": "Mild or alcohol-free fluid",
    "dust": "Mild or fast-drying fluid",
}
_MADE_FOR_IT = 2
_WITHOUT_ALCOHOL = ("alcohol_free", "pure_water")
_WIPES_AND_PADS: tuple[Item, ...] = ("moist_wipe", "sterile_pad")
"""They take the width of the glass or of a fingertip, so no width is asked of them."""
_WET_PADS = 2
"""One for the drop, one to dry the place at once."""
TEARDOWN: tuple[Item, ...] = ("cross_driver_0", "screw_tray", "lint_free_bud")


class Tools:
    """The kit, asked for one body and one kind of dirt. ``dry_spots``: specks and fibres."""

    def __init__(self, facts: Facts, stain: str, dry_spots: int, turns: Turns) -> None:
        self.kit, self.camera, self.schools = facts.kit, facts.camera, facts.schools
        self.planned_presses, self.stain, self.dry_spots, self.turns = (
            facts.planned_presses,
            stain,
            dry_spots,
            turns,
        )

    # what is there

    def owned(self, *items: str) -> list[KitItem]:
        """Things of these names that are there and may still be used."""
        return [k for k in self.kit if k.item in items and _usable(k)]

    def has_named(self, *items: str) -> bool:
        return any(k.item in items for k in self.kit)

    @cached_property
    def gas_can_allowed(self) -> bool:
        return self.schools.gas_can == "allowed" and bool(self.owned("gas_can"))

    @cached_property
    def _blowers(self) -> list[KitItem]:
        good = self.owned("bulb_blower", "electric_blower")
        return [k for k in good if k.filtered is not False and k.clean is not False]

    @cached_property
    def can_to_purge(self) -> bool:
        """It is all there is to blow with, and was held upside down: liquid is in its nozzle."""
        cans = self.owned("gas_can") if self.gas_can_allowed and not self._blowers else []
        return bool(cans) and all(k.inverted is True for k in cans)

    @cached_property
    def blower(self) -> bool:
        return bool(self._blowers) or self.gas_can_allowed

    @cached_property
    def strong_blower(self) -> bool:
        return any(k.item == "electric_blower" for k in self._blowers)

    @cached_property
    def brush(self) -> KitItem | None:
        """The brush that may be used by the chosen school."""
        if self.schools.brush == "never":
            return None
        lens = [k for k in self.owned("lens_brush") if k.clean is True]
        if self.schools.brush == "clean_lens_brush" and lens:
            return lens[0]
        return next((k for k in self.owned("charged_brush") if k.clean is not False), None)

    @cached_property
    def _lifting(self) -> list[KitItem]:
        sticks = [k for k in self.owned("gel_stick") if k.matched_coating is True]
        return [*sticks, *self.owned("silicone_pad")]

    @cached_property
    def lift_tool(self) -> bool:
        return bool(self._lifting)

    # wiping

    @cached_property
    def short_side_mm(self) -> float | None:
        return min(self.camera.sensor_mm) if self.camera.sensor_mm else None

    def _names_for(self, step: Decision) -> tuple[Item, ...]:
        """Names of what may wipe in a step, the school's own choice first."""
        pads: tuple[Item, ...] = ("sterile_pad",) if self.schools.pad_on_finger is True else ()
        if step == "corner_swab":
            return ("corner_swab",)
        if step in ("dry_swab", "dry_followup"):
            second = step == "dry_followup" and self.schools.second_swab_dry is True
            return (*pads, "dry_swab", *(("wet_swab",) if second else ()))
        wipes: tuple[Item, ...] = ("moist_wipe",)
        if self.camera.access == "digital_back":
            return (*wipes, *pads, "wet_swab", "cloth_wand")
        folded = wipes if any(self._width_suits(k) for k in self.owned("cloth_wand")) else ()
        return (*pads, "wet_swab", *folded, "cloth_wand")

    def wipers(self, step: Decision) -> list[KitItem]:
        """Things that may wipe in a step, the preferred one first, the nearest width first."""
        names = self._names_for(step)
        fit = [k for k in self.owned(*names) if step == "corner_swab" or self._width_suits(k)]
        side = self.short_side_mm or 0.0
        return sorted(fit, key=lambda k: (names.index(k.item), abs((k.width_mm or side) - side)))

    def _width_suits(self, k: KitItem) -> bool:
        if k.item in _WIPES_AND_PADS:
            return True
        if k.width_mm is None or self.short_side_mm is None:
            return False
        if too_wide(k.width_mm, self.short_side_mm):
            return False
        return self.schools.narrower_ok or matched(k.width_mm, self.short_side_mm)

    def wrong_width(self, step: Decision) -> bool:
        """Something for it is there, but none of it suits this sensor's width."""
        return bool(self.owned(*self._names_for(step))) and not self.wipers(step)

    def tool_for(self, step: Decision) -> KitItem | None:
        """What a step is done with: the preferred thing of which there is enough, if any."""
        if step == "brush":
            return self.brush
        if step == "lift":
            enough = [k for k in self._lifting if self._patches_left([k]) >= self._presses]
            return next(iter([*enough, *self._lifting]), None)
        if step == "air":
            strong = [k for k in self._blowers if k.item == "electric_blower"]
            bulbs = [k for k in self._blowers if k.item != "electric_blower"]
            first = self.schools.air == "strong" or bool(self.turns.good_air)
            order = [*strong, *bulbs] if first else [*bulbs, *strong]
            return next(iter([*order, *self.owned("gas_can")]), None)
        found = self.wipers(step)
        enough = [k for k in found if self._left_of(k, found) >= self._pieces(step, k)]
        return next(iter([*enough, *found]), None)

    def _pieces(self, step: Decision, k: KitItem) -> int:
        """Pieces of a thing that a step takes, all passes of the school that need it included."""
        if k.item == "moist_wipe" or step == "corner_swab":
            return 1
        if k.item == "sterile_pad":
            return _WET_PADS if step == "wet_swab" else 1
        assert k.width_mm is not None
        assert self.short_side_mm is not None
        by_face = self.schools.edges_by_face is True
        lanes = swabs_for(self.short_side_mm, k.width_mm, edges_by_face=by_face)
        return lanes * (2 if step == "dry_swab" and self._dry_again else 1)

    @cached_property
    def dry_wet_dry(self) -> bool:
        return "dry_wet_dry" in (self.schools.contact_order or ())

    @cached_property
    def _dry_again(self) -> bool:
        """A dry pass is to follow the wet one by the school."""
        return self.dry_wet_dry and not self.turns.times("wet_swab")

    @staticmethod
    def _left_of(k: KitItem, among: Sequence[KitItem]) -> float:
        """Pieces there of one thing and width; what is not counted is there in plenty."""
        same = [o for o in among if (o.item, o.width_mm) == (k.item, k.width_mm)]
        if any(o.quantity is None for o in same):
            return math.inf
        return sum(o.quantity or 0.0 for o in same)

    # fluids

    @cached_property
    def fluids(self) -> list[KitItem]:
        """Fluids that suit the stain and the chosen school, the best first.

        One that failed is not used again; after a failure only one made for the stain is.
        """
        least = _MADE_FOR_IT if self.turns.wet_failed else 1
        fit = [
            k
            for k in self.owned("fluid")
            if self.fluid_rank(k) >= least and k.kind not in self.turns.failed_fluids
        ]
        return sorted(fit, key=lambda k: (-self.fluid_rank(k), k.kit_own is not True))

    @cached_property
    def fluid(self) -> FluidKind | None:
        """Kind of the fluid that is used next, as the plans know it; None where none suits."""
        kind = _kind(self.fluids[0]) if self.fluids else ""
        return next((known for known in get_args(FluidKind) if known == kind), None)

    def fluid_rank(self, k: KitItem) -> int:
        """0: not for this job; 1: will do; 2: made for it."""
        if k.for_sensor is False or k.suits_body is False:
            return 0
        if self.schools.fluid == "kit_only" and k.kit_own is not True:
            return 0
        kind = _kind(k)
        if self.schools.fluid == "alcohol_free":
            return 2 if kind in _WITHOUT_ALCOHOL and self.stain != "oil" else 0
        return FLUID_RANKS[self.stain].get(kind, 0)

    @cached_property
    def a_better_fluid_is_known(self) -> bool:
        """All fluids that failed were not the ones made for this stain."""
        ranks = FLUID_RANKS[self.stain]
        failed = self.turns.failed_fluids
        return bool(failed) and all(ranks.get(kind, 0) < _MADE_FOR_IT for kind in failed)

    def _needs_fluid(self, step: Decision, tool: KitItem | None) -> bool:
        if step not in ("wet_swab", "corner_swab"):
            return False
        return tool is None or tool.item != "moist_wipe"

    def _fluid_ml(self, step: Decision, tool: KitItem | None) -> float:
        item: Item = tool.item if tool else "wet_swab"
        pieces = 1 if tool is None or item == "sterile_pad" else self._pieces(step, tool)
        return drops_for(PLAN_TOOLS[item]).usual * DROP_ML * pieces

    # what is missing

    def equipped(self, step: Decision) -> bool:
        """Whether all that a step needs lies in the kit, and enough of it."""
        return not self.missing(step)

    def begun(self, step: Decision) -> bool:
        """Whether something for a step is owned, though not all that goes with it."""
        return self.has_named(*(_TOOLS.get(step) or self._names_for(step)))

    def missing(self, step: Decision) -> tuple[str, ...]:
        """Exactly what a step lacks; empty when it can be done."""
        if step == "air":
            return () if self.blower else (self._no_blower(),)
        if step == "brush":
            return self._brush_lacks()
        if step == "lift":
            return self._lift_lacks()
        if step == "teardown":
            lacking = [NAMES[item] for item in TEARDOWN if not self.owned(item)]
            return tuple(f"A {name}: none in the kit." for name in lacking)
        if step in ("dry_swab", "wet_swab", "dry_followup", "corner_swab"):
            return self._wiping_lacks(step)
        return ()

    def lacking(self, step: Decision) -> tuple[Item, ...]:
        """Things that would equip a step which lacks them altogether; the usual one of each."""
        if not self.missing(step):
            return ()
        if step == "teardown":
            return tuple(item for item in TEARDOWN if not self.owned(item))
        if step in _USUAL:
            return (_USUAL[step],)
        tool = self.tool_for(step)
        things: list[Item] = [] if tool is not None else list(self._names_for(step)[:1])
        if self._needs_fluid(step, tool) and not self.fluids:
            things.append("fluid")
        return tuple(things)

    def _no_blower(self) -> str:
        why = "none in the kit"
        if any(k.filtered is False for k in self.owned("electric_blower")):
            why = "yours has no filter"
        elif any(k.clean is False for k in self.owned("bulb_blower", "electric_blower")):
            why = "yours is not clean"
        elif self.owned("gas_can"):
            why = "a gas can is not one"
        return f"A rubber bulb blower, or an electric one with a filter: {why}."

    def _brush_lacks(self) -> tuple[str, ...]:
        brush = self.brush
        if brush is None:
            return ("A brush made for sensors, never a lens brush: none that may be used.",)
        if brush.item == "charged_brush" and not self.blower:
            return (self._no_blower(),)
        return ()

    @cached_property
    def _presses(self) -> int:
        """Fresh patches the lift takes: those planned, else one for each dry spot."""
        if self.planned_presses is not None:
            return self.planned_presses
        return 1 if self.schools.lift_area == "whole" else max(1, self.dry_spots)

    def _patches_left(self, tools: Sequence[KitItem]) -> float:
        if any(k.fresh_patches is None for k in tools):
            return math.inf
        return sum(k.fresh_patches or 0 for k in tools)

    def _lift_lacks(self) -> tuple[str, ...]:
        found = self._lifting
        if not found:
            named = [k for k in self.kit if k.item in ("gel_stick", "silicone_pad")]
            why = next((_why_unusable(k) for k in named), None) or "none in the kit"
            if any(_usable(k) and k.matched_coating is not True for k in named):
                why = "yours is not known to suit this sensor's coating"
            return (f"A gel stick that suits this sensor's coating, or a pad: {why}.",)
        left = max(self._patches_left([k for k in found if k.item == f.item]) for f in found)
        if left < self._presses:
            presses = counted(self._presses, "press", "presses")
            return (f"Fresh patches for {presses}: {left:g} left.",)
        return ()

    def _wiping_lacks(self, step: Decision) -> tuple[str, ...]:
        tool = self.tool_for(step)
        lacks = []
        if tool is None:
            lacks.append(self._no_wiper(step))
        else:
            left, wanted = self._left_of(tool, self.wipers(step)), self._pieces(step, tool)
            if left < wanted:
                name = NAMES[tool.item]
                lacks.append(f"{counted(wanted, name)} for all passes and lanes: {left:g} left.")
        if step == "wet_swab" and self._dry_again:
            lacks += self._wiping_lacks("dry_followup")
        if self._needs_fluid(step, tool):
            lacks += self._fluid_lacks(step, tool)
        return tuple(lacks)

    def _no_wiper(self, step: Decision) -> str:
        names = self._names_for(step)
        usual: Item = "dry_swab" if step == "dry_followup" else step  # type: ignore[assignment]
        side = self.short_side_mm
        wide = f" {length(side, 0)} wide" if side and step != "corner_swab" else ""
        what = f"An unused {NAMES[usual]}{wide}"
        if side is None and step != "corner_swab":
            return f"{what}: the sensor's size is not known, so no width can be matched."
        named = [k for k in self.kit if k.item in names]
        named.sort(key=lambda k: k.width_mm is None)
        reasons = [_why_unusable(k) or _why_width(k, side) for k in named]
        return f"{what}: {next(iter(reasons), 'none in the kit')}."

    def _fluid_lacks(self, step: Decision, tool: KitItem | None) -> list[str]:
        wanted = self._fluid_ml(step, tool)
        fit = self.fluids
        if any(k.quantity is None or k.quantity >= wanted for k in fit):
            return []
        return [f"{self._fluid_name()}: {self._why_no_fluid(fit)}."]

    def _fluid_name(self) -> str:
        if self.schools.fluid == "alcohol_free":
            return f"{'Oil-dissolving fluid' if self.stain == 'oil' else 'Fluid'} without alcohol"
        if self.schools.fluid == "kit_only":
            return "The kit's own fluid"
        return _WANTED_FLUID[self.stain]

    def _why_no_fluid(self, fit: Sequence[KitItem]) -> str:
        if fit:
            return "yours holds too little for the drops"
        named = [k for k in self.kit if k.item == "fluid"]
        made = [k for k in named if self.fluid_rank(k) == _MADE_FOR_IT]
        for k in [*made, *named]:
            reason = _why_unusable(k) or self._why_wrong(k)
            if reason:
                return reason
        return "none in the kit"

    def _why_wrong(self, k: KitItem) -> str:
        if k.for_sensor is False:
            return "yours is not made for sensors"
        if k.suits_body is False:
            return "yours is not for this body"
        if not k.kind:
            return "the kind of yours is not entered"
        words = k.kind.replace("_", "-")
        if k.kind in self.turns.failed_fluids:
            return f"your {words} one has failed"
        return f"your {words} one does not suit this"


_TOOLS: dict[Decision, tuple[Item, ...]] = {
    "brush": ("charged_brush",),
    "lift": ("gel_stick", "silicone_pad"),
}


_USUAL: dict[Decision, Item] = {
    "air": "bulb_blower",
    "brush": "charged_brush",
    "lift": "gel_stick",
}


def _kind(k: KitItem) -> str:
    return "pure_water" if k.kind == "water" else k.kind or ""


def _usable(k: KitItem) -> bool:
    return _why_unusable(k) is None


_SEALED: tuple[Item, ...] = ("dry_swab", "wet_swab", "corner_swab", "moist_wipe", "sterile_pad")
_UNUSABLE: tuple[tuple[Callable[[KitItem], bool], str], ...] = (
    (lambda k: k.used is True, "yours has been used"),
    (lambda k: k.for_sensor is False and k.item != "fluid", "yours is not made for sensors"),
    (lambda k: k.sealed is False and k.item in _SEALED, "yours lies open"),
    (lambda k: k.fresh_patches is not None and k.fresh_patches < 1, "yours has no patch left"),
    (
        lambda k: k.quantity is not None and k.quantity < (1e-9 if k.item == "fluid" else 1),
        "yours is used up",
    ),
)


def _why_unusable(k: KitItem) -> str | None:
    """Why a thing may not be used at all; None where it may."""
    if k.expired is True:
        return f"yours expired {day_words(k.best_before)}" if k.best_before else "yours has expired"
    return next((why for holds, why in _UNUSABLE if holds(k)), None)


def _why_width(k: KitItem, side: float | None) -> str:
    if k.width_mm is None:
        return "the width of yours is not entered"
    wanted = f", your method wants {length(side, 0)}" if side else ""
    return f"yours is {length(k.width_mm)} wide{wanted}"
