"""Where the hands stand in a step: the visit's, so that any device goes on where the last stood."""

from __future__ import annotations

import time
from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from neatpatch.core.common.facts import Step
from neatpatch.core.common.records import Given, Number
from neatpatch.services.common.lookups import require_open, visit_or_refuse
from neatpatch.store import hands as hands_rows
from neatpatch.store.datafolder import Library

_LONGEST_S = 100_000
Key = Annotated[str, StringConstraints(pattern=r"^\d{1,3}$")]


class Position(Given):
    """Which instruction, what was counted at each, and the clocks as they stood just now.

    ``open_s``: how long the camera has lain open, ``up_s``: how long its mirror has been up.
    ``short``: which of the two guides ``at`` counts in. ``log_key``: under which the step will be
    logged, once whoever logs it.
    """

    at: int = Field(ge=0, le=999)
    counts: dict[Key, Annotated[int, Field(ge=0, le=9999)]] = Field(
        default_factory=dict, max_length=200, json_schema_extra={"additionalProperties": False}
    )
    open_s: Number = Field(default=0.0, ge=0, le=_LONGEST_S)
    up_s: Number = Field(default=0.0, ge=0, le=_LONGEST_S)
    paused: bool = False
    short: bool = False
    log_key: str = Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9_-]+$")


class HandsPlace(BaseModel):
    """Where the hands stand. ``age_s``: how long ago that was said."""

    step: Step
    position: Position
    version: int
    age_s: float


def hands_place(library: Library, visit_id: int) -> HandsPlace | None:
    """Where the hands stand in a visit; None when no step is in hand."""
    with library.database.read() as connection:
        visit_or_refuse(connection, visit_id)
        kept = hands_rows.place_of(connection, visit_id)
    if kept is None:
        return None
    return HandsPlace.model_validate(
        {
            "step": kept.step,
            "position": Position.model_validate_json(kept.position_json),
            "version": kept.version,
            "age_s": max(0.0, time.time() - kept.at),
        }
    )


def stand(library: Library, visit_id: int, step: Step, position: Position) -> HandsPlace:
    """Say where the hands stand; the newest word counts.

    Raises when the visit is gone or closed.
    """
    now = time.time()
    with library.database.write() as connection:
        require_open(visit_or_refuse(connection, visit_id))
        version = hands_rows.put_place(connection, visit_id, step, position.model_dump_json(), now)
    return HandsPlace(step=step, position=position, version=version, age_s=0.0)


def put_down(library: Library, visit_id: int) -> None:
    """No step is in hand any more."""
    with library.database.write() as connection:
        visit_or_refuse(connection, visit_id)
        hands_rows.clear_place(connection, visit_id)
