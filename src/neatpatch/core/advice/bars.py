"""What must not be done now, and why: contact steps first, then things that never belong there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.gates import shut_gates
from neatpatch.core.advice.ladder import SLIDES
from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import CONTACT, Barred, Decision

Answer = Callable[[Situation, Decision], bool]


@dataclass(frozen=True)
class Bar:
    """A reason that bars a step."""

    code: str
    text: str
    holds: Answer


def _wrong_tool(s: Situation, step: Decision) -> bool:
    names = {"dry_swab": "dry_swab", "wet_swab": "wet_swab", "dry_followup": "dry_swab"}
    return step in names and s.wrong_width(names[step])


def _unfit_stick(s: Situation, step: Decision) -> bool:
    return step == "lift" and s.has_named("gel_stick") and not s.lift_tool


def _used_up(s: Situation, step: Decision) -> bool:
    return (
        step in ("dry_swab", "wet_swab", "corner_swab") and s.has_named(step) and not s.owned(step)
    )


STEP_BARS: tuple[Bar, ...] = (
    Bar(
        "needless",
        "Nothing that matters is left to clean.",
        lambda s, _: s.relevant == 0 and s.frame_fit,
    ),
    Bar("unfit_frame", "Not before a frame that can be relied on.", lambda s, _: not s.frame_fit),
    Bar(
        "untested",
        "Not before the last step has been checked by a frame.",
        lambda s, _: s.untested or s.not_comparable,
    ),
    Bar(
        "not_on_sensor",
        "It is not known to be on the sensor.",
        lambda s, _: s.site in ("rear_lens", "front_lens", "scene", "unsure"),
    ),
    Bar("scratch", "It may be a scratch: do not wipe on.", lambda s, _: s.saw("scratch_suspected")),
    Bar("spit", "Spit is smeared by home cleaning.", lambda s, _: s.saw("saliva")),
    Bar("stop_here", "Two turns went wrong: stop.", lambda s, _: s.bad_turns >= 2 or s.worse_twice),
    Bar("sealed", "The lens does not come off.", lambda s, _: s.camera.access == "fixed_lens"),
    Bar("guarantee", "The body is under guarantee.", lambda s, _: s.camera.under_guarantee is True),
    Bar("air_first", "Air always before contact.", lambda s, _: not s.air_done),
    Bar("left_to_service", "Contact is left to a service.", lambda s, _: s.sends_out),
    Bar("grit", "Grit was seen: nothing may slide.", lambda s, step: s.gritty and step in SLIDES),
    Bar(
        "streaks",
        "After streaks, more fluid makes more marks.",
        lambda s, step: (
            step in ("wet_swab", "corner_swab") and (s.streaked or s.saw("fluid_stood"))
        ),
    ),
    Bar(
        "too_many",
        "Two wet swabs are enough.",
        lambda s, step: step == "wet_swab" and s.times("wet_swab") >= 2,
    ),
    Bar(
        "gel_left",
        "Gel was left behind: no more of it.",
        lambda s, step: step == "lift" and s.saw("gel_left"),
    ),
    Bar("wrong_width", "Its width does not suit this sensor.", _wrong_tool),
    Bar("wrong_gel", "The stick does not suit this coating, or is used up.", _unfit_stick),
    Bar("used_up", "What is owned is used up.", _used_up),
    Bar(
        "wrong_fluid",
        "No fluid owned suits this dirt.",
        lambda s, step: (
            step == "wet_swab"
            and bool(s.owned("fluid"))
            and not s.fluids
            and s.camera.access != "digital_back"
        ),
    ),
    Bar(
        "smears",
        "Fluid marks and oil are smeared by dry tools.",
        lambda s, step: step in ("brush", "lift", "dry_swab") and s.stain != "dust",
    ),
    Bar("job_at_hand", "Not on the eve of a job.", lambda s, _: s.job_at_hand),
)

NEVER: tuple[tuple[str, str, str], ...] = (
    ("mouth_air", "moisture", "Mouth air carries spit and damp."),
    ("tweezers", "scratches", "Tweezers scratch."),
    ("carbon_pen", "not_for_sensors", "A carbon-tip pen leaves carbon and presses hard."),
    ("reuse_swab", "single_use", "A used swab carries the dirt back."),
)
NOT_FOR_SENSORS: tuple[tuple[str, str, str], ...] = (
    ("lens_wipe", "not_for_sensors", "Lens wipes are too coarse for a sensor."),
    ("lens_fluid", "not_for_sensors", "Lens fluid leaves a film on a sensor."),
    ("cloth", "not_for_sensors", "Cloth drags grit and sheds lint."),
)


def barred_for(s: Situation, decision: Decision) -> tuple[Barred, ...]:
    """Everything that is unsafe or needless now; the decision itself is never among it."""
    barred = [b for step in CONTACT if step != decision and (b := _step(s, step, decision))]
    barred += [Barred(action=a, code=c, text=t) for a, c, t in NEVER]
    if decision != "clean_lens":
        barred += [Barred(action=a, code=c, text=t) for a, c, t in NOT_FOR_SENSORS]
        if s.schools.brush != "clean_lens_brush":
            barred.append(
                Barred(
                    action="lens_brush",
                    code="not_for_sensors",
                    text="A lens brush carries grease and sheds.",
                )
            )
    if not s.gas_can_allowed:
        barred.append(
            Barred(
                action="gas_can",
                code="propellant",
                text="Spray cans spit propellant and freeze what they hit.",
            )
        )
    if s.camera.access == "mirror" and not s.full_power:
        barred.append(
            Barred(
                action="raise_mirror", code="full_power", text="Not on a battery that is not full."
            )
        )
    if decision not in ("stop_done", "defer", "service", "teardown", "retouch"):
        barred.append(
            Barred(
                action="stop_done",
                code="not_shown_clean",
                text="No fit frame has shown it clean yet.",
            )
        )
    return tuple(barred + _fluids(s))


def _step(s: Situation, step: Decision, decision: Decision) -> Barred | None:
    gates = shut_gates(s, step)
    for bar in STEP_BARS:
        if bar.holds(s, step):
            return Barred(action=step, code=bar.code, text=bar.text)
    if gates:
        return Barred(action=step, code=gates[0].code, text=gates[0].why)
    if decision in _HANDS_OFF:
        return Barred(action=step, code="not_now", text=_HANDS_OFF[decision])
    if _later(step) > _later(decision):
        return Barred(action=step, code="gentler_first", text="A gentler step comes first.")
    return None


_HANDS_OFF: dict[Decision, str] = {
    "service": "It goes to a service now.",
    "defer": "Not now.",
    "prepare": "Touch nothing until all is ready.",
    "reshoot": "Not before the next frame.",
    "clean_lens": "The lens comes first.",
    "stop_done": "Nothing that matters is left to clean.",
}
_ORDER: tuple[Decision, ...] = (
    "auto_clean",
    "air",
    "brush",
    "lift",
    "dry_swab",
    "dry_followup",
    "wet_swab",
    "corner_swab",
)


def _later(step: Decision) -> int:
    return _ORDER.index(step) if step in _ORDER else len(_ORDER)


def _fluids(s: Situation) -> list[Barred]:
    kinds = {k.kind or "unknown" for k in s.owned("fluid") if s.fluid_rank(k) == 0}
    better = any(s.fluid_rank(k) == 2 for k in s.owned("fluid"))
    kinds |= {k.kind or "unknown" for k in s.owned("fluid") if better and s.fluid_rank(k) == 1}
    return [
        Barred(
            action=f"fluid:{kind}", code="wrong_fluid", text=f"{_words(kind)} does not suit this."
        )
        for kind in sorted(kinds)
    ]


def _words(kind: str) -> str:
    return f"{kind.replace('_', ' ').capitalize()} fluid"
