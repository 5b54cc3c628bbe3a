"""A visit with everything needed to judge it, read from the store, judged by the core."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from itertools import pairwise
from typing import TypeVar, cast

from neatpatch.core.advice import Facts
from neatpatch.core.advice.ladder import next_rung
from neatpatch.core.advice.situation import Situation
from neatpatch.core.common.decisions import SWABS, Decision
from neatpatch.core.common.errors import BusyError
from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.guide.hand_plan import HandContext, HandPlan, hand_plan
from neatpatch.core.kit.stock import UNITS, for_body
from neatpatch.core.maps.mount_view import Pose
from neatpatch.core.plans.swab import Hand
from neatpatch.core.sensor.backdrop import Backdrop, camera_moved
from neatpatch.core.sensor.registration import Registration
from neatpatch.core.visit.body import mismatches
from neatpatch.core.visit.facts import VisitContext, facts_of, merged_schools
from neatpatch.core.visit.outcomes import StepOutcome, step_outcomes
from neatpatch.core.visit.place import (
    FrameRelations,
    PlaceFinding,
    find_place,
    moved_as_one,
    relate_frames,
)
from neatpatch.core.visit.spot_fates import SpotTrail, spot_trails
from neatpatch.core.visit.trail import StepUse, TrailEntry, TrailFrame, TrailStep, relevant_spots
from neatpatch.services.common.fingerprints import (
    registration_between,
)
from neatpatch.services.common.lookups import body_or_refuse, require_open, visit_or_refuse
from neatpatch.services.common.loss_fields import field_pair
from neatpatch.services.common.settings import usual_schools, usual_service
from neatpatch.services.common.views import job_model
from neatpatch.services.visits.previous_visit import PreviousVisit
from neatpatch.store import jobs as job_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import maps as map_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.backdrops import backdrop_from, cells_of
from neatpatch.store.datafolder import Library
from neatpatch.store.fingerprints import registrations_of_body
from neatpatch.store.visits import StoredEntry

_MOST_JUDGINGS = 20


FramePair = tuple[tuple[int, int], tuple[int, int]]
"""Two frames, each by its id and the version of its map."""


@dataclass(frozen=True)
class FitFrame:
    """A fit frame that counts on a trail."""

    entry_id: int
    frame_id: int
    spot_map: SpotMap


class LoadedVisit:
    """One visit with everything needed to judge it, read in one go."""

    def __init__(self, library: Library, connection: sqlite3.Connection, visit_id: int) -> None:
        self.visit = visit_or_refuse(connection, visit_id)
        self.stored_body = body_or_refuse(connection, self.visit.body_id)
        self.body = self.stored_body.body
        self.works_at = self.body.smallest_worked
        self.entries = visit_rows.trail_of(connection, visit_id)
        frame_ids = [e.frame_id for e in self.entries if e.frame_id is not None]
        self.members = visit_rows.series_sizes(connection, frame_ids)
        self.maps = {
            e.id: library.maps.map_at(connection, e.frame_id, e.map_version)
            for e in self.entries
            if e.frame_id is not None
        }
        self.told = registrations_of_body(connection, self.visit.body_id, frame_ids)
        self.usual = usual_schools(connection)
        self.service = usual_service(connection)
        stored_kit = kit_rows.all_items(connection)
        self.kit = for_body([k.owned for k in stored_kit], self.visit.body_id, date.today())
        self.units = {k.id: UNITS.get(k.owned.item.item) for k in stored_kit}
        self.moves = kit_rows.moves_of(connection, visit_id=visit_id)
        self.virtual = virtual_rows.virtual_camera_of(connection, self.visit.body_id) is not None
        self.jobs = [job_model(j) for j in job_rows.open_jobs_of_visit(connection, visit_id)]
        self.trail = self._trail()
        self._versions = {
            e.id: (e.frame_id, e.map_version)
            for e in self.entries
            if e.frame_id is not None and e.map_version is not None
        }
        self.earlier = PreviousVisit(connection, self.visit)
        self._maps = library.maps
        self._before_service = (
            library.maps.spot_map(connection, self.earlier.frame[0])
            if self.earlier.was_sent and self.earlier.frame
            else None
        )
        self._laid = {
            pair: library.maps.comparison(connection, *pair) for pair in self._pairs_of_steps()
        }
        self._registrations = self._laid_by_sensor(connection)
        self._fields = {
            pair: field_pair(library, connection, pair[0][0], pair[1][0])
            for pair in self._registrations
        }
        self._lights = cells_of(connection, frame_ids)
        self.fresh: dict[FramePair, Comparison] = {}
        """Comparisons made while judging that are not stored yet."""

    def _pairs_of_steps(self) -> list[FramePair]:
        """Fit frames in a row, each as frame and version of its map, and the one before a service
        with the first one after it.
        """
        counted = [self._versions[f.entry_id] for f in self.counted]
        back = [self.earlier.frame] if self.earlier.was_sent and self.earlier.frame else []
        return list(pairwise([*back, *counted]))

    def _laid_by_sensor(
        self, connection: sqlite3.Connection
    ) -> dict[FramePair, Registration | None]:
        """Where frames in a row lie on each other, of those not compared yet."""
        return {
            pair: registration_between(connection, pair[0][0], pair[1][0])
            for pair, known in self._laid.items()
            if known is None
        }

    @cached_property
    def outcomes(self) -> dict[int, StepOutcome]:
        """What each step did."""
        return step_outcomes(self.trail, self.works_at, self._compared, self.known.walls)

    @cached_property
    def counted(self) -> list[FitFrame]:
        """Fit frames that count, in their order."""
        return [
            FitFrame(e.id, self._versions[e.id][0], e.spot_map)
            for e in self.trail
            if isinstance(e, TrailFrame) and e.spot_map is not None and e.spot_map.fit
        ]

    @cached_property
    def steps_between(self) -> list[Comparison]:
        """Fit frames in a row, each against the one before it."""
        frames = [TrailFrame(id=f.entry_id, spot_map=f.spot_map) for f in self.counted]
        return [self._compared(a, b) for a, b in pairwise(frames)]

    def tested_by(self, step_id: int) -> SpotMap | None:
        """The map of the fit frame that tested a step; None without one."""
        after = (e for e in self.trail if isinstance(e, TrailFrame) and e.id > step_id)
        return next((e.spot_map for e in after if e.spot_map and e.spot_map.fit), None)

    @cached_property
    def lives(self) -> dict[int, Mapping[str, SpotTrail]]:
        """What became of the spots of each frame, by its entry."""
        return spot_trails(self.trail, self._compared)

    @cached_property
    def known(self) -> FrameRelations:
        """What the frames of the trail tell of each other."""
        return relate_frames(self.trail, self._compared, self._moved, self._travelled)

    @cached_property
    def since_service(self) -> Comparison | None:
        """The first frame after a service against the last one before it; None without one."""
        maps = [e for e in self.trail if isinstance(e, TrailFrame) and e.spot_map is not None]
        first = next((e for e in maps if e.spot_map is not None and e.spot_map.fit), None)
        if first is None or self.earlier.frame is None or self._before_service is None:
            return None
        pair = self.earlier.frame, self._versions[first.id]
        return self._laid_pair(pair, self._before_service, first.spot_map)

    @cached_property
    def place(self) -> PlaceFinding | None:
        """What the frames tell of the newest one's marks; None before a fit frame."""
        return find_place(self.known, self.works_at)

    def _moved(self, before: TrailFrame, after: TrailFrame) -> bool | None:
        """Whether the camera moved between two frames."""
        return camera_moved(self._backdrop(before), self._backdrop(after))

    def _travelled(
        self, before: TrailFrame, after: TrailFrame, found: Comparison
    ) -> tuple[set[str], set[str]]:
        """What moved as one between two frames."""
        key = "travelled", self._versions[before.id], self._versions[after.id]
        return self._maps.memoised(key, lambda: moved_as_one(before, after, found))

    def _backdrop(self, frame: TrailFrame) -> Backdrop | None:
        assert frame.spot_map is not None
        cells = self._lights.get(self._versions[frame.id][0])
        return backdrop_from(cells, frame.spot_map.frames[0])

    def _compared(self, before: TrailFrame, after: TrailFrame) -> Comparison:
        pair = self._versions[before.id], self._versions[after.id]
        found = self._laid_pair(pair, before.spot_map, after.spot_map)
        assert found is not None
        return found

    def _laid_pair(
        self, pair: FramePair, before: SpotMap | None, after: SpotMap | None
    ) -> Comparison | None:
        """Two maps aligned, once; None where one of them is not there."""
        found = self._laid.get(pair) or self.fresh.get(pair)
        if found is None and before is not None and after is not None:
            fields = self._fields.get(pair)
            found = self.fresh[pair] = compare(
                before, after, self._registrations.get(pair), fields.read() if fields else None
            )
        return found

    def doubts(self, entry: StoredEntry) -> tuple[str, ...]:
        """Why a frame may not be this body's, unless the owner said it is."""
        spot_map = self.maps.get(entry.id)
        if spot_map is None or entry.frame_id is None or entry.accepted:
            return ()
        return mismatches(self.body, spot_map, self.told.get(entry.frame_id))

    def _trail(self) -> list[TrailEntry]:
        trail: list[TrailEntry] = []
        for entry in self.entries:
            if entry.step is not None:
                trail.append(
                    TrailStep.model_validate({"id": entry.id, "step": entry.step, "use": entry.use})
                )
            elif not self.doubts(entry):
                trail.append(
                    TrailFrame(id=entry.id, spot_map=self.maps[entry.id], explained=entry.explained)
                )
        return trail

    @property
    def latest(self) -> StoredEntry | None:
        """The newest measured frame that counts."""
        counted = {e.id for e in self.trail if isinstance(e, TrailFrame) and e.spot_map}
        return next((e for e in reversed(self.entries) if e.id in counted), None)

    def latest_map(self) -> SpotMap | None:
        """Its map."""
        return self.maps[self.latest.id] if self.latest else None

    def recipe_map(self) -> SpotMap | None:
        """The newest fit map, whose recipe the next frame repeats; any map before there is one."""
        maps = [e.spot_map for e in self.trail if isinstance(e, TrailFrame) and e.spot_map]
        return next((m for m in reversed(maps) if m.fit), maps[-1] if maps else None)

    @cached_property
    def facts(self) -> Facts:
        """What the judgement looks at, today; with the presses planned where lifting is next."""
        facts = self._facts()
        if next_rung(Situation(facts)) != "lift":
            return facts
        presses = self._plan("lift", facts).patches
        return facts.model_copy(update={"planned_presses": presses or None})

    def _facts(self) -> Facts:
        today = date.today()
        job = self.visit.conditions.job_on
        months = self.body.months_since_service(today)
        service = self.service
        if months is not None:
            service = service.model_copy(update={"months_since_service": months})
        return facts_of(
            self.body,
            self.visit.conditions,
            self.trail,
            VisitContext(
                kit=self.kit,
                schools=self.usual,
                service=service,
                place=self.place,
                outcomes=self.outcomes,
                job_in_days=max(0, (job - today).days) if job else None,
                under_guarantee=self.body.under_guarantee(today),
            ),
        )

    @property
    def narrower_ok(self) -> bool:
        """Whether the school of this visit takes swabs narrower than the sensor."""
        return merged_schools(self.usual, self.visit.conditions.schools).narrower_ok

    def relevant_ends(self) -> tuple[int | None, int | None]:
        """Relevant spots in the first and in the newest frame that counts."""
        maps = [e.spot_map for e in self.trail if isinstance(e, TrailFrame) and e.spot_map]
        if not maps:
            return None, None
        first, last = (self.visible_count(m) for m in (maps[0], maps[-1]))
        return first, last

    def visible_count(self, spot_map: SpotMap) -> int | None:
        """How many spots are visible in the work; None where no aperture is recorded."""
        if spot_map.frames[0].f_number is None:
            return None
        return len(relevant_spots(spot_map, self.works_at))

    def plan(self, step: Decision, pose: Pose = "top_away", hand: Hand = "right") -> HandPlan:
        """The plan of a step on the newest frame; empty without a frame or its sensor's size."""
        return self._plan(step, self.facts, pose, hand)

    def _plan(
        self, step: Decision, facts: Facts, pose: Pose = "top_away", hand: Hand = "right"
    ) -> HandPlan:
        spot_map = self.latest_map()
        if spot_map is None or spot_map.frames[0].sensor_mm is None:
            return HandPlan()
        tools = Situation(facts).tools
        bench = HandContext(
            sensor_mm=spot_map.frames[0].sensor_mm,
            schools=facts.schools,
            pose=pose,
            hand=hand,
            chamber_mm=self.body.chamber_mm,
            fluid=tools.fluid,
            tool=tools.tool_for(step),
        )
        return hand_plan(step, self.visible_spots(), bench)

    def visible_spots(self) -> list[Spot]:
        """Spots of the newest frame to work on: visible in the work, and not the target's."""
        spot_map = self.latest_map()
        wall = set(self.place.wall) if self.place else set()
        spots = relevant_spots(spot_map, self.works_at) if spot_map else []
        return [s for s in spots if s.id not in wall]

    def usual_use(self, step: Step, use: StepUse) -> StepUse:
        """What a step used, with what was not counted taken from its plan."""
        use = self._recorded(step, use)
        planned = step == "lift" or step in SWABS
        if not planned or (use.dabs if step == "lift" else use.swabs) is not None:
            return use
        plan = self.plan(step)
        if step == "lift" and plan.patches:
            return use.model_copy(update={"dabs": plan.patches})
        return use if step == "lift" else use.model_copy(update={"swabs": plan.swabs or 1})

    def _recorded(self, step: Step, use: StepUse) -> StepUse:
        """What a step was done with, and in what room: what may explain a streak later."""
        if step not in (*SWABS, "air"):
            return use
        tools, room = Situation(self.facts).tools, self.visit.conditions
        tool = tools.tool_for(cast(Decision, step))
        wet = step in ("wet_swab", "corner_swab")
        wiped = tool is not None and tool.item == "moist_wipe"
        told = {
            "item": use.item or (tool.item if tool else None),
            "fluid": use.fluid or (tools.fluid if wet and not wiped else None),
            "temperature_c": room.temperature_c if use.temperature_c is None else None,
            "humidity_percent": room.humidity_percent if use.humidity_percent is None else None,
        }
        if step == "air":
            told = {"item": told["item"]}
        return use.model_copy(update={k: v for k, v in told.items() if v is not None})


