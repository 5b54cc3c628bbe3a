"""What the camera must be doing at each instruction: a small model that follows them in order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

from neatpatch.core.guide.instruction import Act, Instruction
from neatpatch.core.visit.body import Body

Mouth = Literal["lens", "cap", "open"]


@dataclass
class CameraState:
    """The camera while a step is done. ``cover``: of a body that closes when it is off; None for
    those of which it is not known, until one has looked.
    """

    power: Literal["on", "off", "out"] = "off"
    mirror_up: bool = False
    cover_open: bool | None = True
    mouth: Mouth = "lens"
    gathered: bool = False
    fluid: Literal["none", "drops", "even"] = "none"


def faults(instructions: Iterable[Instruction], body: Body) -> list[str]:
    """What is wrong with the order of instructions for a body; empty when all is well."""
    state = CameraState(cover_open=None if body.closes_when_off is None else True)
    if body.closes_when_off:
        state.cover_open = False
    found = []
    for number, instruction in enumerate(instructions, 1):
        for act in instruction.acts:
            found += [f"{number}: {why}" for why in _wrong(act, state, body)]
            _done(act, state, body)
    if state.mouth == "open":
        found.append("the camera is left open")
    return found


def _wrong(act: Act, state: CameraState, body: Body) -> Iterator[str]:
    rules = _RULES.get(act)
    if rules is not None:
        yield from (why for broken, why in rules(state, body) if broken())


Rules = tuple[tuple[Callable[[], bool], str], ...]


def _before_opening(state: CameraState, _body: Body) -> Rules:
    return (
        (lambda: not state.gathered, "the camera is opened before everything is ready"),
        (lambda: state.fluid == "drops", "the camera is opened before the drops are even"),
    )


def _before_inside(state: CameraState, body: Body) -> Rules:
    mirror = body.access in ("mirror", "fixed_mirror")
    return (
        (lambda: state.mouth != "open", "something goes into a closed camera"),
        (lambda: mirror and not state.mirror_up, "the mirror is in the way"),
        (lambda: state.cover_open is not True, "a shutter may be in the way"),
    )


def _before_touching(state: CameraState, body: Body) -> Rules:
    holds = {"on": "on", "off": "off", "battery_out": "out", None: None}[body.hold_rule]
    floats = body.stabilised is not False and body.access != "digital_back"
    return (
        *_before_inside(state, body),
        (lambda: floats and state.power != holds, "the sensor is not held"),
        (lambda: state.fluid == "drops", "the drops are not even"),
    )


def _before_power_goes(state: CameraState, body: Body) -> Rules:
    holding = body.access == "mirror" and state.mirror_up
    holding = holding or (body.closes_when_off is True and state.cover_open is True)
    holding = holding or (body.hold_rule == "on" and state.power == "on")
    return (
        (
            lambda: holding and state.mouth == "open",
            "power that holds mirror, cover or sensor goes while the camera lies open",
        ),
    )


def _before_wetting(state: CameraState, body: Body) -> Rules:
    return (
        (
            lambda: state.mouth == "open" and body.access != "digital_back",
            "drops are put on while the camera lies open",
        ),
    )


def _before_retest(state: CameraState, body: Body) -> Rules:
    return (
        (
            lambda: state.mouth != "lens" and body.access not in ("digital_back", "fixed_lens"),
            "the retest has no lens",
        ),
    )


_RULES: dict[Act, Callable[[CameraState, Body], Rules]] = {
    "open": _before_opening,
    "air": _before_inside,
    "touch": _before_touching,
    "power_off": _before_power_goes,
    "battery_out": _before_power_goes,
    "wet": _before_wetting,
    "even": _before_wetting,
    "retest": _before_retest,
}


def _done(act: Act, state: CameraState, body: Body) -> None:
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
    state.gathered = state.gathered or act == "gather"
    if act == "power_on":
        state.power = "on"
    if act == "wet":
        state.fluid = "drops"
    if act == "even":
        state.fluid = "even"
