"""The test frame: aperture, exposure, distance and movement.

Focused as far off as it goes, a lens of focal length f at aperture N draws each point of a target
at distance s as a disc of ``f^2 / (N s)`` on the sensor (W. J. Smith, Modern Optical Engineering,
4th ed., ch. 6). The target comes so near that this disc is many times wider than any dust shadow;
moving by m during the exposure smears it by ``f m / s`` on top. Exposure follows ISO 2720:
``N^2 / t = 2^EV`` at ISO 100; from a trial frame, by the ratio of the tone wanted to its own.
"""

from __future__ import annotations

import math

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Record, SpotMap
from neatpatch.core.common.words import distance, exposure, length

USUAL_F = 22.0
"""Field guide: the smallest opening most lenses have; smaller blurs by diffraction."""
LEAST_F = 16.0
"""Field guide: wider openings hide small dust."""
BLUR_MM = 0.5
"""Seven times the shadow of a particle under a 1.5 mm stack at f/22 (about 70 µm)."""
SMEAR_MM = 3.0
"""On the sensor: detail of a target at hand smears away; more asks for wide movements."""
HOLD = "Level, not turned upright. If it must be upright, the retest upright the same way."
WIDE_MM = 35.0
"""Shorter lenses keep a near target sharp; field guide."""
_NEAREST_M, _FARTHEST_M = 0.1, 2.0
_SHADED_M = 0.15
"""Nearer than a hand's length the camera stands in its own light. Own choice."""
HAND_MM_S = 200.0
"""As fast as a hand moves a camera with ease: 20 cm a second."""
LONGEST_S = 30.0
"""The longest time that cameras reckon by themselves."""
WANTED_LEVEL = 0.2
"""Median light of a good test frame, of full light: bright, and far from clipping."""


class TrialExposure(Record):
    """A frame shot to find the exposure. ``level``: its median light, 0 to 1 of full light."""

    f_number: float
    iso: float
    exposure_s: float
    level: float


class ShootPlan(Record):
    """One recipe; the retest uses the same. Unknown exposure is None.

    ``move_mm``: how far the camera moves within the exposure, as far as a hand can. ``move_mm_s``:
    how fast that is; None while the exposure is not known. ``hold``: upright or level.
    """

    f_number: float
    iso: int
    exposure_s: float | None
    focus: str
    target_distance_m: float
    blur_mm: float
    move: str
    move_mm: float
    move_mm_s: float | None
    hold: str
    steps: tuple[str, ...]


def trial_exposure_of(spot_map: SpotMap) -> TrialExposure | None:
    """The trial that a measured frame makes; None where its exposure is not known."""
    frame = spot_map.frames[0]
    level = next((c.measured for c in spot_map.checks if c.code == "too_dark"), None)
    if not (frame.f_number and frame.iso and frame.exposure_s) or level is None:
        return None
    return TrialExposure(
        f_number=frame.f_number, iso=frame.iso, exposure_s=frame.exposure_s, level=float(level)
    )


def plan_shoot(
    focal_mm: float = 85.0,
    smallest_f: float | None = None,
    ev100: float | None = None,
    trial: TrialExposure | None = None,
) -> ShootPlan:
    """The recipe for a lens and a light; a trial frame tells more than a light reading.

    Raises `BadArgumentError` for impossible values.
    """
    if not 4 <= focal_mm <= 2000:
        raise BadArgumentError(
            f"a focal length of {focal_mm:g} mm is outside 4 to 2000 mm. Check the number."
        )
    if smallest_f is not None and not 1 <= smallest_f <= 128:
        raise BadArgumentError(
            f"a smallest opening of f/{smallest_f:g} is outside f/1 to f/128. Check the number."
        )
    if ev100 is not None and not -6 <= ev100 <= 22:
        raise BadArgumentError(
            f"a light reading of EV {ev100:g} is outside -6 to 22. Check the light reading."
        )
    n = min(USUAL_F, smallest_f) if smallest_f else USUAL_F
    distance = focal_mm**2 / (n * BLUR_MM) / 1000
    near = min(max(distance, _NEAREST_M), _FARTHEST_M)
    exposure = _exposure(n, ev100, trial)
    wanted_mm = _round(max(20.0, SMEAR_MM * near * 1000 / focal_mm))
    move_mm = wanted_mm if exposure is None else min(wanted_mm, HAND_MM_S * exposure)
    move = _move(move_mm, wanted_mm, exposure)
    return ShootPlan(
        f_number=n,
        iso=100,
        exposure_s=exposure,
        focus="By hand, as far off as the lens goes.",
        target_distance_m=round(near, 2),
        blur_mm=round(focal_mm**2 / (n * near * 1000), 2),
        move=move,
        move_mm=float(f"{move_mm:.2g}"),
        move_mm_s=None if exposure is None else float(f"{move_mm / exposure:.2g}"),
        hold=HOLD,
        steps=(*_steps(n, near, focal_mm, exposure, move), *_light_steps(n, wanted_mm, exposure)),
    )


