"""Quantities in words, made in one place: plurals, lengths, temperatures, times.

Lengths and temperatures come in the units of whoever reads: metric, unless `speaking` says else.
Focal lengths and widths of pixels are named in millimetres and micrometres everywhere.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import date
from typing import Literal

Units = Literal["metric", "inch"]
MM_PER_INCH = 25.4
"""By definition."""
ROOM_C = (18.0, 21.0)
"""The room to work with fluid in; colder dries unevenly, warmer before the stroke ends."""
_LARGE_INCHES = 10
"""From here on hundredths of an inch say nothing; below, whole inches are too coarse."""
_SHORTEST_MINUTES_S = 90
"""Shorter times are counted in seconds; longer ones nobody counts."""
_DIAL_FRACTIONS_S = 0.4
"""Cameras show shorter times as fractions, longer ones as seconds."""
_units: ContextVar[Units] = ContextVar("units", default="metric")


@contextmanager
def speaking(units: Units) -> Iterator[None]:
    """Make words in these units within the block, in this thread or task alone."""
    token = _units.set(units)
    try:
        yield
    finally:
        _units.reset(token)


def counted(n: int, one: str, many: str = "") -> str:
    """A number with its noun, as ``1 spot`` and ``2 spots``."""
    return f"{n} {one if n == 1 else many or one + 's'}"


def length(mm: float, digits: int = 2) -> str:
    """A length with at most so many decimals of a millimetre, as ``24 mm`` or ``0.94 in``."""
    return lengths(mm, digits=digits)


def lengths(*mm: float, link: str = " to ", digits: int = 2) -> str:
    """Several lengths before one unit, as ``36 x 24 mm``."""
    if _units.get() == "metric":
        return f"{link.join(f'{round(v, digits):g}' for v in mm)} mm"
    return f"{link.join(_inches(v) for v in mm)} in"


def span(least_s: float, most_s: float) -> str:
    """A range of times in digits that mean something, as ``4 s to 2 min``."""
    (a, unit_a), (b, unit_b) = _time(least_s), _time(most_s)
    return f"{a} to {b} {unit_b}" if unit_a == unit_b else f"{a} {unit_a} to {b} {unit_b}"


def _time(seconds: float) -> tuple[str, str]:
    if seconds < _SHORTEST_MINUTES_S:
        coarse = 1 if seconds < 10 else 5
        return f"{max(1, coarse * round(seconds / coarse))}", "s"
    minutes = seconds / 60
    return f"{round(2 * minutes) / 2 if minutes < 10 else round(minutes):g}", "min"


def distance(mm: float) -> str:
    """A distance to a target, in whole centimetres or inches."""
    return f"{mm / 10:.0f} cm" if _units.get() == "metric" else f"{_inches(mm)} in"


def _inches(mm: float) -> str:
    value = mm / MM_PER_INCH
    return f"{value:.0f}" if value >= _LARGE_INCHES else f"{round(value, 2):g}"


def temperatures(*celsius: float) -> str:
    """One or more temperatures before one unit, as ``18 to 21 °C``."""
    if _units.get() == "metric":
        return f"{' to '.join(f'{c:g}' for c in celsius)} °C"
    return f"{' to '.join(f'{c * 1.8 + 32:.0f}' for c in celsius)} °F"


def with_room(text: str) -> str:
    """A text of a table with the temperature to work at put in for ``{room}``."""
    return text.replace("{room}", temperatures(*ROOM_C))


def day_words(day: date) -> str:
    """A day as people write it, as ``6 Nov 2026``."""
    return f"{day.day} {day:%b} {day.year}"


def duration(seconds: float) -> str:
    """How long something lasts: whole seconds, from a minute and a half on whole minutes."""
    if seconds >= _SHORTEST_MINUTES_S:
        return f"{seconds / 60:.0f} min"
    return f"{seconds:.0f} s"


def exposure(seconds: float) -> str:
    """A time as it stands on a camera's dial."""
    if seconds < _DIAL_FRACTIONS_S:
        return f"1/{round(1 / seconds)} s"
    return f"{seconds:.2g} s" if seconds < _SHORTEST_MINUTES_S else duration(seconds)
