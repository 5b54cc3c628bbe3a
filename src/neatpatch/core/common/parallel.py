"""Work on large pictures is done on two cores at once: the upper half of the rows and the lower, or
one thing beside another that does not wait for it.

The work must spend its time in a library that lets other threads run. Where no thread can be had,
one is done after the other.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar, cast

A = TypeVar("A")
B = TypeVar("B")
_NO_MORE = object()


def run_parallel(there: Callable[[], A], here: Callable[[], B]) -> tuple[A, B]:
    """What two pieces of work give, the first done on another thread.

    An error of either is raised when both have ended.
    """
    with ThreadPoolExecutor(1) as other:
        try:
            coming = other.submit(there)
        except RuntimeError:
            return there(), here()
        mine = here()
    return coming.result(), mine


def run_in_halves(rows: int, work: Callable[[int, int], None]) -> None:
    """Call ``work(first, last)`` for both halves of so many rows at once.

    It must give the same however the rows are shared out.
    """
    middle = rows // 2
    run_parallel(lambda: work(0, middle), lambda: work(middle, rows))


def prefetch(items: Iterator[A]) -> Iterator[A]:
    """The same items, each made on another thread while the one before is worked with.

    An error comes where its item would have come.
    """
    with ThreadPoolExecutor(1) as other:
        try:
            coming = other.submit(next, items, _NO_MORE)
        except RuntimeError:
            yield from items
            return
        while (item := coming.result()) is not _NO_MORE:
            coming = other.submit(next, items, _NO_MORE)
            yield cast(A, item)
