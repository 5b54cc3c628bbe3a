"""Twenty people at one library: how long they wait while some of them write.

The archive is the one of ``bench.load``; the real server answers in a process of its own, without
the runner, who would look for originals that are not there. Every client asks again as soon as it
was answered.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import numpy as np

from bench import load
from neatpatch.api.app import create_app
from neatpatch.api.common.listening import listen
from neatpatch.api.server import AT_HOME, MOST_CONNECTIONS, server_for, spare_the_collector
from neatpatch.services.visits.loaded_visit import load_visit
from neatpatch.store.datafolder import Library

CLIENTS, REQUESTS, WRITES = 20, 150, 0.06
LIMIT_MS = 500.0
_WORKED_ON = 40
"""So many open visits are worked on; their frames were laid on each other when they came."""
_STEP = {"step": "air", "use": {"puffs": 5, "opening": "down"}, "against": "measured"}


def serve(folder: Path) -> None:
    """Answer until the process is ended; the first line printed is the address."""
    library = Library(folder)
    with listen("127.0.0.1", 0, AT_HOME) as listener, library.database.kept_open():
        server = server_for(create_app(library), listener, MOST_CONNECTIONS)
        server.config.lifespan = "off"
        spare_the_collector()
        print(f"http://127.0.0.1:{listener.getsockname()[1]}", flush=True)
        server.run(sockets=[listener])


@contextmanager
def _server(folder: Path) -> Iterator[str]:
    process = subprocess.Popen(
        [sys.executable, "-m", "bench.crowd", str(folder)], stdout=subprocess.PIPE, text=True
    )
    try:
        assert process.stdout is not None
        yield process.stdout.readline().strip()
    finally:
        process.terminate()
        process.wait()


class Client(threading.Thread):
    """One person's requests, all different; ``waits`` are milliseconds by name of the request."""

    def __init__(self, url: str, number: int) -> None:
        super().__init__()
        self.waits: dict[str, list[float]] = defaultdict(list)
        self.trouble: list[str] = []
        self._url, self._rng = url, np.random.default_rng(number)

    def run(self) -> None:
        with httpx.Client(base_url=self._url, timeout=60) as client:
            for _ in range(REQUESTS):
                name, method, path, body = self._next()
                start = time.perf_counter()
                answer = client.request(method, path, json=body)
                self.waits[name].append((time.perf_counter() - start) * 1000)
                if answer.status_code not in (200, 201):
                    self.trouble.append(f"{name}: {answer.status_code} {answer.text[:200]}")

    def _next(self) -> tuple[str, str, str, object]:
        visit, body = worked_on(int(self._rng.integers(_WORKED_ON))), self._rng.integers(1, 1000)
        if self._rng.random() < WRITES:
            return "log a step", "POST", f"/api/visits/{visit}/steps", _STEP
        reads = {
            "first screen": "/api/frames",
            "a visit": f"/api/visits/{visit}",
            "the bodies": f"/api/bodies?first={body // 15 * 15}",
            "a camera": f"/api/bodies/{body}",
            "a history": f"/api/bodies/{body}/history",
            "odds": "/api/odds",
            "kit": "/api/kit",
            "ready for jobs": "/api/readiness",
            "costs": "/api/costs",
            "calendar": "/api/calendar",
            "find frames": f"/api/frames?words=f{body}",
        }
        name = list(reads)[int(self._rng.integers(len(reads)))]
        return name, "GET", reads[name], None


def worked_on(n: int) -> int:
    """The id of an open visit that is not one of the heavy ones."""
    return load.VISITS - load.HEAVY_VISITS - n


def report(folder: Path) -> bool:
    """Print the waits over a filled archive; gives whether the limit was missed."""
    for n in range(_WORKED_ON):
        load_visit(Library(folder), worked_on(n))
    with _server(folder) as url:
        httpx.get(f"{url}/api/odds", timeout=60)
        os.sync()  # the archive's own gigabyte is on the disk before anything is timed
        crowd = [Client(url, n) for n in range(CLIENTS)]
        start = time.perf_counter()
        for client in crowd:
            client.start()
        for client in crowd:
            client.join()
        took = time.perf_counter() - start
    waits: dict[str, list[float]] = defaultdict(list)
    for client in crowd:
        assert not client.trouble, client.trouble[:3]
        for name, found in client.waits.items():
            waits[name] += found
    return _print(waits, took)


def _print(waits: dict[str, list[float]], took: float) -> bool:
    every = [w for found in waits.values() for w in found]
    print(f"\n{CLIENTS} clients at once, {WRITES:.0%} writes: {len(every) / took:.0f} a second\n")
    print("| request | median | 99th percentile |")
    print("|---|---|---|")
    for name, found in sorted(waits.items(), key=lambda e: -float(np.percentile(e[1], 99))):
        print(f"| {name} | {np.median(found):.0f} ms | {np.percentile(found, 99):.0f} ms |")
    worst = float(np.percentile(every, 99))
    missed = worst > LIMIT_MS
    print(f"| all, wanted ≤ {LIMIT_MS:.0f} ms | {np.median(every):.0f} ms | {worst:.0f} ms |")
    print("MISSED\n" if missed else "")
    return missed


def main() -> int:
    with tempfile.TemporaryDirectory(prefix="neatpatch-crowd-") as folder:
        load.fill(Library(Path(folder)))
        return int(report(Path(folder)))


if __name__ == "__main__":
    if len(sys.argv) > 1:
        serve(Path(sys.argv[1]))
    else:
        sys.exit(main())
