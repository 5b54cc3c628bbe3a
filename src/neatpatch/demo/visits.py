"""A year of visits at the Saltmarsh Chart Archive, lived through with the virtual camera.

Nothing in the trails is written by hand: each step is what the judgement advised on the frame
before it, done to the virtual sensor, and shot again.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path

from neatpatch.core.advice import advise
from neatpatch.core.common.decisions import OPENS
from neatpatch.core.common.facts import Schools, Step
from neatpatch.core.common.frame import Frame
from neatpatch.core.common.loss_field import LossField
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.kit.stock import for_body
from neatpatch.core.measure.map_building import MapOptions, measure_map
from neatpatch.core.sensor.backdrop import backdrop_of, camera_moved
from neatpatch.core.sensor.registration import register_frames
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.facts import VisitContext, facts_of
from neatpatch.core.visit.outcomes import step_outcomes
from neatpatch.core.visit.place import find_place, relate_frames
from neatpatch.core.visit.trail import (
    StepUse,
    TrailEntry,
    TrailFrame,
    TrailStep,
    Verdict,
    usual_use,
)
from neatpatch.demo.drawer import days_later, demo_kit
from neatpatch.images.read import read_frame
from neatpatch.simulation import Camera
from neatpatch.simulation.frames import ShotFrame, shoot_frame
from neatpatch.simulation.rungs import BondedParticle, Handling, perform, scatter_dust

_MOST_TURNS = 5
_NEXT_JOB = "2026-12-01"


@dataclass(frozen=True)
class DemoBody:
    """One body of the archive with the virtual camera behind it."""

    body: Body
    camera: Camera
    f_number: float
    seed: int


@dataclass(frozen=True)
class DemoStep:
    """A step of a demo trail."""

    step: Step
    use: StepUse
    at: str


@dataclass(frozen=True)
class DemoVisit:
    """One visit with its trail; ``verdict`` None leaves it open. ``dust_left`` lies there then,
    ``dust_found`` lay there at its beginning.
    """

    body: DemoBody
    opened_at: str
    closed_at: str | None
    conditions: VisitConditions
    entries: tuple[ShotFrame | DemoStep, ...]
    verdict: Verdict | None
    note: str
    dust_left: tuple[BondedParticle, ...]
    dust_found: tuple[BondedParticle, ...] = ()


@dataclass(frozen=True)
class Occasion:
    """Why the camera is looked at, and what has gathered since the last time."""

    day: str
    why_now: str
    counts: dict[str, int]
    steps: int = _MOST_TURNS
    left_open: bool = False


def _demo_body(
    name: str,
    sensor_mm: tuple[float, float],
    stack_mm: float,
    f_number: float,
    seed: int,
    **facts: object,
) -> DemoBody:
    camera = Camera(
        name=name,
        sensor_mm=sensor_mm,
        width_px=2400,
        stack_mm=stack_mm,
        blades=5 + seed % 5,
        exit_pupil_mm=70.0 + 8 * (seed % 4),
        hot_pixels=8,
    )
    body = Body.model_validate(
        {
            "name": name,
            "camera_name": name,
            "serial": f"{seed:02d}-{seed * 7919 % 100000:05d}",
            "no_guarantee": True,
            "closes_when_off": False,
            "sensor_mm": sensor_mm,
            "works_at": (11.0, 16.0),
            **facts,
        }
    )
    return DemoBody(body, camera, f_number, seed)


TARN = _demo_body(
    "Tarn Meridian S",
    (35.9, 23.9),
    1.4,
    22.0,
    41,
    stabilised=True,
    hold_rule="off",
    hold_note="Handbook, page 212: locked when switched off.",
    self_clean=True,
    flange_mm=20.0,
    lens_focal_mm=85.0,
    lens_smallest_f=22.0,
)
FENNICK = _demo_body(
    "Fennick Judge D",
    (23.5, 15.6),
    1.6,
    22.0,
    52,
    access="mirror",
    stabilised=False,
    self_clean=True,
    lockup_note="second page of the tools menu, “mirror up for cleaning”",
    lockup_minutes=25.0,
    flange_mm=45.5,
    lens_focal_mm=85.0,
    lens_smallest_f=22.0,
)
ORLO = _demo_body(
    "Orlo Copystand 12",
    (35.9, 23.9),
    1.3,
    16.0,
    63,
    stabilised=False,
    self_clean=True,
    flange_mm=18.5,
    lens_focal_mm=85.0,
    lens_smallest_f=22.0,
)
HALDEN = _demo_body(
    "Halden Plate 44",
    (43.8, 32.9),
    2.1,
    22.0,
    74,
    access="digital_back",
    stabilised=False,
)
CALENDAR: tuple[tuple[DemoBody, tuple[Occasion, ...]], ...] = (
    (
        TARN,
        (
            Occasion("2026-01-12", "Before the winter charts", {"speck": 14, "fibre": 1}),
            Occasion(
                "2026-06-08", "Spots on the linen scans", {"speck": 20, "fibre": 2, "droplet": 1}
            ),
            Occasion(
                "2026-11-20",
                "Job next week, spots at f/16",
                {"speck": 30, "fibre": 2, "droplet": 2},
                2,
                left_open=True,
            ),
        ),
    ),
    (
        FENNICK,
        (
            Occasion("2026-02-03", "Calendar", {"speck": 4}),
            Occasion("2026-09-15", "Oil from the shutter", {"speck": 10, "droplet": 8}),
        ),
    ),
    (
        ORLO,
        (
            Occasion("2026-03-09", "Yearly check", {"speck": 9}),
            Occasion("2026-10-05", "Paper crumbs", {"speck": 26, "fibre": 4}),
        ),
    ),
    (HALDEN, (Occasion("2026-05-18", "Came off for the plates", {"speck": 12, "fibre": 2}),)),
)


def run_visits(folder: Path, today: date) -> Iterator[tuple[float, DemoVisit | None]]:
    """Live through the year up to a day, the open visit first to be ready; share done and each
    visit.
    """
    total = sum(len(occasions) for _, occasions in CALENDAR)
    done = 0
    for place, (demo_body, occasions) in enumerate(CALENDAR):
        dust: tuple[BondedParticle, ...] = ()
        for number, occasion in enumerate(occasions):
            dust = (*dust, *_gathered(demo_body, occasion, number))
            visit = _visit(place + 1, demo_body, occasion, dust, folder, today)
            dust = visit.dust_left
            done += 1
            yield done / total, visit


def _gathered(demo_body: DemoBody, occasion: Occasion, number: int) -> tuple[BondedParticle, ...]:
    fresh = scatter_dust(
        occasion.counts,
        demo_body.camera.sensor_mm,
        demo_body.camera.stack_mm,
        demo_body.seed * 10 + number,
    )
    return tuple(
        replace(d, particle=replace(d.particle, name=f"v{number}-{d.particle.name}")) for d in fresh
    )


class _TestedFrame:
    """The frames of a visit, by entry; each pair is aligned once."""

    def __init__(self) -> None:
        self.frames: dict[int, Frame] = {}
        self.fields: dict[int, LossField] = {}
        self._laid: dict[tuple[int, int], Comparison] = {}

    def laid(self, before: TrailFrame, after: TrailFrame) -> Comparison:
        pair = before.id, after.id
        if pair not in self._laid:
            assert before.spot_map is not None
            assert after.spot_map is not None
            place = register_frames(self.frames[before.id], self.frames[after.id])
            fields = self.fields[before.id], self.fields[after.id]
            self._laid[pair] = compare(before.spot_map, after.spot_map, place, fields)
        return self._laid[pair]

    def moved(self, before: TrailFrame, after: TrailFrame) -> bool | None:
        lights = backdrop_of(self.frames[before.id]), backdrop_of(self.frames[after.id])
        return camera_moved(*lights)


def _visit(
    place: int,
    demo_body: DemoBody,
    occasion: Occasion,
    dust: tuple[BondedParticle, ...],
    folder: Path,
    today: date,
) -> DemoVisit:
    day, found = days_later(occasion.day, today), dust
    conditions = VisitConditions(
        why_now=occasion.why_now,
        temperature_c=20,
        humidity_percent=46,
        moving_air=False,
        surface="bare",
        room_clean=True,
        power="off",
        battery_percent=100,
        mains=False,
        mirror_up=True if demo_body.body.access == "mirror" else None,
        experience="practised",
        job_on=date.fromisoformat(days_later(_NEXT_JOB, today)) if occasion.left_open else None,
        schools=Schools(contact_by="self"),
    )
    kit = for_body(demo_kit(today), place, date.fromisoformat(day))
    entries: list[ShotFrame | DemoStep] = []
    trail: list[TrailEntry] = []
    verdict: Verdict = "given_up"
    seen = _TestedFrame()
    for turn in range(occasion.steps + 1):
        at = f"{day}T09:{10 + 6 * turn:02d}:00"
        entries.append(_shoot(demo_body, dust, occasion, turn, folder, at))
        frame = read_frame(entries[-1].path)  # type: ignore[union-attr]
        seen.frames[2 * turn] = frame
        measured = measure_map(frame, MapOptions(sensor_mm=demo_body.body.sensor_mm))
        seen.fields[2 * turn] = measured.field
        trail.append(TrailFrame(id=2 * turn, spot_map=measured.spot_map))
        known = relate_frames(trail, seen.laid, seen.moved)
        outcomes = step_outcomes(trail, demo_body.body.smallest_worked, seen.laid, known.walls)
        proved = find_place(known, demo_body.body.smallest_worked)
        beside = VisitContext(kit=kit, under_guarantee=False, outcomes=outcomes, place=proved)
        advice = advise(facts_of(demo_body.body, conditions, trail, beside))
        if advice.decision in ("stop_done", "defer"):
            verdict = "finished"
            break
        if turn == occasion.steps or advice.decision not in ("auto_clean", *OPENS):
            break
        step: Step = advice.decision  # type: ignore[assignment]
        use = usual_use(step)
        entries.append(DemoStep(step, use, at.replace(":00", ":40", 1)))
        trail.append(TrailStep(id=2 * turn + 1, step=step, use=use))
        dust = perform(
            dust,
            step,
            Handling(opening=use.opening, drops=use.drops),
            demo_body.camera.sensor_mm,
            demo_body.seed * 100 + turn,
        )
    closed = None if occasion.left_open else f"{day}T10:05:00"
    return DemoVisit(
        demo_body,
        f"{day}T09:05:00",
        closed,
        conditions,
        tuple(entries),
        None if occasion.left_open else verdict,
        "",
        dust,
        found,
    )


def _shoot(
    demo_body: DemoBody,
    dust: tuple[BondedParticle, ...],
    occasion: Occasion,
    turn: int,
    folder: Path,
    at: str,
) -> ShotFrame:
    stem = demo_body.body.name.split()[0].lower()
    path = folder / f"{stem}-{occasion.day}-{turn + 1}.jpg"
    shoot_frame(
        demo_body.camera,
        [d.particle for d in dust],
        demo_body.f_number,
        demo_body.seed * 1000 + int(occasion.day[5:7]) * 10 + turn,
        path,
        at,
    )
    return ShotFrame(path, path.name, "", demo_body.body.sensor_mm, at)
