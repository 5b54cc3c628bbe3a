"""How a body is made ready, opened and closed again, by what it is and what its owner noted."""

from __future__ import annotations

from collections.abc import Iterator

from neatpatch.core.advice.gates import FLUID_STEPS
from neatpatch.core.common.decisions import CONTACT, OPENS, SWABS, Decision
from neatpatch.core.common.facts import Item, Power
from neatpatch.core.common.records import FrameRecord
from neatpatch.core.common.words import exposure
from neatpatch.core.guide.instruction import Act, Instruction, Setting
from neatpatch.core.visit.body import Body


def why_not(step: Decision, body: Body) -> str:
    """Why nothing may be touched, or nothing opened, on this body; empty where it may."""
    if body.access == "fixed_lens" and step in OPENS:
        return (
            "Stop: this lens does not come off. A service opens the camera; with repair skill, "
            "follow a plan on the tray."
        )
    if step not in CONTACT or not body.may_float:
        return ""
    if body.hold_rule is None:
        return (
            "Stop: it is not known how this sensor is locked for cleaning. Look it up in the "
            "camera's handbook, and enter it with the camera."
        )
    if body.hold_rule != "on" and (body.closes_when_off or body.access == "mirror"):
        return (
            "Stop: switched off, this sensor is locked, but switched off the camera also closes "
            "over it. Only its handbook or a service knows how it is cleaned."
        )
    return ""


def made_ready(step: Decision, setting: Setting, loupe: str) -> Iterator[Instruction]:
    """All that is done before the camera is opened, in the order its power asks for."""
    body = setting.body
    if not setting.made_ready:
        what = "the back and its cover" if setting.is_back else "the body, the mount ring, the cap"
        yield Instruction(
            text=f"Wash and dry your hands. Blow off {what}.",
            heed="Fan and air-conditioning off; the table bare.",
            brief="Hands washed.",
            joins=True,
            acts=("wash",),
        )
    sealed = f" Leave the {thing} sealed." if (thing := _sealed(step, setting)) else ""
    blown = "" if setting.made_ready else "blown-out "
    yield Instruction(
        text=f"Put everything within reach, the {blown}{setting.lid} on top.{sealed}",
        heed=loupe if step in CONTACT else "",
        acts=("gather",),
        brief=f"All at hand, {setting.lid} on top.",
        joins=True,
    )
    yield from _powered(step, setting)
    if body.access == "fixed_mirror":
        note = _noted(body.latch_note)
        yield Instruction(
            text=f"Raise the mirror by its hand latch, as the handbook shows.{note}",
            acts=("latch_up",),
            brief="Mirror up by its latch.",
            joins=True,
        )


_SEALED: dict[Item, str] = {
    "dry_swab": "swab",
    "wet_swab": "swab",
    "corner_swab": "swab",
    "sterile_pad": "pad",
    "moist_wipe": "wipe",
}


def _sealed(step: Decision, setting: Setting) -> str:
    """What stays sealed until all is in reach; empty for tools that are used again."""
    if setting.item is None:
        return "swab" if step in (*SWABS, "corner_swab") else ""
    return _SEALED.get(setting.item, "") if step in CONTACT else ""


def _powered(step: Decision, setting: Setting) -> Iterator[Instruction]:
    """Power as the mirror, the cover and the sensor's hold ask for; `why_not` bars collisions."""
    body = setting.body
    note = _noted(body.lockup_note or body.cleaning_note)
    held = _hold(body) if step in CONTACT and body.may_float else ""
    if body.access == "mirror":
        lasts = f" {setting.power.why}" if setting.power else ""
        yield Instruction(
            text="Battery full? Switch on and start the camera's cleaning lock-up: the mirror goes "
            f"up.{note}",
            heed=f"If the power fails, the mirror falls on the tool.{lasts}",
            acts=("power_on", "menu_open"),
            mirror=True,
            brief="Battery full, power on, cleaning lock-up: the mirror goes up.",
        )
    elif body.closes_when_off:
        yield Instruction(
            text="Battery full? Switch on, and open the camera from its menu: cleaning by hand."
            f"{note}",
            heed="Switched off it closes over the sensor: do not switch off until the "
            f"{setting.lid} is on.",
            acts=("power_on", "menu_open"),
            brief="Battery full, power on, opened from the menu for cleaning by hand.",
        )
    if held:
        acts: dict[str, Act] = {
            "on": "power_on",
            "off": "power_off",
            "battery_out": "battery_out",
        }
        assert body.hold_rule is not None
        yield Instruction(
            text=held,
            heed="A sensor that floats swings away under a tool.",
            acts=(acts[body.hold_rule],),
            brief=_HELD_BRIEFLY[body.hold_rule],
            joins=True,
        )


_HELD_BRIEFLY: dict[Power, str] = {
    "on": "Power on, battery full.",
    "off": "Power off.",
    "battery_out": "Battery out, switch drained.",
}


