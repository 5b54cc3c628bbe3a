"""Where a map of the sensor lies on an ordinary picture, found from the shadows themselves.

The picture may be turned by quarter turns, made smaller as a whole, or cut out; another exit pupil
scales the shadows about the sensor's centre, and a lens correction in the camera moves them along
the radius (docs/method.md, section 11). Every visible shadow votes with its score around the place
it should be at; scale, radial term and shift that most of the evidence agrees with are taken.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import peak_between, quantile
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.pictures.shadow_evidence import ShadowEvidence, information, window_of
from neatpatch.core.sensor.placement import Placement, Points, alike_in_shape

Plane = NDArray[np.float32]
Shape = tuple[int, int]

_SAME_SHAPE = 0.006
_MOST_SCALE, _MOST_RADIAL = 0.045, 0.04
_PUPIL_SCALE = 0.03
"""Exit pupils change the scale by less, where no lens correction fills the picture out again."""
_SLACK_PX = 2
"""Working pixels by which one shadow may lie off the common model."""
_STRONGEST = 60
"""Shadows that vote; more add time, not certainty."""
_OUTLIER, _MOST_SAID = 0.1, 15.0
"""Share of shadows that may be wrong, and the most one shadow may say (log odds)."""
_SHOULD_SHOW = 5.0
"""Standard deviations that a shadow's score must be expected to reach."""
_SAYS = 4.0
"""Log odds from which a shadow counts as found."""
_TERM_COST, _TURN_COST = 12.0, 9.0
"""Log odds that a radial term, and a turn that the picture's shape does not ask for, must bring."""
_LEAST_FOUND = 6.0
"""Total log odds below which a picture says nothing of how it lies."""
_PLACE_SPREAD_PX, _MOST_STRAY = 0.7, 9.0
"""How well a shadow is placed, in working pixels, and the most that one which strays may cost."""
_USUAL_SCALE, _USUAL_SHIFT_PX, _USUAL_RADIAL = 0.012, 0.8, 0.015
_PUPIL_SCALES = (0.975, 0.985, 0.995, 1.005, 1.015)
"""Scales tried for cut-outs; between them the shadows of one still overlap."""
_UNKNOWN_SHARE, _USUAL_SHARE = 0.008, 0.001
"""Share of the distance from the centre by which another exit pupil moves shadows,
typically, and what is left of that where other pictures of the lens told it."""
_CROP_BEYOND = 7.5
"""Standard deviations that the best place of a cut-out must stand above all others' spread."""


@dataclass(frozen=True, kw_only=True)
class ShadowTemplate:
    """One shadow to be looked for: its place in the map, and its shape in working pixels.

    ``shape``: ``-log(1 - loss)`` for the turn 0, square, centred.
    """

    place: tuple[float, float]
    shape: Plane


@dataclass(frozen=True, kw_only=True)
class MapLocation:
    """Where the map lies on the picture. ``log_odds``: log odds against no shadow showing at all.

    ``found``: shadows that show at their place, of those that ``expected``. ``spread_px``: how far
    one may lie off it, standard deviation in working pixels at the middle and, by
    ``spread_share``, farther out.
    """

    alignment: Alignment
    log_odds: float
    found: int
    expected: int
    spread_px: float
    spread_share: float


def placements(map_shape: Shape, picture_shape: Shape) -> Iterator[Placement]:
    """Ways in which a whole picture may lie on the map's frame; none for another proportion."""
    for turn in range(4):
        flipped = map_shape[::-1] if turn % 2 else map_shape
        if alike_in_shape(picture_shape, flipped, _SAME_SHAPE):
            zoom = picture_shape[1] / flipped[1]
            yield Placement(here=map_shape, there=picture_shape, turn=turn, zoom=zoom)


def locate_map(
    evidence: ShadowEvidence,
    templates: Sequence[ShadowTemplate],
    tries: Sequence[Placement],
    usual: Alignment | None = None,
) -> MapLocation:
    """The best of several placements (at least one; in working pixels), and how the map lies.

    ``usual``: scale and radial term of other pictures of that lens; tried first, and kept where
    this picture says too little.
    """
    best: MapLocation | None = None
    for placement in tries:
        found = _fitted(evidence, templates, placement, usual)
        cost = 0.0 if placement is tries[0] else _TURN_COST
        if best is None or found.log_odds - cost > best.log_odds:
            best = found
    if best is None:
        raise ValueError("a picture needs at least one way to lie on its map")
    return best


