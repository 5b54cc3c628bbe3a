"""How far long work on a data folder is, and ending it in between."""

from __future__ import annotations

from collections.abc import Callable

from neatpatch.core.common.errors import NeatPatchError

Tick = Callable[[float], None]
"""Told the share that is done; raises `StoppedError` where the work shall end."""


class StoppedError(NeatPatchError):
    """The work was stopped; nothing of it is left."""


def unseen(_share: float) -> None:
    """Nobody looks on."""


def part_of(tick: Tick, begin: float, end: float) -> Tick:
    """Ticks of a part of the work, as shares of the whole."""
    return lambda share: tick(begin + (end - begin) * share)
