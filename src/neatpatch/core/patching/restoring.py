"""Restoring the picture: stored tones over what a shadow let through.

Division is done in linear light. Where a core let hardly any light through there is nothing to
divide; it is filled from around by an inpainting that carries edges on (A. Telea, J. Graph. Tools
9, 23, 2004), on the light already given back, and given the grain of its surroundings.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import widened
from neatpatch.core.patching.plan import ShadowPatch

Plane = NDArray[np.float32]
Tones = NDArray[np.uint8] | NDArray[np.uint16]

OPAQUE, _CLEAR = 0.25, 0.5
"""Shares of the light: below the first a core is filled, for an outline a little wrong would be
multiplied by more than four; above the second all is divided; between them both are mixed."""
_FILL_REACH_PX = 4


class Stored(Protocol):
    """Tones of a picture, or what can show some of their rows and columns."""

    @property
    def shape(self) -> tuple[int, ...]: ...

    def __getitem__(self, window: tuple[slice, slice], /) -> Any: ...


@dataclass(frozen=True)
class PatchedWindow:
    """New tones of one window, with its upper left pixel."""

    left: int
    top: int
    tones: Tones


@dataclass(frozen=True)
class MosaicLevels:
    """What tone of a mosaic stands for no light, by place in its pattern of two by two, and from
    which on photosites are full (DNG 1.7, BlackLevel and WhiteLevel).
    """

    black: tuple[tuple[float, float], tuple[float, float]]
    white: float

    def black_of(self, shape: tuple[int, ...], top: int, left: int) -> Plane:
        """Black levels of a window (height, width) whose upper left photosite is given."""
        rows, columns = (np.arange(n) + first for n, first in zip(shape, (top, left), strict=True))
        return np.asarray(self.black, np.float32)[rows[:, None] % 2, columns[None] % 2]


def patched_windows(
    tones: Stored,
    patches: Sequence[ShadowPatch],
    curve: Plane,
    levels: MosaicLevels | None = None,
) -> tuple[list[PatchedWindow], set[str], set[str]]:
    """Windows of new tones, which take no part outside of shadows, and ids divided and filled.

    ``tones``: (height, width) or (height, width, channels); a fourth channel is left alone.
    ``curve``: linear light of each tone. ``levels``: of a mosaic, which is linear: neighbours are
    of other colours, a core is filled from every second photosite, and full photosites are left.
    Overlapping shadows are taken out together.
    """
    windows: list[PatchedWindow] = []
    restored: set[str] = set()
    filled: set[str] = set()
    for group in _groups(patches):
        window = _united(group, tones.shape)
        if window is None:
            continue
        top, bottom, left, right = window
        through = np.ones((bottom - top, right - left), np.float32)
        for mend in group:
            _multiply(through, mend, left, top)
            (filled if float(1 - mend.loss.max()) < OPAQUE else restored).add(mend.id)
        part = tones[top:bottom, left:right]
        if levels is None:
            new = _divided(part, through, curve)
        else:
            new = _divided_mosaic(part, through, levels, (top, left))
        windows.append(PatchedWindow(left, top, new))
    return windows, restored, filled


def _divided(part: Tones, through: Plane, curve: Plane) -> Tones:
    """The tones of a window without its shadow."""
    levels = len(curve) - 1
    colours = part[..., :3] if part.ndim == 3 else part[..., None]
    back = _given_back(curve[colours], through, apart=1)
    index = np.interp(back, curve, np.arange(levels + 1, dtype=np.float32))
    new = np.clip(np.rint(index), 0, levels).astype(part.dtype)
    touched = (through < 1)[..., None]
    out = part.copy()
    flat = out[..., :3] if part.ndim == 3 else out[..., None]
    flat[...] = np.where(touched, new, colours)
    return out


def _divided_mosaic(
    part: Tones, through: Plane, levels: MosaicLevels, at: tuple[int, int]
) -> Tones:
    """The photosites of a window without its shadow, each from its own black level on."""
    black = levels.black_of(part.shape, *at)
    span = levels.white - black
    light = (part.astype(np.float32) - black) / span
    back = _given_back(light[..., None], through, apart=2)[..., 0]
    new = np.clip(np.rint(back * span + black), 0, levels.white)
    touched = (through < 1) & (part < levels.white)
    out: Tones = part.copy()
    out[touched] = new[touched]
    return out


def _given_back(light: Plane, through: Plane, apart: int) -> Plane:
    """Light (height, width, channels) over what came through, opaque cores filled from around.

    ``apart``: distance of pixels of one colour.
    """
    back = np.asarray(light / np.maximum(through, OPAQUE)[..., None], np.float32)
    if float(through.min()) >= OPAQUE:
        return back
    painted, core = back.copy(), widened(through < _CLEAR, apart)
    for y, x in np.ndindex(apart, apart):
        own = np.s_[y::apart, x::apart]
        painted[own] = _filled(np.ascontiguousarray(back[own]), core[own])
    kept = np.clip((through - OPAQUE) / (_CLEAR - OPAQUE), 0, 1)[..., None]
    return np.asarray(kept * back + (1 - kept) * painted, np.float32)


def _filled(light: Plane, core: NDArray[np.bool_]) -> Plane:
    mask = core.astype(np.uint8)
    out = light.copy()
    for channel in range(light.shape[2]):
        coded = np.rint(np.sqrt(np.clip(light[..., channel], 0, 1)) * 65535).astype(np.uint16)
        painted = cv2.inpaint(coded, mask, _FILL_REACH_PX, cv2.INPAINT_TELEA)
        out[..., channel] = np.square(painted.astype(np.float32) / 65535)
    return out


def _groups(patches: Sequence[ShadowPatch]) -> list[list[ShadowPatch]]:
    """Shadows whose windows overlap belong together."""
    groups: list[list[ShadowPatch]] = []
    for mend in patches:
        touching = [g for g in groups if any(_overlap(mend, other) for other in g)]
        merged = [mend, *(m for g in touching for m in g)]
        groups = [g for g in groups if g not in touching] + [merged]
    return groups


def _overlap(a: ShadowPatch, b: ShadowPatch) -> bool:
    side_a, side_b = a.loss.shape[0], b.loss.shape[0]
    return bool(
        a.left < b.left + side_b
        and b.left < a.left + side_a
        and a.top < b.top + side_b
        and b.top < a.top + side_a
    )


def _united(
    group: Sequence[ShadowPatch], shape: tuple[int, ...]
) -> tuple[int, int, int, int] | None:
    top = max(0, min(m.top for m in group))
    left = max(0, min(m.left for m in group))
    bottom = min(shape[0], max(m.top + m.loss.shape[0] for m in group))
    right = min(shape[1], max(m.left + m.loss.shape[1] for m in group))
    return (top, bottom, left, right) if top < bottom and left < right else None


def _multiply(through: Plane, mend: ShadowPatch, left: int, top: int) -> None:
    side = mend.loss.shape[0]
    y, x = mend.top - top, mend.left - left
    y0, x0 = max(0, y), max(0, x)
    y1, x1 = min(through.shape[0], y + side), min(through.shape[1], x + side)
    through[y0:y1, x0:x1] *= 1 - mend.loss[y0 - y : y1 - y, x0 - x : x1 - x]
