"""The camera while a step is done: what it is like, and what each act leaves behind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from neatpatch.core.guide.instruction import Act, Lies, Mouth
from neatpatch.core.visit.body import Body


@dataclass
class CameraState:
    """The camera while a step is done. ``cover``: of a body that closes when it is off; None for
    those of which it is not known, until one has looked.
    """

    power: Literal["on", "off", "out"] = "off"
    mirror_up: bool = False
    cover_open: bool | None = True
    mouth: Mouth = "lens"
    lies: Lies = "table"
    gathered: bool = False
    fluid: Literal["none", "drops", "even"] = "none"


def do(act: Act, state: CameraState, body: Body) -> None:
    """What an act leaves behind."""
    if act in ("power_off", "battery_out"):
        state.power = "off" if act == "power_off" else "out"
        if body.access == "mirror":
            state.mirror_up = False
        if body.closes_when_off:
            state.cover_open = False
    elif act == "menu_open" and state.power == "on":
        state.mirror_up = state.mirror_up or body.access == "mirror"
        if body.closes_when_off:
            state.cover_open = True
    elif act in ("latch_up", "latch_down"):
        state.mirror_up = act == "latch_up"
    elif act == "look" and body.closes_when_off is None:
        state.cover_open = True
    elif act == "touch":
        state.fluid = "none"
    elif act == "retest" and body.access == "digital_back":
        state.mouth, state.lies = "lens", "aimed"
    else:
        _set(act, state)


def _set(act: Act, state: CameraState) -> None:
    mouths: dict[Act, Mouth] = {
        "lens_to_cap": "cap",
        "open": "open",
        "close": "cap",
        "lens_on": "lens",
    }
    state.mouth = mouths.get(act, state.mouth)
    lies: dict[Act, Lies] = {
        "lay_back": "back",
        "turn_down": "down",
        "lens_on": "table",
        "retest": "aimed",
    }
    state.lies = lies.get(act, state.lies)
    state.gathered = state.gathered or act == "gather"
    if act == "power_on":
        state.power = "on"
    if act == "wet":
        state.fluid = "drops"
    if act == "even":
        state.fluid = "even"


def as_found(body: Body) -> CameraState:
    """A body as it comes to the bench: switched off, its lens on."""
    closes = body.closes_when_off
    return CameraState(cover_open=None if closes is None else not closes)
