"""From a frame to its loss map: the target's tone, its bands and its waves are taken out.

An even target needs its background alone. Bands, waves and clouds are looked for in what the
background leaves, and only what is found is taken out, so that an even frame is measured as ever.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from neatpatch.core.common.filters import Mask, binned, binned_light, smoothed, widened
from neatpatch.core.common.frame import Frame, Image
from neatpatch.core.measure.background import Background, estimate_background, refined
from neatpatch.core.measure.detection import bin_step, loss_map, robust_sigma
from neatpatch.core.measure.patterns import LEAST_WAVE, Pattern, amplitude, find_bands, find_waves
from neatpatch.core.measure.shapes import filled
from neatpatch.core.measure.spectrum import NO_GRAIN, Grain, grain_of

_ROUGH = 0.004
"""Cells of an even target exceed its background by 0.2 %, of noisy ones by 0.3 %; of clouds and
lamps by 1 % and more."""
_ROUNDS = 3
"""The first round's background still follows a part of the bands; the others find the rest."""
_EDGE_BIN = 4
"""Edges of dust are some 10 to 80 pixels wide, those of clouds hundreds."""
_EDGE_INNER, _EDGE_OUTER = 1.5, 4.0
"""Binned pixels: what is sharper than the second and survives the first is an edge of dust."""
_EDGE_SIGMAS = 4.0
"""Lower takes cloud for dust, higher leaves faint dust to the background."""
_BORDER_TIMES = 2.0
"""The continued slope turns about single noisy pixels: only edges of twice the strength count."""
_EDGE_REACH = 4
"""Binned pixels about an edge that still hold some of the shadow."""


@dataclass(frozen=True)
class LevelledLoss:
    """A frame without the target's own bands and waves, and what they were.

    ``loss`` is binned by ``step``. Amplitudes are shares of the tone, 0 where there is none.
    ``uneven``: the background had to follow clouds, glows or bars.
    """

    frame: Frame
    background: Background
    loss: Image
    step: int
    bands: Bands
    screen: float = 0.0
    uneven: bool = False
    grain: Grain = NO_GRAIN

    @property
    def telling(self) -> bool:
        """Whether soft marks tell of anything but the target, which was found even."""
        return not (self.uneven or self.screen or self.bands.strongest)

    @property
    def is_rough(self) -> bool:
        """Whether a plain background leaves so much that it must follow the target closely."""
        return self.background.roughness > _ROUGH


@dataclass(frozen=True)
class Bands:
    """Bands along rows and columns: their amplitudes, and whether they repeat like a lamp's."""

    rows: float = 0.0
    columns: float = 0.0
    repeating: bool = False

    @property
    def strongest(self) -> float:
        return max(self.rows, self.columns)


def level_plainly(frame: Frame) -> LevelledLoss:
    """Take out the target's own tone alone: fall-off, tilt, wide clouds.

    A constant frame gives a loss of nothing but its noise.
    """
    return _plain(frame, bin_step(frame.shape[1]))


def level_fully(plain: LevelledLoss) -> LevelledLoss:
    """Take out bands, waves and clouds, too, and tell the grain.

    The loss stays the very same where the target has none of them.
    """
    now = _without_waves(_without_bands(plain))
    if now.is_rough:
        now = _trend_removed(now)
    return replace(now, grain=grain_of(now.loss, now.step, developed=not now.frame.mosaic))


def _without_bands(now: LevelledLoss) -> LevelledLoss:
    rows, columns, repeating = 0.0, 0.0, False
    for again in range(_ROUNDS):
        followed = now.background.band_profiles((now.loss.shape[0], now.loss.shape[1]), now.step)
        found = find_bands(now.loss, followed, now.step, 0.0 if again else LEAST_WAVE)
        if found is None:
            break
        rows = max(rows, 0.0 if found.rows is None else amplitude(found.rows))
        columns = max(columns, 0.0 if found.columns is None else amplitude(found.columns))
        repeating = repeating or found.repeats()
        now = _without(now, found)
    return replace(now, bands=Bands(rows, columns, repeating))


def _without_waves(now: LevelledLoss) -> LevelledLoss:
    found = find_waves(now.loss, now.step)
    if found is None or found.waves is None:
        return now
    return replace(_without(now, found), bands=now.bands, screen=amplitude(found.waves))


def _plain(frame: Frame, step: int) -> LevelledLoss:
    light = binned_light(frame.light, step)
    background = estimate_background(light, step, frame.shape)
    return LevelledLoss(frame, background, loss_map(light, background, step), step, Bands())


def _without(now: LevelledLoss, pattern: Pattern) -> LevelledLoss:
    return _plain(replace(now.frame, light=pattern.taken_out(now.frame.light)), now.step)


def _trend_removed(now: LevelledLoss) -> LevelledLoss:
    """With a background that follows the target cell by cell, but not the edges of dust."""
    light = binned_light(now.frame.light, now.step)
    background = refined(now.background, light, now.step, now.frame.shape, _sharp(now.loss))
    loss = loss_map(light, background, now.step)
    return replace(now, background=background, loss=loss, uneven=True)


def _sharp(loss: Image) -> Mask:
    """Where something darker with an edge as sharp as dust's lies, its inside filled in.

    Turned about at the border, a slope goes on there and makes no edge, though noise makes more.
    """
    coarse = binned(loss, _EDGE_BIN)
    room = int(3 * _EDGE_OUTER)
    framed = np.pad(coarse, room, mode="reflect", reflect_type="odd").astype(np.float32)
    edges = smoothed(framed, _EDGE_INNER) - smoothed(framed, _EDGE_OUTER)
    edges = edges[room:-room, room:-room]
    for border in (np.s_[:room], np.s_[-room:]):
        edges[border] /= _BORDER_TIMES
        edges[:, border] /= _BORDER_TIMES
    mask = edges > _EDGE_SIGMAS * max(robust_sigma(edges[::2, ::2]), 1e-6)
    whole = filled(widened(mask, _EDGE_REACH, round_=True))
    big = np.repeat(np.repeat(whole, _EDGE_BIN, axis=0), _EDGE_BIN, axis=1)
    out = np.zeros(loss.shape, bool)
    out[: big.shape[0], : big.shape[1]] = big[: loss.shape[0], : loss.shape[1]]
    return out
