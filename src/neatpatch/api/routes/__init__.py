"""The operations, by what they are about."""

from neatpatch.api.routes import (
    bodies,
    bookings,
    compare,
    costs,
    events,
    frames,
    guide,
    hands,
    jobs,
    kit,
    picture_sets,
    pictures,
    plans,
    safety,
    settings,
    trail,
    unknown,
    visits,
    watched,
)

_MODULES = (
    bodies,
    kit,
    bookings,
    costs,
    visits,
    trail,
    guide,
    hands,
    compare,
    plans,
    frames,
    pictures,
    picture_sets,
    jobs,
    events,
    settings,
    watched,
    safety,
    unknown,
)
ROUTERS = tuple(module.router for module in _MODULES)
"""All of them; what answers for everything else comes last."""
