"""Is the frame fit to judge by? Each test has a limit, a message and a remedy.

Limits are stated in docs/method.md. ``retake`` means that the map must not be relied on.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.core.common.records import Check, CheckCode, Level
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.detection import MOST_MARKS, Detection
from neatpatch.core.measure.levelling import Levelled

APERTURE_NOTE = 15.5
"""Below f/16 (as files round it) small dust on the stack blurs away; field guide."""
APERTURE_RETAKE = 9.5
"""Below f/10 the blur hides most of what shows in work at f/16; higher refuses fair frames."""
CLIPPED_NOTE, CLIPPED_RETAKE = 0.002, 0.01
DARK_NOTE, DARK_RETAKE = 0.04, 0.012
GRAIN_NOTE, GRAIN_RETAKE = 0.03, 0.05
UNEVEN_NOTE, UNEVEN_RETAKE = 4.0, 12.0
"""Brightest over darkest part. Dust is measured rightly in corners of a sixth of the light, with
more noise; at a twelfth the faint half of it drowns."""
TEXTURE_NOTE, TEXTURE_RETAKE = 0.004, 0.010
BANDS_NOTE, BANDS_RETAKE = 0.004, 0.15
"""Flickering lamps leave some per cent, which is taken out; stronger bands leave a rest behind."""
SCREEN_RETAKE = 0.08
"""Waves of 4 % are taken out to a twentieth; twice that would leave marks."""
_STRUCTURE = 1.35
"""Times the noise that the finest band tells: other sensors and qualities stay below 1.15."""
_FINE_SHARE = 0.5
"""Of the texture: plaster and paper have nearly all of it there, edges of clouds a tenth."""
_EDGED, _EDGED_SHARE = 1.5, 0.05
"""Times the limit of noise, and share of the frame that stands out: soft clouds leave under 1.1
times and under 2 %, clouds with edges 10 %."""
_CLEAR_QUALITY, _ROUNDING = 93.0, 0.15
"""Below this JPEG quality rounding kills the finest noise and adds coarse: by a half at 90."""
_DETAIL = 0.1
"""Tones of print and scenes spread wider than this; no wall or paper in even light does."""
_LEAST_TEXTURE = 0.25
"""Of the noise of a binned pixel: less texture than that is the error of the spectrum."""
_EVERYWHERE = 0.4
"""Share of the texture that its calmest quarter has: of walls 0.7, of clouds with edges nothing."""
_MOST_SHOT_NOISE, _MID_TONE = 0.0125, 0.38
"""Per pixel at ISO 100 and that tone, of photosites that hold 17,000 electrons."""
_DEVELOPED_NOISE = 1.75
"""Interpolated colours have so much more noise at the scale of dust than at that of a pixel."""
_ISO_UNKNOWN = 400
"""What is taken where the file does not tell: usual for a frame shot in a room."""
EVEN_TARGET = (
    "Fill the frame with one plain tone: an evenly clouded sky, paper in even light, a blank white "
    "screen."
)
SMEAR = (
    "Focus by hand as far from the target as the lens goes, and move the camera during the "
    "exposure so that the target smears."
)
QUALITY_NOTE, QUALITY_RETAKE = 80.0, 50.0
PIXELS_NOTE, PIXELS_RETAKE = 4e6, 1e6
WIDE_ANGLE_35MM = 35.0
"""Wider lenses keep a target near enough to show and fall off strongly; field guide."""
MANY_MARKS, MUCH_COVERED = 100, 0.1
"""Practice frames unfit for their noise or texture show at most 30 marks on 3 % of their area; a
page of print a thousand, or a quarter of it covered by its lines."""
_FULL_FRAME_WIDTH_MM = 36.0
"""By definition of the equivalent focal length."""


@dataclass(frozen=True)
class Evidence:
    """All that the checks look at."""

    level: Levelled
    detection: Detection
    sensor_mm: tuple[float, float] | None

    @property
    def frame(self) -> Frame:
        return self.level.frame

    @property
    def background(self) -> Background:
        return self.level.background


def frame_checks(e: Evidence) -> tuple[Check, ...]:
    """All checks that have something to say, the gravest first; passed ones are included as ok."""
    checks = [
        *_aperture(e.frame.facts),
        *_exposure(e),
        *_texture(e),
        *_evenness(e),
        *_grain(e),
        *_lens(e),
        *_history(e.frame.facts),
        *_size(e),
    ]
    order = {"retake": 0, "note": 1, "ok": 2}
    return tuple(sorted(checks, key=lambda c: order[c.level]))


def is_unmeasured(detection: Detection) -> bool:
    """Whether a picture is so plainly no test frame that its marks are not worth measuring.

    A noisy or finely structured picture that also holds many marks is some scene or a page; a noisy
    test frame has few. Splitting and measuring each of them would take many times the decoding.
    """
    rough = detection.white_noise > GRAIN_RETAKE or detection.texture > TEXTURE_RETAKE
    many = len(detection.regions) > MANY_MARKS or detection.occupied.mean() > MUCH_COVERED
    return detection.crowd > 0 or (rough and bool(many))


def _graded(value: float, note: float, retake: float) -> Level:
    """Level for a value of which more is worse; the limits themselves still pass."""
    if value > retake:
        return "retake"
    return "note" if value > note else "ok"


def _check(
    code: CheckCode,
    level: Level,
    measured: float | None,
    limit: float | None,
    message: str,
    remedy: str = "",
) -> Check:
    told = measured is not None and math.isfinite(measured)
    rounded = float(f"{measured:.4g}") if told and measured is not None else None
    return Check(
        code=code,
        level=level,
        measured=rounded,
        limit=limit,
        message=message,
        remedy="" if level == "ok" else remedy,
    )


def _aperture(facts: FrameFacts) -> Iterator[Check]:
    n = facts.f_number
    if n is None:
        yield _check(
            "aperture_unknown",
            "note",
            None,
            None,
            "The file does not tell its aperture, so stack height and sizes at other apertures "
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
    yield _check(
        "aperture_too_wide",
        level,
        n,
        16.0,
        words[level],
        "Set f/16 or a smaller opening (f/22 is usual) and shoot again.",
    )


def _exposure(e: Evidence) -> Iterator[Check]:
    clipped = e.frame.clipped
    level = _graded(clipped, CLIPPED_NOTE, CLIPPED_RETAKE)
    yield _check(
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
    dark = _graded(-middle, -DARK_NOTE, -DARK_RETAKE)
    yield _check(
        "too_dark",
        dark,
        middle,
        DARK_RETAKE,
        "The exposure is bright enough."
        if dark == "ok"
        else f"The frame is dark: {100 * middle:.1f} % of full light.",
        "Expose longer, to a mid-grey (about a fifth of full light), and shoot again.",
    )


def _grain(e: Evidence) -> Iterator[Check]:
    if is_unmeasured(e.detection) or e.level.grain.texture > _DETAIL:
        return  # detail, not noise: what is said of the target is the cause
    noise = e.level.grain.noise if _shows_itself(e) else e.detection.white_noise
    level = _graded(noise, GRAIN_NOTE, GRAIN_RETAKE)
    yield _check(
        "grainy",
        level,
        noise,
        GRAIN_RETAKE,
        f"Noise is {100 * noise:.1f} % per pixel."
        if level == "ok"
        else f"Noise of {100 * noise:.1f} % per pixel drowns faint dust.",
        "Set the lowest ISO; a long exposure does no harm. Shoot again.",
    )


def _shows_itself(e: Evidence) -> bool:
    """Whether the target has a structure that its spectrum tells from noise, and that matters.

    Of a frame with clipped tones nothing is said: their noise is cut off.
    """
    told = e.level.grain.noise > 0 and e.frame.clipped <= CLIPPED_RETAKE
    return told and e.detection.white_noise > _noise_limit(e)


def _noise_limit(e: Evidence) -> float:
    """More per pixel than this at the scale of small dust is no noise of a sensor at this ISO."""
    iso = e.frame.facts.iso or _ISO_UNKNOWN
    light = max(float(np.median(e.background.cells)), 1e-3)
    shot = _MOST_SHOT_NOISE * float(np.sqrt(max(iso, 50) / 100 * _MID_TONE / light))
    shot *= 1.0 if e.frame.mosaic else _DEVELOPED_NOISE
    quality = e.frame.facts.jpeg_quality or _CLEAR_QUALITY
    rounding = 1 + _ROUNDING * max(0.0, _CLEAR_QUALITY - quality)
    return rounding * max(_STRUCTURE * e.level.grain.noise, shot)


def _evenness(e: Evidence) -> Iterator[Check]:
    ratio = e.background.unevenness
    level = _graded(ratio, UNEVEN_NOTE, UNEVEN_RETAKE)
    usual = _check(
        "uneven",
        level,
        ratio,
        UNEVEN_RETAKE,
        "The light is even enough."
        if level == "ok"
        else f"The brightest part is {ratio:.1f} times as bright as the darkest.",
        EVEN_TARGET,
    )
    worse = {"ok": 0, "note": 1, "retake": 2}
    yield max([usual, *_bands(e), *_clouds(e)], key=lambda c: worse[c.level])


def _bands(e: Evidence) -> Iterator[Check]:
    bands = e.level.bands
    along = "rows" if bands.rows >= bands.columns else "columns"
    level = _graded(bands.strongest, BANDS_NOTE, BANDS_RETAKE)
    if level == "ok":
        return
    share = f"{100 * bands.strongest:.1f} %"
    done = " They were taken out." if level == "note" else ""
    if bands.repeating:
        message = f"Bands of {share} run along the {along}: the lamp flickers.{done}"
        remedy = "Use daylight, or expose for a tenth of a second or longer, and shoot again."
    else:
        message = f"Straight bars or stripes of {share} run along the {along} of the picture.{done}"
        remedy = f"Keep window frames, edges and shadows out of the picture. {EVEN_TARGET}"
    yield _check("uneven", level, bands.strongest, BANDS_RETAKE, message, remedy)


def _clouds(e: Evidence) -> Iterator[Check]:
    if not e.level.uneven or (_shows_itself(e) and _is_fine(e)):
        return
    strong = e.detection.white_noise > _EDGED * _noise_limit(e)
    edged = not _is_fine(e) and (strong or float(e.detection.occupied.mean()) > _EDGED_SHARE)
    yield _check(
        "uneven",
        "retake" if edged else "note",
        e.detection.white_noise if edged else e.background.unevenness,
        _noise_limit(e) if edged else UNEVEN_RETAKE,
        "The target is uneven, with edges as sharp as dust's: clouds, a window frame, a shadow."
        if edged
        else "The target is uneven, like clouds or a lamp's glow. Its wide, soft marks were left "
        "out, and soft shadows of dust on the lens with them.",
        EVEN_TARGET,
    )


def _is_fine(e: Evidence) -> bool:
    """Whether it is the texture of a surface: fine-grained, or the same all over the frame."""
    grain = e.level.grain
    least = _LEAST_TEXTURE * grain.noise / e.level.step
    everywhere = grain.quietest > max(_EVERYWHERE * grain.texture, least)
    return everywhere or grain.fine > max(_FINE_SHARE * grain.texture, least)


def _texture(e: Evidence) -> Iterator[Check]:
    marks = e.detection.crowd or (len(e.detection.regions) if is_unmeasured(e.detection) else 0)
    detail = e.level.grain.texture
    if marks or detail > _DETAIL:
        yield _check(
            "target_in_focus",
            "retake",
            marks or detail,
            MOST_MARKS if marks else _DETAIL,
            f"The picture is full of detail{f', with some {marks} marks' if marks else ''}: it is "
            "no frame of an even target, and what was found in it tells nothing.",
            "Fill the frame with one plain tone (paper, an evenly clouded sky, a blank white "
            "screen), out of focus, and shoot again.",
        )
        return
    if _shows_itself(e) and _is_fine(e):
        share = 100 * e.level.grain.texture
        yield _check(
            "target_in_focus",
            "retake",
            e.detection.white_noise,
            _noise_limit(e),
            f"The target itself shows: a texture of {share:.1f} %, as of plaster or paper, hides "
            "or feigns dust. It is no noise, so another ISO would not help.",
            SMEAR,
        )
        return
    texture = e.detection.texture
    level = _graded(texture, TEXTURE_NOTE, TEXTURE_RETAKE)
    if level == "ok" and e.level.screen > 0:
        yield _screen(e.level.screen)
        return
    yield _check(
        "target_in_focus",
        level,
        texture,
        TEXTURE_RETAKE,
        "The target is smooth."
        if level == "ok"
        else f"The target itself shows: its texture of {100 * texture:.1f} % hides or feigns dust.",
        SMEAR,
    )


def _screen(amplitude: float) -> Check:
    level = _graded(amplitude, 0.0, SCREEN_RETAKE)
    done = " They were taken out." if level == "note" else ""
    return _check(
        "target_in_focus",
        level,
        amplitude,
        SCREEN_RETAKE,
        f"The screen's dots show as waves of {100 * amplitude:.1f} %.{done}",
        "Go farther off the screen, focus far away from it and move the camera while it exposes.",
    )


def _lens(e: Evidence) -> Iterator[Check]:
    facts = e.frame.facts
    equivalent = facts.focal_length_35mm
    if equivalent is None and facts.focal_length_mm and e.sensor_mm:
        equivalent = facts.focal_length_mm * _FULL_FRAME_WIDTH_MM / max(e.sensor_mm)
    if equivalent is not None and equivalent < WIDE_ANGLE_35MM:
        yield _check(
            "wide_lens",
            "note",
            equivalent,
            WIDE_ANGLE_35MM,
            f"A wide-angle lens (like {equivalent:.0f} mm on a 36 mm wide sensor) lights the "
            "corners aslant and keeps the target in focus.",
            "Use a normal or longer lens for the test frame if there is one.",
        )


def _history(facts: FrameFacts) -> Iterator[Check]:
    quality = facts.jpeg_quality
    if quality is not None and quality < QUALITY_NOTE:
        yield _check(
            "compressed",
            _graded(-quality, -QUALITY_NOTE, -QUALITY_RETAKE),
            quality,
            QUALITY_RETAKE,
            f"The JPEG is strongly compressed (quality about {quality:.0f} of 100), which wipes "
            "out faint spots.",
            "Set the camera's finest JPEG or RAW and send the file unaltered.",
        )
    rendered = facts.format not in ("RAW", "DNG")
    if rendered and facts.software and facts.software not in (facts.camera or ""):
        yield _check(
            "processed",
            "note",
            None,
            None,
            f"The file was written by “{facts.software}”: spots may have been removed.",
            "Use the file as the camera wrote it, with in-camera dust removal off.",
        )


def _size(e: Evidence) -> Iterator[Check]:
    if e.sensor_mm is None:
        yield _check(
            "sensor_size_unknown",
            "note",
            None,
            None,
            "The sensor's size is not known, so lengths are given in pixels only.",
            "Give the sensor's width and height in millimetres.",
        )
    pixels = e.frame.light.size
    level = _graded(-pixels, -PIXELS_NOTE, -PIXELS_RETAKE)
    if level != "ok":
        yield _check(
            "too_few_pixels",
            level,
            pixels / 1e6,
            PIXELS_RETAKE / 1e6,
            f"The picture has only {pixels / 1e6:.1f} million pixels; it may have been made "
            "smaller.",
            "Use the full-size file from the camera.",
        )
