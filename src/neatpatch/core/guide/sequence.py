"""What the camera must be doing at each instruction: a small model that follows them in order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from neatpatch.core.guide.camera_state import CameraState, as_found, do
from neatpatch.core.guide.instruction import Act, Instruction
from neatpatch.core.visit.body import Body


def faults(instructions: Iterable[Instruction], body: Body) -> list[str]:
    """What is wrong with the order of instructions for a body; empty when all is well."""
    state = as_found(body)
    found = []
    for number, instruction in enumerate(instructions, 1):
        for act in instruction.acts:
            found += [f"{number}: {why}" for why in _wrong(act, state, body)]
            do(act, state, body)
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


def _before_air(state: CameraState, body: Body) -> Rules:
    return (
        *_before_inside(state, body),
        (lambda: state.lies != "down", "what air loosens falls back in"),
    )


def _before_touching(state: CameraState, body: Body) -> Rules:
    holds = {"on": "on", "off": "off", "battery_out": "out", None: None}[body.hold_rule]
    floats = body.stabilised is not False and body.access != "digital_back"
    return (
        *_before_inside(state, body),
        (lambda: state.lies != "back", "a tool goes into a camera that does not lie on its back"),
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


def _before_clearing(state: CameraState, _body: Body) -> Rules:
    return ((lambda: state.mouth == "open", "a blower is cleared beside an open camera"),)


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
    "air": _before_air,
    "clear": _before_clearing,
    "charge": _before_clearing,
    "sheen": _before_inside,
    "touch": _before_touching,
    "power_off": _before_power_goes,
    "battery_out": _before_power_goes,
    "wet": _before_wetting,
    "even": _before_wetting,
    "retest": _before_retest,
}
