"""*A whole clean*: a virtual camera in a data folder of its own, from first frame to verdict."""

from __future__ import annotations

import json
import sqlite3
from typing import cast

from neatpatch.core.common.decisions import CONTACT, OPENS, SWABS
from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Record
from neatpatch.core.common.words import counted
from neatpatch.core.kit.stock import UNITS, KitEntry
from neatpatch.services.practice.advised import AdvisedLine, advised_line, visible_of
from neatpatch.services.practice.trainers import clean_before, trainer_kit
from neatpatch.services.visits.trail import ODDS_SEED
from neatpatch.store import bodies as body_rows
from neatpatch.store import frames as frame_rows
from neatpatch.store import kit as kit_rows
from neatpatch.store import virtual_cameras as virtual_rows
from neatpatch.store import visits as visit_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_setting, put_setting
from neatpatch.store.virtual_cameras import VirtualCamera

_SEED = "clean"
_MINUTES: dict[Step, float] = {
    "air": 2.0,
    "brush": 2.0,
    "lift": 6.0,
    "dry_swab": 3.0,
    "wet_swab": 4.0,
    "dry_followup": 2.0,
    "corner_swab": 3.0,
}
"""How long the camera lies open for a step, in minutes: assumed where nobody measured it."""


class CleanLine(Record):
    """One way through a clean: its ``steps`` in order, ``visible`` spots left in the work,
    ``touches`` of the glass, single-use ``pieces``, ``minutes_open`` (as hands-busy mode measured
    them, else assumed by step), and the ``risks`` taken: the reasons given for what was barred.
    """

    steps: tuple[str, ...]
    visible: int
    touches: int
    pieces: int
    minutes_open: float
    risks: tuple[str, ...]


class CleanDebrief(Record):
    """Your line beside the advised one, over the same dirt. ``begun_with``: spots visible then."""

    seed: int
    visit_id: int
    begun_with: int
    right: bool
    unsafe: bool
    yours: CleanLine
    advised: CleanLine
    lines: tuple[str, ...]


class CleanBegun(Record):
    """A clean that was begun, as a visit of its room."""

    seed: int
    visit_id: int


class CleanNow(Record):
    """The clean that was begun last; ``open``: it goes on. None where there is none."""

    begun: CleanBegun | None
    open: bool


def clean_now(trial: Library) -> CleanNow:
    """What is there to go on with."""
    with trial.database.read() as connection:
        visit_id, seed = _kept(connection)
        visit = visit_rows.visit_by_id(connection, visit_id)
    if visit is None:
        return CleanNow(begun=None, open=False)
    begun = CleanBegun(seed=seed, visit_id=visit_id)
    return CleanNow(begun=begun, open=visit.state == "open")


def begin_clean(trial: Library, seed: int) -> CleanBegun:
    """Begin again with the camera of a seed; what was practised before is cleared away."""
    _clear(trial)
    before = clean_before(seed)
    with trial.database.write() as connection:
        for entry in trainer_kit():
            kit_rows.add_item(connection, entry)
        body_id = body_rows.add_body(connection, before.body, "demo")
        bench = VirtualCamera(before.camera, before.dust, _first_turn(seed))
        virtual_rows.put_virtual_camera(connection, body_id, bench)
        visit_id = visit_rows.open_visit(connection, body_id, before.conditions)
        put_setting(connection, _SEED, json.dumps([visit_id, seed]))
    return CleanBegun(seed=seed, visit_id=visit_id)


def clean_debrief(trial: Library, visit_id: int) -> CleanDebrief:
    """Your line beside the advised one. Raises `ConflictError` while the visit is open,
    `NotThereError` where there is no such clean any more.
    """
    with trial.database.read() as connection:
        kept, seed = _kept(connection)
        visit = visit_rows.visit_by_id(connection, visit_id)
        if kept != visit_id or visit is None:
            raise NotThereError("This clean is not kept any more. Begin another.")
        if visit.state == "open":
            raise ConflictError(
                "Close the visit with its verdict first; then both lines are shown."
            )
        before = clean_before(seed)
        virtual = virtual_rows.virtual_camera_of(connection, visit.body_id)
        left = virtual.dust if virtual else ()
        yours = _yours(connection, visit_id, visible_of(before, left))
    line = advised_line(before, _first_turn(seed) + ODDS_SEED)
    advised = _told(line)
    as_clean = yours.visible <= advised.visible and yours.touches <= advised.touches
    return CleanDebrief(
        seed=seed,
        visit_id=visit_id,
        begun_with=visible_of(before, before.dust),
        right=as_clean and not yours.risks,
        unsafe=bool(yours.risks),
        yours=yours,
        advised=advised,
        lines=tuple(_lines(yours, advised)),
    )


def _clear(trial: Library) -> None:
    with trial.database.write() as connection:
        for body in body_rows.all_bodies(connection):
            body_rows.remove_body(connection, body.id)
        for item in kit_rows.all_items(connection):
            kit_rows.remove_item(connection, item.id)
        frames, _ = frame_rows.list_frames(connection, count=1000)
    for frame in frames:
        trial.remove_frame(frame.id)


def _kept(connection: sqlite3.Connection) -> tuple[int, int]:
    """The visit and the seed of the last clean; noughts where there is none."""
    visit_id, seed = json.loads(get_setting(connection, _SEED) or "[0, 0]")
    return int(visit_id), int(seed)


def _first_turn(seed: int) -> int:
    """Where the odds of a clean begin: both lines are thrown the same."""
    return seed % 1000


def _yours(connection: sqlite3.Connection, visit_id: int, visible: int) -> CleanLine:
    entries = [e for e in visit_rows.trail_of(connection, visit_id) if e.step is not None]
    steps = [(cast(Step, e.step), e) for e in entries]
    used = [m for m in kit_rows.moves_of(connection, visit_id=visit_id) if m.why == "used"]
    singles = {k.id for k in kit_rows.all_items(connection) if _single(k.owned)}
    return CleanLine(
        steps=tuple(step for step, _ in steps),
        visible=visible,
        touches=sum(step in CONTACT for step, _ in steps),
        pieces=round(-sum(m.change for m in used if m.kit_id in singles)),
        minutes_open=round(
            sum(
                e.use.open_s / 60 if e.use.open_s else _MINUTES.get(step, 0.0)
                for step, e in steps
                if step in OPENS
            ),
            1,
        ),
        risks=tuple(e.against for _, e in steps if e.against),
    )


def _single(entry: KitEntry) -> bool:
    return UNITS.get(entry.item.item) == "piece"


def _told(line: AdvisedLine) -> CleanLine:
    steps = [s.step for s in line.steps]
    return CleanLine(
        steps=tuple(steps),
        visible=line.visible,
        touches=line.touches,
        pieces=sum(s in SWABS for s in steps),
        minutes_open=sum(_MINUTES.get(s, 0.0) for s in steps if s in OPENS),
        risks=(),
    )


def _lines(yours: CleanLine, advised: CleanLine) -> list[str]:
    lines = [
        f"You left {counted(yours.visible, 'visible spot')}; the advised line leaves "
        f"{advised.visible or 'none'}."
    ]
    more = yours.touches - advised.touches
    if more > 0:
        lines.append(f"You touched the glass {counted(more, 'time')} more than was advised.")
    elif more < 0:
        lines.append(f"You touched the glass {counted(-more, 'time')} fewer than was advised.")
    if yours.risks:
        lines.append("What was barred was done anyway: that is a risk, however it ended.")
    return lines
