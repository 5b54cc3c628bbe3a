"""What the hands do with the camera open, step by step and tool by tool."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from neatpatch.core.common.words import counted, span
from neatpatch.core.guide.hand_plan import HandPlan
from neatpatch.core.guide.instruction import Instruction, Setting
from neatpatch.core.guide.opening import capped, opened
from neatpatch.core.maps.mount_view import Aim
from neatpatch.core.plans.drying import DryPlan
from neatpatch.core.plans.swab import Drops, StrokeSchool, drops_for

PUFFS_IN_ROOM = 3
"""To clear the bulb of its own dust; one is too few, many tire the hand."""
PUFFS = 12
"""A usual turn of air. Fewer misses corners; more keeps the camera open without gain."""
CHARGE_S = 10
"""Blowing charges the hairs within seconds; less leaves them flat."""
WET_EVEN_S = 10
"""Until drops have spread to a damp line. Less leaves puddles; more dries the edge."""
LONGEST_DRY_S = 60
"""A thin film's sheen is gone within seconds; longer waiting lets dust in under an open cap."""
SHORTEST_DRY_S = 10
"""To tilt the camera under the lamp and look."""
SWEEPS: dict[StrokeSchool, str] = {
    "same_way": "one sweep, edge to edge. Lift, turn to the clean face, the same way again.",
    "return_other_face": "one sweep, edge to edge. Lift, turn to the clean face, sweep back.",
    "across_and_back": "across and back with one face, in two strokes. Done.",
    "circles": "small circles, side by side along the sensor. Turn to the clean face, one sweep.",
}
_BY_FACE = (
    "one sweep along the upper edge. Lift, turn to the clean face, one sweep along the lower edge."
)
_LITTLE_FINGER = "Your little finger rests on the body."


@dataclass(frozen=True)
class Blowing:
    """How a source of air is cleared and led; ``brief`` is the same for the practised."""

    clear: str
    clear_heed: str
    lead: str
    heed: str
    brief: str


_BULB = Blowing(
    "A few puffs into the room first, to clear the blower.",
    "",
    "Blow upward, softly and from afar, then nearer",
    "Nozzle outside the mount. It must never touch.",
    "Blower cleared.",
)
_STRONG_BULB = replace(
    _BULB,
    lead="Firm bursts upward from two hands away, then from one, slanting across the glass",
)
_ELECTRIC = Blowing(
    "Run the blower for a moment beside the camera, to clear it and its filter.",
    "",
    "Short bursts upward from two hands away, then from one, slanting across the glass",
    "Nozzle outside the mount; never straight at a shutter or a mirror.",
    "Blower run beside the camera.",
)
_CAN = Blowing(
    "Can upright: purge it away from the camera until only dry gas comes.",
    "Never tilt or shake it: liquid freezes skin and glass.",
    "Brief puffs, upward, the can upright, from two hands away, then nearer",
    "Nozzle outside the mount. It must never touch.",
    "Can upright and never tilted, purged.",
)


def air(setting: Setting) -> Iterator[Instruction]:
    """Puffs into the room, then upward into the chamber."""
    way = _blowing(setting)
    yield Instruction(
        text=way.clear,
        heed=way.clear_heed,
        count="puffs",
        target=PUFFS_IN_ROOM,
        brief=way.brief,
        joins=True,
        acts=("clear",),
    )
    yield opened("air", setting)
    yield Instruction(
        text=f"{way.lead}: {aim_air(setting.aims)}.",
        count="puffs",
        target=PUFFS,
        shows_plan=True,
        heed=way.heed,
        acts=("air",),
        brief=f"Blow upward. {numbered(setting.aims)}",
    )


def _blowing(setting: Setting) -> Blowing:
    if setting.item == "gas_can":
        return _CAN
    if setting.item == "electric_blower":
        return _ELECTRIC
    return _STRONG_BULB if setting.strong_air else _BULB


def numbered(aims: Sequence[Aim]) -> str:
    """The places as the drawing numbers them."""
    if not aims:
        return "Over the whole sensor."
    places = [aim.words.partition(",")[0] for aim in aims[:2]]
    return f"{'; '.join(f'{n}: {words}' for n, words in enumerate(places, 1))}."


def aim_air(aims: Sequence[Aim]) -> str:
    """Aim and direction of the two fullest zones."""
    if not aims:
        return "slanting, over the whole sensor"
    places = [f"{aim.words} ({aim.come_from})" if aim.come_from else aim.words for aim in aims[:2]]
    return f"first {'; then '.join(places)}" if len(places) > 1 else places[0]


def _where(aims: Sequence[Aim]) -> str:
    if not aims:
        return "over the whole sensor"
    first = "; ".join(aim.words for aim in aims[:2])
    return f"first {first}" if len(aims) > 1 else first


