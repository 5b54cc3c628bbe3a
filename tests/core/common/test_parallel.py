"""Two cores at once: all is done, in order, whatever fails and where no thread can be had."""

from __future__ import annotations

from collections.abc import Iterator
from threading import Event, Thread, current_thread

import pytest

from neatpatch.core.common.parallel import prefetch, run_in_halves, run_parallel

PATIENCE_S = 60.0


@pytest.fixture
def no_thread(monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(_thread: Thread) -> None:
        raise RuntimeError("can't start new thread")

    monkeypatch.setattr(Thread, "start", refused)


def fail() -> None:
    raise ValueError("broken")


def test_two_pieces_of_work_run_beside_each_other() -> None:
    here, there = Event(), Event()

    def meet(mine: Event, other: Event) -> bool:
        mine.set()
        return other.wait(PATIENCE_S)

    assert run_parallel(lambda: meet(there, here), lambda: meet(here, there)) == (True, True)


def test_an_error_of_either_is_raised_when_both_have_ended() -> None:
    done: list[str] = []
    with pytest.raises(ValueError, match="broken"):
        run_parallel(fail, lambda: done.append("here"))
    with pytest.raises(ValueError, match="broken"):
        run_parallel(lambda: done.append("there"), fail)
    assert done == ["here", "there"]


def test_both_halves_are_done() -> None:
    done: list[tuple[int, int]] = []
    run_in_halves(7, lambda first, last: done.append((first, last)))
    assert sorted(done) == [(0, 3), (3, 7)]


@pytest.mark.usefixtures("no_thread")
def test_all_is_done_where_no_thread_can_be_had() -> None:
    done: list[tuple[int, int]] = []
    run_in_halves(7, lambda first, last: done.append((first, last)))
    assert done == [(0, 3), (3, 7)]
    assert list(prefetch(iter("abc"))) == ["a", "b", "c"]


def test_the_next_item_is_made_while_one_is_worked_with() -> None:
    second_begun = Event()

    def items() -> Iterator[str]:
        yield current_thread().name
        second_begun.set()
        yield current_thread().name

    coming = prefetch(items())
    first = next(coming)
    assert second_begun.wait(PATIENCE_S)
    names = {first, *coming}
    assert len(names) == 1
    assert current_thread().name not in names


def test_an_error_comes_where_its_item_would_have_come() -> None:
    def items() -> Iterator[int]:
        yield 1
        yield 2
        raise ValueError("broken")

    seen: list[int] = []
    with pytest.raises(ValueError, match="broken"):
        seen.extend(prefetch(items()))
    assert seen == [1, 2]
    assert list(prefetch(iter(()))) == []


def test_one_may_stop_before_the_last_item() -> None:
    coming = prefetch(iter(range(1000)))
    assert next(coming) == 0
    coming.close()  # type: ignore[attr-defined]
    assert list(coming) == []