def locate_crop(
    evidence: ShadowEvidence, templates: Sequence[ShadowTemplate], map_shape: Shape, zoom: float
) -> Placement | None:
    """Where a picture was cut out of the map's frame, not made smaller; None if chance may be it.

    The picture's evidence is slid over all the shadows at once (cross-correlation by FFT), for
    every quarter turn. ``zoom``: working pixels to a pixel of the map.
    """
    best, place = _CROP_BEYOND, None
    for turn in range(4):
        whole = map_shape[::-1] if turn % 2 else map_shape
        for scale in _PUPIL_SCALES:
            placement = Placement(
                here=map_shape,
                there=(round(whole[0] * zoom), round(whole[1] * zoom)),
                turn=turn,
                zoom=zoom,
            )
            canvas = _canvas(templates, placement, scale)
            found = _correlated(evidence.field, canvas)
            if found is not None and found[0] > best:
                best = found[0]
                middle = np.array([(n - 1) / 2 for n in evidence.shape[::-1]])
                shift = placement.pole - middle - np.array(found[1:])
                place = Placement(
                    here=map_shape,
                    there=evidence.shape,
                    turn=turn,
                    zoom=zoom,
                    shift_px=(float(shift[0]), float(shift[1])),
                )
    return place


def _canvas(templates: Sequence[ShadowTemplate], placement: Placement, scale: float) -> Plane:
    """All shadows on one plane."""
    canvas = np.zeros(placement.there, np.float32)
    for template in templates:
        place = placement.apply(np.array([template.place]))[0]
        x, y = (placement.pole + scale * (place - placement.pole)).round().astype(int)
        shape = np.rot90(np.minimum(template.shape, 0.2), placement.turn)
        half = shape.shape[0] // 2
        top, left = max(0, y - half), max(0, x - half)
        bottom, right = min(canvas.shape[0], y + half + 1), min(canvas.shape[1], x + half + 1)
        if top < bottom and left < right:
            canvas[top:bottom, left:right] += shape[
                top - y + half : bottom - y + half, left - x + half : right - x + half
            ]
    return canvas


def _correlated(field: Plane, canvas: Plane) -> tuple[float, int, int] | None:
    """Best score over its spread, with the left and top of the field on the canvas."""
    if field.shape[0] > canvas.shape[0] or field.shape[1] > canvas.shape[1]:
        return None
    scores = np.asarray(cv2.matchTemplate(canvas, field, cv2.TM_CCORR), np.float32)
    energy = np.asarray(
        cv2.matchTemplate(np.square(canvas), np.ones_like(field), cv2.TM_CCORR), np.float32
    )
    scores /= np.sqrt(np.maximum(energy, float(energy.max()) * 0.05 + 1e-9))
    spread = 1.4826 * quantile(np.abs(scores - np.median(scores)), 0.5)
    top, left = np.unravel_index(int(np.argmax(scores)), scores.shape)
    return float(scores[top, left] / max(spread, 1e-9)), int(left), int(top)


@dataclass(frozen=True)
class Votes:
    """Log odds of each shadow (n) at displacements around its place: (n, side, side).

    ``off``: the places, about the sensor's centre; ``wanted``: the scores they should have.
    """

    surfaces: Plane
    off: Points
    wanted: NDArray[np.float64]

    @property
    def reach(self) -> int:
        return int(self.surfaces.shape[1]) // 2


def unlocated(placement: Placement, usual: Alignment | None) -> MapLocation:
    """What is known of how a map lies before the picture has said anything."""
    alignment = Alignment(placement=placement)
    if usual is not None:
        alignment = replace(alignment, scale=usual.scale, radial=usual.radial)
    return MapLocation(
        alignment=alignment,
        log_odds=0.0,
        found=0,
        expected=0,
        spread_px=1.0,
        spread_share=_USUAL_SHARE if usual is not None else _UNKNOWN_SHARE,
    )


def _fitted(
    evidence: ShadowEvidence,
    templates: Sequence[ShadowTemplate],
    placement: Placement,
    usual: Alignment | None,
) -> MapLocation:
    rest = unlocated(placement, usual)
    votes = _votes(evidence, templates, placement)
    return rest if votes is None else fit_location(votes, rest)


