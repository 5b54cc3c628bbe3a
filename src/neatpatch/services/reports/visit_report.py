"""A visit's report, gathered from the store."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime

from neatpatch.core.common.moments import day_of, local_time
from neatpatch.core.common.words import counted, day_words, lengths
from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison, without
from neatpatch.core.reports.step_words import VERDICT_WORDS, amount_words
from neatpatch.core.reports.visit_report import (
    Closeup,
    Counted,
    Report,
    cautions_for,
    figures_of,
    frame_shown,
    limits_of,
    same_sensor_words,
    step_lines,
    summary_words,
    worst_spots_of,
)
from neatpatch.core.visit.trail import TrailFrame, TrailStep
from neatpatch.services.common.fingerprints import registration_between
from neatpatch.services.common.loss_fields import fields_between
from neatpatch.services.reports.closeups import Source, closeup
from neatpatch.services.reports.letterhead import kept_letterhead
from neatpatch.services.reports.rendering import Sheet
from neatpatch.services.visits.loaded_visit import LoadedVisit
from neatpatch.store import frames as frame_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.visits import StoredEntry


@dataclass(frozen=True)
class _Judged:
    """A fit frame of the trail with its map as it counts."""

    entry: StoredEntry
    counted: Counted


def visit_sheet(library: Library, visit_id: int) -> Sheet:
    """All of a visit's report, to be set. `NotThereError` where there is no such visit."""
    with library.database.read() as connection:
        case = LoadedVisit(library, connection, visit_id)
        ends = _ends(case)
        found = _compared(library, connection, ends)
        sources = [_source(library, connection, j) for j in ends]
        letterhead, logo = kept_letterhead(connection)
    before = ends[0].counted if ends else None
    after = ends[1].counted if len(ends) > 1 else None
    closeups, pictures = _closeups(case, ends, sources, found)
    titles = ("Before", "After") if after else ("The frame",)[: len(ends)]
    report = Report(
        title="Sensor report",
        letterhead=letterhead,
        made=day_words(datetime.now(UTC).date()),
        summary=summary_words(before, after, found, case.works_at),
        facts=_facts(case),
        frames=tuple(
            frame_shown(title, j.counted, _taken(j), case.works_at)
            for title, j in zip(titles, ends, strict=True)
        ),
        same_sensor=same_sensor_words(found),
        figures=tuple(figures_of(before, after, case.works_at)) if before else (),
        closeups=tuple(closeups),
        steps=step_lines(_steps(case), case.outcomes),
        remarks=case.visit.note,
        next_look=_next_look(case),
        cautions=cautions_for([e for e in case.trail if isinstance(e, TrailStep)]),
        limits=limits_of([j.counted.spot_map for j in ends]),
    )
    return Sheet(template="visit", record=report, pictures=pictures, logo=logo)


def _ends(case: LoadedVisit) -> list[_Judged]:
    """The first and the last fit frame that count; one where there is one."""
    entries = {e.id: e for e in case.entries}
    fit = [
        _Judged(
            entries[e.id],
            Counted(spot_map=e.spot_map, wall=frozenset(case.known.walls.get(e.id, set()))),
        )
        for e in case.trail
        if isinstance(e, TrailFrame) and e.spot_map is not None and e.spot_map.fit
    ]
    return fit if len(fit) < 2 else [fit[0], fit[-1]]


def _compared(
    library: Library, connection: sqlite3.Connection, ends: list[_Judged]
) -> Comparison | None:
    if len(ends) < 2:
        return None
    before, after = ends
    assert before.entry.frame_id is not None
    assert after.entry.frame_id is not None
    place = registration_between(connection, before.entry.frame_id, after.entry.frame_id)
    fields = fields_between(library, connection, before.entry.frame_id, after.entry.frame_id)
    found = compare(before.counted.spot_map, after.counted.spot_map, place, fields)
    return without(found, set(before.counted.wall), set(after.counted.wall))


def _source(library: Library, connection: sqlite3.Connection, judged: _Judged) -> Source:
    assert judged.entry.frame_id is not None
    frame = frame_rows.frame_by_id(connection, judged.entry.frame_id)
    assert frame is not None
    record = judged.counted.spot_map.frames[0]
    return Source(library.derived(frame.sha256), record)


def _closeups(
    case: LoadedVisit, ends: list[_Judged], sources: list[Source], found: Comparison | None
) -> tuple[list[Closeup], dict[str, bytes]]:
    """The worst spots enlarged, with the pictures they name."""
    pictures: dict[str, bytes] = {}
    if found is None or not found.comparable:
        return [], pictures
    before, after = (j.counted for j in ends)
    closeups = []
    for number, worst in enumerate(worst_spots_of(before, after, found, case.works_at), 1):
        names = {}
        for side, source, at in (
            ("before", sources[0], worst.there),
            ("after", sources[1], worst.here),
        ):
            data = closeup(source, at, worst.outer_px) if at else None
            if data is not None:
                names[side] = f"spot-{number}-{side}.png"
                pictures[names[side]] = data
        closeups.append(
            Closeup(words=worst.words, before=names.get("before"), after=names.get("after"))
        )
    return closeups, pictures


def _facts(case: LoadedVisit) -> tuple[tuple[str, str], ...]:
    body, visit = case.body, case.visit
    ended = VERDICT_WORDS[visit.verdict] if visit.verdict else "still open"
    rows = [
        ("Camera", body.name),
        ("Serial number", body.serial or "not recorded"),
        ("Camera name in files", body.camera_name or ""),
        ("Sensor", lengths(*body.sensor_mm, link=" x ")),
        ("Visit", f"{_day(visit.opened_at)}, {ended}"),
        ("Closed", _day(visit.closed_at) if visit.closed_at else ""),
        ("Why now", visit.conditions.why_now),
        ("Used", _used(case)),
    ]
    return tuple((name, value) for name, value in rows if value)


def _day(moment: str) -> str:
    return day_words(day_of(moment))


def _taken(judged: _Judged) -> str:
    taken = judged.counted.spot_map.frames[0].taken_at
    return _day(taken) if taken else _day(judged.entry.at)


def _used(case: LoadedVisit) -> str:
    """What the visit took of the kit, in all."""
    sums: dict[tuple[str, str | None], float] = {}
    for move in case.moves:
        thing = move.thing, case.units.get(move.kit_id or 0)
        sums[thing] = sums.get(thing, 0.0) - move.change
    return "; ".join(
        amount_words(amount, thing, unit) for (thing, unit), amount in sums.items() if amount > 0
    )


def _steps(case: LoadedVisit) -> list[tuple[TrailStep, str, str]]:
    entries = {e.id: e for e in case.entries}
    lines = []
    for step in case.trail:
        if isinstance(step, TrailStep):
            entry = entries[step.id]
            parts = (
                f"by {entry.who}" if entry.who else "",
                step.use.note or "",
                f"against advice: {entry.against}" if entry.against else "",
            )
            note = "; ".join(p for p in parts if p)
            lines.append((step, _clock(entries[step.id].at), note))
    return lines


def _clock(moment: str) -> str:
    return f"{_day(moment)}, {local_time(moment):%H:%M}"


def _next_look(case: LoadedVisit) -> str:
    visit = case.visit
    if visit.look_again_on:
        return _day(visit.look_again_on)
    if visit.state == "open":
        return f"The visit is still open: {counted(len(case.trail), 'entry', 'entries')} so far."
    return "None is set."
