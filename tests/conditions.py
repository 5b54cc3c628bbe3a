"""The conditions of a visit that stand in nobody's way."""

from __future__ import annotations

from neatpatch.core.common.facts import Schools
from neatpatch.core.visit.body import VisitConditions

QUIET_ROOM = VisitConditions(
    temperature_c=20,
    humidity_percent=45,
    moving_air=False,
    surface="bare",
    room_clean=True,
    power="off",
    battery_percent=100,
    experience="practised",
)
OWN_HANDS = QUIET_ROOM.model_copy(update={"schools": Schools(contact_by="self")})
