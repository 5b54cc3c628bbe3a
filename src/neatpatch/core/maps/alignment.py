"""Lay one frame's spots on another's: scale about the centre and a small shift.

Another lens, or another focus, moves the exit pupil, and with it every shadow radially; the sensor
itself stays. Robust to half of the spots having changed. Source: random sample consensus,
Fischler & Bolles, Commun. ACM 24, 381 (1981), https://doi.org/10.1145/358669.358692, here over
all pairs of the strongest candidates, so that the result does not depend on chance.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
_MOST_SCALE = 0.02
"""Exit pupils change the scale by less than this. More lets chance pairs fit; less loses real ones.

"""
_LEAST_BASE_PX = 100.0
"""Nearer pairs tell the scale worse than it may vary. Longer leaves small groups without a model.

"""
_REACH_SHARE = 0.012
"""Handling and exit pupil shift marks by less. More pairs strangers, less misses what shifted."""
_INLIER_PX = 2.5
"""Room for errors of place and slight lens correction. More accepts chance, less loses corners."""
_STRONGEST = 40
"""Pairs grow with the square: 40 take milliseconds, and fewer fail when half of them went."""
_SIMILAR_LOSS = 1.5
"""Room for another aperture and noise. More pairs unlike things, less loses faint ones."""
_PLACE_PX = 0.7
"""How well one spot is placed, typically; long pale things worse."""
_USUAL_SCALE = 0.004
"""Standard deviation of the prior on scale, from lenses' exit pupils; wider follows noise."""
_USUAL_SHIFT_PX = 0.8
"""How much another exit pupil changes scale and centre, typically."""


@dataclass(frozen=True)
class Alignment:
    """``there = centre + scale * (here - centre) + shift``, pixels; ``residual_px`` is the RMS."""

    scale: float
    shift_px: tuple[float, float]
    residual_px: float
    matched: int

    def apply(self, points: Points, shape: tuple[int, int]) -> Points:
        """Points (n, 2) as x, y of the first frame in pixels of the second."""
        centre = centre_of(shape)
        return np.asarray(centre + self.scale * (points - centre) + np.array(self.shift_px))


IDENTITY = Alignment(1.0, (0.0, 0.0), 0.0, 0)


def centre_of(shape: tuple[int, int]) -> Points:
    """Centre of a frame (height, width) as x, y."""
    return np.array([(shape[1] - 1) / 2, (shape[0] - 1) / 2])


def align(
    here: Points, here_loss: Points, there: Points, there_loss: Points, shape: tuple[int, int]
) -> Alignment:
    """Alignment of two sets of spots, (n, 2) as x, y, with their integrated losses (n).

    With fewer than two agreeing pairs the identity is returned, ``matched`` telling how many.
    """
    pairs = _candidates(here, here_loss, there, there_loss, shape)
    if len(pairs) < 2:
        return IDENTITY
    a = here[[i for i, _ in pairs]] - centre_of(shape)
    b = there[[j for _, j in pairs]] - centre_of(shape)
    best = _most_agreed(a, b)
    if best is None or best.sum() < 2:
        return IDENTITY
    return _refined(a, b, best)


def _most_agreed(a: Points, b: Points) -> NDArray[np.bool_] | None:
    """Which pairs agree with the two of them whose model most agree with; None without one."""
    count = min(len(a), _STRONGEST)
    first, second = np.triu_indices(count, 1)
    base = a[second] - a[first]
    length = np.einsum("ij,ij->i", base, base)
    wide = length >= _LEAST_BASE_PX**2
    first, second, base, length = first[wide], second[wide], base[wide], length[wide]
    scale = np.einsum("ij,ij->i", b[second] - b[first], base) / length
    near = np.abs(scale - 1) <= _MOST_SCALE
    first, second, scale = first[near], second[near], scale[near]
    if not scale.size:
        return None
    shift = (b[first] + b[second]) / 2 - scale[:, None] * (a[first] + a[second]) / 2
    off = scale[:, None, None] * a[None] + shift[:, None] - b[None]
    agree = np.einsum("ijk,ijk->ij", off, off) < _INLIER_PX**2
    return np.asarray(agree[int(np.argmax(agree.sum(axis=1)))])


def _candidates(
    here: Points, here_loss: Points, there: Points, there_loss: Points, shape: tuple[int, int]
) -> list[tuple[int, int]]:
    """Neighbours of similar loss, strongest first."""
    if here.size == 0 or there.size == 0:
        return []
    reach = max(8.0, _REACH_SHARE * max(shape))
    pairs = []
    for i in np.argsort(-here_loss):
        distance = np.hypot(*(there - here[i]).T)
        ratio = there_loss / max(here_loss[i], 1e-9)
        near = (distance < reach) & (ratio < _SIMILAR_LOSS) & (ratio > 1 / _SIMILAR_LOSS)
        pairs += [(int(i), int(j)) for j in np.nonzero(near)[0]]
    return pairs


def _residuals(model: Points, a: Points, b: Points) -> Points:
    return np.asarray(np.hypot(*(model[0] * a + model[1:] - b).T), np.float64)


def _refined(a: Points, b: Points, inliers: NDArray[np.bool_]) -> Alignment:
    """Least squares over the agreeing pairs, held near no change where they say too little."""
    model: Points = np.array([1.0, 0.0, 0.0])
    for _ in range(3):
        x, y = a[inliers], b[inliers]
        design = np.zeros((2 * len(x) + 3, 3))
        design[:-3, 0] = x.ravel()
        design[0:-3:2, 1] = 1
        design[1:-3:2, 2] = 1
        design[-3:] = np.diag(
            _PLACE_PX / np.array([_USUAL_SCALE, _USUAL_SHIFT_PX, _USUAL_SHIFT_PX])
        )
        change = np.append((y - x).ravel(), np.zeros(3))
        step = np.linalg.lstsq(design, change, rcond=None)[0]
        model = np.asarray(step + np.array([1.0, 0.0, 0.0]), np.float64)
        inliers = _residuals(model, a, b) < _INLIER_PX
        if inliers.sum() < 2:
            break
    left = _residuals(model, a, b)[inliers]
    rms = float(np.sqrt(np.mean(left**2))) if left.size else 0.0
    return Alignment(float(model[0]), (float(model[1]), float(model[2])), rms, int(inliers.sum()))
