"""How long a mirror lock-up may stay open on this battery, by the owner's own note.

A full battery is taken to last as long as the owner noted for this body, and less in proportion to
its charge; work should end at half of that, since batteries age and say little about it.
"""

from __future__ import annotations

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Record
from neatpatch.core.common.words import duration

FULL_BATTERY_PERCENT = 95.0
"""Field practice: a mirror is held up on a full battery alone, which a few test frames leave full.
Lower: it may drop on the tool."""
WARN_SHARE = 0.5
"""Field practice: half of the noted time is for finishing. Later risks the mirror; earlier nags."""
STOP_SHARE = 0.75
"""The rest is for ageing of batteries and a wrong note."""


class PowerPlan(Record):
    """Times in seconds from the moment the lock-up opens; None while nothing limits or is known.

    ``warn_s``: begin to finish. ``stop_s``: tools out, mirror down.
    """

    lasts_s: int | None
    warn_s: int | None
    stop_s: int | None
    why: str


def plan_power(
    lockup_minutes: float | None, battery_percent: float | None, mains: bool | None = None
) -> PowerPlan:
    """The time a lock-up has. Raises `BadArgumentError` for impossible values."""
    if lockup_minutes is not None and not 0 < lockup_minutes <= 600:
        raise BadArgumentError(
            f"a lock-up of {lockup_minutes:g} min is outside 0 to 600 min. Give the minutes a full "
            "battery held the lock-up, by your own note."
        )
    if battery_percent is not None and not 0 <= battery_percent <= 100:
        raise BadArgumentError(
            f"a battery at {battery_percent:g} % is outside 0 to 100 %. Check the number."
        )
    if mains:
        return PowerPlan(
            lasts_s=None,
            warn_s=None,
            stop_s=None,
            why="On the mains the lock-up stays open. Keep the plug out of the way of "
            "feet and hands.",
        )
    if lockup_minutes is None:
        return PowerPlan(
            lasts_s=None,
            warn_s=None,
            stop_s=None,
            why="How long a battery holds this lock-up is not noted. Note it with the "
            "body; until then keep it short.",
        )
    if battery_percent is None:
        return PowerPlan(
            lasts_s=None,
            warn_s=None,
            stop_s=None,
            why="The battery's charge is not told. Charge it fully.",
        )
    lasts = lockup_minutes * 60 * battery_percent / 100
    if battery_percent < FULL_BATTERY_PERCENT:
        return PowerPlan(
            lasts_s=int(lasts),
            warn_s=int(lasts * WARN_SHARE),
            stop_s=int(lasts * STOP_SHARE),
            why=f"The battery is at {battery_percent:g} %: charge it fully first.",
        )
    return PowerPlan(
        lasts_s=int(lasts),
        warn_s=int(lasts * WARN_SHARE),
        stop_s=int(lasts * STOP_SHARE),
        why=f"By your note a full battery holds it {lockup_minutes:g} min; at "
        f"{battery_percent:g} % that is {duration(lasts)}. Finish within {duration(lasts / 2)}.",
    )