def recount(library: Library, connection: sqlite3.Connection, visit_id: int) -> None:
    """Keep the relevant counts that lists show."""
    ends = LoadedVisit(library, connection, visit_id).relevant_ends()
    visit_rows.remember_counts(connection, visit_id, *ends)


def load_visit(library: Library, visit_id: int) -> LoadedVisit:
    """A visit judged outside any transaction; what had to be compared for it is stored."""
    with library.database.read() as connection:
        case = LoadedVisit(library, connection, visit_id)
    _ = case.outcomes, case.since_service
    for pair, found in case.fresh.items():
        library.maps.remember(*pair, found)
    if case.fresh:
        with suppress(sqlite3.OperationalError), library.database.write() as connection:
            for pair, found in case.fresh.items():
                map_rows.put_comparison(connection, *pair, found)
    return case


Judged = TypeVar("Judged")


def change_visit(
    library: Library,
    visit_id: int,
    judge: Callable[[LoadedVisit], Judged],
    act: Callable[[sqlite3.Connection, LoadedVisit, Judged], None],
) -> None:
    """Judge an open visit, then act on it in one short transaction, if it is still as judged.

    Judging compares frames and takes long; the only writer is not held meanwhile. When the visit
    changed in between it is judged again. For what leaves the frames of the trail as they are.
    """
    for _ in range(_MOST_JUDGINGS):
        case = load_visit(library, visit_id)
        require_open(case.visit)
        judged = judge(case)
        with library.database.write() as connection:
            if visit_rows.version_of(connection, visit_id) != case.visit.version:
                continue
            act(connection, case, judged)
        return
    raise BusyError("This visit is being changed all the time. Try again in a moment.")
