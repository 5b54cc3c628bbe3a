"""The operations, by what they are about."""

from neatpatch.api.routes import (
    bodies,
    bookings,
    compare,
    costs,
    frames,
    guide,
    jobs,
    kit,
    pictures,
    plans,
    settings,
    trail,
    unknown,
    visits,
)

_MODULES = (
    bodies,
    kit,
    bookings,
    costs,
    visits,
    trail,
    guide,
    compare,
    plans,
    frames,
    pictures,
    jobs,
    settings,
    unknown,
)
ROUTERS = tuple(module.router for module in _MODULES)
"""All of them; what answers for everything else comes last."""
