"""What this installation remembers."""

from __future__ import annotations

from typing import Literal, TypeVar

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from neatpatch import __version__
from neatpatch.api.common.deps import LibraryDep, SeenVersion, require_seen
from neatpatch.core.common.apertures import DEFAULT_WORKS_AT
from neatpatch.core.common.facts import Schools, ServiceFacts
from neatpatch.core.common.records import Given, Number, Whole
from neatpatch.core.kit.costs import (
    Prices,
)
from neatpatch.core.plans.swab import Hand
from neatpatch.services.common.settings import DEFAULT_SPOT_LIMIT, PRICES, SCHOOLS, SERVICE
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_record, get_setting, put_record, put_setting, version_of

router = APIRouter(prefix="/api")


Kept = TypeVar("Kept", bound=BaseModel)


def _kept(library: Library, response: Response, key: str, kind: type[Kept]) -> Kept:
    """A kept record; its version goes out as the entity tag."""
    with library.database.read() as connection:
        response.headers["ETag"] = f'"{version_of(connection, key)}"'
        return get_record(connection, key, kind)


def _keep(library: Library, response: Response, key: str, given: Kept, seen: int | None) -> Kept:
    """Keep a record, unless another version than the one seen is kept now."""
    with library.database.write() as connection:
        kept = get_record(connection, key, type(given))
        require_seen(seen, version_of(connection, key), kept, given)
        put_record(connection, key, given)
        response.headers["ETag"] = f'"{version_of(connection, key)}"'
    return given


@router.get("/schools")
def schools(library: LibraryDep, response: Response) -> Schools:
    """The schools chosen for all visits."""
    return _kept(library, response, SCHOOLS, Schools)


@router.put("/schools")
def set_schools(
    chosen: Schools, library: LibraryDep, response: Response, seen: SeenVersion
) -> Schools:
    """Choose schools for all visits."""
    return _keep(library, response, SCHOOLS, chosen, seen)


@router.get("/service")
def service(library: LibraryDep, response: Response) -> ServiceFacts:
    """The owner's own service."""
    return _kept(library, response, SERVICE, ServiceFacts)


@router.put("/service")
def set_service(
    facts: ServiceFacts, library: LibraryDep, response: Response, seen: SeenVersion
) -> ServiceFacts:
    """Say how long a service takes and what a membership includes."""
    return _keep(library, response, SERVICE, facts, seen)


@router.get("/prices")
def prices(library: LibraryDep, response: Response) -> Prices:
    """What a service and a membership charge, and the currency."""
    return _kept(library, response, PRICES, Prices)


@router.put("/prices")
def set_prices(
    entered: Prices, library: LibraryDep, response: Response, seen: SeenVersion
) -> Prices:
    """Say what a service and a membership charge."""
    return _keep(library, response, PRICES, entered, seen)


class Health(BaseModel):
    """Alive, and which version."""

    status: Literal["ok"]
    version: str


class Settings(Given):
    """What this installation remembers: smallest aperture worked at, units, the hand that works,
    and how many visible spots its owner accepts.
    """

    works_at: float = Field(ge=1, le=64)
    units: Literal["metric", "inch"] = "metric"
    hand: Hand = "right"
    spot_limit: int = Field(default=DEFAULT_SPOT_LIMIT, ge=0, le=10_000)


class SettingsChange(Given):
    """Settings to change; None leaves one as it is."""

    works_at: Number | None = Field(default=None, ge=1, le=64)
    units: Literal["metric", "inch"] | None = None
    hand: Hand | None = None
    spot_limit: Whole | None = Field(default=None, ge=0, le=10_000)


@router.get("/health")
def health() -> Health:
    """Alive."""
    return Health(status="ok", version=__version__)


@router.get("/settings")
def settings(library: LibraryDep) -> Settings:
    """What is remembered."""
    with library.database.read() as connection:
        kept = {key: get_setting(connection, key) for key in Settings.model_fields}
    return Settings.model_validate(
        {"works_at": DEFAULT_WORKS_AT, **{k: v for k, v in kept.items() if v is not None}}
    )


@router.put("/settings")
def set_settings(wanted: SettingsChange, library: LibraryDep) -> Settings:
    """Remember what is given."""
    with library.database.write() as connection:
        for key, value in wanted.model_dump(exclude_none=True).items():
            put_setting(connection, key, str(value))
    return settings(library)
