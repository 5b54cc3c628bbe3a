"""What must not be done now, and why: contact steps first, then things that never belong there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from neatpatch.core.advice.gates import FLUID_STEPS, closed_gates
from neatpatch.core.advice.ladder import SLIDES, air_skipped
from neatpatch.core.advice.situation import Situation
from neatpatch.core.advice.turns import MOST_BAD_TURNS
from neatpatch.core.common.decisions import CONTACT, Barred, Decision

Answer = Callable[[Situation, Decision], bool]


@dataclass(frozen=True)
class Bar:
    """A reason that bars a step."""

    code: str
    text: str
    holds: Answer


def _wrong_tool(s: Situation, step: Decision) -> bool:
    return step in ("dry_swab", "wet_swab", "dry_followup") and s.tools.wrong_width(step)


def _unfit_stick(s: Situation, step: Decision) -> bool:
    return step == "lift" and s.tools.has_named("gel_stick") and not s.tools.lift_tool


def _streak_left(s: Situation, step: Decision) -> bool:
    if step == "corner_swab":
        return s.turns.streaked
    return step == "wet_swab" and (s.turns.streaked or s.saw("fluid_stood"))


STEP_BARS: tuple[Bar, ...] = (
    Bar(
        "needless",
        "Nothing visible in the work is left to clean.",
        lambda s, _: s.relevant == 0 and s.frame_fit,
    ),
    Bar("unfit_frame", "Not before a frame that can be relied on.", lambda s, _: not s.frame_fit),
    Bar(
        "untested",
        "Not before the last step has been checked by a frame.",
        lambda s, _: s.turns.untested or s.not_comparable,
    ),
    Bar(
        "not_on_sensor",
        "It is not on the sensor, or not known to be.",
        lambda s, _: s.site != "sensor",
    ),
    Bar(
        "place_unproved",
        "The place is not proved: one more frame, the camera moved.",
        lambda s, _: not s.place_proved,
    ),
    Bar(
        "scratch",
        "It may be a scratch: do not wipe on.",
        lambda s, _: s.saw("scratch_suspected") or s.service_left_a_mark,
    ),
    Bar("spit", "Spit is smeared by home cleaning.", lambda s, _: s.saw("saliva")),
    Bar(
        "stop_here", "Two turns went wrong: stop.", lambda s, _: s.turns.bad_turns >= MOST_BAD_TURNS
    ),
    Bar("sealed", "The lens does not come off.", lambda s, _: s.camera.access == "fixed_lens"),
    Bar("guarantee", "The body is under warranty.", lambda s, _: s.camera.under_guarantee is True),
    Bar(
        "air_first",
        "Air always before contact.",
        lambda s, _: not s.turns.air_done and not air_skipped(s),
    ),
    Bar("left_to_service", "Contact is left to a service.", lambda s, _: s.sends_out),
    Bar(
        "novice_fluid",
        "Fluid is no work for the first times.",
        lambda s, step: s.novice and step in FLUID_STEPS,
    ),
    Bar(
        "modifier",
        "The modifier of this body forbids it.",
        lambda s, _: s.modifier_forbids,
    ),
    Bar("grit", "Grit was seen: nothing may slide.", lambda s, step: s.gritty and step in SLIDES),
    Bar(
        "streaks",
        "After streaks, more fluid makes more marks.",
        _streak_left,
    ),
    Bar(
        "too_many",
        "Two wet swabs are enough.",
        lambda s, step: step == "wet_swab" and s.turns.times("wet_swab") >= 2,
    ),
    Bar(
        "gel_left",
        "Gel was left behind: no more of it.",
        lambda s, step: step == "lift" and s.saw("gel_left"),
    ),
    Bar("wrong_width", "Its width does not suit this sensor.", _wrong_tool),
    Bar("wrong_gel", "The stick does not suit this coating, or is used up.", _unfit_stick),
    Bar(
        "wrong_fluid",
        "No fluid owned suits this dirt.",
        lambda s, step: (
            step in FLUID_STEPS
            and bool(s.tools.owned("fluid"))
            and not s.tools.fluids
            and s.camera.access != "digital_back"
        ),
    ),
    Bar(
        "smears",
        "Fluid marks and oil are smeared by dry tools.",
        lambda s, step: (
            (step in ("brush", "dry_swab") and s.would_smear)
            or (step == "lift" and s.stain != "dust")
        ),
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
    barred += [Barred(action="air", code=g.code, text=g.why) for g in closed_gates(s, "air")[:1]]
    barred += [Barred(action=a, code=c, text=t, always=True) for a, c, t in NEVER]
    if decision != "clean_lens":
        barred += [Barred(action=a, code=c, text=t, always=True) for a, c, t in NOT_FOR_SENSORS]
        if s.tools.brush is None or s.tools.brush.item != "lens_brush":
            barred.append(
                Barred(
                    action="lens_brush",
                    code="not_for_sensors",
                    text="A lens brush carries grease and sheds.",
                    always=True,
                )
            )
    if not s.tools.gas_can_allowed:
        barred.append(
            Barred(
                action="gas_can",
                code="propellant",
                text="Spray cans spit propellant and freeze what they hit.",
                always=True,
            )
        )
    if s.camera.access == "mirror" and not s.full_power:
        barred.append(
            Barred(
                action="raise_mirror", code="full_power", text="Not on a battery that is not full."
            )
        )
    if s.camera.access == "fixed_lens" and decision != "teardown":
        barred.append(
            Barred(
                action="teardown",
                code="repair_skill",
                text="Only with repair skill, its tools, and no warranty to lose.",
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
    gates = closed_gates(s, step)
    for bar in STEP_BARS:
        if bar.holds(s, step):
            return Barred(action=step, code=bar.code, text=bar.text)
    if gates:
        return Barred(action=step, code=gates[0].code, text=gates[0].why)
    missing = s.tools.missing(step)
    if missing:
        return Barred(action=step, code="not_in_kit", text=missing[0])
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
    "stop_done": "Nothing visible in the work is left to clean.",
    "retouch": "The pictures come first.",
    "teardown": "The camera is opened instead.",
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
    owned, rank = s.tools.owned("fluid"), s.tools.fluid_rank
    best = max((rank(k) for k in s.tools.fluids), default=1)
    kinds = {k.kind or "unknown" for k in owned if rank(k) < best}
    kinds |= {k.kind for k in owned if k.kind and k.kind in s.turns.failed_fluids}
    return [
        Barred(
            action=f"fluid:{kind}", code="wrong_fluid", text=f"{_words(kind)} does not suit this."
        )
        for kind in sorted(kinds)
    ]


def _words(kind: str) -> str:
    return f"{kind.replace('_', ' ').capitalize()} fluid"