def _noted(note: str) -> str:
    return f" You noted: {note}." if note else ""


def _hold(body: Body) -> str:
    rule = {
        "on": "Power on, full battery: that holds this sensor.",
        "off": "Power off: that holds this sensor.",
        "battery_out": "Battery out and the switch drained: that holds this sensor.",
        None: "",
    }[body.hold_rule]
    return f"{rule} {body.hold_note}".strip()


def capped(setting: Setting) -> Iterator[Instruction]:
    """The lens off, the cap on: fluid is put on a swab while nothing lies open."""
    if setting.is_back:
        return
    yield Instruction(
        text="Lens off, the cap on the body at once; rear cap on the lens. Lay the camera on its "
        "back.",
        acts=("lens_to_cap", "lay_back"),
        brief="Lens off, cap on, camera on its back.",
        joins=True,
    )


def opened(step: Decision, setting: Setting, *, from_cap: bool = False) -> Instruction:
    """The glass laid bare."""
    body = setting.body
    glance: tuple[Act, ...] = ()
    look = ""
    if body.closes_when_off is None and body.access == "mirrorless":
        look = " Look in: do you see the bare glass?"
    if body.closes_when_off is None:
        glance = ("look",)
    return Instruction(
        text=f"{_bare(step, body, from_cap=from_cap)}{look}",
        heed="If a shutter or screen covers it, stop: cap on, and ask the handbook."
        if look
        else "From now on dust falls in. No hurry, no pause.",
        acts=(*_turned(step, from_cap=from_cap), "open", *glance),
        brief="" if look else _bare_briefly(step, setting, from_cap=from_cap),
        joins=not look,
    )


def _turned(step: Decision, *, from_cap: bool) -> tuple[Act, ...]:
    """How the camera is laid before its glass is bare; it lies so already under a cap."""
    if step == "air":
        return ("turn_down",)
    return () if from_cap else ("lay_back",)


def _bare(step: Decision, body: Body, *, from_cap: bool) -> str:
    back = body.access == "digital_back"
    if from_cap:
        return f"Take the {'cover' if back else 'cap'} off."
    if back:
        where = "hold it glass down" if step == "air" else "lay it glass up on the bare table"
        return f"Take the back off the camera and {where}."
    where = "opening straight down" if step == "air" else "and lay the camera on its back"
    return f"Take the lens off, {where}."


def _bare_briefly(step: Decision, setting: Setting, *, from_cap: bool) -> str:
    if from_cap:
        return f"{setting.lid.capitalize()} off."
    if setting.is_back:
        return f"Back off the camera, glass {'down' if step == 'air' else 'up'}."
    return f"Lens off, {'opening down' if step == 'air' else 'camera on its back'}."


def closed(step: Decision, setting: Setting) -> Iterator[Instruction]:
    """Covered first, then switched off, then the lens.

    In the short guide all of it stands with the retest, but after fluid the cap has its own screen.
    """
    body, with_retest = setting.body, step not in (*FLUID_STEPS, "dry_followup")
    if body.access == "fixed_mirror":
        yield Instruction(
            text="Nothing inside any more? Lower the mirror by its latch.",
            acts=("latch_down",),
            brief="Nothing inside? Mirror down.",
            joins=True,
        )
    if setting.is_back:
        yield Instruction(
            text="On with its cover, or back onto the camera.", acts=("close",), joins=with_retest
        )
        return
    corners = "Look at the four corners last. " if step in CONTACT else ""
    yield Instruction(
        text=f"{corners}Nothing inside any more? The cap on.",
        acts=("close",),
        brief=f"{corners}Nothing inside? Cap on.",
        joins=with_retest,
    )
    if body.access == "mirror" or body.closes_when_off:
        what = "the mirror comes down" if body.access == "mirror" else "it closes over the sensor"
        yield Instruction(
            text=f"Switch off: {what}.",
            acts=("power_off",),
            mirror=body.access == "mirror",
            joins=True,
        )
    bin_ = "Used tools in the bin or put away. " if step in CONTACT else ""
    yield Instruction(
        text=f"{bin_}Blow off the lens's rear glass, then the lens on.",
        acts=("lens_on",),
        brief="Lens blown off, and on.",
        joins=True,
    )


def retest(setting: Setting) -> Iterator[Instruction]:
    """The test frame that tells what the step did."""
    recipe = setting.recipe
    same = "The test frame as before, from a little elsewhere." if setting.recipe_told else ""
    yield Instruction(
        text=f"Shoot the test frame again: {recipe_words(recipe)}, focus as far off as it goes, "
        "camera moving, the same even target.",
        heed="The same recipe, or the comparison is worthless. Stand a little elsewhere: that "
        "proves the place.",
        acts=("retest",),
        brief=same,
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