def brush(setting: Setting) -> Iterator[Instruction]:
    """One pass, of a charged sensor brush or a clean lens brush."""
    lens = setting.item == "lens_brush"
    if lens:
        yield Instruction(
            text="Blow the clean lens brush out, away from the camera.",
            brief="Lens brush blown out.",
            joins=True,
            acts=("charge",),
        )
    else:
        yield Instruction(
            text="Blow across the brush to charge it.",
            timer_s=CHARGE_S,
            brief="Brush charged by blowing.",
            joins=True,
            acts=("charge",),
        )
    yield opened("brush", setting)
    after = "Then put it away, clean and dry." if lens else "Then back in its pouch."
    yield Instruction(
        text=f"One gentle pass, {_where(setting.aims)}. {after}",
        brief=f"One gentle pass. {numbered(setting.aims)}",
        count="strokes",
        target=1,
        shows_plan=True,
        heed="Only the hair tips touch. Look for shed hairs in the next frame.",
        acts=("touch",),
    )


def lift(setting: Setting) -> Iterator[Instruction]:
    """Press by press."""
    plan = setting.plan
    yield Instruction(
        text="Press the tip once on a fresh sticky patch, so that it is clean before it touches.",
        brief="Tip clean.",
        joins=True,
        acts=("ready_tip",),
    )
    yield opened("lift", setting)
    if plan.presses:
        count = len(plan.presses)
        where = "at place 1" if count == 1 else f"at places 1 to {count}, one after the other"
    else:
        count = sum(len(aim.spots) for aim in setting.aims)
        where = f"{_where(setting.aims)}, spot by spot"
    yield Instruction(
        text=f"Press straight down, lift straight up: {where}.",
        brief=f"Press straight down and up: {where.partition(',')[0]}.",
        count="dabs",
        target=count or None,
        shows_plan=True,
        heed="Never slide. A fresh sticky patch after every dab.",
        acts=("touch",),
    )


def dry(setting: Setting) -> Iterator[Instruction]:
    """A dry swab, or a pad over a fingertip."""
    plan = setting.plan
    if _pad(setting):
        yield Instruction(
            text="Open a sterile pad and fold it over your fingertip.",
            brief="A sterile pad over the fingertip.",
            joins=True,
            acts=("unwrap",),
        )
        yield opened("dry_swab", setting)
        yield _circles("Lightly, in small circles")
        return
    yield opened("dry_swab", setting)
    yield Instruction(
        text=_OPEN_DRY.get(setting.item or "dry_swab", _OPEN_DRY["dry_swab"]),
        heed=_LITTLE_FINGER,
        joins=True,
        acts=("unwrap",),
    )
    yield Instruction(
        text=f"{_PRESSURE[_pressure(setting)]}: {_sweep(plan)}{_lanes(plan)}",
        count="strokes",
        target=len(plan.strokes) or 2,
        shows_plan=True,
        heed="The tip must not bend. Then the bin.",
        acts=("touch",),
    )


_OPEN_DRY: dict[str, str] = {
    "dry_swab": "Open the swab. Hold the camera flat.",
    "wet_swab": "Open a second swab of the pack, and leave it dry. Hold the camera flat.",
    "cloth_wand": "Fold a fresh cloth over the wand and clip it. Hold the camera flat.",
}


_PRESSURE: dict[str, str] = {
    "light": "Lightly",
    "barely": "Barely touching",
    "pencil": "With a pencil's weight",
    "moderate": "With moderate pressure, the whole edge lying on",
}


def _pressure(setting: Setting) -> str:
    """The method's own, but never more than the lightest on a sensor that may float."""
    chosen = setting.schools.pressure or "light"
    return "barely" if setting.body.may_float and chosen != "light" else chosen


def _pad(setting: Setting) -> bool:
    return setting.item == "sterile_pad"


def _circles(how: str) -> Instruction:
    return Instruction(
        text=f"{how}, place by place. A clean side for each place.",
        count="strokes",
        shows_plan=True,
        heed="No pressure: only the pad's own weight.",
        acts=("touch",),
    )


def wet(setting: Setting) -> Iterator[Instruction]:
    """Swab after swab: drops with the cap on, then open, stroke, and the cap again."""
    if _pad(setting):
        yield from _wet_pad(setting)
        return
    plan = setting.plan
    yield from capped(setting)
    groups = [list(g) for _, g in groupby(plan.strokes, key=lambda s: s.swab)] or [[]]
    done = 0
    for n, strokes in enumerate(groups, 1):
        lane = f" Lane {n} of {len(groups)}." if len(groups) > 1 else ""
        yield from _wetting(setting, n)
        yield opened("wet_swab", setting, from_cap=n > 1 or not setting.is_back)
        yield Instruction(
            text=f"At once, the handle tilted to 60 degrees: {_sweep(plan)} Bin it.{lane}",
            brief=f"At once: {_sweep(plan)} Bin it.{lane}",
            count="strokes",
            target=len(strokes) or 2,
            shows_plan=True,
            first=done,
            heed=f"{_PRESSURE[_pressure(setting)]}; the tip must not bend. {_LITTLE_FINGER}",
            acts=("touch",),
        )
        done += len(strokes)
        if n < len(groups):
            yield Instruction(
                text=f"The {setting.lid} on before the next swab is wetted.",
                acts=("close",),
                joins=True,
            )
    yield dried(setting)


