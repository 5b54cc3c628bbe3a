"""Hands-busy instructions: one at a time, made from the facts of this body, kit and map."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from neatpatch.core.advice.records import CONTACT, OPENS, Decision
from neatpatch.core.geometry import Aim
from neatpatch.core.hand_plan import HandPlan
from neatpatch.core.records import Record
from neatpatch.core.visit import Body

Counter = Literal["runs", "puffs", "dabs", "strokes", "drops"]
SHAKE_RUNS = 5
SHAKE_S = 8
PUFFS_IN_ROOM = 3
PUFFS = 12
CHARGE_S = 10
WET_EVEN_S = 10
DRY_S = 60


class Instruction(Record):
    """One thing to do now.

    ``opens`` and ``closes`` start and stop the open-camera clock. ``count`` names what is counted,
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
    shows_plan: bool = False


def guidance(
    step: Decision, body: Body, aims: Sequence[Aim], f_number: float | None,
    plan: HandPlan | None = None,
) -> tuple[Instruction, ...]:  # fmt: skip
    """Instructions for a step, ending with the retest recipe; empty for decisions without hands."""
    plan = plan or HandPlan()
    if step == "auto_clean":
        return (*_shake(), *_retest(f_number))
    if step == "clean_lens":
        return (*_lens(), *_retest(f_number))
    if step in OPENS:
        work = _work(step, aims, plan)
        return (*_opening(step, body), *work, *_closing(body), *_retest(f_number))
    return ()


def _work(step: Decision, aims: Sequence[Aim], plan: HandPlan) -> Iterator[Instruction]:
    if step == "lift":
        return _lift(aims, plan)
    if step in ("dry_swab", "dry_followup"):
        return _dry(plan)
    if step == "wet_swab":
        return _wet(plan)
    return {"air": _air, "brush": _brush, "corner_swab": _corner}[step](aims)


def _opening(step: Decision, body: Body) -> Iterator[Instruction]:
    yield Instruction(
        text="Wash and dry your hands. Blow off the body, the mount ring and the cap.",
        heed="Fan and air-conditioning off; the table bare.",
    )
    if step in CONTACT:
        yield Instruction(text="Lay out everything within reach. Leave the swab sealed.")
    if body.access == "mirror":
        note = f" You noted: {body.lockup_note}." if body.lockup_note else ""
        yield Instruction(
            text=f"Battery full? Start the camera's cleaning lock-up: the mirror goes up.{note}",
            heed="If the power fails, the mirror falls on the tool.",
        )
    if body.access == "fixed_mirror":
        yield Instruction(text="Raise the mirror by its hand latch, as the handbook shows.")
    if step in CONTACT and body.stabilised is not False and body.access != "digital_back":
        yield Instruction(text=_hold(body), heed="A sensor that floats swings away under a tool.")
    where = "opening straight down" if step == "air" else "and lay the camera on its back"
    yield Instruction(text=f"Take the lens off, {where}.", opens=True,
                      heed="From now on dust falls in. No hurry, no pause.")  # fmt: skip


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
            text="Nothing inside any more? Switch off, so that the mirror comes down."
        )
    yield Instruction(text="Blow out the cap. Cap or lens on, at once.", closes=True)


def _retest(f_number: float | None) -> Iterator[Instruction]:
    n = f"f/{f_number:g}" if f_number else "f/22, or the smallest the lens has"
    yield Instruction(
        text=f"Shoot the test frame again: {n}, lowest ISO, focus as far off as it goes, camera "
        "moving, the same even target.",
        heed="The same recipe, or the comparison is worthless.",
    )


def _where(aims: Sequence[Aim]) -> str:
    if not aims:
        return "over the whole sensor"
    first = "; ".join(aim.words for aim in aims[:2])
    return f"first {first}" if len(aims) > 1 else first


def _shake() -> Iterator[Instruction]:
    yield Instruction(text="Body cap on. Hold the camera so that its opening points straight down.")
    yield Instruction(text="Run the camera's own sensor cleaning.", count="runs", target=SHAKE_RUNS,
                      timer_s=SHAKE_S, heed="Keep the opening down between the runs.")  # fmt: skip


def _lens() -> Iterator[Instruction]:
    yield Instruction(
        text="Take the lens off, cap on the body. Look at the rear glass with a torch."
    )
    yield Instruction(text="Lens facing down: blow the glass off.", count="puffs", target=PUFFS,
                      heed="Air always before any wiping.")  # fmt: skip
    yield Instruction(text="Still there? A soft lens brush, then a lens wipe, lightly.")


def _air(aims: Sequence[Aim]) -> Iterator[Instruction]:
    yield Instruction(text="A few puffs into the room first.", count="puffs", target=PUFFS_IN_ROOM)
    yield Instruction(
        text=f"Blow upward, softly and from afar, then nearer and slanting: {_where(aims)}.",
        count="puffs", target=PUFFS, shows_plan=True,
        heed="Nozzle outside the mount. It must never touch.",
    )  # fmt: skip


def _brush(aims: Sequence[Aim]) -> Iterator[Instruction]:
    yield Instruction(text="Blow across the brush to charge it.", timer_s=CHARGE_S)
    yield Instruction(text=f"One gentle pass, {_where(aims)}. Then back in its pouch.",
                      count="strokes", target=1, shows_plan=True,
                      heed="Only the hair tips touch.")  # fmt: skip


def _lift(aims: Sequence[Aim], plan: HandPlan) -> Iterator[Instruction]:
    if plan.presses:
        count = len(plan.presses)
        where = "at place 1" if count == 1 else f"at places 1 to {count}, one after the other"
    else:
        count, where = sum(len(aim.spots) for aim in aims), f"{_where(aims)}, spot by spot"
    yield Instruction(
        text=f"Press straight down, lift straight up: {where}.",
        count="dabs", target=count or None, shows_plan=True,
        heed="Never slide. A fresh sticky patch after every dab.",
    )  # fmt: skip


def _dry(plan: HandPlan) -> Iterator[Instruction]:
    yield Instruction(text="Open the swab. Hold the camera flat.")
    yield Instruction(text="One light sweep, edge to edge. Turn to the clean face, second sweep.",
                      count="strokes", target=len(plan.strokes) or 2, shows_plan=True,
                      heed="The tip must not bend. Then the bin.")  # fmt: skip


def _wet(plan: HandPlan) -> Iterator[Instruction]:
    yield Instruction(
        text="Away from the camera: two drops on the swab's edge.", count="drops", target=2,
        heed="Not more than three. Excess creeps between the filters.",
    )  # fmt: skip
    yield Instruction(text="Let it even out to a damp line.", timer_s=WET_EVEN_S)
    yield Instruction(
        text="Tilted, edge to edge in one stroke. Lift, turn to the clean face, once more. Bin it.",
        count="strokes", target=len(plan.strokes) or 2, shows_plan=True,
        heed="Lightly; the tip must not bend.",
    )  # fmt: skip
    yield Instruction(text="Cap held over the opening: let it dry.", timer_s=DRY_S)


def _corner(aims: Sequence[Aim]) -> Iterator[Instruction]:
    yield Instruction(
        text="One small drop on the narrow swab, away from the camera.", count="drops", target=1
    )
    yield Instruction(
        text=f"Along the edge, from the middle outward and off: {_where(aims)}. Bin it.",
        count="strokes", target=2, shows_plan=True, heed="Light, once each way.",
    )  # fmt: skip
