"""Sharing with phones and tablets: on and off, codes, devices, links to reports."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Request
from pydantic import BaseModel, Field

from neatpatch.api.common.deps import Id, LibraryDep, WhoDep
from neatpatch.api.sharing.pages import inner_path
from neatpatch.api.sharing.serving import Sharing
from neatpatch.core.common.errors import ConflictError
from neatpatch.core.common.records import Flag, Given, RowId, Whole
from neatpatch.services.common.lookups import visit_or_refuse
from neatpatch.services.sharing.network import qr_picture
from neatpatch.store.devices import Role

router = APIRouter(prefix="/api")


def sharing_of(request: Request) -> Sharing:
    """The shared door and who is let in."""
    sharing: Sharing = request.app.state.sharing
    return sharing


SharingDep = Annotated[Sharing, Depends(sharing_of)]


class Device(BaseModel):
    """A device or link that is let in."""

    id: int
    name: str
    label: str
    role: Role
    visit_id: int | None
    paired_at: datetime
    last_used_at: datetime | None
    expires_at: datetime | None


class SharingState(BaseModel):
    """Whether it is shared, where, and with whom.

    ``fingerprint``: of the certificate, as browsers show it; ``waiting``: a code is open.
    """

    on: bool
    url: str | None
    fingerprint: str | None
    waiting: bool
    devices: list[Device]


class Switch(Given):
    """On or off."""

    on: Flag


class WantedOffer(Given):
    """A device about to be paired: what it may do, and the page it opens first."""

    role: Literal["owner", "helper", "viewer"] = "helper"
    to: str = Field(default="/", max_length=200)


class PairingOffer(BaseModel):
    """A code, the address to enter it at, and both as a QR code (an SVG as a data URI)."""

    code: str
    role: Role
    expires_at: datetime
    url: str
    qr: str


class WantedLink(Given):
    """A visit whose report somebody may see for so many days."""

    visit_id: RowId
    days: Whole = Field(default=14, ge=1, le=90)


class ReportLink(BaseModel):
    """The link; it is shown once, only its SHA-256 is kept."""

    url: str
    expires_at: datetime


class Me(BaseModel):
    """Who looks at the page: ``role`` is ``owner`` on the machine itself, ``name`` empty there."""

    name: str
    role: Role
    shared: bool


def _state(sharing: Sharing) -> SharingState:
    place = sharing.place
    return SharingState(
        on=place is not None,
        url=place.url if place else None,
        fingerprint=place.certificate.fingerprint if place else None,
        waiting=sharing.door.waiting,
        devices=[Device.model_validate(vars(d)) for d in sharing.door.devices()],
    )


@router.get("/me")
def me(who: WhoDep) -> Me:
    """Who looks at the page, and what they may do."""
    if who is None:
        return Me(name="", role="owner", shared=False)
    return Me(name=who.name, role=who.role, shared=True)


@router.get("/sharing")
def sharing(shared: SharingDep) -> SharingState:
    """Whether it is shared, where, and with whom."""
    return _state(shared)


@router.put("/sharing")
async def switch(wanted: Switch, shared: SharingDep, who: WhoDep) -> SharingState:
    """Share with the network, or end it. It is off each time the server starts."""
    if wanted.on:
        await shared.start()
    else:
        await shared.stop(wait=who is None)
    return _state(shared)


@router.post("/sharing/offers", status_code=201)
def offer(wanted: WantedOffer, shared: SharingDep) -> PairingOffer:
    """A code of six digits that lives two minutes; one given before is void."""
    place = shared.place
    if place is None:
        raise ConflictError("It is not shared. Turn sharing on first.")
    made = shared.door.offer(wanted.role)
    to = inner_path(wanted.to)
    url = f"{place.url}/pair" + ("" if to == "/" else f"?to={to}")
    return PairingOffer(
        code=made.code,
        role=made.role,
        expires_at=made.expires_at,
        url=url,
        qr=qr_picture(f"{url}#{made.code}"),
    )


@router.delete("/sharing/offers")
def withdraw(shared: SharingDep) -> SharingState:
    """The code that was given is void."""
    shared.door.withdraw()
    return _state(shared)


@router.delete("/sharing/devices/{device_id}")
def shut_out(device_id: Id, shared: SharingDep) -> SharingState:
    """Let a device in no more; what it follows ends at once."""
    shared.door.shut_out(device_id)
    return _state(shared)


@router.post("/sharing/links", status_code=201)
def link(wanted: WantedLink, library: LibraryDep, shared: SharingDep) -> ReportLink:
    """A link to one visit's report, for whoever has it, until it expires."""
    place = shared.place
    if place is None:
        raise ConflictError("It is not shared. Turn sharing on first.")
    with library.database.read() as connection:
        visit_or_refuse(connection, wanted.visit_id)
    token, ends = shared.door.link(wanted.visit_id, wanted.days)
    return ReportLink(url=f"{place.url}/report/{token}", expires_at=datetime.fromisoformat(ends))
