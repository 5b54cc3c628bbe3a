"""Whether a loupe focuses on the sensor of a body: plain distances."""

from __future__ import annotations

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Record
from neatpatch.core.common.words import length


class LoupePlan(Record):
    """``spacer_mm``: what must go under the loupe; 0 for none, None when no spacer helps."""

    fits: bool
    spacer_mm: float | None
    why: str


def plan_loupe(flange_mm: float, range_mm: tuple[float, float]) -> LoupePlan:
    """A loupe standing on the mount sees the sensor at the flange distance.

    ``range_mm``: distances below its foot that it can focus on; a spacer brings the sensor to their
    middle, where it is sharp for any eye. Raises `BadArgumentError` when they
    are not two growing lengths.
    """
    low, high = range_mm
    if not 0 < low <= high <= 500:
        raise BadArgumentError(
            f"{low:g} to {high:g} mm is no range to focus in. Give two growing lengths, like 40-46."
        )
    if not 1 <= flange_mm <= 400:
        raise BadArgumentError(
            f"a flange distance of {flange_mm:g} mm is outside 1 to 400 mm. Check the number."
        )
    if low <= flange_mm <= high:
        return LoupePlan(
            fits=True, spacer_mm=0.0, why="The loupe focuses on this sensor from the mount."
        )
    if flange_mm < low:
        spacer = round((low + high) / 2 - flange_mm, 2)
        return LoupePlan(
            fits=False,
            spacer_mm=spacer,
            why=f"The loupe is built for a deeper mount: put a spacer of {length(spacer)} under "
            "it, or hold it that much higher by hand.",
        )
    return LoupePlan(
        fits=False,
        spacer_mm=None,
        why=f"The sensor lies {length(flange_mm - high, 1)} deeper than it can focus. Use another "
        "loupe; the test frame decides anyway.",
    )
