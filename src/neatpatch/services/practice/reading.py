"""*Read the frame*: tell marks apart on two frames, and tell whether a frame is fit to judge by."""

from __future__ import annotations

import math
from collections import Counter
from functools import lru_cache
from typing import Literal, get_args

import cv2
from pydantic import Field

from neatpatch.core.common.records import Given, Number, Record
from neatpatch.core.common.words import counted
from neatpatch.simulation.lesson import (
    LESSON_CAMERA,
    Flaw,
    LessonMark,
    MarkKind,
    flawed_frame,
    flawed_shot,
    lesson_frame,
    lesson_marks,
)

FrameTopic = Literal["tell the marks", "fit or not"]
FRAME_TOPICS: tuple[FrameTopic, ...] = get_args(FrameTopic)
Remedy = Literal["read_it", "less_light", "more_light", "stop_down", "lowest_iso", "even_target"]
_REMEDIES: dict[Remedy, str] = {
    "read_it": "It is fit: read it.",
    "less_light": "Expose one to two stops less, to a mid-grey.",
    "more_light": "Expose longer, to a mid-grey.",
    "stop_down": "Stop down to f/16 or f/22.",
    "lowest_iso": "Use the lowest ISO, and expose longer.",
    "even_target": "Choose an even target, without edges and shadows.",
}
_RIGHT: dict[Flaw, tuple[Remedy, str]] = {
    "none": ("read_it", "Even, mid-grey, stopped down, at the lowest ISO: dust shows."),
    "too_bright": ("less_light", "Most of it is clipped to white, where dust cannot be seen."),
    "too_dark": ("more_light", "It is nearly black: noise hides all but the darkest dust."),
    "open_aperture": (
        "stop_down",
        "The aperture was open: each shadow is spread so wide that it hardly shows.",
    ),
    "grainy": ("lowest_iso", "Grain of the high ISO hides small dust, and looks like it."),
    "window": ("even_target", "The bars of a window lie over it: what lies on them is not told."),
}
_NAMES: dict[MarkKind, str] = {
    "speck": "a speck",
    "fibre": "a fibre",
    "droplet": "a droplet",
    "residue": "residue",
    "lens": "dust on the lens",
    "wall": "a mark of the wall",
    "hot": "a hot pixel",
}
_WHY: dict[MarkKind, str] = {
    "speck": "small, dark, sharp, and in the same place on both frames",
    "fibre": "a thin, dark, sharp line",
    "droplet": "a ring with a lighter middle",
    "residue": "a pale band with soft sides",
    "lens": "large and soft all over, for it lies far from the sensor",
    "wall": "it moved when the camera was moved; what sits on the sensor does not",
    "hot": "one single bright pixel",
}
NEAR_PX = 34.0
_LONG_PX = 60.0
"""Long things are touched anywhere along them."""
_MOST_TAPS = 60


class RemedyChoice(Record):
    """What one could do about a frame."""

    code: Remedy
    words: str


class FrameQuestion(Record):
    """A frame to read. Where marks are told, a second frame shows the same after the camera was
    moved; where its fitness is judged, ``choices`` are what one could do. The same seed and topic
    give the same one.
    """

    seed: int
    topic: FrameTopic
    width_px: int
    height_px: int
    f_number: float
    iso: int
    exposure_s: float
    choices: tuple[RemedyChoice, ...]


class Told(Given):
    """A place in the first frame, in its pixels, and what is said to be there."""

    x_px: Number = Field(ge=0, le=10_000)
    y_px: Number = Field(ge=0, le=10_000)
    kind: MarkKind


class Reading(Given):
    """What was read: marks, or what to do about the frame."""

    marks: list[Told] = Field(default_factory=list, max_length=_MOST_TAPS)
    remedy: Remedy | None = None


class MarkTruth(Record):
    """A mark as it is, and what it was said to be; None where it was not told."""

    x_px: float
    y_px: float
    kind: MarkKind
    told: MarkKind | None
    words: str


