"""Questions asked of the steps done: what was tried, how it went, what may be tried again."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

from neatpatch.core.common.decisions import CONTACT
from neatpatch.core.common.facts import ChangeFacts, DoneStep

SHAKE_RUNS = 5
"""Field guide: below five, loose dust is left; more than that moves nothing further."""
MOST_SHAKES = 3
"""Turns of the shake, however short; more only delays what moves dust."""
MOST_AIR_TURNS = 2
"""Turns with a stronger blower to hand, soft and then strong; what both leave sticks."""
MOST_HELPFUL_AIR = 4
"""While air takes something off it goes on; beyond this the camera lies open for little."""
MOST_STIRS = 4
"""Turns of air without a good one. More only stirs; fewer sends loose dust to contact."""
MOST_WET_SWABS = 3
"""Field practice. More wets the filters' edges for little; fewer gives up on common stains."""
MOST_BAD_TURNS = 2
"""Field guide: anything that got worse twice is left to a service."""
_STIRRED_SHARE = 0.4
"""As retests are judged: so many elsewhere, and air only moved them."""
_BAD = ("worse", "streaks")
_GOOD = ("fewer", "cleared")
_WETTING = ("wet_swab", "corner_swab")
_IN_VAIN = ("no_change", "unknown", None, "cleared")
WORKED: tuple[str, ...] = (*CONTACT, "teardown")
"""Steps that touch the sensor."""


def by_counts(done: Sequence[DoneStep], change: ChangeFacts | None) -> tuple[DoneStep, ...]:
    """The steps, the last turn of air named by what its retest counted, not by its label.

    ``change``: between the newest two frames; nothing is changed without one.
    """
    if not done or change is None or done[-1].step != "air" or done[-1].tested is not True:
        return tuple(done)
    there = change.gone + change.stayed + change.moved
    if not there or change.moved < _STIRRED_SHARE * there or done[-1].result == "worse":
        return tuple(done)
    return *done[:-1], done[-1].model_copy(update={"result": "stirred"})


class Turns:
    """The steps of a visit in order, each with the result of its retest."""

    def __init__(self, done: Sequence[DoneStep]) -> None:
        self.done = done

    @cached_property
    def last(self) -> DoneStep | None:
        return self.done[-1] if self.done else None

    def times(self, step: str) -> int:
        return sum(1 for d in self.done if d.step == step)

    def of(self, step: str) -> list[DoneStep]:
        return [d for d in self.done if d.step == step]

    @cached_property
    def untested(self) -> bool:
        """The last step changed something that no frame has looked at yet."""
        return self.last is not None and self.last.tested is not True

    def failed(self, step: str) -> bool:
        """A rung that was tried, tested, and did not help, so that a higher one may follow."""
        tried = self.of(step)
        return bool(tried) and tried[-1].result in _IN_VAIN

    @cached_property
    def shake_done(self) -> bool:
        """A whole turn of the shake, opening down; short ones are repeated, but not for ever."""
        whole = any(
            d.opening != "up" and (d.runs is None or d.runs >= SHAKE_RUNS)
            for d in self.of("auto_clean")
        )
        return whole or self.times("auto_clean") >= MOST_SHAKES

    # air

    @cached_property
    def good_air(self) -> list[DoneStep]:
        """Turns of air with the opening down that neither stirred nor made it worse."""
        return [
            d
            for d in self.of("air")
            if d.opening != "up" and d.result not in ("stirred", "worse") and d.tested is True
        ]

    @cached_property
    def stirred(self) -> bool:
        """The last turn of air only moved the dust about, or blew more in."""
        airs = self.of("air")
        return bool(airs) and airs[-1] not in self.good_air

    @cached_property
    def air_done(self) -> bool:
        return bool(self.good_air) and not self.stirred

    @cached_property
    def air_helps(self) -> bool:
        """The last step was a turn of air that took something off."""
        last = self.last
        return last is not None and last.step == "air" and last.result == "fewer"

    @cached_property
    def air_once_in_vain(self) -> bool:
        """One turn of air, opening down, that changed nothing."""
        return len(self.good_air) == 1 and self.good_air[0].result in ("no_change", "unknown", None)

    @cached_property
    def only_stirs(self) -> bool:
        """Air has stirred as often as it may; turns that took something off do not count."""
        in_vain = [d for d in self.of("air") if d.result not in _GOOD]
        return not self.air_done and len(in_vain) >= MOST_STIRS

    # contact

    @cached_property
    def contact_made(self) -> bool:
        return any(d.step in WORKED for d in self.done)

    @cached_property
    def last_was_contact(self) -> bool:
        return self.last is not None and self.last.step in CONTACT

    @cached_property
    def bad_turns(self) -> int:
        """Turns of contact that made it worse or streaked since the last good turn of any kind."""
        count = 0
        for step in reversed(self.done):
            if step.result in _GOOD:
                break
            count += step.step in WORKED and step.result in _BAD
        return count

    @cached_property
    def streaked(self) -> bool:
        """The last step left a streak that nothing has been done about."""
        last = self.last
        return last is not None and last.result == "streaks" and last.step in _WETTING

    @cached_property
    def streak_followed(self) -> bool:
        """A streak was left, and a dry follow-up has been tried on it."""
        marks = [i for i, d in enumerate(self.done) if d.result == "streaks"]
        return bool(marks) and any(d.step == "dry_followup" for d in self.done[marks[-1] :])

    @cached_property
    def wet_failed(self) -> bool:
        """The last wet swab did not help."""
        tried = self.of("wet_swab")
        return bool(tried) and tried[-1].result not in _GOOD[:1]

    @cached_property
    def failed_fluids(self) -> set[str]:
        """Kinds of fluid that were used and did not help.

        After one streak and its dry follow-up the kind may be used fresh once more: a streak comes
        of drops, air or pressure as often as of the fluid.
        """
        used = [d for d in self.of("wet_swab") if d.fluid]
        in_vain = [d for d in used if d.result in ("no_change", *_BAD)]
        if len(in_vain) == 1 and in_vain[0].result == "streaks" and self.streak_followed:
            return set()
        return {d.fluid for d in in_vain if d.fluid}
