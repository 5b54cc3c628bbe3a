"""What each role may do through the shared door: one table, every operation named in it.

What is not in the table is refused, to the owner's devices too, until somebody has thought of it;
`tests/api/sharing/test_policy.py` holds the table against the description of all operations.
"""

from __future__ import annotations

import re
from functools import cache

from neatpatch.store.devices import Role

_LEVELS: dict[Role, int] = {"report": 0, "viewer": 1, "helper": 2, "owner": 3}

OPERATIONS: dict[Role, str] = {
    "viewer": """
        GET /api/me
        GET /api/health
        GET /api/events
        GET /api/openapi.json
        GET /api/frames
        GET /api/frames/{frame_id}
        GET /api/frames/{frame_id}/map.{form}
        GET /api/frames/{frame_id}/mount
        GET /api/frames/{frame_id}/prediction
        GET /api/frames/{frame_id}/thumb/{tone}.jpg
        GET /api/frames/{frame_id}/tiles/{tone}/{level}/{column}_{row}.jpg
        GET /api/frames/{before_id}/against/{after_id}
        GET /api/visits
        GET /api/looks
        GET /api/visits/{visit_id}
        GET /api/visits/{visit_id}/guidance
        GET /api/visits/{visit_id}/hands
        GET /api/visits/{visit_id}/hazards
        GET /api/visits/{visit_id}/report.{form}
        GET /api/visits/{visit_id}/trail/{entry_id}/lives
        GET /api/visits/{visit_id}/tray
        GET /api/visits/{visit_id}/tray/photos
        GET /api/bodies
        GET /api/bodies/{body_id}
        GET /api/bodies/{body_id}/history
        GET /api/bodies/{body_id}/lives
        GET /api/bodies/{body_id}/outlook
        GET /api/bookings/{booking_id}/report.{form}
        GET /api/calendar
        GET /api/calendar.ics
        GET /api/costs
        GET /api/jobs/{job_id}
        GET /api/kit
        GET /api/kit/{item_id}/moves
        GET /api/letterhead
        GET /api/letterhead/logo.png
        GET /api/odds
        GET /api/picture-sets
        GET /api/picture-sets/maps
        GET /api/picture-sets/{set_id}
        GET /api/picture-sets/{set_id}/arrivals
        GET /api/picture-sets/{set_id}/marks
        GET /api/picture-sets/{set_id}/pictures
        GET /api/picture-sets/{set_id}/pictures/{number}
        GET /api/picture-sets/{set_id}/pictures/{number}/small
        GET /api/picture-sets/{set_id}/pictures/{number}/{which}
        GET /api/picture-sets/{set_id}/strips/{spot}/{number}
        GET /api/plans/drying
        GET /api/plans/loupe
        GET /api/plans/power
        GET /api/plans/shoot
        GET /api/practice/frames
        GET /api/practice/frames/picture
        GET /api/practice/hand
        GET /api/practice/moves
        GET /api/practice/places
        GET /api/practice/progress/{exercise}
        GET /api/prices
        GET /api/readiness
        GET /api/schools
        GET /api/service
        GET /api/settings
        GET /api/tray-plans
        GET /api/tray-plans/mat
    """,
    "helper": """
        POST /api/frames
        POST /api/frames/example
        POST /api/frames/{frame_id}/measure
        PUT /api/frames/{frame_id}/aperture
        PUT /api/frames/{frame_id}/sensor
        PUT /api/frames/{frame_id}/series
        DELETE /api/frames/{frame_id}/search
        POST /api/visits
        PUT /api/visits/{visit_id}/conditions
        POST /api/visits/{visit_id}/close
        POST /api/visits/{visit_id}/frames
        POST /api/visits/{visit_id}/reopen
        POST /api/visits/{visit_id}/shoot
        POST /api/visits/{visit_id}/steps
        POST /api/visits/{visit_id}/trail/{entry_id}/accept
        POST /api/visits/{visit_id}/trail/{entry_id}/explain
        POST /api/visits/{visit_id}/trail/{entry_id}/restore
        PUT /api/visits/{visit_id}/trail/{entry_id}/use
        DELETE /api/visits/{visit_id}/trail/{entry_id}
        PUT /api/visits/{visit_id}/hands/{step}
        DELETE /api/visits/{visit_id}/hands
        POST /api/visits/{visit_id}/tray
        POST /api/visits/{visit_id}/tray/photos
        POST /api/visits/{visit_id}/tray/steps
        DELETE /api/visits/{visit_id}/tray/steps
        PUT /api/visits/{visit_id}/tray/fields/{field}
        PUT /api/tray-plans
        POST /api/bodies
        PUT /api/bodies/{body_id}
        POST /api/bodies/{body_id}/exposures
        POST /api/kit
        PUT /api/kit/{item_id}
        POST /api/kit/{item_id}/packs
        POST /api/bookings
        PUT /api/bookings/{booking_id}
        POST /api/practice/frames
        POST /api/practice/hand
        POST /api/practice/moves
        POST /api/practice/places
        DELETE /api/jobs/{job_id}
        PUT /api/picture-sets/{set_id}/veto
        PUT /api/picture-sets/{set_id}/pictures/{number}
        POST /api/picture-sets/{set_id}/pictures/{number}/shown
    """,
    "owner": """
        GET /api/sharing
        PUT /api/sharing
        POST /api/sharing/offers
        DELETE /api/sharing/offers
        DELETE /api/sharing/devices/{device_id}
        POST /api/sharing/links
        GET /api/backup
        PUT /api/backup
        DELETE /api/backup/aside
        GET /api/backup/chore
        POST /api/backup/chore
        DELETE /api/backup/chore
        GET /api/watched
        POST /api/watched
        DELETE /api/watched/{folder_id}
        GET /api/export.json
        GET /api/export/{table}.csv
        PUT /api/settings
        PUT /api/schools
        PUT /api/service
        PUT /api/prices
        PUT /api/letterhead
        PUT /api/letterhead/logo
        DELETE /api/letterhead/logo
        DELETE /api/frames/{frame_id}
        POST /api/frames/{frame_id}/restore
        DELETE /api/bodies/{body_id}
        DELETE /api/bodies/{body_id}/exposures/{exposure_id}
        DELETE /api/bookings/{booking_id}
        DELETE /api/kit/{item_id}
        DELETE /api/tray-plans
        DELETE /api/visits/{visit_id}/tray
        GET /api/practice/cleans
        POST /api/practice/cleans
        POST /api/practice/cleans/{visit_id}/debrief
        POST /api/picture-sets
        DELETE /api/picture-sets/{set_id}
        GET /api/picture-sets/demo
        GET /api/picture-sets/folder
        GET /api/picture-sets/habits
        POST /api/picture-sets/uploads
        POST /api/picture-sets/uploads/{key}/files
        POST /api/picture-sets/{set_id}/work
        DELETE /api/picture-sets/{set_id}/work
    """,
}
"""By the least role that may. A viewer reads; a helper works at the bench and undoes it; folders of
the machine, settings, everything at once and what deletes for good are the owner's.
"""
_PAGE = re.compile(r"/(?!api/|trial/|api$|trial$).*")
"""The page itself, which every role loads; it holds nothing of the record."""
_TRIAL = re.compile(r"/trial(/.*)?")
"""The room of a practised clean: a whole application, the owner's own."""


def table() -> dict[tuple[str, str], Role]:
    """The least role of each operation, by method and path as the description names them."""
    found: dict[tuple[str, str], Role] = {}
    for role, lines in OPERATIONS.items():
        for line in filter(None, map(str.strip, lines.splitlines())):
            method, path = line.split(" ")
            found[method, path] = role
    return found


@cache
def _patterns() -> tuple[tuple[str, re.Pattern[str], Role], ...]:
    return tuple(
        (method, re.compile(re.sub(r"\{[a-z_]+\}", r"[^/]+", path.replace(".", r"\."))), role)
        for (method, path), role in table().items()
    )


def may(role: Role, method: str, path: str) -> bool:
    """Whether a role may do this. Where several operations fit a path, the strictest counts."""
    method = "GET" if method == "HEAD" else method
    if role == "report":
        return False
    if _TRIAL.fullmatch(path):
        return role == "owner"
    if _PAGE.fullmatch(path):
        return method == "GET"
    fitting = [least for asked, at, least in _patterns() if asked == method and at.fullmatch(path)]
    strictest = max(fitting, key=_LEVELS.__getitem__, default=None)
    return strictest is not None and _LEVELS[role] >= _LEVELS[strictest]
