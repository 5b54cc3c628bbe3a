"""Align one frame's spots with another's: scale about the sensor's centre, a shift, a radial term.

Another lens, or another focus, moves the exit pupil, and with it every shadow radially; the sensor
itself stays. A camera that corrects its lens moves whatever lies away from the centre by the square
of its distance as well. Robust to half of the spots having changed. Source: random sample
consensus, Fischler & Bolles, Commun. ACM 24, 381 (1981), https://doi.org/10.1145/358669.358692,
here over all pairs of the strongest candidates, so that the result does not depend on chance; the
radial term is the first of D. C. Brown, Photogramm. Eng. 32, 444 (1966).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.sensor.lens_correction import NO_CORRECTION, Correction
from neatpatch.core.sensor.placement import Placement, Points, as_they_are, centre_of

Losses = NDArray[np.float64]
Pairs = NDArray[np.intp]
_MOST_SCALE = 0.02
"""Exit pupils change the scale by less than this. More lets chance pairs fit; less loses real ones.
"""
_LEAST_BASE_PX = 100.0
"""Nearer pairs tell the scale worse than it may vary. Longer leaves small groups without a model.
"""
REACH_SHARE = 0.012
"""Handling and exit pupil shift marks by less. More pairs strangers, less misses what shifted."""
_INLIER_PX = 2.5
"""Room for errors of place. More accepts chance, less loses corners."""
_STRONGEST = 40
"""Pairs grow with the square: 40 take milliseconds, and fewer fail when half of them went."""
SIMILAR_LOSS = 1.5
"""Room for another aperture and noise. More pairs unlike things, less loses faint ones."""
_PLACE_PX = 0.7
"""How well one spot is placed, typically; long pale things worse."""
_USUAL_SCALE = 0.004
"""Standard deviation of the prior on scale, from lenses' exit pupils; wider follows noise."""
_USUAL_SHIFT_PX = 0.8
"""How much another exit pupil changes scale and centre, typically."""
_USUAL_RADIAL = 0.015
"""Standard deviation of the prior on the radial term; cameras correct 1 to 3 % at the corners."""
_KNOWN_RADIAL = 0.003
"""How well the fingerprint knows it, or two frames' corrections one after the other."""
_MOST_RADIAL, _RADIAL_STEP = 0.04, 0.001
"""Range and steps of the radial term searched for: a step moves a corner by 4 px at 24 million
pixels.
"""
_MOST_CORRECTED_SCALE, _SCALE_STEP = 0.045, 0.0015
"""A corrected picture is filled out again, by as much as the corners were drawn in."""
_ACROSS_PX = 6.0
"""Marks moved by a lens correction stay on their radius within handling's shift."""
_FEWEST_PAIRS, _FEWEST_CORRECTED = 3, 6
"""Pairs needed to look for a radial term at all, and to believe one."""
_BACK_STEPS = 4
"""Each leaves a hundredth of the error of the one before."""
_MATCH, _TERM = 9.0, 15.0
"""What a pair is worth that would not meet by chance, and what a radial term costs, as twice the
logarithm of odds: two pairs more pay for it, or residuals much smaller."""


@dataclass(frozen=True, kw_only=True)
class Marks:
    """Places (n, 2) as x, y in pixels, and integrated losses (n) in square pixels."""

    places: Points
    losses: Losses

    @property
    def count(self) -> int:
        return len(self.losses)


