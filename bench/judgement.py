"""Thousands of random situations judged, and each answer held against rules of its own.

The rules are written anew from the field guide and do not ask the judgement's own questions:
nothing contradicts itself, nothing touches where it must not, a hazard never makes advice bolder,
and every answer says why.

``python -m bench.judgement --count 20000 --seed 1``
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

from neatpatch.core.advice import Advice, Facts, advise
from neatpatch.core.advice.rules import RULES
from neatpatch.core.common.decisions import CONTACT, SWABS
from neatpatch.core.common.facts import KitItem
from neatpatch.core.plans.drying import plan_drying
from neatpatch.core.plans.swab import plan_swab
from neatpatch.simulation.situations import random_facts

COUNT = 20_000
MOST_WORDS, TOLD = 150, 5
"""Words beside the next move, and the cautions among them that are told at once."""
BOLDNESS = {"air": 1, "lift": 2, "brush": 2, "dry_swab": 3, "dry_followup": 3, "corner_swab": 4}
BOLDNESS |= {"wet_swab": 4, "teardown": 5}
"""How much harm a step can do; all that touches nothing is 0."""


def violations(facts: Facts) -> Iterator[str]:
    """What is wrong with the advice on these facts; nothing when all is well."""
    found = advise(facts)
    yield from _contradictions(found)
    if found.decision in CONTACT:
        yield from _unsafe(facts, found)
        yield from _against_its_plan(facts, found)
    if found.decision == "air":
        yield from _unsafe_air(facts)
    if found.decision == "stop_done":
        yield from _unfounded(facts)
    if advise(facts) != found:
        yield "another answer to the same facts"


def _contradictions(found: Advice) -> Iterator[str]:
    barred = {b.action for b in found.barred}
    if found.decision in barred:
        yield f"{found.decision} is advised and barred"
    for other in found.alternatives:
        if other.decision in barred or other.decision == found.decision:
            yield f"{other.decision} is offered and barred, or advised already"
    if not found.title or not found.why or not all(w.strip().endswith(".") for w in found.why):
        yield f"not explained: {found.why}"
    if found.rule not in {rule.name for rule in RULES if rule.reads}:
        yield f"no rule: {found.rule}"
    hands = {"prepare", "reshoot", "clean_lens", "auto_clean", "air", *CONTACT}
    if found.decision in hands and not found.needs:
        yield f"{found.decision} needs nothing"
    fresh = [c.text for c in found.cautions if not c.said_before][:TOLD]
    if len(" ".join((found.title, *found.why, *found.needs, *fresh)).split()) > MOST_WORDS:
        yield "more words than one reads"
    if len({c.code for c in found.cautions}) < len(found.cautions):
        yield "a caution twice"
    if any("_" in text for text in (*found.why, *found.needs, *(b.text for b in found.barred))):
        yield "a code among the words"


def _unsafe(facts: Facts, found: Advice) -> Iterator[str]:
    step, camera, frame, room = found.decision, facts.camera, facts.frame, facts.room
    floats = camera.stabilised is not False and camera.access != "digital_back"
    good = [i for i, d in enumerate(facts.done) if d.result in ("fewer", "cleared")]
    since = facts.done[good[-1] + 1 :] if good else facts.done
    bad = [d for d in since if d.step in CONTACT and d.result in ("worse", "streaks")]
    full = camera.mains is True or (camera.battery_percent or 0) >= 95
    checks = {
        "no fit frame": frame is None or frame.fit is not True,
        "place unproved": frame is None or frame.site != "sensor" or frame.site_proved is False,
        "nothing to clean": frame is not None
        and frame.spots.relevant == 0
        and facts.schools.act_on != "visible",
        "last step untested": bool(facts.done) and facts.done[-1].tested is not True,
        "retest not comparable": bool(facts.done)
        and frame is not None
        and frame.comparable is False,
        "hold unknown": floats and camera.hold_rule is None,
        "not held": floats and camera.power != camera.hold_rule,
        "hold by power, battery low": floats and camera.hold_rule == "on" and not full,
        "sensor covered": camera.closes_when_off is True and camera.power != "on",
        "mirror on a low battery": camera.access in ("mirror", None) and not full,
        "warranty": camera.under_guarantee is not False,
        "filter removed": camera.filter_removed is True
        and camera.contact_allowed_by_modifier is not True,
        "sealed": camera.access == "fixed_lens",
        "room": room.moving_air is not False or room.surface != "bare" or room.clean is not True,
        "scratch or spit": bool({"scratch_suspected", "saliva"} & set(facts.observed)),
        "grit slides": bool({"grit", "metal_crumbs"} & set(facts.observed)) and step != "lift",
        "two bad turns, none good since": len(bad) >= 2,
        "third wet swab": step == "wet_swab" and sum(d.step == "wet_swab" for d in facts.done) >= 2,
        "sent out": facts.schools.contact_by == "send_out",
        "novice": facts.operator.experience in (None, "novice")
        and facts.schools.contact_by != "self",
        "eve of a job": facts.job_in_days == 0,
        "no air before": facts.schools.air != "skip"
        and not any(d.step == "air" and d.opening != "up" and d.tested for d in facts.done),
        "gel on fluid": step == "lift"
        and frame is not None
        and bool(frame.spots.by_kind)
        and not frame.spots.by_kind.get("speck")
        and not frame.spots.by_kind.get("fibre")
        and any(frame.spots.by_kind.values()),
        "a dry tool through droplets": step in ("brush", "dry_swab")
        and frame is not None
        and bool(frame.spots.by_kind.get("droplet", 0) + frame.spots.by_kind.get("residue", 0)),
        "air only moved them, whatever its label says": _only_stirred(facts),
        "gel again": step == "lift" and "gel_left" in facts.observed,
    }
    yield from (f"{step}: {name}" for name, wrong in checks.items() if wrong)


def _only_stirred(facts: Facts) -> bool:
    """The first turn of air moved most of what was there, by the counts of its retest."""
    change = facts.frame.change if facts.frame else None
    turns = [d for d in facts.done if d.step == "air"]
    if change is None or len(turns) != 1 or facts.done[-1] != turns[0]:
        return False
    there = change.gone + change.stayed + change.moved
    skipped = facts.schools.air == "skip" or turns[0].result == "worse"
    return change.moved > 0.5 * there and not skipped and turns[0].tested is True


def _unsafe_air(facts: Facts) -> Iterator[str]:
    camera, room = facts.camera, facts.room
    full = camera.mains is True or (camera.battery_percent or 0) >= 95
    if camera.closes_when_off is True and camera.power != "on":
        yield "air on what covers the sensor"
    if camera.access in ("mirror", None) and not full:
        yield "air under a mirror on a low battery"
    if room.moving_air is True or room.surface == "fabric" or room.clean is False:
        yield "air in an unfit room"
    if camera.access == "fixed_lens":
        yield "air into a sealed camera"


def _usable(facts: Facts, *names: str) -> list[KitItem]:
    return [
        k
        for k in facts.kit
        if k.item in names
        and k.expired is not True
        and k.used is not True
        and k.quantity != 0
        and k.fresh_patches != 0
    ]


def _against_its_plan(facts: Facts, found: Advice) -> Iterator[str]:
    step, room, sensor = found.decision, facts.room, facts.camera.sensor_mm
    if step in ("wet_swab", "corner_swab"):
        if room.temperature_c is None or room.humidity_percent is None:
            yield f"{step}: drying unknown"
        elif plan_drying(room.temperature_c, room.humidity_percent).verdict != "good":
            yield f"{step}: the drying plan says no"
        back = facts.camera.access == "digital_back" or bool(_usable(facts, "cloth_wand"))
        wiped = back and _usable(facts, "moist_wipe")
        if not wiped and not _usable(facts, "fluid"):
            yield f"{step}: no fluid"
        failed = {d.fluid for d in facts.done if d.result in ("no_change", "streaks", "worse")}
        left = [k for k in _usable(facts, "fluid") if k.kind and k.kind not in failed]
        if step == "wet_swab" and not wiped and not left:
            yield f"{step}: only fluids that failed"
    if step == "lift" and not _usable(facts, "gel_stick", "silicone_pad"):
        yield "lift: nothing to lift with"
    if step == "brush" and not _usable(facts, "charged_brush", "lens_brush"):
        yield "brush: none"
    if step in SWABS and step != "corner_swab":
        names = ("dry_swab", "sterile_pad", "wet_swab", "cloth_wand", "moist_wipe")
        tools = _usable(facts, *(n for n in names if n != "dry_swab" or step != "wet_swab"))
        soft = [k for k in tools if k.item in ("sterile_pad", "moist_wipe")]
        fits = [k for k in tools if k.width_mm and sensor and plan_swab(sensor, k.width_mm).fits]
        if not fits and not soft:
            yield f"{step}: no tool that its plan takes"


def _unfounded(facts: Facts) -> Iterator[str]:
    frame = facts.frame
    if frame is None or frame.fit is not True:
        yield "stopped without a fit frame"
        return
    if frame.site == "scene":
        return
    wanted = min(max(facts.work.apertures, default=16), 22)
    if frame.f_number is None or frame.f_number < 0.97 * wanted:
        yield f"all clear from f/{frame.f_number} for work at f/{wanted}"
    if facts.done and facts.done[-1].tested is not True:
        yield "stopped before the retest"


Hazard = Callable[[Facts], Facts]


def _changed(part: str, **values: Any) -> Hazard:
    def change(facts: Facts) -> Facts:
        told = getattr(facts, part)
        if told is None:
            return facts
        return facts.model_copy(update={part: told.model_copy(update=values)})

    return change


def _saw(what: str) -> Hazard:
    return lambda f: f.model_copy(update={"observed": (*f.observed, what)})


def _place_not_told(facts: Facts) -> Facts:
    if facts.frame is None or facts.frame.site != "sensor":
        return facts
    return _changed("frame", site=None, site_proved=None)(facts)


def _room_not_told(facts: Facts) -> Facts:
    """Only of a room that is not known to be bad: forgetting that would be no hazard."""
    room = facts.room
    if room.moving_air or room.surface == "fabric" or room.clean is False:
        return facts
    return _changed("room", moving_air=None, surface=None, clean=None)(facts)


HAZARDS: dict[str, Hazard] = {
    "place unproved": _changed("frame", site_proved=False),
    "place unsure": _changed("frame", site="unsure"),
    "place not told": _place_not_told,
    "frame unfit": _changed("frame", fit=False),
    "a wide frame": _changed("frame", f_number=8),
    "hold unknown": _changed("camera", stabilised=None, hold_rule=None),
    "warranty": _changed("camera", under_guarantee=True),
    "warranty unknown": _changed("camera", under_guarantee=None),
    "battery low": _changed("camera", battery_percent=40, mains=False),
    "closes when off": _changed("camera", closes_when_off=True),
    "filter removed": _changed("camera", filter_removed=True, contact_allowed_by_modifier=None),
    "modifier says no": _changed("camera", filter_removed=True, contact_allowed_by_modifier=False),
    "fan": _changed("room", moving_air=True),
    "room not told": _room_not_told,
    "damp": _changed("room", humidity_percent=90),
    "novice": _changed("operator", experience=None),
    "grit": _saw("grit"),
    "spit": _saw("saliva"),
    "scratch": _saw("scratch_suspected"),
    "tools gone": lambda f: f.model_copy(update={"kit": ()}),
    "job today": lambda f: f.model_copy(update={"job_in_days": 0.0}),
    "untested": lambda f: f.model_copy(
        update={"done": (*f.done[:-1], f.done[-1].model_copy(update={"tested": False}))}
        if f.done
        else {}
    ),
}


STEERS = ("grit", "job today")
"""They put touchless moves in place of others, which is no boldness."""
EACH = 5
"""Hazards tried on one situation, in turn; all of them on each would take an hour."""


def bolder(facts: Facts, turn: int) -> Iterator[str]:
    """Hazards that make the advice on these facts bolder; none should. ``turn`` chooses them."""
    before = advise(facts).decision
    names = list(HAZARDS)
    for name in (names[(turn * EACH + i) % len(names)] for i in range(EACH)):
        after = advise(HAZARDS[name](facts)).decision
        allowed = max(BOLDNESS.get(before, 0), 1 if name in STEERS else 0)
        if BOLDNESS.get(after, 0) > allowed:
            yield f"{name}: {before} becomes {after}"
        if after == "stop_done" != before:
            yield f"{name}: {before} becomes an all-clear"


def judged(count: int, seed: int) -> tuple[Counter[str], Counter[str], dict[str, int]]:
    """Decisions and faults of so many situations, and the seed that first showed each fault."""
    wrong, decisions = Counter[str](), Counter[str]()
    example: dict[str, int] = {}
    for n in range(count):
        own = seed * 1_000_000 + n
        facts = random_facts(own)
        decisions[advise(facts).decision] += 1
        for text in (*violations(facts), *bolder(facts, n)):
            wrong[text] += 1
            example.setdefault(text, own)
    return decisions, wrong, example


def main() -> int:
    parser = argparse.ArgumentParser(prog="bench.judgement", description=__doc__)
    parser.add_argument("--count", type=int, default=COUNT)
    parser.add_argument("--seed", type=int, default=1)
    args = parser.parse_args()
    start = time.perf_counter()
    decisions, wrong, example = judged(args.count, args.seed)
    print("| decision | times |\n|---|---|")
    for decision, times in decisions.most_common():
        print(f"| {decision} | {times} |")
    seconds = time.perf_counter() - start
    print(f"\n{args.count} situations, {sum(wrong.values())} violations, {seconds:.0f} s")
    for text, times in wrong.most_common():
        print(f"  - {times} x {text} (seed {example[text]})")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
