"""A mark as the pictures show it, cut out and its faint tones drawn apart."""

from __future__ import annotations

from collections import defaultdict
from pathlib import Path

import cv2
import numpy as np

from neatpatch.core.arrivals.records import Arrivals
from neatpatch.core.common.errors import NeatPatchError
from neatpatch.core.common.filters import smoothed
from neatpatch.core.common.frame import Image
from neatpatch.core.pictures.shadow_evidence import window_of
from neatpatch.images.pictures import read_glance
from neatpatch.images.writeback import write_shown

_READ_PX = 2400
_SIDE_PX = 120
_WIDTHS = 2.5
"""Half the side of a cutting, in widths of the mark."""
_GAIN = 2.5


def write_strips(found: Arrivals, folder: Path) -> None:
    """Write a cutting for every picture named with a mark: ``m1-0.jpg``, in their order.

    A picture that cannot be read any more is left out.
    """
    wanted = defaultdict(list)
    for spot in found.spots:
        for number, shown in enumerate(spot.shown_in):
            wanted[shown.path].append((spot, number, shown))
    for path, cuttings in wanted.items():
        try:
            light, facts = read_glance(Path(path), _READ_PX)
        except (NeatPatchError, OSError):
            continue
        zoom = light.shape[1] / facts.width_px
        for spot, number, shown in cuttings:
            share = zoom * facts.width_px / max(found.width_px, 1)
            half = max(8, round(_WIDTHS * spot.outer_px * share))
            at = round(shown.x_px * zoom), round(shown.y_px * zoom)
            write_shown(folder / f"{spot.id}-{number}.jpg", _relief(window_of(light, at, half)))


def _relief(part: Image) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    tone = np.sqrt(np.maximum(part, 1e-4))
    ground = smoothed(tone, max(part.shape) / 4)
    relief = np.clip(0.55 + _GAIN * (tone / ground - 1), 0, 1)
    large = cv2.resize(relief, (_SIDE_PX, _SIDE_PX), interpolation=cv2.INTER_CUBIC)
    return np.asarray(np.clip(large * 255, 0, 255), np.uint8)
