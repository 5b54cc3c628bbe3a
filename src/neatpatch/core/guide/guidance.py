"""Hands-busy instructions: one at a time, made from the facts of this body, kit and map."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from neatpatch.core.advice.turns import SHAKE_RUNS
from neatpatch.core.common.decisions import CONTACT, OPENS, Decision
from neatpatch.core.common.facts import Access, KitItem
from neatpatch.core.common.words import counted, duration
from neatpatch.core.guide import handwork
from neatpatch.core.guide.handwork import PUFFS, aim_air, drying_words
from neatpatch.core.guide.instruction import Act, Instruction, Setting
from neatpatch.core.guide.opening import closed, made_ready, retest, why_not
from neatpatch.core.guide.scenes import drawn
from neatpatch.core.guide.short_guide import short_guide
from neatpatch.core.plans.loupe import plan_loupe
from neatpatch.core.plans.power import PowerPlan
from neatpatch.core.visit.body import Body

Length = Literal["full", "short"]
SHAKE_S = 8
"""Time for one run of the camera's own cleaning; shorter and the runs overlap."""


def guidance(step: Decision, setting: Setting, length: Length = "full") -> tuple[Instruction, ...]:
    """Instructions for a step, ending with the retest recipe; the short ones for the practised.

    Empty for decisions without hands, and where `why_not` says that nothing may be touched.
    """
    full = drawn(tuple(_guidance(step, setting)), step, setting)
    return short_guide(full) if length == "short" else full


def _guidance(step: Decision, setting: Setting) -> tuple[Instruction, ...]:
    again = retest(setting)
    if step == "auto_clean":
        return (*_shake(setting), *again)
    if step == "clean_lens":
        return (*_lens(setting), *again)
    if step not in OPENS or why_not(step, setting.body):
        return ()
    body = setting.body
    return (
        *made_ready(step, setting, loupe_words(body, setting.kit)),
        *_work(step, setting),
        *closed(step, setting),
        *again,
    )


def _work(step: Decision, setting: Setting) -> Iterator[Instruction]:
    if step in ("dry_swab", "dry_followup"):
        return handwork.dry(setting)
    if step == "wet_swab":
        return handwork.wet(setting)
    if step == "corner_swab":
        return handwork.corner(setting)
    return {"air": handwork.air, "brush": handwork.brush, "lift": handwork.lift}[step](setting)


def loupe_words(body: Body, kit: Sequence[KitItem]) -> str:
    """Whether the loupe owned focuses on this body; empty while either length is not entered."""
    ranges = [k.focus_mm for k in kit if k.item == "loupe" and k.focus_mm]
    if not ranges or body.flange_mm is None:
        return ""
    plans = [plan_loupe(body.flange_mm, reach) for reach in ranges]
    best = min(plans, key=lambda p: (not p.fits, p.spacer_mm is None, p.spacer_mm or 0))
    return best.why


def _lockup_words(power: PowerPlan) -> str:
    if power.warn_s is None or power.lasts_s is None:
        return power.why
    return f"The lock-up holds {duration(power.lasts_s)}: finish within {duration(power.warn_s)}."


def preparation(step: Decision, setting: Setting) -> tuple[str, ...]:
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
        lines.append(f"Aim {aim_air(setting.aims)}.")
    lines.append(plan.note)
    if step == "wet_swab" and setting.drying is not None:
        lines.append(f"{setting.drying.why} {drying_words(setting.drying)}")
    if setting.power is not None:
        lines.append(_lockup_words(setting.power))
    if step in CONTACT:
        lines.append(loupe_words(setting.body, setting.kit))
    return tuple(line for line in lines if line)


def _shake(setting: Setting) -> Iterator[Instruction]:
    body = setting.body
    yield Instruction(
        text=_DOWN.get(body.access, _DOWN["mirrorless"]),
        acts=_CAPPED_DOWN.get(body.access, ("lens_to_cap", "turn_down")),
        joins=True,
    )
    note = f" You noted: {body.shake_note}." if body.shake_note else ""
    yield Instruction(
        text=f"Run the camera's own sensor cleaning.{note}",
        count="runs",
        target=SHAKE_RUNS,
        timer_s=SHAKE_S,
        heed="Keep it so between the runs.",
        acts=("shake",),
    )
    if body.access != "fixed_lens":
        what = "The back onto the camera." if setting.is_back else "The lens back on."
        yield Instruction(text=what, acts=("lens_on",), joins=True)


_CAPPED_DOWN: dict[Access, tuple[Act, ...]] = {
    "fixed_lens": ("turn_down",),
    "digital_back": ("lens_to_cap", "turn_down"),
}
_DOWN: dict[Access, str] = {
    "mirrorless": "Body cap on. Hold the camera so that its opening points straight down.",
    "fixed_lens": "Hold the camera so that its lens points straight down.",
    "digital_back": "Cover on. Hold the back so that its glass points straight down.",
}


def _lens(setting: Setting) -> Iterator[Instruction]:
    """One way a turn: air, then a soft brush, then a wipe; each has its own retest."""
    fixed = setting.body.access == "fixed_lens"
    yield Instruction(
        text=_LOOK_AT_LENS.get(setting.body.access, _LOOK_AT_LENS["mirrorless"]),
        acts=("gather", "lens_look")
        if fixed or setting.is_back
        else ("gather", "lens_to_cap", "lens_look"),
        joins=True,
    )
    yield Instruction(
        text="Lens facing down: blow the glass off.",
        count="puffs",
        target=PUFFS,
        heed="Air always before any wiping.",
        acts=("lens_air",),
    )
    if setting.lens_turns == 1:
        yield Instruction(
            text="Still facing down: brush the glass with a soft lens brush, from the middle out.",
            heed="This brush is for lenses; it never goes into the camera.",
            acts=("lens_brush",),
        )
    if setting.lens_turns >= 2:
        yield Instruction(
            text="Wipe the glass with a lens wipe, lightly, from the middle out.",
            heed="Lens wipes are for lenses; they never touch a sensor.",
            acts=("lens_wipe",),
        )
    if not fixed and not setting.is_back:
        yield Instruction(
            text="The lens back on, opening down meanwhile.", acts=("lens_on",), joins=True
        )


_LOOK_AT_LENS: dict[Access, str] = {
    "mirrorless": "Take the lens off, cap on the body. Look at the rear glass with a torch.",
    "fixed_lens": "The lens stays on. Look at its front glass with a torch.",
    "digital_back": "Take the lens off the camera. Look at its rear glass with a torch.",
}
