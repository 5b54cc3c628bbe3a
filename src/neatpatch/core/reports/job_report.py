"""A job's report: all of its cameras on one page."""

from __future__ import annotations

from neatpatch.core.common.moments import day_of
from neatpatch.core.common.records import Record
from neatpatch.core.common.words import counted, day_words
from neatpatch.core.kit.readiness import BodyNow, BodyReady, JobReady, JobState
from neatpatch.core.kit.supplies import KitReady
from neatpatch.core.reports.visit_report import Letterhead

_STATE_WORDS: dict[JobState, str] = {
    "ready": "Ready",
    "later": "Not due yet",
    "act": "Something to do",
    "late": "Not all in time",
}


class BodyLine(Record):
    """One camera of a job."""

    name: str
    serial: str
    looked: str
    visible: str
    words: str


class JobReport(Record):
    """All of a job's report, in the order it is read."""

    title: str
    letterhead: Letterhead
    made: str
    summary: str
    facts: tuple[tuple[str, str], ...]
    bodies: tuple[BodyLine, ...]
    kit: tuple[tuple[str, str, str], ...]


def job_report(
    ready: JobReady, bodies: dict[int, BodyNow], letterhead: Letterhead, made: str
) -> JobReport:
    """A job with its cameras; ``bodies`` by their ids, ``made``: the day, in words."""
    done = sum(b.state == "ready" for b in ready.bodies)
    cameras = counted(len(ready.bodies), "camera")
    return JobReport(
        title=ready.job.name,
        letterhead=letterhead,
        made=made,
        summary=f"{_STATE_WORDS[ready.state]}: {done} of {cameras} ready",
        facts=tuple(
            (name, value)
            for name, value in (
                ("Begins", day_words(ready.job.starts_on)),
                ("Note", ready.job.note),
                ("Service", ready.service),
            )
            if value
        ),
        bodies=tuple(_line(b, bodies.get(b.body_id)) for b in ready.bodies),
        kit=tuple((k.thing, _amount(k), "yes" if k.enough else "short") for k in ready.kit),
    )


def _amount(line: KitReady) -> str:
    nouns = {"piece": "", "patch": "patches", "ml": "ml"}
    return f"{line.needed:g} {nouns.get(line.unit, '')}".strip()


def _line(ready: BodyReady, now: BodyNow | None) -> BodyLine:
    looked, visible = "never", ""
    if now is not None and now.last_look_on:
        looked = day_words(day_of(now.last_look_on))
        visible = "unknown" if now.relevant is None else str(now.relevant or "none")
    return BodyLine(
        name=ready.name,
        serial=now.body.serial if now else "",
        looked=looked,
        visible=visible,
        words=ready.words,
    )
