"""The kit and its stock."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from neatpatch.api.common.deps import Id, LibraryDep, RequestKey, SeenVersion, require_seen
from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.core.kit.stock import UNITS, KitEntry, Unit, expired, left, unit_price
from neatpatch.store import kit as kit_rows
from neatpatch.store.requests import claim_key

router = APIRouter(prefix="/api")

_GONE = "There is no such thing in the kit. It may have been removed."


class KitRow(BaseModel):
    """A thing owned: what is left of it and in which unit, price of one, past its day."""

    id: int
    version: int
    owned: KitEntry
    left: float | None
    unit: Unit | None
    unit_price: float | None
    expired: bool


class StockMove(BaseModel):
    """A change of stock."""

    why: kit_rows.MoveWhy
    change: float
    at: str


@router.get("/kit")
def kit(library: LibraryDep) -> list[KitRow]:
    """Everything owned."""
    today = date.today()
    with library.database.read() as connection:
        return [
            KitRow(
                id=k.id,
                version=k.version,
                owned=k.owned,
                left=left(k.owned.item),
                unit=UNITS.get(k.owned.item.item),
                unit_price=unit_price(k.owned),
                expired=expired(k.owned, today),
            )
            for k in kit_rows.all_items(connection)
        ]


@router.post("/kit", status_code=201)
def add_kit(owned: KitEntry, library: LibraryDep, key: RequestKey = None) -> list[KitRow]:
    """Add an item; gives the whole kit."""
    with library.database.write() as connection:
        if claim_key(connection, key, "thing of the kit"):
            kit_rows.add_item(connection, owned)
    return kit(library)


@router.put("/kit/{item_id}")
def change_kit(
    item_id: Id, owned: KitEntry, library: LibraryDep, seen: SeenVersion
) -> list[KitRow]:
    """Write a thing again; another count is kept as counted. Gives the whole kit."""
    with library.database.write() as connection:
        kept = kit_rows.item_by_id(connection, item_id)
        if kept is None:
            raise NotThereError(_GONE)
        require_seen(seen, kept.version, kept.owned, owned)
        kit_rows.change_item(connection, item_id, owned)
    return kit(library)


@router.post("/kit/{item_id}/packs")
def packs_arrived(
    item_id: Id,
    library: LibraryDep,
    count: Annotated[int, Query(ge=1, le=100)] = 1,
    key: RequestKey = None,
) -> list[KitRow]:
    """Whole packs arrived; gives the whole kit."""
    with library.database.write() as connection:
        if kit_rows.item_by_id(connection, item_id) is None:
            raise NotThereError(_GONE)
        if claim_key(connection, key, f"packs of {item_id}") and not kit_rows.buy(
            connection, item_id, count
        ):
            raise ConflictError("Say how much a pack holds first, then add packs.")
    return kit(library)


@router.get("/kit/{item_id}/moves")
def moves(item_id: Id, library: LibraryDep) -> list[StockMove]:
    """Where a thing's stock went, the newest first."""
    with library.database.read() as connection:
        rows = kit_rows.moves_of(connection, kit_id=item_id, count=30)
    return [StockMove(why=m.why, change=round(m.change, 3), at=m.at) for m in rows]


@router.delete("/kit/{item_id}")
def remove_kit(item_id: Id, library: LibraryDep) -> list[KitRow]:
    """Remove a thing; gives the whole kit."""
    with library.database.write() as connection:
        kit_rows.remove_item(connection, item_id)
    return kit(library)
