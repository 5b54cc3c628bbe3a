"""The one way from facts to advice."""

from __future__ import annotations

from neatpatch.core.advice.bars import barred_for
from neatpatch.core.advice.cautions import cautions_for
from neatpatch.core.advice.gates import WANTS, closed_gates
from neatpatch.core.advice.ladder import open_steps
from neatpatch.core.advice.rules import RULES, Rule, inside_words, rung
from neatpatch.core.advice.situation import Situation
from neatpatch.core.advice.streaks import streak_causes
from neatpatch.core.common.decisions import (
    CONTACT,
    OPENS,
    Advice,
    Alternative,
    Barred,
    CautionCode,
    Decision,
    Place,
    Question,
)
from neatpatch.core.common.facts import Facts, Item
from neatpatch.core.common.words import with_room

TITLES: dict[Decision, str] = {
    "stop_done": "Stop here: it is clean",
    "defer": "Leave it for now",
    "reshoot": "Shoot the test frame again",
    "clean_lens": "Clean the lens first",
    "auto_clean": "Let the camera shake it off",
    "air": "Blow it out from below",
    "brush": "One pass with the sensor brush",
    "lift": "Lift the specks off",
    "dry_swab": "One dry swab",
    "wet_swab": "One wet swab",
    "dry_followup": "Take the mark off with a dry swab",
    "corner_swab": "Fetch the edges with a narrow swab",
    "prepare": "Get ready first, touch nothing",
    "service": "Send it to a service",
    "teardown": "Open the camera",
    "retouch": "Patch the waiting pictures first",
}
_AIR_AGAIN = "Air once more, nearer and aimed at the places: one turn is not the end of air."
_OTHER_WAYS: dict[Decision, str] = {
    "brush": "Those who own a charged sensor brush try it before anything sticky.",
    "lift": "Others lift single specks: no grit is dragged.",
    "dry_swab": "Others sweep dry first.",
    "wet_swab": "Others go straight to one wet swab.",
}


def advise(facts: Facts) -> Advice:
    """Decide the next move. Never raises: missing facts are taken on the safe side."""
    s = Situation(facts)
    rule = deciding_rule(s)
    decision = rule.decide(s)
    barred = barred_for(s, decision)
    return Advice(
        decision=decision,
        title=_title(s, rule, decision),
        why=_why(s, rule),
        cautions=cautions_for(s, decision, _gate_cautions(s, decision)),
        barred=barred,
        needs=_needs(s, decision),
        alternatives=_alternatives(s, decision, barred),
        fix_in=_fix_in(s) if decision == "prepare" else (),
        asks=_asks(s, decision),
        lacks=_lacks(s) if decision == "prepare" else (),
        last_step=_last_step(s, rule),
        rule=rule.name,
    )


_PLACE_RULES = ("prove the place before touching", "place not proved")


def _title(s: Situation, rule: Rule, decision: Decision) -> str:
    if s.frame is None:
        return "Shoot a test frame"
    if decision == "reshoot" and rule.name in _PLACE_RULES:
        return "One more frame, the camera moved"
    if rule.name == "nothing in common":
        return "Are these frames of one camera?"
    return TITLES[decision]


def deciding_rule(s: Situation) -> Rule:
    """The first rule that holds; the last always does."""
    return next(rule for rule in RULES if rule.when(s))


def _why(s: Situation, rule: Rule) -> tuple[str, ...]:
    reasons = [rule.reason(s)]
    if last := _last_step(s, rule):
        reasons.append(last)
    if s.lens_marks and not s.lens_only and rule.decide(s) != "clean_lens":
        marks = "mark is" if s.lens_marks == 1 else "marks are"
        reasons.append(f"{s.lens_marks} soft {marks} on the lens and not counted here.")
    if s.inside_filter and rule.name != "inside the filter":
        reasons.append(f"{inside_words(s.inside_filter)} Not counted here; a service can.")
    if s.schools.check == "calendar_service" and s.facts.service.months_since_service is None:
        reasons.append(
            "You have it serviced by the calendar: enter with the camera when that was last done."
        )
    reasons += streak_causes(s)
    return tuple(reasons)


def _last_step(s: Situation, rule: Rule) -> str:
    """What the retest says of the step before it; empty where it was not compared."""
    if s.frame is None or s.frame.change is None or rule.decide(s) == "reshoot":
        return ""
    c = s.frame.change
    also = "".join(f", {n} {word}" for n, word in ((c.moved, "moved"), (c.new, "new")) if n)
    return f"The last step: {c.gone} removed, {c.stayed} stayed{also}."


def _gate_cautions(s: Situation, decision: Decision) -> tuple[CautionCode, ...]:
    if decision != "prepare":
        return ()
    step = rung(s)
    codes = [c for gate in closed_gates(s, step) for c in gate.cautions]
    if not s.tools.equipped(step) and step in WANTS:
        codes += WANTS[step].cautions
    return tuple(codes)


_LENS_NEEDS = (
    "The lens off and facing down, a torch to look at its rear glass, and the blower.",
    "The lens facing down, and a soft lens brush.",
    "A lens wipe for the lens's glass, used lightly; never on the sensor.",
)
_FIXED_NEEDS: dict[Decision, tuple[str, ...]] = {
    "auto_clean": ("The body cap on, the opening straight down; five runs.",),
    "teardown": (
        "A cross-head driver, a tray with places for three groups of screws, lint-free buds.",
    ),
}