def dried(setting: Setting) -> Instruction:
    """A look whether the film is gone."""
    return Instruction(
        text="Tilt it under the lamp. No sheen left? Go on.",
        timer_s=dry_s(setting.drying),
        acts=("sheen",),
        heed=f"Seconds, a minute at most. Then the {setting.lid} on, not held over it.",
        joins=True,
    )


def _wetting(setting: Setting, number: int) -> Iterator[Instruction]:
    drops = setting.plan.drops or drops_for("swab")
    if drops.most == 0:
        yield Instruction(
            text=_WIPES[setting.with_wand],
            heed="It is moist enough: no fluid on it.",
            acts=("unwrap", "wet", "even"),
        )
        return
    wand = setting.item == "cloth_wand"
    what = "another swab's" if number > 1 else "the swab's"
    if wand:
        yield Instruction(
            text="Fold a fresh cloth over the wand twice, one straight edge without a crease, and "
            "clip it.",
            brief="A fresh cloth over the wand.",
            joins=True,
            acts=("fold",),
        )
        what = "each side of the wand's"
    both = setting.schools.faces_wetted == "both" and not wand
    where = f"{what} edge, shared by both faces" if both else f"{what} edge"
    yield Instruction(
        text=f"{_away(setting)}: {_drops(drops, setting.fluid)} on {where}. Close the bottle.",
        brief=f"{_drops(drops, setting.fluid).capitalize()} on {where}; bottle closed.",
        count="drops",
        target=drops.usual,
        heed=f"Not more than {drops.most}. Excess creeps between the filters.",
        acts=("wet",),
        joins=True,
    )
    yield Instruction(
        text=f"Let it even out to a damp line, the {setting.lid} still on.",
        brief="Let it even out to a damp line.",
        timer_s=WET_EVEN_S,
        heed="Then stroke within seconds: fluid that stands leaves an edge.",
        acts=("even",),
    )


_WIPES = {
    False: "Open the moist wipe and fold it to the glass's width.",
    True: "Open the moist wipe, fold it over the wand in place of a cloth, and clip it.",
}


def _away(setting: Setting) -> str:
    return f"Away from the camera, {setting.lid} on"


def _drops(drops: Drops, fluid: str | None) -> str:
    kind = f" of the {fluid.replace('_', '-')} fluid" if fluid else ""
    return f"{counted(drops.usual, 'drop')}{kind}"


def _wet_pad(setting: Setting) -> Iterator[Instruction]:
    yield Instruction(
        text="Open two sterile pads; fold one over your fingertip, lay the other ready, dry.",
        brief="Two sterile pads open: one over the fingertip, one dry.",
        joins=True,
        acts=("unwrap",),
    )
    yield from capped(setting)
    yield Instruction(
        text=f"{_away(setting)}: {_drops(drops_for('sterile_pad'), setting.fluid)} on the pad. "
        "Close the bottle.",
        brief="One drop on the pad; bottle closed.",
        count="drops",
        target=1,
        heed="One drop only.",
        acts=("wet",),
        joins=True,
    )
    yield Instruction(text="Let it soak in.", timer_s=WET_EVEN_S, acts=("even",))
    yield opened("wet_swab", setting, from_cap=not setting.is_back)
    yield _circles("Small circles with the damp pad")
    yield _circles("At once the dry pad, in small circles")


def dry_s(drying: DryPlan | None) -> int:
    """How long to look for the sheen to go: at most a minute, less where the film dries sooner."""
    if drying is None:
        return LONGEST_DRY_S
    return int(min(max(drying.minutes.most * 60, SHORTEST_DRY_S), LONGEST_DRY_S))


def drying_words(drying: DryPlan) -> str:
    """How long a film dries here."""
    return f"A film dries in {span(drying.minutes.least * 60, drying.minutes.most * 60)} here."


def _sweep(plan: HandPlan) -> str:
    """The words of the stroke; one swab for two lanes has a face for each."""
    return _BY_FACE if plan.by_face else SWEEPS[plan.stroke]


def _lanes(plan: HandPlan) -> str:
    """What changes when one swab does not cover the sensor."""
    if (plan.swabs or 1) < 2:
        return ""
    return f" {plan.swabs} lanes, far one first, a fresh swab for each."


def corner(setting: Setting) -> Iterator[Instruction]:
    """A narrow swab along the edges that hold something."""
    plan = setting.plan
    yield from capped(setting)
    kind = f" of the {setting.fluid.replace('_', '-')} fluid" if setting.fluid else ""
    yield Instruction(
        text=f"{_away(setting)}: one small drop{kind} on the narrow swab. Close the bottle.",
        brief=f"One small drop{kind} on the narrow swab.",
        count="drops",
        target=1,
        acts=("wet", "even"),
    )
    yield opened("corner_swab", setting, from_cap=not setting.is_back)
    where = "as drawn" if plan.strokes else _where(setting.aims)
    yield Instruction(
        text=f"Along the edge, from the middle outward and off: {where}. Bin it.",
        count="strokes",
        target=len(plan.strokes) or 2,
        shows_plan=True,
        heed="Light. A clean face for each stroke"
        + (f", {plan.swabs} swabs in all." if (plan.swabs or 1) > 1 else "."),
        acts=("touch",),
    )
