"""Is the target fit: even, smooth, without much noise? Each fault is told by its own cause.

Limits are stated in docs/method.md, section 10, with where they come from.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from neatpatch.core.common.records import Check
from neatpatch.core.measure.check_evidence import CLIPPED_RETAKE, CheckEvidence, check, graded
from neatpatch.core.measure.detection import Detection
from neatpatch.core.measure.regions import MOST_MARKS

GRAIN_NOTE, GRAIN_RETAKE = 0.03, 0.05
UNEVEN_NOTE, UNEVEN_RETAKE = 4.0, 12.0
"""Brightest over darkest part. Dust is measured rightly in corners of a sixth of the light, with
more noise; at a twelfth the faint half of it drowns."""
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
TEXTURE_NOTE, TEXTURE_RETAKE = 0.004, 0.010
MANY_MARKS, MUCH_COVERED = 100, 0.1
"""Practice frames unfit for their noise or texture show at most 30 marks on 3 % of their area; a
page of print a thousand, or a quarter of it covered by its lines."""


def is_unmeasured(detection: Detection) -> bool:
    """Whether a picture is so plainly no test frame that its marks are not worth measuring.

    A noisy or finely structured picture that also holds many marks is some scene or a page; a noisy
    test frame has few. Splitting and measuring each of them would take many times the decoding.
    """
    rough = detection.white_noise > GRAIN_RETAKE or detection.texture > TEXTURE_RETAKE
    return detection.crowd > 0 or (rough and _holds_many(detection))


def _holds_many(detection: Detection) -> bool:
    covered = np.count_nonzero(detection.occupied) > MUCH_COVERED * detection.occupied.size
    return len(detection.regions) > MANY_MARKS or bool(covered)


def grain_check(e: CheckEvidence) -> Iterator[Check]:
    if is_unmeasured(e.detection) or e.level.grain.texture > _DETAIL:
        return  # detail, not noise: what is said of the target is the cause
    noise = e.level.grain.noise if _shows_itself(e) else e.detection.white_noise
    level = graded(noise, GRAIN_NOTE, GRAIN_RETAKE)
    yield check(
        "grainy",
        level,
        noise,
        GRAIN_RETAKE,
        f"Noise is {100 * noise:.1f} % per pixel."
        if level == "ok"
        else f"Noise of {100 * noise:.1f} % per pixel drowns faint dust.",
        "Set the lowest ISO; a long exposure does no harm. Shoot again.",
    )


def _shows_itself(e: CheckEvidence) -> bool:
    """Whether the target has a structure that its spectrum tells from noise, and that matters.

    Of a frame with clipped tones nothing is said: their noise is cut off.
    """
    noise_known = e.level.grain.noise > 0 and e.frame.clipped <= CLIPPED_RETAKE
    return noise_known and e.detection.white_noise > _noise_limit(e)


def _noise_limit(e: CheckEvidence) -> float:
    """More per pixel than this at the scale of small dust is no noise of a sensor at this ISO."""
    iso = e.frame.facts.iso or _ISO_UNKNOWN
    light = max(float(np.median(e.background.cells)), 1e-3)
    shot = _MOST_SHOT_NOISE * float(np.sqrt(max(iso, 50) / 100 * _MID_TONE / light))
    shot *= 1.0 if e.frame.mosaic else _DEVELOPED_NOISE
    quality = e.frame.facts.jpeg_quality or _CLEAR_QUALITY
    rounding = 1 + _ROUNDING * max(0.0, _CLEAR_QUALITY - quality)
    return rounding * max(_STRUCTURE * e.level.grain.noise, shot)


def evenness_check(e: CheckEvidence) -> Iterator[Check]:
    ratio = e.background.unevenness
    level = graded(ratio, UNEVEN_NOTE, UNEVEN_RETAKE)
    usual = check(
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


def _bands(e: CheckEvidence) -> Iterator[Check]:
    bands = e.level.bands
    along = "rows" if bands.rows >= bands.columns else "columns"
    level = graded(bands.strongest, BANDS_NOTE, BANDS_RETAKE)
    if level == "ok":
        return
    share = f"{100 * bands.strongest:.1f} %"
    done = " They were taken out." if level == "note" else ""
    if bands.repeating:
        message = f"Bands of {share} run along the {along}: the lamp flickers.{done}"
        remedy = "Use daylight, or expose for a tenth of a second or longer."
    else:
        message = f"Straight bars or stripes of {share} run along the {along} of the picture.{done}"
        remedy = f"Keep window frames, edges and shadows out of the picture. {EVEN_TARGET}"
    yield check("uneven", level, bands.strongest, BANDS_RETAKE, message, remedy)


def _clouds(e: CheckEvidence) -> Iterator[Check]:
    if not e.level.uneven or (_shows_itself(e) and _is_fine(e)):
        return
    strong = e.detection.white_noise > _EDGED * _noise_limit(e)
    edged = not _is_fine(e) and (strong or float(e.detection.occupied.mean()) > _EDGED_SHARE)
    yield check(
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


def _is_fine(e: CheckEvidence) -> bool:
    """Whether it is the texture of a surface: fine-grained, or the same all over the frame."""
    grain = e.level.grain
    least = _LEAST_TEXTURE * grain.noise / e.level.step
    everywhere = grain.quietest > max(_EVERYWHERE * grain.texture, least)
    return everywhere or grain.fine > max(_FINE_SHARE * grain.texture, least)


def texture_check(e: CheckEvidence) -> Iterator[Check]:
    marks = e.detection.crowd or (len(e.detection.regions) if is_unmeasured(e.detection) else 0)
    detail = e.level.grain.texture
    if marks or detail > _DETAIL:
        yield check(
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
        yield check(
            "target_in_focus",
            "retake",
            e.detection.white_noise,
            _noise_limit(e),
            f"The target itself shows: a texture of {share:.1f} %, as of plaster or paper, hides "
            "or looks like dust. It is no noise, so another ISO would not help.",
            SMEAR,
        )
        return
    texture = e.detection.texture
    level = graded(texture, TEXTURE_NOTE, TEXTURE_RETAKE)
    if level == "ok" and e.level.screen > 0:
        yield _screen(e.level.screen)
        return
    yield check(
        "target_in_focus",
        level,
        texture,
        TEXTURE_RETAKE,
        "The target is smooth."
        if level == "ok"
        else f"The target itself shows: its texture of {100 * texture:.1f} % hides or looks like "
        "dust.",
        SMEAR,
    )


def _screen(amplitude: float) -> Check:
    level = graded(amplitude, 0.0, SCREEN_RETAKE)
    done = " They were taken out." if level == "note" else ""
    return check(
        "target_in_focus",
        level,
        amplitude,
        SCREEN_RETAKE,
        f"The screen's dots show as waves of {100 * amplitude:.1f} %.{done}",
        "Go farther off the screen, focus far away from it and move the camera while it exposes.",
    )
