"""What must be put right before a step may be done: one row a gate, and nothing is touched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import CONTACT, OPENS, CautionCode, Decision, Place, Question

FLUID_STEPS: tuple[Decision, ...] = ("wet_swab", "corner_swab")


@dataclass(frozen=True)
class Gate:
    """``shut`` tells whether the gate bars the steps in ``steps``; ``need`` says how to open it.

    ``fix_in``: where it is entered that it is open; ``asks``: which conditions of the visit tell.
    """

    code: str
    steps: tuple[Decision, ...]
    shut: Callable[[Situation], bool]
    why: str
    need: str
    cautions: tuple[CautionCode, ...] = ()
    fix_in: Place = "conditions"
    asks: tuple[Question, ...] = ()


GATES: tuple[Gate, ...] = (
    Gate(
        "power",
        OPENS,
        lambda s: s.moving_mirror and not s.full_power,
        "The mirror is held up by power, and the battery is not full.",
        "A full battery, or the camera on the mains.",
        ("full_power", "mirror_drop"),
        asks=("battery_percent", "mains"),
    ),
    Gate(
        "mirror_down",
        OPENS,
        lambda s: s.mirror_down,
        "The mirror is still in the way of the sensor.",
        "Raise the mirror as the camera's handbook says: its cleaning lock-up, or the hand latch.",
        ("mirror_in_way", "mirror_drop"),
        asks=("mirror_up",),
    ),
    Gate(
        "hold_collides",
        CONTACT,
        lambda s: s.hold_collides,
        "Switched off, this sensor is held, but the camera also closes over it.",
        "Ask the handbook or a service how this sensor is cleaned; until then only air.",
        ("hold_rule",),
        "camera",
    ),
    Gate(
        "sensor_covered",
        OPENS,
        lambda s: s.sensor_covered,
        "Switched off, this camera closes over its sensor; air or a tool breaks what covers it.",
        "Full battery, camera on, then open it from its menu: cleaning by hand.",
        ("full_power", "mirror_in_way"),
        asks=("power", "battery_percent"),
    ),
    Gate(
        "room",
        OPENS,
        lambda s: s.room_unfit,
        "The room would put more dust in than comes out.",
        "Fans off, windows shut, a bare table wiped; let the air settle.",
        ("shedding_surface", "keep_covered"),
        asks=("moving_air", "surface", "room_clean"),
    ),
    Gate(
        "room_unknown",
        CONTACT,
        lambda s: s.room_unknown and not s.room_unfit,
        "It is not known whether the room is still and clean enough to touch the sensor.",
        "Say how the room is: air still, table bare, wiped down.",
        ("shedding_surface", "keep_covered"),
        asks=("moving_air", "surface", "room_clean"),
    ),
    Gate(
        "damp_air",
        OPENS,
        lambda s: s.damp and s.schools.damp_air == "never",
        "The air is damp, and you work in dry air only.",
        "Wait, or dry the room to below 60 %.",
        ("moisture", "drying_room"),
        asks=("humidity_percent", "temperature_c"),
    ),
    Gate(
        "cold_camera",
        OPENS,
        lambda s: s.dewy,
        "The camera is so cold that the room's damp would settle on its sensor.",
        "Leave the camera closed, in its bag, until it has warmed up to the room.",
        ("moisture", "drying_room"),
        asks=("camera_c", "temperature_c"),
    ),
    Gate(
        "hold_unknown",
        CONTACT,
        lambda s: s.hold_unknown,
        "It is not known what holds this sensor still, so it may swing away under a tool.",
        "Look up in the camera's handbook whether the sensor is stabilised and what holds it.",
        ("hold_rule",),
        "camera",
    ),
    Gate(
        "not_held",
        CONTACT,
        lambda s: s.not_held,
        "The camera is not in the state that holds its sensor still.",
        "Set the power as the handbook says for cleaning; on means a full battery, too.",
        ("hold_rule", "full_power"),
        asks=("power", "battery_percent"),
    ),
    Gate(
        "filter_removed",
        CONTACT,
        lambda s: s.modifier_not_asked,
        "A filter was taken out of this body, so another layer lies bare.",
        "Ask whoever modified the camera which layer is left and what may touch it.",
        ("ask_modifier",),
        "camera",
    ),
    Gate(
        "warranty_unknown",
        CONTACT,
        lambda s: s.camera.under_guarantee is None,
        "It is not known whether the body is under warranty, which contact may end.",
        "Look up whether the warranty still runs, and enter it with the camera.",
        ("guarantee",),
        "camera",
    ),
    Gate(
        "drying_unknown",
        FLUID_STEPS,
        lambda s: s.drying_unknown,
        "It is not known how fluid dries in this room.",
        "Measure the room's temperature and humidity, and enter both.",
        ("drying_room",),
        asks=("temperature_c", "humidity_percent"),
    ),
    Gate(
        "drying",
        FLUID_STEPS,
        lambda s: s.dries_badly and not s.drying_unknown,
        "In cold, hot or damp air the fluid dries unevenly and leaves marks.",
        "Work at {room} in dry air, with the camera at room temperature.",
        ("drying_room",),
        asks=("temperature_c", "humidity_percent"),
    ),
)


@dataclass(frozen=True)
class Want:
    """What a step needs at hand, and the cautions that go with getting it."""

    lay_out: str
    cautions: tuple[CautionCode, ...] = ()


WANTS: dict[Decision, Want] = {
    "air": Want("A clean blower: a rubber bulb, or an electric one with a filter."),
    "brush": Want("The sensor brush in its pouch, and the blower to charge it.", ("brush_clean",)),
    "lift": Want(
        "The gel stick or silicone pad, a fresh patch for every press.",
        ("matched_gel", "fresh_patch"),
    ),
    "dry_swab": Want(
        "A sealed dry swab as wide as the sensor's short side.", ("right_width", "single_use")
    ),
    "wet_swab": Want(
        "A sealed swab as wide as the sensor's short side, and its fluid.",
        ("right_width", "kit_fluid_only", "single_use"),
    ),
    "dry_followup": Want(
        "A fresh, sealed dry swab of the sensor's width.",
        ("streak_causes", "single_use", "more_fluid_worse"),
    ),
    "corner_swab": Want(
        "A narrow corner swab and one small drop of the kit's fluid.",
        ("edges_pushed", "single_use"),
    ),
}


def closed_gates(s: Situation, step: Decision) -> list[Gate]:
    """Gates that bar a step as things are."""
    return [gate for gate in GATES if step in gate.steps and gate.shut(s)]
