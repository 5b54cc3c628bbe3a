"""Hands-busy instructions: one at a time, made from the facts of this body, kit and map."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Literal

from neatpatch.core.common.decisions import CONTACT, OPENS, Decision
from neatpatch.core.common.facts import KitItem
from neatpatch.core.common.records import FrameRecord, Record
from neatpatch.core.common.words import counted, exposure
from neatpatch.core.guide.hand_plan import HandPlan
from neatpatch.core.maps.geometry import Aim
from neatpatch.core.plans.drying import DryPlan
from neatpatch.core.plans.loupe import plan_loupe
from neatpatch.core.plans.power import PowerPlan
from neatpatch.core.plans.swab import Drops, StrokeSchool, drops_for
from neatpatch.core.visit.body import Body

Counter = Literal["runs", "puffs", "dabs", "strokes", "drops"]
SHAKE_RUNS = 5
"""Field guide: below five, loose dust is left; more than that moves nothing further."""
SHAKE_S = 8
"""Time for one run of the camera's own cleaning; shorter and the runs overlap."""
PUFFS_IN_ROOM = 3
"""To clear the bulb of its own dust; one is too few, many tire the hand."""
PUFFS = 12
"""A usual turn of air. Fewer misses corners; more keeps the camera open without gain."""
CHARGE_S = 10
"""Blowing charges the hairs within seconds; less leaves them flat."""
WET_EVEN_S = 10
"""Until drops have spread to a damp line. Less leaves puddles; more dries the edge."""
DRY_S = 60
"""Where the room is not known. Shorter closes over fluid; longer lets dust in."""
LONGEST_DRY_S = 600
"""Longer waiting lets more dust in than fluid does harm."""
SWEEPS: dict[StrokeSchool, str] = {
    "same_way": "one sweep, edge to edge. Lift, turn to the clean face, the same way again.",
    "return_other_face": "one sweep, edge to edge. Lift, turn to the clean face, sweep back.",
    "across_and_back": "across and back. Lift, turn to the clean face, across and back again.",
    "circles": "small circles, side by side along the sensor. Turn to the clean face, one sweep.",
}


class Instruction(Record):
    """One thing to do now.

    ``opens`` and ``closes`` start and stop the open-camera clock, ``raises`` and ``lowers`` that of
    the mirror lock-up, which runs from the next instruction on. ``count`` names what is counted,
    ``target`` how many are usual. ``timer_s`` is a time to wait. ``shows_plan``: draw the map in
    mount view. ``heed`` is the one caution that matters most here.
    """

    text: str
    heed: str = ""
    count: Counter | None = None
    target: int | None = None
    timer_s: int | None = None
    opens: bool = False
    closes: bool = False
    raises: bool = False
    lowers: bool = False
    shows_plan: bool = False


@dataclass(frozen=True)
class Setting:
    """What a step is done with: the body, where to aim, the plan, how long the lock-up lasts, the
    kit for this body, the frame whose recipe the retest repeats, and how fluid dries in this room.
    """

    body: Body
    aims: Sequence[Aim] = ()
    plan: HandPlan = field(default_factory=HandPlan)
    power: PowerPlan | None = None
    kit: Sequence[KitItem] = ()
    recipe: FrameRecord | None = None
    drying: DryPlan | None = None


def guidance(step: Decision, setting: Setting) -> tuple[Instruction, ...]:
    """Instructions for a step, ending with the retest recipe; empty for decisions without hands."""
    retest = _retest(setting.recipe)
    if step == "auto_clean":
        return (*_shake(), *retest)
    if step == "clean_lens":
        return (*_lens(), *retest)
    if step in OPENS:
        work = _work(step, setting)
        return (*_opening(step, setting), *work, *_closing(setting.body), *retest)
    return ()


def loupe_words(body: Body, kit: Sequence[KitItem]) -> str:
    """Whether the loupe owned focuses on this body; empty while either length is not entered."""
    ranges = [k.focus_mm for k in kit if k.item == "loupe" and k.focus_mm]
    if not ranges or body.flange_mm is None:
        return ""
    plans = [plan_loupe(body.flange_mm, reach) for reach in ranges]
    best = min(plans, key=lambda p: (not p.fits, p.spacer_mm is None, p.spacer_mm or 0))
    return best.why


def beforehand(step: Decision, setting: Setting) -> tuple[str, ...]:
    """What is worth knowing of a step before the camera is opened; empty where nothing is planned.

    Presses, strokes, swabs and drops it will take, where to aim, the time the lock-up has, how
    fluid dries in this room, and whether the loupe focuses.
    """
    if step not in OPENS:
        return ()
    plan, lines = setting.plan, []
    if plan.presses:
        spots = sum(len(p.covers) for p in plan.presses)
        over = counted(spots, "spot") if spots else "the whole sensor"
        covers = "covers" if len(plan.presses) == 1 else "cover"
        lines.append(f"{counted(len(plan.presses), 'press', 'presses')} {covers} {over}.")
    elif plan.strokes:
        drops = plan.drops if step in ("wet_swab", "corner_swab") else None
        wet = f", {counted(drops.usual, 'drop')} on each" if drops and drops.usual else ""
        lines.append(
            f"{counted(len(plan.strokes), 'stroke')} with {counted(plan.swabs or 1, 'swab')}{wet}."
        )
    elif step in ("air", "brush") and setting.aims:
        lines.append(f"Aim {_aim_air(setting.aims)}.")
    lines.append(plan.note)
    if step == "wet_swab" and setting.drying is not None:
        lines.append(f"{setting.drying.why} {_drying_words(setting.drying)}")
    if setting.power is not None:
        lines.append(setting.power.why)
    if step in CONTACT:
        lines.append(loupe_words(setting.body, setting.kit))
    return tuple(line for line in lines if line)


