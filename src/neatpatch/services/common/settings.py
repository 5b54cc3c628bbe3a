"""What is remembered, read with its usual values."""

from __future__ import annotations

import sqlite3

from neatpatch.core.common.apertures import DEFAULT_WORKS_AT
from neatpatch.core.common.facts import Schools, ServiceFacts
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_record, get_setting

SCHOOLS = "schools"
SERVICE = "service"
PRICES = "prices"


def usual_schools(connection: sqlite3.Connection) -> Schools:
    """The schools chosen once for all visits."""
    return get_record(connection, SCHOOLS, Schools)


def usual_service(connection: sqlite3.Connection) -> ServiceFacts:
    """The owner's own service, as entered."""
    return get_record(connection, SERVICE, ServiceFacts)


WORKS_AT = "works_at"


def smallest_worked(library: Library) -> float:
    """The smallest aperture worked at, as an f-number; the usual one until another is set."""
    with library.database.read() as connection:
        kept = get_setting(connection, WORKS_AT)
    return float(kept) if kept else DEFAULT_WORKS_AT


SPOT_LIMIT = "spot_limit"
DEFAULT_SPOT_LIMIT = 5
"""Visible spots that may be cloned out of a picture without much trouble."""


def spot_limit(connection: sqlite3.Connection) -> int:
    """How many visible spots the owner accepts."""
    kept = get_setting(connection, SPOT_LIMIT)
    return int(kept) if kept else DEFAULT_SPOT_LIMIT