def fit_location(votes: Votes, rest: MapLocation) -> MapLocation:
    """Scale, radial term and shift that most votes agree with; ``rest`` where they say too little.

    A radial term in ``rest`` is that of other pictures of the lens, and is tried with its scale.
    """
    nothing = rest.alignment
    placement = nothing.placement
    pole_far = placement.reach_px
    share = (votes.off**2).sum(axis=1, keepdims=True) / pole_far**2
    plain = _best_of(votes, share, _scales(_PUPIL_SCALE, pole_far), np.zeros(1))
    bent = _best_of(
        votes,
        share,
        _scales(_MOST_SCALE, pole_far),
        np.arange(-_MOST_RADIAL, _MOST_RADIAL + 1e-9, 1.0 / pole_far),
    )
    if nothing.radial:
        own = _best_of(votes, share, np.array([nothing.scale]), np.array([nothing.radial]))
        plain = max(plain, (own[0] + _TERM_COST / 2, *own[1:]), key=lambda v: v[0])
    refined, curved = (
        _refined(votes, replace(nothing, scale=scale, radial=radial))
        for _, scale, radial in (plain, bent)
    )
    if curved.log_odds - _TERM_COST > refined.log_odds:
        refined = curved
    if refined.log_odds < _LEAST_FOUND:
        return replace(
            rest, log_odds=refined.log_odds, found=refined.found, expected=refined.expected
        )
    return refined


def _scales(most: float, reach_px: float) -> NDArray[np.float64]:
    step = 0.7 / reach_px
    count = int(most / step)
    return np.asarray(1 + step * np.arange(-count, count + 1))


def _votes(
    evidence: ShadowEvidence, templates: Sequence[ShadowTemplate], placement: Placement
) -> Votes | None:
    """Surfaces of log odds; shadows whose neighbourhood leaves the picture are left out."""
    reach = int((_MOST_RADIAL + _MOST_SCALE) * 0.5 * placement.reach_px) + 2 * _SLACK_PX
    surfaces, offs, strengths = [], [], []
    height, width = evidence.shape
    for template in templates:
        place = placement.apply(np.array([template.place]))[0]
        off = place - placement.pole
        shape = np.ascontiguousarray(np.rot90(template.shape, placement.turn))
        x, y = round(float(place[0])), round(float(place[1]))
        if not (0 <= x < width and 0 <= y < height):
            continue
        surface = _surface(evidence, shape, (x, y), reach)
        if surface is None:
            continue
        odds, strength = surface
        surfaces.append(odds)
        offs.append(off + np.array([x, y]) - place)
        strengths.append(strength)
    if not surfaces:
        return None
    order = np.argsort(-np.array(strengths))[:_STRONGEST]
    stack = np.array([surfaces[i] for i in order], np.float32)
    return Votes(stack, np.array([offs[i] for i in order]), np.array([strengths[i] for i in order]))


def _surface(
    evidence: ShadowEvidence, shape: Plane, at: tuple[int, int], reach: int
) -> tuple[Plane, float] | None:
    """Log odds of one shadow at displacements up to ``reach``, and the score it should have."""
    half = shape.shape[0] // 2
    side = reach + half
    window = window_of(evidence.field, at, side)
    scores = np.asarray(cv2.matchTemplate(window, shape, cv2.TM_CCORR), np.float32)
    weight = window_of(evidence.weight, at, half)
    expected = information(weight, shape)
    inside = scores[scores != 0]
    if expected <= 0 or inside.size < scores.size / 4:
        return None
    spread = max(1.4826 * quantile(np.abs(inside), 0.5), float(np.sqrt(expected)))
    z, wanted = scores / np.float32(spread), expected / spread
    q = np.clip(z, 0, wanted)
    return np.asarray(z * q - q * q / 2, np.float32), wanted


def _best_of(
    votes: Votes,
    share: NDArray[np.float64],
    scales: NDArray[np.float64],
    radials: NDArray[np.float64],
) -> tuple[float, float, float]:
    """Most log odds over a grid, with its scale and radial term; small shifts are let pass."""
    side = 2 * _SLACK_PX + 1
    kernel = np.ones((side, side), np.uint8)
    eased = np.array([cv2.dilate(s, kernel) for s in votes.surfaces], np.float32)
    log_odds = _bounded_odds(eased)
    which = np.arange(len(log_odds))[:, None]
    best = (-np.inf, 1.0, 0.0)
    for scale in scales:
        grow = scale * (1 + radials[None] * share) - 1
        x = np.rint(grow * votes.off[:, :1]).astype(np.intp) + votes.reach
        y = np.rint(grow * votes.off[:, 1:]).astype(np.intp) + votes.reach
        inside = (x >= 0) & (y >= 0) & (x <= 2 * votes.reach) & (y <= 2 * votes.reach)
        limit = 2 * votes.reach
        total = np.where(inside, log_odds[which, y.clip(0, limit), x.clip(0, limit)], 0).sum(axis=0)
        usual = total - 0.5 * ((scale - 1) / _USUAL_SCALE) ** 2
        top = int(np.argmax(usual))
        if usual[top] > best[0]:
            best = (float(usual[top]), float(scale), float(radials[top]))
    return best