def _drying_words(drying: DryPlan) -> str:
    return f"A film dries in {drying.minutes.least:g} to {drying.minutes.most:g} min here."


def _work(step: Decision, setting: Setting) -> Iterator[Instruction]:
    aims, plan = setting.aims, setting.plan
    if step == "lift":
        return _lift(aims, plan)
    if step in ("dry_swab", "dry_followup"):
        return _dry(plan)
    if step == "wet_swab":
        return _wet(plan, setting.drying)
    if step == "corner_swab":
        return _corner(aims, plan)
    return {"air": _air, "brush": _brush}[step](aims)


def _opening(step: Decision, setting: Setting) -> Iterator[Instruction]:
    body = setting.body
    yield Instruction(
        text="Wash and dry your hands. Blow off the body, the mount ring and the cap.",
        heed="Fan and air-conditioning off; the table bare.",
    )
    if step in CONTACT:
        yield Instruction(
            text="Lay out everything within reach. Leave the swab sealed.",
            heed=loupe_words(body, setting.kit),
        )
    if body.access == "mirror":
        note = f" You noted: {body.lockup_note}." if body.lockup_note else ""
        yield Instruction(
            text=f"Battery full? Start the camera's cleaning lock-up: the mirror goes up.{note}",
            heed=f"If the power fails, the mirror falls on the tool.{_lasts(setting.power)}",
            raises=True,
        )
    if body.access == "fixed_mirror":
        yield Instruction(text="Raise the mirror by its hand latch, as the handbook shows.")
    if step in CONTACT and body.stabilised is not False and body.access != "digital_back":
        yield Instruction(text=_hold(body), heed="A sensor that floats swings away under a tool.")
    yield Instruction(
        text=_bare(step, body), opens=True, heed="From now on dust falls in. No hurry, no pause."
    )


def _bare(step: Decision, body: Body) -> str:
    """How the glass is laid bare."""
    if body.access == "digital_back":
        where = "hold it glass down" if step == "air" else "lay it glass up on the bare table"
        return f"Take the back off the camera and {where}."
    where = "opening straight down" if step == "air" else "and lay the camera on its back"
    return f"Take the lens off, {where}."


def _lasts(power: PowerPlan | None) -> str:
    return f" {power.why}" if power else ""


def _hold(body: Body) -> str:
    rule = {
        "on": "Power on, full battery: that holds this sensor.",
        "off": "Power off: that holds this sensor.",
        "battery_out": "Battery out and the switch drained: that holds this sensor.",
        None: "Stop: look up in the handbook what holds this sensor still.",
    }[body.hold_rule]
    return f"{rule} {body.hold_note}".strip()


def _closing(body: Body) -> Iterator[Instruction]:
    if body.access in ("mirror", "fixed_mirror"):
        yield Instruction(
            text="Nothing inside any more? Switch off, so that the mirror comes down.", lowers=True
        )
    cover = "its cover or the camera" if body.access == "digital_back" else "cap or lens"
    yield Instruction(text=f"Blow out the cap. On with {cover}, at once.", closes=True)


def _retest(recipe: FrameRecord | None) -> Iterator[Instruction]:
    yield Instruction(
        text=f"Shoot the test frame again: {recipe_words(recipe)}, focus as far off as it goes, "
        "camera moving, the same even target.",
        heed="The same recipe, or the comparison is worthless.",
    )


def recipe_words(recipe: FrameRecord | None) -> str:
    """How the frame before was shot, as far as its file tells."""
    if recipe is None or recipe.f_number is None:
        return "f/22, or the smallest the lens has, lowest ISO"
    parts = [f"f/{recipe.f_number:g}"]
    parts += [f"ISO {recipe.iso}"] if recipe.iso else ["lowest ISO"]
    parts += [exposure(recipe.exposure_s)] if recipe.exposure_s else []
    parts += [f"the same lens at {recipe.focal_length_mm:g} mm"] if recipe.focal_length_mm else []
    return ", ".join(parts)


def _where(aims: Sequence[Aim]) -> str:
    if not aims:
        return "over the whole sensor"
    first = "; ".join(aim.words for aim in aims[:2])
    return f"first {first}" if len(aims) > 1 else first


def _shake() -> Iterator[Instruction]:
    yield Instruction(text="Body cap on. Hold the camera so that its opening points straight down.")
    yield Instruction(
        text="Run the camera's own sensor cleaning.",
        count="runs",
        target=SHAKE_RUNS,
        timer_s=SHAKE_S,
        heed="Keep the opening down between the runs.",
    )


