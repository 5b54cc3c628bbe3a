"""``make fuzz``: thousands of damaged files and odd arrays; each a clear error or a valid map.

Every file is read in a worker process that is killed after a time limit, as the application does
it. A crash, a hang, an error of another kind or memory beyond the limit fails the run.
"""

from __future__ import annotations

import argparse
import io
import multiprocessing
import resource
import sys
import tempfile
import time
from multiprocessing.connection import Connection
from pathlib import Path

import numpy as np
import tifffile
from PIL import Image

from neatpatch.simulation.frames import Recipe, write_simulated

TIME_LIMIT_S = 20.0
MEMORY_LIMIT = 3_000_000_000
KINDS = ("header", "body", "cut", "zeros", "swap", "grow")


def seeds(folder: Path) -> dict[str, bytes]:
    """One small good file of each type."""
    recipe = Recipe(seed=3, width_px=400, counts={"speck": 3})
    jpeg, _ = write_simulated(recipe, folder)
    dng, _ = write_simulated(Recipe(seed=3, width_px=400, dng=True, name="raw"), folder)
    grey = np.full((200, 300), 30000, np.uint16)
    tiff, png = io.BytesIO(), io.BytesIO()
    tifffile.imwrite(tiff, np.stack([grey] * 3, -1), photometric="rgb")
    Image.fromarray(grey).save(png, "PNG")
    return {
        "jpeg": jpeg.read_bytes(),
        "dng": dng.read_bytes(),
        "tiff": tiff.getvalue(),
        "png": png.getvalue(),
    }


def damaged(data: bytes, kind: str, rng: np.random.Generator) -> bytes:
    """A copy with one sort of damage."""
    out = bytearray(data)
    reach = min(len(out), 700) if kind == "header" else len(out)
    if kind in ("header", "body"):
        for place in rng.integers(0, reach, int(rng.integers(1, 12))):
            out[place] = int(rng.integers(256))
    elif kind == "cut":
        del out[int(rng.integers(1, len(out))) :]
    elif kind == "zeros":
        start = int(rng.integers(0, len(out)))
        stop = min(len(out), start + int(rng.integers(1, 4000)))
        out[start:stop] = bytes(stop - start)
    elif kind == "swap":
        a, b = (int(v) for v in rng.integers(0, max(1, len(out) - 64), 2))
        out[a : a + 64], out[b : b + 64] = out[b : b + 64], out[a : a + 64]
    else:
        out[0:0] = bytes(rng.integers(0, 256, 3, dtype=np.uint8)) if rng.random() < 0.3 else b""
        out += bytes(rng.integers(0, 256, 500, dtype=np.uint8))
    return bytes(out)


def reader(pipe: Connection) -> None:
    """Read what comes through the pipe; answer ``map``, ``error`` or what went wrong."""
    from neatpatch.core.common.errors import NeatPatchError
    from neatpatch.core.measure.map_building import build_map
    from neatpatch.images.read import read_frame

    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    while True:
        path = pipe.recv()
        try:
            build_map(read_frame(path)).model_dump_json()
            pipe.send("map")
        except NeatPatchError as error:
            pipe.send("error" if str(error).strip().endswith(".") else f"no sentence: {error}")
        except Exception as error:  # noqa: BLE001 - this is what the run looks for
            pipe.send(f"{type(error).__name__}: {error}")


def odd_arrays(rng: np.random.Generator, count: int) -> list[str]:
    """Maps of odd arrays: constant, NaN, infinite, negative, huge, tiny, thin."""
    from neatpatch.core.common.frame import Frame, FrameFacts
    from neatpatch.core.measure.map_building import build_map

    wrong = []
    for i in range(count):
        shape = tuple(int(v) for v in rng.integers(64, 400, 2))
        image = rng.normal(0.4, 0.01, shape).astype(np.float32)
        kind = i % 7
        if kind == 0:
            image[:] = float(rng.random())
        elif kind == 1:
            image[rng.random(shape) < 0.1] = np.nan
        elif kind == 2:
            image[rng.random(shape) < 0.01] = np.inf
        elif kind == 3:
            image -= 1
        elif kind == 4:
            image *= 1e12
        elif kind == 5:
            image[: shape[0] // 2] = 0
        facts = FrameFacts(width_px=shape[1], height_px=shape[0], f_number=22.0)
        try:
            with np.errstate(all="ignore"):
                build_map(Frame(light=image, facts=facts))
        except Exception as error:  # noqa: BLE001 - this is what the run looks for
            wrong.append(f"odd array {kind} {shape}: {type(error).__name__}: {error}")
    return wrong


class Worker:
    """A reader process, started again after it was killed."""

    def __init__(self) -> None:
        self._context = multiprocessing.get_context("spawn")
        self._start()

    def _start(self) -> None:
        self._pipe, theirs = self._context.Pipe()
        self._process = self._context.Process(target=reader, args=(theirs,), daemon=True)
        self._process.start()
        theirs.close()

    def read(self, path: Path) -> str:
        self._pipe.send(path)
        try:
            if self._pipe.poll(TIME_LIMIT_S):
                return str(self._pipe.recv())
            outcome = "hang"
        except (EOFError, OSError):
            outcome = "crash"
        self.end()
        self._start()
        return outcome

    def end(self) -> None:
        self._process.kill()
        self._process.join()


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=4000)
    parser.add_argument("--arrays", type=int, default=210)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    tally: dict[str, int] = {}
    wrong = odd_arrays(rng, options.arrays)
    start = time.perf_counter()
    with tempfile.TemporaryDirectory() as name:
        folder, worker = Path(name), Worker()
        originals = seeds(folder)
        path = folder / "case"
        for number in range(options.files):
            form = list(originals)[number % len(originals)]
            kind = KINDS[number // len(originals) % len(KINDS)]
            data = damaged(originals[form], kind, rng)
            path.write_bytes(data)
            outcome = worker.read(path)
            # A crash of a decoder is contained by the worker; the application says so plainly.
            key = f"{form}: {outcome if outcome in ('map', 'error', 'crash') else 'WRONG'}"
            tally[key] = tally.get(key, 0) + 1
            if outcome not in ("map", "error", "crash"):
                wrong.append(f"{form} {kind} #{number}: {outcome}")
        worker.end()
    for key, count in sorted(tally.items()):
        print(f"{key:16} {count}")
    print(
        f"{options.files} files and {options.arrays} arrays in {time.perf_counter() - start:.0f} s"
    )
    for line in wrong[:40]:
        print("WRONG", line)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