def _refined(votes: Votes, start: Alignment) -> MapLocation:
    """Least squares over the peaks of the shadows that show near their places."""
    found = start
    peaks, odds = _peaks(votes, found)
    for _ in range(3):
        good = odds > _SAYS
        if good.sum() < 2:
            break
        found = _least_squares(votes.off[good], peaks[good], found)
        peaks, odds = _peaks(votes, found)
    good = odds > _SAYS
    left = np.square(_model(found, votes.off) - peaks).sum(axis=1)
    strays = np.minimum(left[good] / _PLACE_SPREAD_PX**2, _MOST_STRAY)
    log_odds = float(_bounded_odds(odds).sum() - 0.5 * strays.sum())
    count = int(good.sum())
    residual = float(np.sqrt(np.mean(left[good]) / 2)) if count >= 2 else 1.0
    found = replace(found, residual_px=residual if count >= 2 else 0.0, matched=count)
    return MapLocation(
        alignment=found,
        log_odds=log_odds,
        found=count,
        expected=int((votes.wanted > _SHOULD_SHOW).sum()),
        spread_px=max(0.3, residual) * (1 + 1 / max(count, 1)),
        spread_share=_UNKNOWN_SHARE / max(count, 2),
    )


def _bounded_odds(odds: NDArray[np.floating]) -> NDArray[np.float64]:
    """What shadows say where some are wrong: bounded on both sides."""
    bounded = np.exp(np.minimum(odds, _MOST_SAID), dtype=np.float64)
    return np.asarray(np.log(_OUTLIER + (1 - _OUTLIER) * bounded))


def _model(found: Alignment, off: Points) -> Points:
    return np.asarray(found.lens.apply(off, found.placement.reach_px) + np.array(found.shift_px))


def _peaks(votes: Votes, found: Alignment) -> tuple[Points, NDArray[np.float64]]:
    """The highest log odds near each modelled place: where (about the pole), and how high."""
    at = _model(found, votes.off) - votes.off
    peaks, odds = np.zeros_like(at), np.zeros(len(at))
    for i, (dx, dy) in enumerate(at):
        x, y = round(float(dx)) + votes.reach, round(float(dy)) + votes.reach
        near = window_of(votes.surfaces[i], (x, y), _SLACK_PX)
        row, column = np.unravel_index(int(np.argmax(near)), near.shape)
        odds[i] = near[row, column]
        fine = peak_between(near, int(row), int(column))
        peaks[i] = votes.off[i] + (
            x - votes.reach + column - _SLACK_PX + fine[0],
            y - votes.reach + row - _SLACK_PX + fine[1],
        )
    return peaks, odds


def _least_squares(off: Points, peaks: Points, found: Alignment) -> Alignment:
    """Scale, shift and, where it is in use, the radial term; held near their usual values."""
    bent = found.radial != 0.0
    usual = [2 * _USUAL_RADIAL if bent else _USUAL_SCALE, _USUAL_SHIFT_PX, _USUAL_SHIFT_PX]
    if bent:
        usual.append(_USUAL_RADIAL)
    share = (off**2).sum(axis=1, keepdims=True) / found.placement.reach_px**2
    design = np.zeros((2 * len(off), len(usual)))
    design[:, 0] = off.ravel()
    design[0::2, 1] = 1
    design[1::2, 2] = 1
    if bent:
        design[:, 3] = (off * share).ravel()
    prior = np.diag(_PLACE_SPREAD_PX / np.array(usual))
    wanted = np.append((peaks - off).ravel(), np.zeros(len(usual)))
    model = np.linalg.lstsq(np.vstack([design, prior]), wanted, rcond=None)[0]
    scale = 1 + float(model[0])
    return replace(
        found,
        scale=scale,
        shift_px=(float(model[1]), float(model[2])),
        radial=float(model[3]) / scale if bent else 0.0,
    )
