"""Worker processes: forked from one that has their libraries loaded, so that a new one is there at
once and all share them in memory.
"""

from __future__ import annotations

import multiprocessing
import signal
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import resource_tracker
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerProcess

_LEFT_TO_THE_SERVER = {signal.SIGINT, signal.SIGTERM}
_forks = multiprocessing.get_context("forkserver")
_forks.set_forkserver_preload(["neatpatch", "neatpatch.jobs.loaded"])


class WorkerProcess:
    """A worker process, started when first needed and again after being ended.

    ``alone``: it begins no processes of its own.
    """

    def __init__(self, target: Callable[[Connection], None], *, alone: bool = True) -> None:
        self._target = target
        self._alone = alone
        self._process: ForkServerProcess | None = None
        self._pipe: Connection | None = None

    def pipe(self) -> Connection:
        """The way to the process. Raises `OSError` or `EOFError` where none can be begun."""
        if self._pipe is None or self._process is None or not self._process.is_alive():
            self.end()
            self._pipe, theirs = _forks.Pipe()
            with theirs:
                process = _forks.Process(target=self._target, args=(theirs,), daemon=self._alone)
                _start(process)
            self._process = process
        return self._pipe

    def warm(self) -> None:
        """Start the process ahead of the first task: loading the libraries takes a second."""
        with suppress(OSError, EOFError):
            self.pipe()

    def end(self) -> None:
        """End it, whatever it does; the next task starts another. Harmless where there is none."""
        if self._process is not None:
            self._process.kill()
            self._process.join(timeout=5)
        if self._pipe is not None:
            self._pipe.close()
        self._process, self._pipe = None, None


def _start(process: ForkServerProcess) -> None:
    """With the signals blocked that end the server: blocked they are from birth in its workers."""
    resource_tracker.ensure_running()  # its own first start would lift the block
    before = signal.pthread_sigmask(signal.SIG_BLOCK, _LEFT_TO_THE_SERVER)
    try:
        process.start()
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
