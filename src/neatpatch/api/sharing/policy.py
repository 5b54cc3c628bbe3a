"""What each role may do through the shared door. What is not allowed here is refused."""

from __future__ import annotations

import re

from neatpatch.api.common.deps import ROOM_AT
from neatpatch.store.sharing.devices import Role

_READS = frozenset({"GET", "HEAD"})
_OWNERS_OWN = re.compile(r"/api/(sharing|backup|watched|export)(?![a-z-])")
"""What only an owner may even read: who is let in, folders of the machine, everything at once."""
_HELPERS = tuple(
    (method, re.compile(path))
    for method, path in (
        ("POST", r"/api/frames"),
        ("POST", r"/api/frames/\d+/measure"),
        ("PUT", r"/api/frames/\d+/(sensor|series)"),
        ("DELETE", r"/api/frames/\d+/search"),
        ("POST", r"/api/visits"),
        ("PUT", r"/api/visits/\d+/conditions"),
        ("POST", r"/api/visits/\d+/(shoot|close|reopen|frames|steps)"),
        ("POST", r"/api/visits/\d+/trail/\d+/(accept|restore)"),
        ("PUT", r"/api/visits/\d+/trail/\d+/use"),
        ("DELETE", r"/api/visits/\d+/trail/\d+"),
        ("PUT", r"/api/visits/\d+/hands/[a-z_]+"),
        ("DELETE", r"/api/visits/\d+/hands"),
        ("POST", r"/api/bodies"),
        ("PUT", r"/api/bodies/\d+"),
        ("POST", r"/api/bodies/\d+/exposures"),
        ("DELETE", r"/api/bodies/\d+/exposures/\d+"),
        ("POST", r"/api/kit"),
        ("PUT", r"/api/kit/\d+"),
        ("POST", r"/api/kit/\d+/packs"),
        ("POST", r"/api/practice/(frames|places|moves|hand)"),
        ("POST", r"/api/visits/\d+/tray(/steps|/photos)?"),
        ("DELETE", r"/api/visits/\d+/tray/steps"),
        ("PUT", r"/api/visits/\d+/tray/fields/[A-Z]{1,2}"),
        ("PUT", r"/api/tray-plans"),
        ("POST", r"/api/bookings"),
        ("PUT", r"/api/bookings/\d+"),
        ("DELETE", r"/api/jobs/\d+"),
        ("PUT", r"/api/picture-sets/\d+/(veto|pictures/\d+)"),
        ("POST", r"/api/picture-sets/\d+/(work|pictures/\d+/shown)"),
        ("DELETE", r"/api/picture-sets/\d+/work"),
    )
)
"""Work at the bench, and undoing it: what is taken off a trail can be put back, a stopped job begun
again. No settings, nothing deleted.
"""


def may(role: Role, method: str, path: str) -> bool:
    """Whether a role may do this. A practised clean is a whole application: the owner's own."""
    if role == "owner":
        return True
    if role == "report" or _OWNERS_OWN.match(path) or path.startswith(ROOM_AT):
        return False
    if method in _READS:
        return True
    return role == "helper" and any(
        method == allowed and pattern.fullmatch(path) for allowed, pattern in _HELPERS
    )
