"""Is the frame fit to judge by? Each test has a limit, a message and a remedy.

Limits are stated in docs/method.md. ``retake`` means that the map must not be relied on.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.common.optics import NOTICED_DEPTH
from neatpatch.core.common.records import Check, Level
from neatpatch.core.measure.check_evidence import (
    CLIPPED_NOTE,
    CLIPPED_RETAKE,
    CheckEvidence,
    check,
    graded,
)
from neatpatch.core.measure.detection import faintest_seen
from neatpatch.core.measure.target_checks import (
    evenness_check,
    grain_check,
    texture_check,
)

APERTURE_NOTE = 15.5
"""Below f/16 (as files round it) small dust on the stack blurs away; field guide."""
APERTURE_RETAKE = 9.5
"""Below f/10 the blur hides most of what shows in work at f/16; higher refuses fair frames."""
DARK_NOTE, DARK_RETAKE = 0.04, 0.012
QUALITY_NOTE, QUALITY_RETAKE = 80.0, 50.0
QUALITY_FINE = 95.0
"""From here on it is noise that hides faint specks, not the file."""
PIXELS_NOTE, PIXELS_RETAKE = 4e6, 1e6
WIDE_ANGLE_35MM = 35.0
"""Wider lenses keep a target near enough to show and fall off strongly; field guide."""
_FULL_FRAME_WIDTH_MM = 36.0
"""By definition of the equivalent focal length."""


def frame_checks(e: CheckEvidence) -> tuple[Check, ...]:
    """All checks that have something to say, the gravest first; passed ones are included as ok."""
    checks = [
        *_aperture(e.frame.facts),
        *_exposure(e),
        *texture_check(e),
        *evenness_check(e),
        *grain_check(e),
        *_lens(e),
        *_compression(e),
        *_history(e.frame.facts),
        *_size(e),
    ]
    order = {"retake": 0, "note": 1, "ok": 2}
    return tuple(sorted(checks, key=lambda c: order[c.level]))


def _aperture(facts: FrameFacts) -> Iterator[Check]:
    n = facts.f_number
    if n is None:
        yield check(
            "aperture_unknown",
            "note",
            None,
            None,
            "The file has no aperture recorded, so stack height and sizes at other apertures "
            "cannot be worked out.",
            "Use a lens that reports its aperture, or keep the camera's original file.",
        )
        return
    level: Level = "ok"
    if n < APERTURE_NOTE:
        level = "retake" if n < APERTURE_RETAKE else "note"
    words = {
        "ok": f"f/{n:g} shows small dust.",
        "note": f"f/{n:g} shows most dust, but the smallest specks fade.",
        "retake": f"f/{n:g} hides small dust.",
    }
    yield check(
        "aperture_too_wide",
        level,
        n,
        16.0,
        words[level],
        "Set f/16 or a smaller opening (f/22 is usual) and shoot again.",
    )


def _exposure(e: CheckEvidence) -> Iterator[Check]:
    clipped = e.frame.clipped
    level = graded(clipped, CLIPPED_NOTE, CLIPPED_RETAKE)
    yield check(
        "too_bright",
        level,
        clipped,
        CLIPPED_RETAKE,
        "No tones are clipped."
        if level == "ok"
        else f"{100 * clipped:.1f} % of the frame is clipped to white, where dust cannot be seen.",
        "Expose one to two stops less, to a mid-grey, and shoot again.",
    )
    middle = float(np.median(e.background.cells))
    dark = graded(-middle, -DARK_NOTE, -DARK_RETAKE)
    yield check(
        "too_dark",
        dark,
        middle,
        DARK_RETAKE,
        "The exposure is bright enough."
        if dark == "ok"
        else f"The frame is dark: {100 * middle:.1f} % of full light.",
        "Expose longer, to a mid-grey (about a fifth of full light), and shoot again.",
    )


def _lens(e: CheckEvidence) -> Iterator[Check]:
    facts = e.frame.facts
    equivalent = facts.focal_length_35mm
    if equivalent is None and facts.focal_length_mm and e.sensor_mm:
        equivalent = facts.focal_length_mm * _FULL_FRAME_WIDTH_MM / max(e.sensor_mm)
    if equivalent is not None and equivalent < WIDE_ANGLE_35MM:
        yield check(
            "wide_lens",
            "note",
            equivalent,
            WIDE_ANGLE_35MM,
            f"A wide-angle lens (like {equivalent:.0f} mm on a 36 mm wide sensor) lights the "
            "frame unevenly and keeps the target in focus.",
            "Use a normal or longer lens for the test frame if there is one.",
        )


def _compression(e: CheckEvidence) -> Iterator[Check]:
    """How much a JPEG has wiped out: by its quality, and by the faintest speck it still shows."""
    quality = e.frame.facts.jpeg_quality
    if quality is None:
        return
    faintest = faintest_seen(e.detection, e.blur_px)
    level = graded(-quality, -QUALITY_NOTE, -QUALITY_RETAKE)
    hides = faintest > NOTICED_DEPTH and quality < QUALITY_FINE
    if level == "ok" and not hides:
        return
    named = f"JPEG (quality {quality:.0f} of 100)"
    hidden = f"Specks shallower than {100 * faintest:.0f} % cannot be seen in this {named}."
    yield check(
        "compressed",
        "note" if level == "ok" else level,
        quality,
        QUALITY_RETAKE,
        hidden if hides else f"The {named} is strongly compressed, which wipes out faint spots.",
        "Use RAW, or the camera's finest JPEG, and send the file unaltered.",
    )


def _history(facts: FrameFacts) -> Iterator[Check]:
    rendered = facts.format not in ("RAW", "DNG")
    if rendered and facts.software and facts.software not in (facts.camera or ""):
        yield check(
            "processed",
            "note",
            None,
            None,
            f"The file was written by “{facts.software}”: spots may have been removed.",
            "Use the file as the camera wrote it, with in-camera dust removal off.",
        )


def _size(e: CheckEvidence) -> Iterator[Check]:
    if e.sensor_mm is None:
        yield check(
            "sensor_size_unknown",
            "note",
            None,
            None,
            "The sensor's size is not known, so lengths are given in pixels only.",
            "Give the sensor's width and height in millimetres.",
        )
    pixels = e.frame.light.size
    level = graded(-pixels, -PIXELS_NOTE, -PIXELS_RETAKE)
    if level != "ok":
        yield check(
            "too_few_pixels",
            level,
            pixels / 1e6,
            PIXELS_RETAKE / 1e6,
            f"The picture has only {pixels / 1e6:.1f} million pixels; it may have been made "
            "smaller.",
            "Use the full-size file from the camera.",
        )
