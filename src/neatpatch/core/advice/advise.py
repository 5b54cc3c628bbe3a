"""The one way from facts to advice."""

from __future__ import annotations

from neatpatch.core.advice.bars import barred_for
from neatpatch.core.advice.cautions import cautions_for
from neatpatch.core.advice.gates import WANTS, shut_gates
from neatpatch.core.advice.ladder import contact_candidates
from neatpatch.core.advice.rules import RULES, Rule, rung
from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import (
    CONTACT,
    OPENS,
    Advice,
    Alternative,
    CautionCode,
    Decision,
)
from neatpatch.core.common.facts import Facts
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
    return Advice(
        decision=decision,
        title="Shoot a test frame" if s.frame is None else TITLES[decision],
        why=_why(s, rule),
        cautions=cautions_for(s, decision, _gate_cautions(s, decision)),
        barred=barred_for(s, decision),
        needs=_needs(s, decision),
        alternatives=_alternatives(s, decision),
        rule=rule.name,
    )


def deciding_rule(s: Situation) -> Rule:
    """The first rule that holds; the last always does."""
    return next(rule for rule in RULES if rule.when(s))


def _why(s: Situation, rule: Rule) -> tuple[str, ...]:
    reasons = [rule.reason(s)]
    if s.frame and s.frame.change and rule.decide(s) != "reshoot":
        c = s.frame.change
        reasons.append(
            f"The last step: {c.gone} gone, {c.stayed} stayed, {c.moved} moved, {c.new} new."
        )
    return tuple(reasons)


def _gate_cautions(s: Situation, decision: Decision) -> tuple[CautionCode, ...]:
    if decision != "prepare":
        return ()
    step = rung(s)
    codes = [c for gate in shut_gates(s, step) for c in gate.cautions]
    if not s.equipped(step) and step in WANTS:
        codes += WANTS[step].cautions
    return tuple(codes)


def _needs(s: Situation, decision: Decision) -> tuple[str, ...]:
    if decision == "reshoot":
        return (
            "The lens at f/16 to f/22, lowest ISO, focused by hand as far off as it goes.",
            "A plain even target; move the camera during the exposure.",
        )
    if decision == "auto_clean":
        return ("The body cap on, the opening straight down; five runs.",)
    if decision == "clean_lens":
        return ("A torch to look at the rear glass, a blower, a soft lens brush.",)
    if decision == "teardown":
        return (
            "A cross-head driver, a tray with places for three groups of screws, lint-free buds.",
        )
    if decision == "prepare":
        step = rung(s)
        needs = [with_room(gate.need) for gate in shut_gates(s, step)]
        if step in WANTS and not s.equipped(step):
            needs.append(WANTS[step].missing)
        if s.gritty and not s.lift_tool:
            needs.append(WANTS["lift"].missing)
        return tuple(needs)
    if decision in OPENS:
        return (WANTS[decision].lay_out, "The body cap, blown out, and a raised lamp.")
    return ()


def _alternatives(s: Situation, decision: Decision) -> tuple[Alternative, ...]:
    others = []
    if decision in CONTACT:
        others = [
            Alternative(decision=step, why=_OTHER_WAYS[step])
            for step in contact_candidates(s)
            if step != decision and s.equipped(step) and not shut_gates(s, step)
        ]
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
    return tuple(others)