class FrameDebrief(Record):
    """How the reading stands to the truth; ``lines`` in sentences. ``unsafe``: dust on the sensor
    was taken for something harmless, or a frame that is not fit was read.
    """

    right: bool
    unsafe: bool
    lines: tuple[str, ...]
    marks: tuple[MarkTruth, ...]
    remedy: Remedy | None


def frame_question(seed: int, topic: FrameTopic) -> FrameQuestion:
    """A lesson's frame with what its file says."""
    how = flawed_shot(seed)
    fits = topic == "fit or not"
    return FrameQuestion(
        seed=seed,
        topic=topic,
        width_px=LESSON_CAMERA.width_px,
        height_px=LESSON_CAMERA.height_px,
        f_number=how.f_number if fits else 22.0,
        iso=how.iso if fits else 100,
        exposure_s=how.exposure_s if fits else 1.3,
        choices=tuple(RemedyChoice(code=c, words=w) for c, w in _REMEDIES.items()) if fits else (),
    )


@lru_cache(maxsize=8)
def frame_picture(seed: int, topic: FrameTopic, *, second: bool) -> bytes:
    """The frame as a JPEG file."""
    marks = topic == "tell the marks"
    picture = lesson_frame(seed, second=second) if marks else flawed_frame(seed)[..., ::-1]
    _, file = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, 95])
    return bytes(file)


def frame_debrief(seed: int, topic: FrameTopic, reading: Reading) -> FrameDebrief:
    """The reading held against the truth."""
    if topic == "fit or not":
        return _fitness(seed, reading.remedy)
    return _marks(lesson_marks(seed), reading.marks)


def _fitness(seed: int, told: Remedy | None) -> FrameDebrief:
    remedy, why = _RIGHT[flawed_shot(seed).flaw]
    right = told == remedy
    return FrameDebrief(
        right=right,
        unsafe=told == "read_it" and not right,
        lines=(why, _REMEDIES[remedy]),
        marks=(),
        remedy=remedy,
    )


def _marks(there: tuple[LessonMark, ...], told: list[Told]) -> FrameDebrief:
    answers: dict[str, MarkKind] = {}
    strays = 0
    for t in told:
        mark = min(there, key=lambda m: _off(m, t))
        if _off(mark, t) <= 1:
            answers[mark.name] = t.kind
        else:
            strays += 1
    wrong = [m for m in there if m.name in answers and answers[m.name] != m.kind]
    missed = [m for m in there if m.name not in answers]
    dust = {"speck", "fibre", "droplet", "residue"}
    passed_over = [m for m in wrong if m.kind in dust and answers[m.name] not in dust]
    lines = [f"{len(answers)} of {counted(len(there), 'mark')} found."]
    lines += [
        f"What you took for {_NAMES[answers[m.name]]} is {_NAMES[m.kind]}: {_WHY[m.kind]}."
        for m in wrong
    ]
    for kind, number in Counter(m.kind for m in missed).items():
        times = f", {number} times" if number > 1 else ""
        lines.append(f"Not told{times}: {_NAMES[kind]}, {_WHY[kind]}.")
    if strays:
        lines.append(f"{counted(strays, 'touch was', 'touches were')} on nothing at all.")
    return FrameDebrief(
        right=not wrong and not missed and not strays,
        unsafe=bool(passed_over),
        lines=tuple(lines),
        marks=tuple(
            MarkTruth(
                x_px=m.x_px,
                y_px=m.y_px,
                kind=m.kind,
                told=answers.get(m.name),
                words=_NAMES[m.kind],
            )
            for m in there
        ),
        remedy=None,
    )


def _off(mark: LessonMark, told: Told) -> float:
    """How far a touch lies off, as a share of what still counts."""
    near = _LONG_PX if mark.kind in ("fibre", "residue", "lens") else NEAR_PX
    return math.dist((mark.x_px, mark.y_px), (told.x_px, told.y_px)) / near
