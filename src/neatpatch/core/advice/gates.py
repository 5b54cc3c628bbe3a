"""What must be put right before a step may be done: one row a gate, and nothing is touched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import CONTACT, OPENS, CautionCode, Decision

FLUID_STEPS: tuple[Decision, ...] = ("wet_swab", "corner_swab")


@dataclass(frozen=True)
class Gate:
    """``shut`` tells whether the gate bars the steps in ``steps``; ``need`` says how to open it."""

    code: str
    steps: tuple[Decision, ...]
    shut: Callable[[Situation], bool]
    why: str
    need: str
    cautions: tuple[CautionCode, ...] = ()


GATES: tuple[Gate, ...] = (
    Gate(
        "power",
        OPENS,
        lambda s: s.moving_mirror and not s.full_power,
        "The mirror is held up by power, and the battery is not full.",
        "Charge the battery fully, or run the camera from the mains.",
        ("full_power", "mirror_drop"),
    ),
    Gate(
        "mirror_down",
        OPENS,
        lambda s: s.mirror_down,
        "The mirror is still in the way of the sensor.",
        "Raise the mirror as the camera's handbook says: its cleaning lock-up, or the hand latch.",
        ("mirror_in_way", "mirror_drop"),
    ),
    Gate(
        "room",
        OPENS,
        lambda s: s.room_unfit,
        "The room would put more dust in than comes out.",
        "Turn off fans, shut the windows, wipe a bare table and let the air settle.",
        ("shedding_surface", "keep_covered"),
    ),
    Gate(
        "cold_camera",
        OPENS,
        lambda s: s.dewy,
        "The camera is so cold that the room's damp would settle on its sensor.",
        "Leave the camera closed, in its bag, until it has warmed up to the room.",
        ("moisture", "drying_room"),
    ),
    Gate(
        "hold_unknown",
        CONTACT,
        lambda s: s.hold_unknown,
        "It is not known what holds this sensor still, so it may swing away under a tool.",
        "Look up in the camera's handbook whether the sensor is stabilised and what holds it.",
        ("hold_rule",),
    ),
    Gate(
        "not_held",
        CONTACT,
        lambda s: s.not_held,
        "The camera is not in the state that holds its sensor still.",
        "Set the power as the handbook says for cleaning; with power on, use a full battery.",
        ("hold_rule", "full_power"),
    ),
    Gate(
        "filter_removed",
        CONTACT,
        lambda s: s.camera.filter_removed is True,
        "A filter was taken out of this body, so another layer lies bare.",
        "Ask whoever modified the camera which layer is left and what may touch it.",
        ("ask_modifier",),
    ),
    Gate(
        "drying",
        FLUID_STEPS,
        lambda s: s.dries_badly,
        "In cold, hot or damp air the fluid dries unevenly and leaves marks.",
        "Work at {room} in dry air, with the camera at room temperature.",
        ("drying_room",),
    ),
)


@dataclass(frozen=True)
class Want:
    """What to lay out for a step, and what to get when it is not in the kit."""

    lay_out: str
    missing: str
    cautions: tuple[CautionCode, ...] = ()


WANTS: dict[Decision, Want] = {
    "air": Want(
        "A clean blower: a rubber bulb, or an electric one with a filter.",
        "No blower that may be used on a sensor: get a rubber bulb or a filtered electric one.",
    ),
    "brush": Want(
        "The sensor brush in its pouch, and the blower to charge it.",
        "No sensor brush to hand: use one made for sensors, never a lens brush.",
        ("brush_clean",),
    ),
    "lift": Want(
        "The gel stick or silicone pad, with enough unused sticky patches.",
        "Nothing to lift with: get a gel stick that suits this sensor's coating, or a pad.",
        ("matched_gel", "fresh_patch"),
    ),
    "dry_swab": Want(
        "A sealed dry swab as wide as the sensor's short side.",
        "No unused dry swab as wide as the sensor's short side.",
        ("right_width", "single_use"),
    ),
    "wet_swab": Want(
        "A sealed swab as wide as the sensor's short side, and its fluid.",
        "No unused swab of the sensor's width together with a fluid that suits this dirt.",
        ("right_width", "kit_fluid_only"),
    ),
    "dry_followup": Want(
        "A fresh, sealed dry swab of the sensor's width.",
        "No fresh dry swab of the sensor's width to take the mark off.",
        ("streak_causes", "single_use", "more_fluid_worse"),
    ),
    "corner_swab": Want(
        "A narrow corner swab and one small drop of the kit's fluid.",
        "No narrow corner swab to fetch what was pushed to the edges.",
        ("edges_pushed", "single_use"),
    ),
}


def shut_gates(s: Situation, step: Decision) -> list[Gate]:
    """Gates that bar a step as things are."""
    return [gate for gate in GATES if step in gate.steps and gate.shut(s)]