def _needs(s: Situation, decision: Decision) -> tuple[str, ...]:
    if decision == "reshoot":
        return (
            f"The lens at f/{s.retest_f:g}, or at its smallest opening if it does not close that "
            "far; lowest ISO, focused by hand as far off as it goes.",
            "A plain even target; move the camera during the exposure, and stand elsewhere than "
            "for the frame before.",
        )
    if decision == "clean_lens":
        return (_LENS_NEEDS[min(s.turns.times("clean_lens"), len(_LENS_NEEDS) - 1)],)
    if decision == "prepare":
        return _to_prepare(s)
    if decision in OPENS:
        return (_lay_out(s, decision), "The cap, blown out, and a raised lamp.")
    return _FIXED_NEEDS.get(decision, ())


def _fix_in(s: Situation) -> tuple[Place, ...]:
    """Where what bars the next step is put right, what bars it first coming first."""
    step: Decision = "teardown" if s.camera.access == "fixed_lens" else rung(s)
    gates = closed_gates(s, step)
    kit: tuple[Place, ...] = ("kit",) if s.tools.missing(step) or not gates else ()
    return tuple(dict.fromkeys((*(gate.fix_in for gate in gates), *kit)))


def _lacks(s: Situation) -> tuple[Item, ...]:
    return s.tools.lacking("teardown" if s.camera.access == "fixed_lens" else rung(s))


def _asks(s: Situation, decision: Decision) -> tuple[Question, ...]:
    """What is asked now: whose hands it is before the first touch, then what bars the step.

    Hands not told of count as a beginner's, which may already have led to a service.
    """
    step = rung(s) if decision in ("prepare", "service") else decision
    unknown_hands = step in CONTACT and s.facts.operator.experience is None
    hands: tuple[Question, ...] = ("experience",) if unknown_hands else ()
    gates = closed_gates(s, step) if decision == "prepare" else []
    return tuple(dict.fromkeys((*hands, *(q for gate in gates for q in gate.asks))))


def _to_prepare(s: Situation) -> tuple[str, ...]:
    if s.camera.access == "fixed_lens":
        return s.tools.missing("teardown")
    step = rung(s)
    needs = [with_room(gate.need) for gate in closed_gates(s, step)]
    needs += s.tools.missing(step)
    if s.gritty and not s.tools.lift_tool:
        needs += s.tools.missing("lift")
    if s.gritty and not s.tools.strong_blower:
        needs.append("An electric blower with a filter, for stronger air.")
    return tuple(dict.fromkeys(needs))


def _lay_out(s: Situation, step: Decision) -> str:
    """What a step is done with, by the tool and the fluid that are owned."""
    tool = s.tools.tool_for(step)
    if tool is None:
        return WANTS[step].lay_out
    if step == "air" and s.tools.can_to_purge:
        return (
            "The gas can, which was upside down: stand it upright, and purge it away from the "
            "camera until only dry gas comes."
        )
    return _with_fluid(s, step, _SPECIAL.get(tool.item, WANTS[step].lay_out))


_SPECIAL: dict[Item, str] = {
    "gas_can": "The gas can, upright; purge it away from the camera first, then brief puffs.",
    "electric_blower": "The electric blower with its filter, run for a moment beside the camera.",
    "lens_brush": "The clean, new lens brush, used for nothing else.",
    "sterile_pad": "Sterile pads, still sealed, and clean hands to fold one over a fingertip.",
    "cloth_wand": "The wand and a fresh cloth, folded over it twice with one edge without a "
    "crease, and clipped.",
    "moist_wipe": "A moist wipe, still sealed: it is moist enough, no fluid on it.",
}


def _with_fluid(s: Situation, step: Decision, text: str) -> str:
    tool = s.tools.tool_for(step)
    wet = step in ("wet_swab", "corner_swab") and (tool is None or tool.item != "moist_wipe")
    if not wet or not s.tools.fluids:
        return text
    kind = (s.tools.fluids[0].kind or "").replace("_", "-")
    return f"{text} Of your fluids: the {kind} one."


def _alternatives(
    s: Situation, decision: Decision, barred: tuple[Barred, ...]
) -> tuple[Alternative, ...]:
    others = []
    if decision in (*CONTACT, "prepare") and s.turns.air_once_in_vain and s.tools.equipped("air"):
        others.append(Alternative(decision="air", why=_AIR_AGAIN))
    if decision in CONTACT:
        others += [
            Alternative(decision=step, why=_OTHER_WAYS[step])
            for step in open_steps(s)
            if step != decision and s.tools.equipped(step) and not closed_gates(s, step)
        ]
    if decision == "service" and deciding_rule(s).name == "lens did not help":
        others.append(Alternative(decision="reshoot", why="Shoot with another lens to be sure."))
    step = rung(s)
    touchless = step in ("auto_clean", "air") and not closed_gates(s, step)
    if decision == "clean_lens" and s.relevant and touchless and s.tools.equipped(step):
        others.append(Alternative(decision=step, why="The sensor's own dust can go first as well."))
    if decision in (*CONTACT, "prepare"):
        others.append(Alternative(decision="service", why="A service carries the risk for you."))
    if decision in (*CONTACT, "prepare", "service", "air"):
        others.append(
            Alternative(decision="defer", why="Work at wide apertures and patch the pictures.")
        )
    if (s.facts.photos_waiting or 0) > 0 and decision not in ("retouch", "stop_done"):
        others.append(
            Alternative(decision="retouch", why="Deliver first: one map patches all pictures.")
        )
    closed = {b.action for b in barred}
    return tuple(o for o in others if o.decision not in closed)
