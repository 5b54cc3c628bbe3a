"""Why two frames cannot be compared, each reason with what to do."""

from __future__ import annotations

from neatpatch.core.common.records import SpotMap

_THIRD_OF_A_STOP = 1.13
"""One click of a dial, and a little: depth changes by less than it is measured to."""
ANOTHER_SENSOR = (
    "The two frames come from two sensors: the photosites' own patterns differ. Choose two frames "
    "of one body."
)
NOTHING_IN_COMMON = (
    "Nothing shows where the second frame lies on the first: they have too few marks in common, "
    "and the sensor's own pattern cannot be read in them. Compare the camera's own full-size "
    "files, as fine as it writes them."
)
_SENSOR_TOLERANCE = 0.02
"""Sizes in files are rounded. More takes two formats for one, less refuses rounded sizes."""


def all_reasons(
    before: SpotMap, after: SpotMap, same: bool | None, *, proven: bool
) -> tuple[str, ...]:
    """Why two frames cannot be compared; the sensor's own pattern comes before names in files."""
    reasons = list(reasons_not_to_compare(before, after, same=same))
    if same is False:
        reasons.insert(0, ANOTHER_SENSOR)
    elif not proven and not reasons:
        reasons.append(NOTHING_IN_COMMON)
    return tuple(reasons)


def reasons_not_to_compare(
    before: SpotMap, after: SpotMap, *, same: bool | None = None
) -> tuple[str, ...]:
    """Why two frames should not be compared, each with what to do; empty when they may.

    ``same``: whether the sensors' fingerprints agree; then names in the files do not matter.
    """
    old, new = before.frames[0], after.frames[0]
    reasons = []
    if old.f_number and new.f_number:
        ratio = new.f_number / old.f_number
        if not 1 / _THIRD_OF_A_STOP < ratio < _THIRD_OF_A_STOP:
            reasons.append(
                f"The first frame is at f/{old.f_number:g}, the second at f/{new.f_number:g}. "
                f"Shoot the second again at f/{old.f_number:g}."
            )
    if not same and old.camera and new.camera and old.camera != new.camera:
        reasons.append(
            f"The frames come from two cameras, {old.camera} and {new.camera}. "
            "Choose two frames of one body."
        )
    if not same and old.sensor_mm and new.sensor_mm and _sizes_differ(old.sensor_mm, new.sensor_mm):
        reasons.append("The frames come from sensors of different size. Choose one body.")
    for name, spot_map in (("first", before), ("second", after)):
        bad = next((c for c in spot_map.checks if c.level == "retake"), None)
        if bad is not None:
            reasons.append(f"The {name} frame is not fit to judge by. {bad.message} {bad.remedy}")
    return tuple(reasons)


def _sizes_differ(a: tuple[float, float], b: tuple[float, float]) -> bool:
    return abs(max(a) / max(b) - 1) > _SENSOR_TOLERANCE
