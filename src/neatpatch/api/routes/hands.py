"""Routes of the hands: where they stand in a step, the same on every device."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.core.common.facts import Step
from neatpatch.services.visits import hands_place as handwork
from neatpatch.services.visits.hands_place import HandsPlace, Position

router = APIRouter(prefix="/api/visits/{visit_id}/hands")


class InHand(BaseModel):
    """The step in hand; ``place`` is None when no step is."""

    place: HandsPlace | None


@router.get("")
def in_hand(visit_id: Id, library: LibraryDep) -> InHand:
    """Where the hands stand in this visit."""
    return InHand(place=handwork.hands_place(library, visit_id))


@router.put("/{step}")
def stand(visit_id: Id, step: Step, position: Position, library: LibraryDep) -> InHand:
    """Say where the hands stand; the newest word counts."""
    return InHand(place=handwork.stand(library, visit_id, step, position))


@router.delete("", status_code=204)
def put_down(visit_id: Id, library: LibraryDep) -> None:
    """No step is in hand any more."""
    handwork.put_down(library, visit_id)
