"""Work on large pictures is done on two cores at once: the upper half of the rows and the lower."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor


def in_halves(rows: int, work: Callable[[int, int], None]) -> None:
    """Call ``work(first, last)`` for both halves of so many rows at once; an error of either is
    raised when both have ended.

    The work must give the same however the rows are shared out, and spend its time in a library
    that lets other threads run. Where no thread can be had, one half is done after the other.
    """
    middle = rows // 2
    with ThreadPoolExecutor(1) as other:
        try:
            upper = other.submit(work, 0, middle)
        except RuntimeError:
            work(0, middle)
            upper = None
        work(middle, rows)
    if upper is not None:
        upper.result()