def _lens() -> Iterator[Instruction]:
    yield Instruction(
        text="Take the lens off, cap on the body. Look at the rear glass with a torch."
    )
    yield Instruction(
        text="Lens facing down: blow the glass off.",
        count="puffs",
        target=PUFFS,
        heed="Air always before any wiping.",
    )
    yield Instruction(text="Still there? A soft lens brush, then a lens wipe, lightly.")


def _air(aims: Sequence[Aim]) -> Iterator[Instruction]:
    yield Instruction(text="A few puffs into the room first.", count="puffs", target=PUFFS_IN_ROOM)
    yield Instruction(
        text=f"Blow upward, softly and from afar, then nearer: {_aim_air(aims)}.",
        count="puffs",
        target=PUFFS,
        shows_plan=True,
        heed="Nozzle outside the mount. It must never touch.",
    )


def _aim_air(aims: Sequence[Aim]) -> str:
    """Aim and direction of the two fullest zones."""
    if not aims:
        return "slanting, over the whole sensor"
    places = [f"{aim.words} ({aim.come_from})" if aim.come_from else aim.words for aim in aims[:2]]
    return f"first {'; then '.join(places)}" if len(places) > 1 else places[0]


def _brush(aims: Sequence[Aim]) -> Iterator[Instruction]:
    yield Instruction(text="Blow across the brush to charge it.", timer_s=CHARGE_S)
    yield Instruction(
        text=f"One gentle pass, {_where(aims)}. Then back in its pouch.",
        count="strokes",
        target=1,
        shows_plan=True,
        heed="Only the hair tips touch.",
    )


def _lift(aims: Sequence[Aim], plan: HandPlan) -> Iterator[Instruction]:
    if plan.presses:
        count = len(plan.presses)
        where = "at place 1" if count == 1 else f"at places 1 to {count}, one after the other"
    else:
        count, where = sum(len(aim.spots) for aim in aims), f"{_where(aims)}, spot by spot"
    yield Instruction(
        text=f"Press straight down, lift straight up: {where}.",
        count="dabs",
        target=count or None,
        shows_plan=True,
        heed="Never slide. A fresh sticky patch after every dab.",
    )


def _dry(plan: HandPlan) -> Iterator[Instruction]:
    yield Instruction(text="Open the swab. Hold the camera flat.")
    yield Instruction(
        text=f"Lightly: {SWEEPS[plan.stroke]}{_lanes(plan)}",
        count="strokes",
        target=len(plan.strokes) or 2,
        shows_plan=True,
        heed="The tip must not bend. Then the bin.",
    )


def _wet(plan: HandPlan, drying: DryPlan | None) -> Iterator[Instruction]:
    yield from _wetting(plan.drops or drops_for("swab"))
    yield Instruction(
        text=f"Tilted: {SWEEPS[plan.stroke]} Bin it.{_lanes(plan)}",
        count="strokes",
        target=len(plan.strokes) or 2,
        shows_plan=True,
        heed="Lightly; the tip must not bend.",
    )
    yield Instruction(
        text="Cap held over the opening: let it dry.",
        timer_s=_dry_s(drying),
        heed=_drying_words(drying) if drying else "",
    )


def _dry_s(drying: DryPlan | None) -> int:
    """How long to wait: the middle of the range by its logarithm, within one and ten minutes."""
    if drying is None:
        return DRY_S
    middle = math.sqrt(drying.minutes.least * drying.minutes.most) * 60
    return int(min(max(middle, DRY_S), LONGEST_DRY_S))


def _wetting(drops: Drops) -> Iterator[Instruction]:
    if drops.most == 0:
        yield Instruction(
            text="Open the moist wipe and fold it to the glass's width.",
            heed="It is moist enough: no fluid on it.",
        )
        return
    many = counted(drops.usual, "drop")
    yield Instruction(
        text=f"Away from the camera: {many} on the swab's edge.",
        count="drops",
        target=drops.usual,
        heed=f"Not more than {drops.most}. Excess creeps between the filters.",
    )
    yield Instruction(text="Let it even out to a damp line.", timer_s=WET_EVEN_S)


def _lanes(plan: HandPlan) -> str:
    """What changes when one swab does not cover the sensor."""
    if (plan.swabs or 1) < 2:
        return ""
    return f" {plan.swabs} lanes, far one first, a fresh swab for each."


def _corner(aims: Sequence[Aim], plan: HandPlan) -> Iterator[Instruction]:
    yield Instruction(
        text="One small drop on the narrow swab, away from the camera.", count="drops", target=1
    )
    where = "as drawn" if plan.strokes else _where(aims)
    yield Instruction(
        text=f"Along the edge, from the middle outward and off: {where}. Bin it.",
        count="strokes",
        target=len(plan.strokes) or 2,
        shows_plan=True,
        heed="Light. A clean face for each stroke"
        + (f", {plan.swabs} swabs in all." if (plan.swabs or 1) > 1 else "."),
    )