@dataclass(frozen=True, kw_only=True)
class Alignment:
    """A placement, then ``pole + shift + scale (1 + radial rho^2 + second rho^4) (q - pole)``.

    ``rho``: distance from the pole, the sensor's centre, over half the sensor's diagonal.
    ``second`` only where the fingerprint told it. ``residual_px``: RMS of the ``matched`` pairs.
    """

    placement: Placement
    scale: float = 1.0
    shift_px: tuple[float, float] = (0.0, 0.0)
    radial: float = 0.0
    second: float = 0.0
    residual_px: float = 0.0
    matched: int = 0

    def apply(self, points: Points) -> Points:
        """Points (n, 2) as x, y of the first frame in pixels of the second."""
        off = self.placement.apply(points) - self.placement.pole
        moved = self.lens.apply(off, self.placement.reach_px)
        return np.asarray(self.placement.pole + moved + np.array(self.shift_px))

    def back(self, points: Points) -> Points:
        """Points (n, 2) of the second frame in pixels of the first: `apply` undone by steps."""
        at = np.tile(centre_of(self.placement.here), (len(points), 1)).astype(np.float64)
        for _ in range(_BACK_STEPS):
            at = at + self.back_by(at, points - self.apply(at))
        return at

    def back_by(self, at: Points, offsets: Points) -> Points:
        """Offsets (n, 2) in the second frame, near points (n, 2) of the first, in its pixels."""
        right, down = (self.apply(at + d) - self.apply(at - d) for d in np.eye(2))
        slopes = np.stack([right, down], axis=2) / 2
        return np.asarray(np.linalg.solve(slopes, offsets[:, :, None])[:, :, 0])

    def growth(self, points: Points) -> NDArray[np.float64]:
        """How much larger a lens correction draws what lies at points (n, 2) of the second frame,
        after the placement's own zoom; (n).
        """
        return self.lens.growth(points - self.placement.pole, self.placement.reach_px)

    @property
    def lens(self) -> Correction:
        """What it does beside the placement and the shift."""
        return Correction(self.scale, self.radial, self.second)


def align(
    here: Marks, there: Marks, placement: Placement, lens: Correction | None = None
) -> Alignment:
    """Alignment of two sets of marks whose photosites lie on each other by ``placement``.

    ``lens``: a correction that is known already; another one is not searched for then. With fewer
    than two agreeing pairs the placement alone is returned, none of them ``matched``.
    """
    plain = align_without_lens(here, there, placement, lens or NO_CORRECTION)
    if lens is not None:
        return plain
    corrected = _corrected(here, there, placement)
    if corrected is None:
        return plain
    needed = corrected.matched >= max(_FEWEST_CORRECTED, plain.matched)
    return corrected if needed and _cost(corrected) + _TERM < _cost(plain) else plain


def _cost(found: Alignment) -> float:
    """How unlikely an alignment is: what it strays from the usual, and what it leaves unmatched.

    Twice the negative logarithm of its likelihood, without what all alignments have in common.
    """
    usual_scale = 3 * _USUAL_RADIAL if found.radial else _USUAL_SCALE
    strays = ((found.scale - 1) / usual_scale) ** 2 + (found.radial / _USUAL_RADIAL) ** 2
    strays += sum((v / _USUAL_SHIFT_PX) ** 2 for v in found.shift_px)
    return strays + found.matched * ((found.residual_px / _PLACE_PX) ** 2 - _MATCH)


def align_without_lens(
    here: Marks, there: Marks, placement: Placement, lens: Correction = NO_CORRECTION
) -> Alignment:
    """`align` without seeking a lens correction."""
    nothing = Alignment(
        placement=placement, scale=lens.scale, radial=lens.radial, second=lens.second
    )
    pairs = similar_pairs(here, there, nothing, max(8.0, REACH_SHARE * max(placement.there)))
    if len(pairs) < 2:
        return nothing
    a = placement.apply(here.places[pairs[:, 0]]) - placement.pole
    b = there.places[pairs[:, 1]] - placement.pole
    best = _most_agreed(lens.apply(a, placement.reach_px), b)
    if best is None or best.sum() < 2:
        return nothing
    return _refined(nothing, a, b, best, radial=lens.radial != 0.0, known=lens)


def similar_pairs(here: Marks, there: Marks, alignment: Alignment, reach_px: float) -> Pairs:
    """Neighbours of similar loss (n, 2), the strongest of the first frame first."""
    if not here.count or not there.count:
        return np.zeros((0, 2), np.intp)
    order = np.argsort(-here.losses)
    first, second = np.nonzero(
        similar_losses(here.losses[order] * alignment.placement.zoom**2, there.losses)
    )
    off = alignment.apply(here.places[order])[first] - there.places[second]
    near = np.einsum("ij,ij->i", off, off) < reach_px**2
    return np.stack([order[first[near]], second[near]], axis=1)


def similar_losses(here: Losses, there: Losses) -> NDArray[np.bool_]:
    """Whether losses (n) and (m) may be of one thing, (n, m)."""
    logs = (np.log(np.maximum(v, 1e-9)).astype(np.float32) for v in (here, there))
    return np.asarray(np.abs(np.subtract.outer(*logs)) < np.float32(np.log(SIMILAR_LOSS)))


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


