"""What each rung has done, by one's own retests."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import BookkeeperDep, LibraryDep
from neatpatch.core.common.facts import Step
from neatpatch.core.reports.step_words import rung_words
from neatpatch.core.stats.odds import LEVEL, RungOdds, percent_words
from neatpatch.services.common.lookups import body_or_refuse

router = APIRouter(prefix="/api")


class KindLine(BaseModel):
    """One sentence on what a rung has done to one kind, in words."""

    step: Step
    words: str


class Odds(BaseModel):
    """Odds of rungs on one camera, or on one not seen yet by those of all together.

    ``own``: whether they are that camera's. ``lines``: the same in words. No retests give none.
    """

    own: bool
    level: float
    rungs: list[RungOdds]
    lines: list[KindLine]


@router.get("/odds")
def odds(
    library: LibraryDep,
    bookkeeper: BookkeeperDep,
    body_id: Annotated[int | None, Query(ge=1, le=2**53 - 1)] = None,
    step: Step | None = None,
) -> Odds:
    """What each rung has removed, moved and brought so far, each with its interval."""
    if body_id is not None:
        with library.database.read() as connection:
            body_or_refuse(connection, body_id)
    book = bookkeeper.odds()
    own = book.rungs(body_id, step) if body_id is not None else ()
    rungs = own or book.rungs(None, step)
    return Odds(
        own=bool(own),
        level=LEVEL,
        rungs=list(rungs),
        lines=[
            KindLine(step=r.step, words=rung_words(r.step, k, percent_words(k.removed), bool(own)))
            for r in rungs
            for k in r.kinds
            if k.removed.cases
        ],
    )
