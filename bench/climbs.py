"""Random climbs of the ladder, each followed to its end: every one ends, and says why.

From a random situation the advice is followed: what it asks for is put right, steps come out by
chance, retests are shot as asked. ``python -m bench.climbs --count 1500``
"""

from __future__ import annotations

import argparse
from collections import Counter
from typing import Any

import numpy as np

from neatpatch.core.advice import Advice, Facts, advise
from neatpatch.simulation.situations import random_facts

COUNT = 1500
MOST_MOVES = 40
MOST_ALIKE = 3
"""The same request answered so often, and asked again, is a loop."""
ENDS = ("stop_done", "defer", "service", "retouch", "teardown")
_GOOD_CAMERA = {
    "battery_percent": 100,
    "mains": False,
    "under_guarantee": False,
    "contact_allowed_by_modifier": True,
    "temperature_c": None,
}
_GOOD_ROOM = {
    "temperature_c": 20,
    "humidity_percent": 45,
    "moving_air": False,
    "surface": "bare",
    "clean": True,
}
_BOUGHT: dict[str, dict[str, Any]] = {
    "gel_stick": {"matched_coating": True, "fresh_patches": 60},
    "dry_swab": {"quantity": 12, "sealed": True},
    "wet_swab": {"quantity": 12, "sealed": True},
    "corner_swab": {"quantity": 12, "sealed": True},
    "fluid": {"kit_own": True, "quantity": 20},
}


def climb(seed: int) -> tuple[str, str]:
    """How a climb ended, and what was wrong with that; nothing when all is well."""
    rng = np.random.default_rng(seed)
    facts = random_facts(seed)
    asked: Counter[str] = Counter()
    for _ in range(MOST_MOVES):
        found = advise(facts)
        move = found.decision
        if not found.why:
            return move, "no reason"
        if move in ENDS:
            return move, ""
        asked = Counter({move: asked[move] + 1})
        if move == "prepare" and not found.needs:
            return move, "prepare, and nothing to get or to put right"
        if move in ("prepare", "reshoot") and asked[move] > MOST_ALIKE:
            wanted = "; ".join(found.needs)
            return move, "" if move == "prepare" and found.needs else f"endless {move}: {wanted}"
        facts = _followed(facts, found, rng)
    return "still climbing", "no end"


def _followed(facts: Facts, found: Advice, rng: np.random.Generator) -> Facts:
    plain = facts.model_dump(mode="json")
    if found.decision == "prepare":
        _put_right(plain, found)
    elif found.decision == "reshoot":
        _shoot(plain)
    else:
        _step(plain, found, rng)
        _shoot(plain)
    return Facts.model_validate(plain)


def _put_right(plain: dict[str, Any], found: Advice) -> None:
    """What is asked for is answered, bought or set; the handbook says how the sensor is held."""
    plain["camera"] |= _GOOD_CAMERA
    plain["room"] |= _GOOD_ROOM
    camera = plain["camera"]
    needs_power = camera["access"] in ("mirror", None) or camera["closes_when_off"]
    camera["hold_rule"] = "on" if needs_power else camera["hold_rule"] or "off"
    camera["power"] = camera["hold_rule"]
    if camera["access"] in ("mirror", "fixed_mirror"):
        camera["mirror_up"] = True
    side = min(camera["sensor_mm"] or (36, 24))
    camera["sensor_mm"] = camera["sensor_mm"] or [36, 24]
    for item in found.lacks:
        bought = {"item": item, **_BOUGHT.get(item, {})}
        if item in ("dry_swab", "wet_swab"):
            bought["width_mm"] = side
        kinds = ("mild", "oil_dissolving", "alcohol_free") if item == "fluid" else (None,)
        plain["kit"] += [{**bought, "kind": kind} for kind in kinds]


def _shoot(plain: dict[str, Any]) -> None:
    """A frame as the recipe asks for it, moved, of this camera."""
    frame = plain["frame"] or {"spots": {"total": 4, "relevant": 4, "by_kind": {"speck": 4}}}
    plain["frame"] = frame | {
        "fit": True,
        "f_number": 22,
        "comparable": True,
        "site": "sensor",
        "site_proved": True,
        "unexplained": False,
    }
    if plain["done"]:
        plain["done"][-1]["tested"] = True


def _step(plain: dict[str, Any], found: Advice, rng: np.random.Generator) -> None:
    step, frame = found.decision, plain["frame"]
    empty: dict[str, Any] = {"total": 0, "relevant": 0, "by_kind": {}}
    spots: dict[str, Any] = frame["spots"] if frame else empty
    there = spots["relevant"] or 0
    gone = int(rng.binomial(there, rng.choice([0.0, 0.3, 0.9])))
    bad = step not in ("air", "auto_clean", "clean_lens") and rng.random() < 0.1
    result = "streaks" if bad else "cleared" if there and gone == there else "fewer"
    result = result if gone or bad else "no_change"
    done: dict[str, Any] = {"step": step, "tested": True, "result": result}
    if step in ("air", "auto_clean"):
        done |= {"opening": "down", "runs": 5} if step == "auto_clean" else {"opening": "down"}
    plain["done"].append(done)
    left = there - gone
    spots |= {"total": left, "relevant": left, "by_kind": {"residue" if bad else "speck": left}}
    if frame:
        frame |= {"spots": spots, "lens_marks": 0, "inside_filter": 0}
        frame["change"] = {"gone": gone, "stayed": left, "moved": 0, "new": 0}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=COUNT)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    ends: Counter[str] = Counter()
    faults: Counter[str] = Counter()
    for seed in range(options.seed, options.seed + options.count):
        end, fault = climb(seed)
        ends[end] += 1
        if fault:
            faults[fault] += 1
            print(f"seed {seed}: {fault}")
    print("| ended at | climbs |\n|---|---|")
    print("\n".join(f"| {end} | {n} |" for end, n in ends.most_common()))
    print(f"\n{options.count} climbs, {sum(faults.values())} without a proper end")
    raise SystemExit(1 if faults else 0)


if __name__ == "__main__":
    main()