def _corrected(here: Marks, there: Marks, placement: Placement) -> Alignment | None:
    """With a radial term: pairs on one radius vote for scale and term together."""
    reach = (_MOST_RADIAL + _MOST_CORRECTED_SCALE) * placement.reach_px
    pairs = similar_pairs(here, there, Alignment(placement=placement), reach)
    if len(pairs) < _FEWEST_PAIRS:
        return None
    a = placement.apply(here.places[pairs[:, 0]]) - placement.pole
    b = there.places[pairs[:, 1]] - placement.pole
    far = np.maximum(np.hypot(*a.T), 1e-6)
    along = (a * b).sum(axis=1) / far
    across = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) / far
    straight = across < _ACROSS_PX
    if straight.sum() < _FEWEST_PAIRS:
        return None
    a, b, far, along = a[straight], b[straight], far[straight], along[straight]
    share = (far / placement.reach_px) ** 2
    radial = np.arange(-_MOST_RADIAL, _MOST_RADIAL + 1e-9, _RADIAL_STEP)
    scale = 1 + np.arange(-_MOST_CORRECTED_SCALE, _MOST_CORRECTED_SCALE + 1e-9, _SCALE_STEP)
    best, votes = (1.0, 0.0), 0
    for s in scale:
        model = s * far * (1 + radial[:, None] * share)
        counts = (np.abs(model - along) < 1.5 * _INLIER_PX).sum(axis=1)
        top = int(np.argmax(counts))
        if counts[top] > votes:
            best, votes = (float(s), float(radial[top])), int(counts[top])
    start = Alignment(placement=placement, scale=best[0], radial=best[1])
    near = _residuals(start, a, b) < 3 * _INLIER_PX
    return None if near.sum() < _FEWEST_PAIRS else _refined(start, a, b, near, radial=True)


def _residuals(found: Alignment, a: Points, b: Points) -> NDArray[np.float64]:
    """Distance of each pair after the alignment; both about the pole."""
    at = found.lens.apply(a, found.placement.reach_px) + np.array(found.shift_px)
    return np.asarray(np.hypot(*(at - b).T), np.float64)


def _refined(
    found: Alignment,
    a: Points,
    b: Points,
    inliers: NDArray[np.bool_],
    *,
    radial: bool,
    known: Correction | None = None,
) -> Alignment:
    """Least squares over the agreeing pairs, held near what is known where they say too little.

    ``known``: the lens correction, else it is none, or a usual one where ``radial``.
    """
    usual = [_USUAL_SCALE, _USUAL_SHIFT_PX, _USUAL_SHIFT_PX]
    mean = [known.scale - 1 if known else 0.0, 0.0, 0.0]
    if radial:
        usual += [_KNOWN_RADIAL if known else _USUAL_RADIAL]
        mean += [known.radial * known.scale if known else 0.0]
    if radial and not known:
        usual[0] = 3 * _USUAL_RADIAL
    held = _PLACE_PX / np.array(usual)
    bend = found.second * found.scale
    for _ in range(4):
        x, y = a[inliers], b[inliers]
        design = np.zeros((2 * len(x), len(usual)))
        design[:, 0] = x.ravel()
        design[0::2, 1] = 1
        design[1::2, 2] = 1
        share = (x**2).sum(axis=1, keepdims=True) / found.placement.reach_px**2
        if radial:
            design[:, 3] = (x * share).ravel()
        change = np.append((y - x - bend * share**2 * x).ravel(), held * np.array(mean))
        model = np.linalg.lstsq(np.vstack([design, np.diag(held)]), change, rcond=None)[0]
        scale = 1 + float(model[0])
        found = replace(
            found,
            scale=scale,
            shift_px=(float(model[1]), float(model[2])),
            radial=float(model[3]) / scale if radial else 0.0,
            second=bend / scale,
        )
        inliers = _residuals(found, a, b) < _INLIER_PX
        if inliers.sum() < 2:
            break
    left = _residuals(found, a, b)[inliers]
    rms = float(np.sqrt(np.mean(left**2))) if left.size else 0.0
    return replace(found, residual_px=rms, matched=int(inliers.sum()))


def align_unshifted(here: Marks, there: Marks, shape: tuple[int, int]) -> Alignment:
    """`align` for frames of one shape (height, width) that lie on each other as they are."""
    return align(here, there, as_they_are(shape, shape))
