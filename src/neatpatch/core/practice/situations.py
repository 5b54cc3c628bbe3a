"""A situation in plain words, as somebody at the bench would tell it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from neatpatch.core.common.facts import (
    Access,
    CameraFacts,
    DoneStep,
    Facts,
    FrameFactsGiven,
    FrameSite,
    Item,
    Observed,
    RoomFacts,
    Where,
)
from neatpatch.core.common.items import thing_words
from neatpatch.core.common.records import Kind, Record
from neatpatch.core.common.words import counted, length, temperatures
from neatpatch.core.reports.step_words import STEP_WORDS, result_words

About = Literal["frame", "so far", "camera", "room", "kit", "you"]
_ACCESS = {
    "mirror": "Mirror body",
    "fixed_mirror": "Body with a fixed mirror",
    "mirrorless": "Mirrorless body",
    "fixed_lens": "Compact with a fixed lens",
    "digital_back": "Digital back",
}
_SITE: dict[FrameSite, str] = {
    "sensor": "on the sensor",
    "rear_lens": "on the rear lens glass",
    "front_lens": "on the front glass",
    "scene": "on the target",
}
_WHERE = {
    "spread": "spread over it",
    "edges": "along the edges",
    "middle": "in the middle",
    "single": "one alone",
}
_KINDS: dict[Kind, str] = {
    "speck": "speck",
    "fibre": "fibre",
    "droplet": "droplet",
    "residue": "smear",
    "soft": "soft blob",
}
_OBSERVED: dict[Observed, str] = {
    "metal_crumbs": "metal crumbs from the mount",
    "grit": "grit",
    "saliva": "a drop of saliva",
    "loupe_glint": "a glint under the loupe",
    "scratch_suspected": "a line that nothing moves",
    "gel_left": "gel left behind",
    "tip_bent": "a bent tip",
    "fluid_stood": "fluid that stood",
}
_HOLD = {
    "on": "held with power on",
    "off": "held with power off",
    "battery_out": "held with the battery out",
}


class Thing(Record):
    """One thing owned. ``doubtful``: something is wrong with it, or not known."""

    item: Item
    words: str
    doubtful: bool


class DrawnSituation(Record):
    """What of a situation can be drawn: frame, camera and kit; None is drawn as unknown."""

    framed: bool
    fit: bool | None
    by_kind: dict[Kind, int]
    where: Where | None
    site: FrameSite | None
    access: Access | None
    mirror_up: bool | None
    kit: tuple[Thing, ...]


class Line(Record):
    """One thing that is known, and what it is about."""

    about: About
    words: str


def drawn_situation(facts: Facts) -> DrawnSituation:
    """The facts that a drawing of the situation shows."""
    frame, camera = facts.frame or FrameFactsGiven(), facts.camera
    return DrawnSituation(
        framed=facts.frame is not None,
        fit=frame.fit,
        by_kind={k: int(n) for k, n in frame.spots.by_kind.items()},
        where=frame.where,
        site=frame.site,
        access=camera.access,
        mirror_up=camera.mirror_up,
        kit=kit_things(facts),
    )


def situation_lines(facts: Facts) -> tuple[Line, ...]:
    """All that is known, in the order in which one would tell it; what is missing is not told, but
    for what the judgement waits for.
    """
    lines = [
        *(("frame", w) for w in _frame(facts.frame)),
        *(("frame", f"Seen: {_OBSERVED[o]}.") for o in facts.observed),
        *(("so far", w) for w in _done(facts.done)),
        *(("camera", w) for w in _camera(facts.camera)),
        *(("room", w) for w in _room(facts.room)),
        *(("kit", w) for w in _kit(facts)),
        *(("you", w) for w in _you(facts)),
    ]
    return tuple(Line.model_validate({"about": about, "words": words}) for about, words in lines)


def _frame(frame: FrameFactsGiven | None) -> Iterator[str]:
    if frame is None:
        yield "There is no test frame yet."
        return
    aperture = f"At f/{frame.f_number:g}: " if frame.f_number else ""
    fit = {True: "fit to judge by", False: "not fit to judge by", None: "not checked"}[frame.fit]
    yield f"{aperture}{fit}." if aperture else f"The frame is {fit}."
    spots = frame.spots
    if spots.relevant is not None:
        kinds = ", ".join(
            counted(n, _KINDS[k], "fibres" if k == "fibre" else "")
            for k, n in spots.by_kind.items()
            if n
        )
        yield f"{spots.relevant} visible in your work" + (f" ({kinds} in all)." if kinds else ".")
    if spots.relevant != 0:
        yield f"{_place(frame)}."
    if frame.lens_marks:
        yield f"{counted(frame.lens_marks, 'soft shadow')} of the lens beside them."


def _place(frame: FrameFactsGiven) -> str:
    """Where the spots are, and how sure that is: never proved where it is unknown."""
    where = f", {_WHERE[frame.where]}" if frame.where else ""
    if frame.site in (None, "unsure"):
        return f"Sensor or lens: unknown{where}"
    proved = {True: " (proved)", False: " (not proved)", None: ""}[frame.site_proved]
    return f"They are {_SITE[frame.site]}{proved}{where}"


def _begun(words: str) -> str:
    return words[:1].upper() + words[1:]


def _done(done: tuple[DoneStep, ...]) -> Iterator[str]:
    if not done:
        yield "Nothing yet."
    for step in done:
        how = []
        if step.opening == "up":
            how.append("opening up")
        if step.drops is not None:
            how.append(counted(int(step.drops), "drop"))
        if step.tip_bent:
            how.append("the tip bent")
        used = f" ({', '.join(how)})" if how else ""
        parts = result_words(step.result, step.tested is not False)
        yield f"{STEP_WORDS[step.step]}{used}: {parts}."


def _size(sensor_mm: tuple[float, float]) -> str:
    return " by ".join(length(side) for side in sensor_mm)


def _camera(camera: CameraFacts) -> Iterator[str]:
    what = _ACCESS[camera.access] if camera.access else "A camera of unknown build"
    size = f", sensor {_size(camera.sensor_mm)}" if camera.sensor_mm else ""
    yield f"{what}{size}."
    if camera.access == "mirror" and camera.mirror_up is not None:
        yield f"Mirror {'up' if camera.mirror_up else 'down'}."
    if camera.stabilised is not False:
        rule = _HOLD[camera.hold_rule] if camera.hold_rule else "how it is held is not known"
        known = "Stabilised" if camera.stabilised else "Perhaps stabilised"
        yield f"{known}, {rule}."
    if camera.power is not None:
        power = {"on": "On", "off": "Off", "battery_out": "Off, the battery out"}[camera.power]
        battery = (
            "" if camera.battery_percent is None else f", battery {camera.battery_percent:g} %"
        )
        yield f"{power}{battery}{', on mains' if camera.mains else ''}."
    if camera.closes_when_off:
        yield "A shutter covers the sensor when off."
    if camera.under_guarantee is not False:
        yield "Under warranty." if camera.under_guarantee else "Warranty unknown."
    if camera.filter_removed:
        answer = {True: "allows contact", False: "forbids contact", None: "was not asked"}
        yield f"Filter removed; who did it {answer[camera.contact_allowed_by_modifier]}."
    if camera.temperature_c is not None and camera.temperature_c < 15:
        yield f"It comes in cold, {temperatures(camera.temperature_c)}."


def _room(room: RoomFacts) -> Iterator[str]:
    air = []
    if room.temperature_c is not None:
        air.append(temperatures(room.temperature_c))
    if room.humidity_percent is not None:
        air.append(f"{room.humidity_percent:g} % humidity")
    still = {True: "moving air", False: "still air", None: ""}[room.moving_air]
    surface = {"bare": "a bare table", "fabric": "a tablecloth"}.get(room.surface or "")
    clean = {True: "wiped down", False: "not wiped down", None: ""}[room.clean]
    parts = [*air, *(w for w in (still, surface, clean) if w)]
    if parts:
        yield f"{_begun(', '.join(parts))}."


def _kit(facts: Facts) -> Iterator[str]:
    names = [thing.words for thing in kit_things(facts)]
    yield f"{_begun(', '.join(names))}." if names else "There is nothing to clean with."


def kit_things(facts: Facts) -> tuple[Thing, ...]:
    """What is owned, in a few words each, with what is wrong with it."""
    things = []
    for item in facts.kit:
        marks = [
            word
            for said, word in (
                (item.expired, "expired"),
                (item.used, "used"),
                (item.quantity == 0, "none left"),
                (item.for_sensor is False, "not made for sensors"),
                (item.matched_coating is None and item.item == "gel_stick", "coating not checked"),
            )
            if said
        ]
        words = thing_words(item) + (f" ({', '.join(marks)})" if marks else "")
        things.append(Thing(item=item.item, words=words, doubtful=bool(marks)))
    return tuple(things)


def _you(facts: Facts) -> Iterator[str]:
    experience = facts.operator.experience
    who = {"novice": "a beginner", "practised": "practised", "expert": "an expert"}
    yield f"{_begun(who[experience])}." if experience else "Practice unknown."
    if facts.work.apertures:
        yield f"You work at {', '.join(f'f/{f:g}' for f in facts.work.apertures)}."
    if facts.job_in_days is not None:
        yield f"A job in {counted(int(facts.job_in_days), 'day')}."
    if facts.photos_waiting:
        yield f"{counted(facts.photos_waiting, 'picture waits', 'pictures wait')} to be patched."
