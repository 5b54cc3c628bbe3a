"""Threads told from everything else by their width, however they curl, branch or cross.

A ribbon of width w has its pixels w / 4 from its border in the mean, and none further than w / 2; a
disc of the same area has a third of them further. So the distances of a region's pixels from its
border tell whether it is one thin thing, and its area over that width how long it is. Source:
distances from a border as a measure of ribbons, H. Blum & R. N. Nagel, Pattern Recognition 10, 167
(1978), https://doi.org/10.1016/0031-3203(78)90025-0.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, quantile, widened
from neatpatch.core.common.frame import Image
from neatpatch.core.measure.shapes import depths, filled, roundness

_LEAST_PIXELS = 60
"""Smaller regions show no width."""
_SLENDER = 4.5
"""Length over width. Three specks in a row reach four."""
_BULGE, _BULGE_SHARE = 0.6, 0.04
"""Times the width from the border: a crossing has few pixels there, specks side by side many."""
_STRONG = 0.4
"""Of the usual loss: what is fainter is the blur's skirt."""
_RIDGE = 0.3
"""Times the width: nearer to the border no ridge is."""
_EVEN = 0.4
"""Loss at faint places of the ridge over that at dark ones; between specks it falls lower."""
_LEAST_DEPTH = 0.06
"""Threads stop light; paler long things are smears, each of them told apart."""
_RING = 0.75
"""Rounder than this with its inside it is a ring; loops have tails."""
_CORE = 2.0
"""Where two threads cross less than twice the light is lost; where more is, something else lies."""
_CORE_SHARE = 0.3
"""Of the square of the width: smaller cores are the thread's own roughness."""
_NEIGHBOURS = np.ones((3, 3), np.uint8)


@dataclass(frozen=True)
class Thread:
    """Length and width of a thread, the loss it usually has, and its ``course``: a walk along all
    of it, (n, 2) as x and y, which goes back over branches. Pixels of the mask.
    """

    length: float
    width: float
    level: float
    course: NDArray[np.float64]


@dataclass(frozen=True)
class Part:
    """The pixels of one thing; ``thread`` where they are one."""

    mask: Mask
    thread: Thread | None = None


def thread_of(smooth: Image, mask: Mask) -> Thread | None:
    """The thread that a mask holds; None for anything else. ``smooth`` is the loss."""
    if np.count_nonzero(mask) < _LEAST_PIXELS:
        return None
    usual = quantile(smooth[mask], 0.75)
    if usual < _LEAST_DEPTH:
        return None
    strong = mask & (smooth > _STRONG * usual)
    inner = depths(strong)
    width = 4 * (float(inner[strong].mean()) - 0.5)
    dark = widened(strong & (smooth > _CORE * usual), max(1, int(width / 3)), round_=True)
    plain = strong & ~dark
    inside = inner[plain] - 0.5
    length = inside.size / max(width, 1.0)
    if length < _SLENDER * width or float((inside > _BULGE * width).mean()) > _BULGE_SHARE:
        return None
    ridge = smooth[plain & (inner > _RIDGE * width)]
    if roundness(filled(strong)) > _RING or quantile(ridge, 0.15) < _EVEN * quantile(ridge, 0.75):
        return None
    return Thread(length, width, quantile(ridge, 0.5), _walked(strong, width))


def thread_parts(smooth: Image, mask: Mask) -> list[Part] | None:
    """The whole thread of a mask, crossings included, and what lies on it; None for others."""
    thread = thread_of(smooth, mask)
    if thread is None:
        return None
    dark = (mask & (smooth > _CORE * thread.level)).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(dark, connectivity=8)
    rest = mask.copy()
    specks = []
    for label in range(1, count):
        if stats[label, cv2.CC_STAT_AREA] < _CORE_SHARE * thread.width**2:
            continue
        around = rest & widened(labels == label, max(1, int(thread.width / 3)), round_=True)
        specks.append(Part(np.asarray(around)))
        rest &= ~around
    return [Part(rest, thread), *specks]


def _walked(strong: Mask, width: float) -> NDArray[np.float64]:
    """The middle of a thread from one end to all others, and back where it has more than two.

    Pixels are sorted by how far inside the thread they lie from its end; what lies as far and hangs
    together is one place of the walk.
    """
    steps = _steps_from(strong, _first(_steps_from(strong, None)))
    ring = np.where(steps > 0, (steps - 1) // max(round(width / 2), 2) + 1, 0)
    places: list[tuple[float, float]] = []
    before: list[int] = []
    names = np.full(strong.shape, -1, np.int32)
    for number in range(1, int(ring.max()) + 1):
        count, labels, _, middles = cv2.connectedComponentsWithStats(
            (ring == number).astype(np.uint8), connectivity=8
        )
        for label in range(1, count):
            here = labels == label
            touched = names[widened(here, 1) & (names >= 0) & (ring == number - 1)]
            before.append(int(np.bincount(touched).argmax()) if touched.size else -1)
            names[here] = len(places)
            places.append((float(middles[label][0]), float(middles[label][1])))
    return _smoothed_walk(
        np.array([places[name] for name in _walk(before)], np.float64).reshape(-1, 2)
    )


def _smoothed_walk(walk: NDArray[np.float64]) -> NDArray[np.float64]:
    """Each place drawn a half towards its neighbours' middle; ends of branches stay."""
    smooth = walk.copy()
    between = (walk[:-2] + walk[2:]) / 2
    turns_back = (walk[:-2] == walk[2:]).all(axis=1)
    smooth[1:-1][~turns_back] = (walk[1:-1] + between)[~turns_back] / 2
    return smooth


def _walk(before: list[int]) -> list[int]:
    """Every place once along each branch, and back to where the next one leaves; ``before``: the
    place before each, -1 for the first.
    """
    after: dict[int, list[int]] = {}
    for name, parent in enumerate(before):
        after.setdefault(parent, []).append(name)
    walk: list[int] = []
    waiting = after.get(-1, [])[:1]
    while waiting:
        name = waiting.pop()
        while walk and walk[-1] != before[name]:
            walk.append(before[walk[-1]])
        walk.append(name)
        waiting += after.get(name, [])
    return walk


def _first(steps: NDArray[np.int32]) -> tuple[int, int]:
    row, column = np.unravel_index(int(steps.argmax()), steps.shape)
    return int(row), int(column)


def _steps_from(strong: Mask, start: tuple[int, int] | None) -> NDArray[np.int32]:
    """How many steps inside the mask each pixel lies from one of its own, from 1; 0 elsewhere."""
    whole = strong.astype(np.uint8)
    reached = np.zeros_like(whole)
    reached[start or _first(np.asarray(strong, np.int32))] = 1
    steps = reached.astype(np.int32)
    number = 1
    while True:
        wider = np.asarray(cv2.dilate(reached, _NEIGHBOURS), np.uint8) & whole
        fresh = wider > reached
        if not fresh.any():
            return steps
        number += 1
        steps[fresh] = number
        reached = wider
