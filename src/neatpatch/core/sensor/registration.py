"""Where one frame lies on another of the same sensor, by the sensor's fingerprint alone.

No mark need be common: a spotless retest is registered like any other. Quarter turns, crops and
frames made smaller as a whole are found; a place is given only where chance is excluded.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from neatpatch.core.common.frame import Frame
from neatpatch.core.sensor.fingerprint import (
    Fingerprint,
    Match,
    fingerprint_of,
    match,
    resized_fingerprint,
)
from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.core.sensor.lens_correction_search import (
    can_show,
    match_corrected,
    slight_correction,
)
from neatpatch.core.sensor.placement import Placement, alike_in_shape, centre_of

_SAME_SHAPE = 0.006
"""Sides rounded to whole pixels, of pictures made smaller, change their ratio by less."""
_LARGEST_PLACE = 0.03
"""Share of a frame by which a whole one may seem to lie off its own middle: a lens correction moves
its parts by so much, and they agree best where it moves them alike."""
_WEAK, _CLEARER = 4.0, 1.5
"""Times the limit, below which a whole frame may be a slightly corrected one; and times the
strength that undoing a correction must bring to be believed then."""


Shape = tuple[int, int]


@dataclass(frozen=True)
class Registration:
    """What the fingerprints say of two frames; ``placement`` only where it is one sensor.

    ``lens``: what a lens correction in the camera did after that, where one was found.
    """

    same: bool | None
    strength: float
    limit: float
    placement: Placement | None = None
    lens: Correction | None = None


UNTOLD = Registration(None, 0.0, 0.0)


def register(reference: Fingerprint, frame: Frame, *, corrected: bool = True) -> Registration:
    """Find a frame on a reference; where nothing is found, whether that means another sensor.

    The strongest agreement is told. A frame of another proportion and too small to be cut from its
    reference gives `UNTOLD`. Without ``corrected`` no lens correction is searched for, which takes
    a
    second, and a corrected frame may be called another sensor's; nor whether the reference is but a
    part of a larger frame.
    """
    strongest = UNTOLD
    whole: list[tuple[_RegistrationTry, Match]] = []
    for tried in _tries(reference, frame):
        found = match(reference, tried.own, tried.turns)
        if found.same and _lies_within(reference, tried.own, found):
            plain = _found(reference, tried, frame, found)
            doubtful = found.strength < _WEAK * found.limit and _is_whole(reference, tried.own)
            bent = _corrected(reference, tried, frame) if corrected and doubtful else None
            if bent is not None and bent.strength > _CLEARER * plain.strength:
                return bent
            return _with_slight(plain, reference, tried.own, found) if corrected else plain
        if found.strength >= strongest.strength:
            strongest = Registration(None, round(found.strength, 1), round(found.limit, 1))
        if _is_whole(reference, tried.own):
            whole.append((tried, found))
    for tried, found in whole:
        bent = _corrected(reference, tried, frame) if corrected else None
        if bent is not None:
            return bent
        if found.same is False and (not corrected or can_show(reference, tried.own)[1]):
            strongest = replace(strongest, same=False)
    if corrected and max(frame.shape) > max(reference.shape):
        return _around(reference, frame) or strongest
    return strongest


def _around(reference: Fingerprint, frame: Frame) -> Registration | None:
    """A larger frame in which the reference lies as a cut-out; None where it is not found."""
    for own in _shifted(reference, frame):
        found = match(own, reference)
        if found.same:
            place = _placement(own, reference, reference.shape, found, 1.0).inverse()
            return Registration(True, round(found.strength, 1), round(found.limit, 1), place)
    return None


def _found(
    reference: Fingerprint, tried: _RegistrationTry, frame: Frame, found: Match
) -> Registration:
    place = _placement(reference, tried.own, frame.shape, found, tried.zoom)
    return Registration(True, round(found.strength, 1), round(found.limit, 1), place)


def _with_slight(
    plain: Registration, reference: Fingerprint, own: Fingerprint, found: Match
) -> Registration:
    """With what moves its outer parts, where a whole frame agrees as it is all the same."""
    if not _is_whole(reference, own):
        return plain
    return replace(plain, lens=slight_correction(reference, own, found.turn))


def _corrected(
    reference: Fingerprint, tried: _RegistrationTry, frame: Frame
) -> Registration | None:
    """Where a whole frame agrees once a lens correction is undone; None where it does not."""
    hopeful, _ = can_show(reference, tried.own)
    for turn in tried.turns if hopeful else ():
        undone = match_corrected(reference, tried.own, turn)
        if undone is not None and undone[0].same:
            return replace(_found(reference, tried, frame, undone[0]), lens=undone[1])
    return None


def register_frames(before: Frame, after: Frame) -> Registration:
    """Where the second frame lies on the first, whichever of them is the larger."""
    swap = after.light.size > before.light.size
    whole, part = (after, before) if swap else (before, after)
    reference = fingerprint_of(whole)
    if reference is None:
        return UNTOLD
    found = register(reference, part)
    if swap and found.placement is not None:
        lens = found.lens.inverse() if found.lens else None
        return replace(found, placement=found.placement.inverse(), lens=lens)
    return found


@dataclass(frozen=True)
class _RegistrationTry:
    """A pattern of a frame in a way it may have come about, with the turns to look for.

    ``zoom``: how much larger the frame is than the pattern stands for.
    """

    own: Fingerprint
    turns: tuple[int, ...]
    zoom: float


def _tries(reference: Fingerprint, frame: Frame) -> Iterator[_RegistrationTry]:
    shape = reference.shape
    for flipped, turns in ((False, (0, 2)), (True, (1, 3))):
        target = shape[::-1] if flipped else shape
        if frame.shape == target:
            own = fingerprint_of(frame, reference.step)
            if own is not None:
                yield _RegistrationTry(own, turns, 1.0)
                return
        elif alike_in_shape(frame.shape, target, _SAME_SHAPE):
            own = resized_fingerprint(frame, target)
            if own is not None:
                yield _RegistrationTry(own, turns, frame.shape[1] / target[1])
    if max(frame.shape) > max(shape) or frame.shape in (shape, shape[::-1]):
        return
    for own in _shifted(reference, frame):
        yield _RegistrationTry(own, (0, 1, 2, 3), 1.0)


def _shifted(reference: Fingerprint, frame: Frame) -> Iterator[Fingerprint]:
    """Patterns of a frame in the reference's bins, begun half a bin apart: one meets a cut-out's.

    Their silence proves nothing.
    """
    half = reference.step // 2
    for offset in ((0, 0), (half, 0), (0, half), (half, half)):
        own = fingerprint_of(frame, reference.step, offset)
        if own is not None:
            yield replace(own, clear=False)


def _lies_within(reference: Fingerprint, own: Fingerprint, found: Match) -> bool:
    """Whether the frame lies on the sensor: a whole one cannot lie far off its middle."""
    if not _is_whole(reference, own):
        return True
    limit = _LARGEST_PLACE * min(own.values.shape)
    return bool(max(abs(v) for v in found.shift) < limit)


def _is_whole(reference: Fingerprint, own: Fingerprint) -> bool:
    return own.shape in (reference.shape, reference.shape[::-1])


def _placement(
    reference: Fingerprint, own: Fingerprint, there: Shape, found: Match, zoom: float
) -> Placement:
    """From the shift between first bins to that between centres; of a whole frame there is none."""
    if _is_whole(reference, own):
        return Placement(here=reference.shape, there=there, turn=found.turn, zoom=zoom)
    turned_shape = reference.shape[::-1] if found.turn % 2 else reference.shape
    starts = np.array(own.start) - np.array(reference.start_turned(found.turn))
    moved = starts + reference.step * np.array(found.shift)
    shift = moved + centre_of(turned_shape) - centre_of(own.shape)
    return Placement(
        here=reference.shape,
        there=there,
        turn=found.turn,
        zoom=zoom,
        shift_px=(round(float(shift[0]) * zoom, 2), round(float(shift[1]) * zoom, 2)),
    )
