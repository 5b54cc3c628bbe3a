"""The line of a whole clean that the product's advice takes, over the same hidden dirt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import count
from typing import cast, get_args

from neatpatch.core.advice import advise
from neatpatch.core.common.decisions import CONTACT, OPENS
from neatpatch.core.common.facts import KitItem, Step
from neatpatch.core.common.records import SpotMap
from neatpatch.core.compare.comparison import (
    AlignmentRecord,
    ComparedSpot,
    Comparison,
    ComparisonSummary,
    Status,
)
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.facts import VisitContext, facts_of
from neatpatch.core.visit.outcomes import step_outcomes
from neatpatch.core.visit.place import PlaceFinding
from neatpatch.core.visit.trail import (
    TrailEntry,
    TrailFrame,
    TrailStep,
    relevant_spots,
    usual_use,
)
from neatpatch.simulation.camera import Camera
from neatpatch.simulation.rungs import BondedParticle, Handling, perform
from neatpatch.simulation.seen_map import seen_map

_MOST_TURNS = 12
_F_NUMBER = 22.0
_NEAR_MM = 0.2


@dataclass(frozen=True)
class AdvisedStep:
    """A step and how many spots were visible in the work after it."""

    step: Step
    visible: int


@dataclass(frozen=True)
class AdvisedLine:
    """Steps in order. ``visible``: spots that were left at the end."""

    steps: tuple[AdvisedStep, ...]
    visible: int

    @property
    def touches(self) -> int:
        """Steps that touched the glass."""
        return sum(s.step in CONTACT for s in self.steps)


@dataclass(frozen=True, kw_only=True)
class CleanStart:
    """How a clean begins: the body, the room, the kit, and what truly lies on the sensor."""

    body: Body
    conditions: VisitConditions
    kit: tuple[KitItem, ...]
    camera: Camera
    dust: tuple[BondedParticle, ...]


def visible_of(before: CleanStart, dust: Sequence[BondedParticle]) -> int:
    """Spots on the sensor that show at the smallest aperture worked at."""
    seen = seen_map(before.camera, [d.particle for d in dust], _F_NUMBER)
    return len(relevant_spots(seen, before.body.smallest_worked))


def advised_line(before: CleanStart, seed: int) -> AdvisedLine:
    """Follow the advice to its end, each step with the odds of the virtual camera.

    Frames are perfect: what is compared is judgement, not luck in measuring.
    """
    dust = before.dust
    trail: list[TrailEntry] = []
    steps: list[AdvisedStep] = []
    works_at = before.body.smallest_worked
    ids = count(1)
    for turn in range(_MOST_TURNS):
        seen = seen_map(before.camera, [d.particle for d in dust], _F_NUMBER)
        trail.append(TrailFrame(id=next(ids), spot_map=seen))
        outcomes = step_outcomes(trail, works_at, _laid)
        beside = VisitContext(
            kit=before.kit, under_guarantee=False, outcomes=outcomes, place=_proved(seen)
        )
        decision = advise(facts_of(before.body, before.conditions, trail, beside)).decision
        if decision not in ("auto_clean", *OPENS):
            break
        step = cast(Step, decision)
        use = usual_use(step)
        trail.append(TrailStep(id=next(ids), step=step, use=use))
        handling = Handling(opening=use.opening, drops=use.drops)
        dust = perform(dust, step, handling, before.camera.sensor_mm, seed + turn)
        steps.append(AdvisedStep(step, visible_of(before, dust)))
    return AdvisedLine(tuple(steps), visible_of(before, dust))


def _proved(seen: SpotMap) -> PlaceFinding:
    """A perfect frame needs no second one to prove where its marks are."""
    mine = tuple(s.id for s in seen.spots if s.site == "sensor")
    return PlaceFinding(state="proved" if mine else "nothing", words="", on_sensor=mine)


def _laid(before: TrailFrame, after: TrailFrame) -> Comparison:
    """Two perfect maps aligned by the particles' names."""
    old, new = (_by_name(f.spot_map) for f in (before, after))
    spots = [
        ComparedSpot(
            status=_status(old.get(name), new.get(name)),
            before=name if name in old else None,
            after=name if name in new else None,
            x_px=0.0,
            y_px=0.0,
            moved_um=None,
        )
        for name in {**old, **new}
    ]
    tally = {status: sum(s.status == status for s in spots) for status in get_args(Status)}
    return Comparison(
        schema_="neatpatch.compare/1",
        comparable=True,
        why_not=(),
        same_sensor=True,
        alignment=AlignmentRecord(scale=1.0, shift_px=(0.0, 0.0), residual_px=0.0),
        spots=tuple(spots),
        summary=ComparisonSummary(
            before=len(old),
            after=len(new),
            removed_percent=100 * tally["gone"] / len(old) if old else 0.0,
            **tally,
        ),
    )


def _by_name(found: SpotMap | None) -> dict[str, tuple[float, float]]:
    spots = found.spots if found else ()
    return {s.id: (s.x_mm or 0.0, s.y_mm or 0.0) for s in spots if s.site == "sensor"}


def _status(old: tuple[float, float] | None, new: tuple[float, float] | None) -> Status:
    if old is None:
        return "new"
    if new is None:
        return "gone"
    near = abs(old[0] - new[0]) < _NEAR_MM and abs(old[1] - new[1]) < _NEAR_MM
    return "stayed" if near else "moved"
