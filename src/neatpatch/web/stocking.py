"""A step onto a trail, and what it takes from the kit, in one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from datetime import date

from neatpatch.core.advice.facts import Step
from neatpatch.core.errors import QuestionError
from neatpatch.core.stock import Owned, Take, Taking, chosen, shortage_question, taking
from neatpatch.core.visit import Body, StepUse
from neatpatch.store import kit as kit_rows
from neatpatch.store import visits as visit_rows

SHORT_STOCK = "neatpatch:short-stock"


def kit_now(connection: sqlite3.Connection) -> list[tuple[int, Owned]]:
    """The whole kit by ids."""
    return [(k.id, k.owned) for k in kit_rows.all_items(connection)]


def log_step(
    connection: sqlite3.Connection, visit_id: int, body_id: int, body: Body, step: Step,
    use: StepUse, *, against: str = "", at: str | None = None,
    taken: Sequence[Take] | None = None, recount: bool = False, narrower_ok: bool = False,
) -> int:  # fmt: skip
    """Put a step on a trail and take what it used; gives its id.

    ``taken`` says what it was, else the usual is taken. ``recount``: where the count does not
    reach, there was more than counted; otherwise that is asked first, and nothing is written.
    ``narrower_ok``: the school takes narrower swabs, too.
    """
    found = _taking(connection, body_id, body, step, use, taken, _day(at), narrower_ok)
    _ask_first(found, recount)
    entry_id = visit_rows.add_step_entry(connection, visit_id, step, use, against, at)
    kit_rows.take(
        connection, _all(found), trail_id=entry_id, visit_id=visit_id, body_id=body_id, at=at
    )
    return entry_id


def correct_step(
    connection: sqlite3.Connection, visit_id: int, entry_id: int, body_id: int, body: Body,
    step: Step, use: StepUse, *, taken: Sequence[Take] | None = None, recount: bool = False,
    narrower_ok: bool = False,
) -> None:  # fmt: skip
    """Write anew what a step used: its things go back first, then the right ones are taken."""
    kit_rows.give_back(connection, entry_id)
    found = _taking(connection, body_id, body, step, use, taken, date.today(), narrower_ok)
    _ask_first(found, recount)
    visit_rows.change_use(connection, visit_id, entry_id, use)
    kit_rows.take(connection, _all(found), trail_id=entry_id, visit_id=visit_id, body_id=body_id)


def _day(at: str | None) -> date:
    return date.fromisoformat(at[:10]) if at else date.today()


def _taking(
    connection: sqlite3.Connection, body_id: int, body: Body, step: Step, use: StepUse,
    taken: Sequence[Take] | None, on: date, narrower_ok: bool,
) -> Taking:  # fmt: skip
    kit = kit_now(connection)
    if taken is None:
        return taking(
            kit, step, use, body_id=body_id, access=body.access,
            short_side_mm=min(body.sensor_mm), on=on, narrower_ok=narrower_ok,
        )  # fmt: skip
    return chosen(kit, taken)


def _ask_first(found: Taking, recount: bool) -> None:
    if found.short and not recount:
        raise QuestionError(SHORT_STOCK, shortage_question(found.short))


def _all(found: Taking) -> list[Take]:
    """All that was used: what was counted, and what was there beyond the count."""
    amounts = {t.kit_id: t.amount for t in found.takes}
    for s in found.short:
        amounts[s.kit_id] = amounts.get(s.kit_id, 0.0) + s.wanted - s.left
    return [Take(kit_id, amount) for kit_id, amount in amounts.items()]