def _exposure(n: float, ev100: float | None, trial: TrialExposure | None) -> float | None:
    if trial is not None:
        return float(f"{_from_trial(n, trial):.3g}")
    return None if ev100 is None else float(f"{n**2 / 2**ev100:.3g}")


def _from_trial(n: float, trial: TrialExposure) -> float:
    if not 0.0005 <= trial.level <= 0.95:
        raise BadArgumentError(
            f"the trial frame is at {100 * trial.level:.3g} % of full light, too far off to "
            "calculate from. Shoot another, nearer to mid-grey."
        )
    same_light = trial.exposure_s * (n / trial.f_number) ** 2 * trial.iso / 100
    return same_light * WANTED_LEVEL / trial.level


def _move(move_mm: float, wanted_mm: float, exposure_s: float | None) -> str:
    if exposure_s is not None and move_mm < wanted_mm:
        return (
            f"Keep it moving: a hand gets about {length(float(f'{move_mm:.2g}'))} far in "
            f"{exposure(exposure_s)}. The target's blur does the rest."
        )
    within = "all the time"
    if exposure_s is not None:
        within = f"within {'that' if exposure_s < 1 else 'those'} {exposure(exposure_s)}"
    return f"About {length(wanted_mm)} sideways and back, or in small circles, {within}."


def _light_steps(n: float, wanted_mm: float, exposure_s: float | None) -> list[str]:
    """What to change about a light that leaves no time to move, or takes too long."""
    if exposure_s is None:
        return []
    if exposure_s > LONGEST_S:
        least = math.ceil(math.log2(n**2 / LONGEST_S))
        return [
            f"So dark, the shot takes longer than {LONGEST_S:g} s: more light, EV {least} at least."
        ]
    enough_s = wanted_mm / HAND_MM_S
    if exposure_s < enough_s:
        most = math.floor(math.log2(n**2 / enough_s))
        return [f"In dimmer light, EV {most} or less, moving smears the target, too."]
    return []


def _round(mm: float) -> float:
    return round(mm / 10) * 10


def _steps(
    n: float, distance_m: float, focal_mm: float, exposure_s: float | None, move: str
) -> tuple[str, ...]:
    steps = [
        "Card in; in-camera dust removal and lens corrections off.",
        f"Aperture priority, f/{n:g}, ISO 100.",
        f"A plain even target {distance(distance_m * 1000)} away, filling the frame.",
        "Focus by hand, as far off as the lens goes.",
        f"Hold the camera so: {HOLD[0].lower()}{HOLD[1:]}",
    ]
    if exposure_s is not None:
        steps.append(
            f"About {exposure(exposure_s)}; any time will do, the tone must be a mid-grey."
        )
    steps += [
        f"While it exposes, move the camera. {move}",
        "A second frame, moved, proves the place.",
    ]
    if n < LEAST_F:
        steps.append(f"f/{n:g} hides small dust: use a lens that closes to f/16 or further.")
    if focal_mm < WIDE_MM:
        steps.append(
            "A wide lens hardly blurs a target: use a longer lens, or the camera must move all the "
            "time."
        )
    if distance_m < _SHADED_M:
        steps.append("So near, mind the shade of the camera itself on the target.")
    return tuple(steps)
