"""Two maps of one sensor: what was removed, what stayed, what moved, what is new.

The frames are aligned by the sensor's fingerprint, else by the constellation of their
marks, and only compared where that is no chance. Then spots are paired one to one by place and
loss. Source of the pairing: minimum-cost assignment, H. W. Kuhn, Naval Res. Logist. Q. 2, 83
(1955), https://doi.org/10.1002/nav.3800020109, as in scipy.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Spot, SpotMap
from neatpatch.core.compare.alignment import Alignment, Marks, align
from neatpatch.core.compare.comparison import (
    AlignmentRecord,
    ComparedSpot,
    Comparison,
    ComparisonSummary,
    FingerprintRecord,
    Status,
)
from neatpatch.core.compare.field_pairs import BothFields, Fields
from neatpatch.core.compare.moved_spots import DARK, loss_px2, moved_pairs
from neatpatch.core.compare.places import Depth, fate_at
from neatpatch.core.compare.refusals import all_reasons
from neatpatch.core.compare.rows import (
    depths_of,
    is_fainter,
    kept_spot,
    moved_spot,
    new_spot,
    own_depth,
    removed_spot,
    unfound_spot,
)
from neatpatch.core.compare.spot_alignment import align_by_spots
from neatpatch.core.maps.prediction import predict
from neatpatch.core.sensor.placement import centre_of
from neatpatch.core.sensor.registration import UNTOLD, Registration

Floats = NDArray[np.float64]

_TOLERANCE_PX = 4.0
"""Most places are right within 1 px in either frame (bench). More marries strangers."""
_FAINT_PLACE_PX = 40.0
"""Over the signal to noise: how much less sure a faint spot's place is."""
_TOLERANCE_SHARE = 0.16
"""Of the outer width: the centroid of a long or ragged thing is less certain."""
_SAME_LOSS = 2.6
"""Room for other apertures and neighbours. More marries strangers, less calls what stayed new.

"""
_FAINT_LOSS = 12.0
"""The logarithm of a faint spot's loss is uncertain by about this over its signal to noise."""
_MERGED_LOSS = 0.75
"""Two shadows that became one take the sum; less would swallow things that went."""
_MUST_SHOW_SNR = 9.0
"""A spot that would not reach this in the later frame could have been missed there."""
_UNPAIRED = 4.0
"""Above the cost of any possible pair (at most 2), so that a pair is always preferred."""
_USUAL_DIAGONAL_MM = 43.3
"""Where the sensor's size is not known."""
_TELLING_SNR, _FEWEST_TELLING = 30.0, 5
"""Spots whose depth is known well; with fewer, chance would decide."""
_SAME_APERTURE = 0.005
"""Files round f-numbers by less; more would compare different apertures as one."""


def compare(
    before: SpotMap,
    after: SpotMap,
    registration: Registration | None = None,
    fields: Fields | None = None,
) -> Comparison:
    """Compare two maps of one body.

    ``registration`` tells where the later frame's photosites lie on the earlier one's. Frames that
    must not be compared, or that nothing lays on each other beyond chance, give no figures:
    ``comparable`` is false, with the reasons and their remedies in ``why_not``. A spot is gone only
    where the later frame denies it, new only where the earlier one does: by what ``fields`` of both
    frames, where they are given, hold at its place, else by how surely it would have been found.
    Scene marks are left out.
    """
    registration = registration or UNTOLD
    alignment, proven = _aligned(before, after, registration)
    same = registration.same if registration.placement is not None or not proven else None
    why_not = all_reasons(before, after, same, proven=proven)
    if why_not:
        return Comparison(
            comparable=False,
            why_not=why_not,
            same_sensor=same,
            fingerprint=_fingerprint(registration),
            alignment=AlignmentRecord(scale=1.0, shift_px=(0.0, 0.0), residual_px=0.0),
            spots=(),
            summary=_summary((), 0, 0),
        )
    return _compared(before, after, registration, same, alignment, fields)


def _aligned(before: SpotMap, after: SpotMap, registration: Registration) -> tuple[Alignment, bool]:
    """The alignment, and whether it is proven."""
    here, there = marks_of(_dust_spots(before)), marks_of(_dust_spots(after))
    if registration.placement is not None:
        return align(here, there, registration.placement, registration.lens), True
    found = align_by_spots(here, there, (_shape(before), _shape(after)))
    return found.alignment, found.proven


def _shape(spot_map: SpotMap) -> tuple[int, int]:
    return spot_map.frames[0].height_px, spot_map.frames[0].width_px


def _compared(
    before: SpotMap,
    after: SpotMap,
    registration: Registration,
    same: bool | None,
    alignment: Alignment,
    fields: Fields | None,
) -> Comparison:
    here, there = _dust_spots(before), _dust_spots(after)
    zoom = alignment.placement.zoom
    aligned, there_at = alignment.apply(_places(here)), _places(there)
    pairs = _paired(here, there, aligned, there_at, zoom)
    later = _LaterFrame(before, after)
    drift = _drift(here, there, pairs, later)
    ends = _SpotPairing(here, there, aligned, alignment, drift)
    spots = [kept_spot(here[i], there[j], later.deeper(here[i]) * drift) for i, j in pairs]
    told = _Unpaired.of(ends, pairs, later, fields, merged=_merged_into(ends, pairs, zoom))
    spots += told.decided
    spots += _changed(ends, told, later, _pitch(before, after, alignment))
    return Comparison(
        comparable=True,
        why_not=(),
        same_sensor=same,
        fingerprint=_fingerprint(registration),
        alignment=_record(alignment),
        spots=tuple(spots),
        summary=_summary(spots, len(here), len(there)),
    )


def _fingerprint(registration: Registration) -> FingerprintRecord:
    return FingerprintRecord(strength=registration.strength, limit=registration.limit)


def _pitch(before: SpotMap, after: SpotMap, alignment: Alignment) -> float | None:
    """Micrometres to a pixel of the later frame, by the frame that shows more of the sensor."""
    place = alignment.placement
    old, new = before.frames[0].pitch_um, after.frames[0].pitch_um
    whole_is_later = (
        place.here[0] * place.here[1] * place.zoom**2 <= place.there[0] * place.there[1]
    )
    return new if whole_is_later or old is None else old / place.zoom


def _dust_spots(spot_map: SpotMap) -> list[Spot]:
    return [s for s in spot_map.spots if s.site != "scene"]


def _places(spots: Sequence[Spot]) -> Floats:
    return np.array([[s.x_px, s.y_px] for s in spots], np.float64).reshape(-1, 2)


def _losses(spots: Sequence[Spot], zoom: float) -> Floats:
    return np.array([max(loss_px2(s), 1e-6) * zoom**2 for s in spots], np.float64)


def marks_of(spots: Sequence[Spot]) -> Marks:
    """Places and losses of spots, to lay them on others."""
    return Marks(places=_places(spots), losses=_losses(spots, 1.0))


def _paired(
    here: list[Spot], there: list[Spot], aligned: Floats, at: Floats, zoom: float
) -> list[tuple[int, int]]:
    """One-to-one pairs close enough in place and alike enough in loss."""
    if not here or not there:
        return []
    distance = np.hypot(aligned[:, None, 0] - at[None, :, 0], aligned[:, None, 1] - at[None, :, 1])
    snr_here, wide_here = _strengths(here)
    snr_there, wide_there = _strengths(there)
    snr = np.maximum(np.minimum(snr_here[:, None], snr_there[None, :]), 5.0)
    wide = np.maximum(wide_here[:, None] * zoom, wide_there[None, :])
    reach = _TOLERANCE_PX + _FAINT_PLACE_PX / snr + _TOLERANCE_SHARE * wide
    ratio = np.abs(np.log(_losses(here, zoom)[:, None] / _losses(there, 1.0)[None, :]))
    cost = np.asarray(distance / reach + ratio / math.log(_SAME_LOSS), np.float64)
    possible = (distance < reach) & (ratio < math.log(_SAME_LOSS) + _FAINT_LOSS / snr)
    from scipy.optimize import linear_sum_assignment  # slow to load, and a server starts often

    rows, columns = linear_sum_assignment(np.where(possible, cost, _UNPAIRED))
    return [(int(i), int(j)) for i, j in zip(rows, columns, strict=True) if possible[i, j]]


def _strengths(spots: list[Spot]) -> tuple[Floats, Floats]:
    """Signal to noise, and outer width in pixels."""
    both = np.array([[s.snr, s.outer_px] for s in spots], np.float64)
    return both[:, 0], both[:, 1]


@dataclass(frozen=True)
class _SpotPairing:
    """The spots of both frames, and the earlier ones in the later frame's pixels.

    ``drift``: how much deeper the later frame draws than expected.
    """

    here: Sequence[Spot]
    there: Sequence[Spot]
    aligned: Floats
    alignment: Alignment
    drift: float


def _merged_into(
    ends: _SpotPairing, pairs: list[tuple[int, int]], zoom: float
) -> Callable[[int], bool]:
    """Tells whether a lost spot hides in the shadow of a later one that holds the loss of both."""
    there, aligned = ends.there, ends.aligned
    losses = _losses(ends.here, zoom)

    def merged(lost: int) -> bool:
        return any(
            math.hypot(aligned[lost, 0] - there[j].x_px, aligned[lost, 1] - there[j].y_px)
            < there[j].outer_px / 2
            and there[j].kind in ("speck", "droplet", "soft")
            and loss_px2(there[j]) > _MERGED_LOSS * (losses[i] + losses[lost])
            for i, j in pairs
        )

    return merged


@dataclass(frozen=True)
class _Unpaired:
    """What was found in one frame only: ``lost`` and ``fresh``, by index, where the other frame
    denies it; ``decided``: rows of what stayed after all, and of what neither frame decides.

    ``depths_after`` and ``depths_before``: what the other frame holds at each place, by index.
    """

    lost: list[int]
    fresh: list[int]
    decided: list[ComparedSpot]
    depths_after: dict[int, Depth]
    depths_before: dict[int, Depth]

    @staticmethod
    def of(
        ends: _SpotPairing,
        pairs: Sequence[tuple[int, int]],
        later: _LaterFrame,
        fields: Fields | None,
        merged: Callable[[int], bool],
    ) -> _Unpaired:
        """Decide each of them; ``merged`` tells what hides in another's shadow."""
        told = _Unpaired([], [], [], {}, {})
        kept, known = {i for i, _ in pairs}, {j for _, j in pairs}
        lost = [i for i in range(len(ends.here)) if i not in kept]
        fresh = [j for j in range(len(ends.there)) if j not in known]
        both = None
        if fields is not None:
            both = BothFields(fields, ends.alignment, (ends.here, ends.there), (lost, fresh))
        for i in lost:
            again = told._earlier(i, ends, later, both, fresh, hidden=merged(i))
            fresh = [j for j in fresh if j != again]
        for j in fresh:
            told._later(j, ends, later, both)
        return told

    def _earlier(
        self,
        i: int,
        ends: _SpotPairing,
        later: _LaterFrame,
        both: BothFields | None,
        fresh: Sequence[int],
        *,
        hidden: bool,
    ) -> int | None:
        """Decide a spot found earlier; gives the later one, of these, that is the very same."""
        spot, at = ends.here[i], ends.aligned[i]
        deeper = later.deeper(spot) * ends.drift
        found = both.after(i, at) if both and later.holds(at) and not hidden else None
        if found:
            self.depths_after[i] = found
        own = (both.own_before(i) if both else None) or own_depth(spot)
        expected = Depth(own.value * deeper, own.error * deeper)
        fate = fate_at(found, expected)
        if both is None and not hidden and later.could_show(spot, at):
            fate = "absent"
        if fate == "absent":
            self.lost.append(i)
            return None
        again = _at_place(ends, fresh, spot, at) if fate == "there" else None
        if again is not None:
            self.decided.append(kept_spot(spot, ends.there[again], deeper))
            return again
        status: Status = "unseen"
        if fate == "there" and found:
            status = "fainter" if is_fainter(expected, found) else "stayed"
        self.decided.append(unfound_spot(status, spot, at, found))
        return None

    def _later(
        self, j: int, ends: _SpotPairing, later: _LaterFrame, both: BothFields | None
    ) -> None:
        spot = ends.there[j]
        found = both.before(j) if both else None
        if found:
            self.depths_before[j] = found
        shallower = 1 / max(ends.drift * later.usually_deeper, 1e-3)
        own = (both.own_after(j) if both else None) or own_depth(spot)
        fate = fate_at(found, Depth(own.value * shallower, own.error * shallower))
        if both is None and later.would_have_shown(spot, ends.alignment):
            fate = "absent"
        if fate == "absent":
            self.fresh.append(j)
            return
        status: Status = "stayed" if fate == "there" else "unseen"
        self.decided.append(
            ComparedSpot(
                status=status,
                before=None,
                after=spot.id,
                x_px=spot.x_px,
                y_px=spot.y_px,
                moved_um=None,
                **depths_of(found, own_depth(spot)),
            )
        )


def _drift(
    here: Sequence[Spot],
    there: Sequence[Spot],
    pairs: Sequence[tuple[int, int]],
    later: _LaterFrame,
) -> float:
    """How much deeper what stayed is drawn than expected; 1 where too little stayed to tell.

    A picture made smaller, or processed otherwise, draws all of its narrow shadows paler.
    """
    telling = [
        there[j].depth / (here[i].depth * later.deeper(here[i]))
        for i, j in pairs
        if min(here[i].snr, there[j].snr) >= _TELLING_SNR and 0 < here[i].depth < DARK
    ]
    return float(np.median(telling)) if len(telling) >= _FEWEST_TELLING else 1.0


def _changed(
    ends: _SpotPairing, told: _Unpaired, later: _LaterFrame, pitch_um: float | None
) -> list[ComparedSpot]:
    """What was removed, added or moved; pairs that may be one thing but need not are remarked."""
    lost, fresh = told.lost, told.fresh
    gone, new = [ends.here[i] for i in lost], [ends.there[j] for j in fresh]
    places = ends.aligned[lost], _places(new)
    placement, growth = ends.alignment.placement, ends.alignment.growth(places[1])
    mm = (pitch_um or _USUAL_DIAGONAL_MM * 500 / placement.reach_px) / 1000
    pairs = moved_pairs(
        [_resized(s, placement.zoom, later.deeper(s) * ends.drift) for s in gone],
        [_resized(s, 1 / g) for s, g in zip(new, growth, strict=True)],
        (mm * places[0], mm * places[1]),
        2 * mm * placement.reach_px,
    )
    sure = [p for p in pairs if p.moved]
    maybe = [p for p in pairs if not p.moved]
    to = {p.gone: new[p.new].id for p in maybe}
    came = {p.new: gone[p.gone].id for p in maybe}
    spots = [moved_spot(gone[p.gone], new[p.new], places[0][p.gone], pitch_um) for p in sure]
    left = set(range(len(gone))) - {p.gone for p in sure}
    spots += [
        removed_spot(gone[i], places[0][i], to.get(i), told.depths_after.get(lost[i]))
        for i in sorted(left)
    ]
    arrived = set(range(len(new))) - {p.new for p in sure}
    return spots + [
        new_spot(new[j], came.get(j), told.depths_before.get(fresh[j])) for j in sorted(arrived)
    ]


def _resized(spot: Spot, zoom: float, deeper: float = 1.0) -> Spot:
    """A spot as it measures where all is so much larger, and its shadow so much deeper."""
    sized = {
        "depth": spot.depth * deeper,
        "outer_px": spot.outer_px * zoom,
        "particle_px": spot.particle_px * zoom,
        "blur_px": spot.blur_px * zoom if spot.blur_px else spot.blur_px,
    }
    return spot.model_copy(update=sized)


class _LaterFrame:
    """What the later frame can show of the earlier one's spots."""

    def __init__(self, before: SpotMap, after: SpotMap) -> None:
        self._frame = after.frames[0]
        self._noise = _noise_of(after) / _noise_of(before)
        self._depths: dict[str, tuple[float, float]] = {}
        old, new = before.frames[0].f_number, after.frames[0].f_number
        if old and new and abs(new / old - 1) > _SAME_APERTURE:
            try:
                expected = {p.id: p for p in predict(before, new).spots}
            except BadArgumentError:
                expected = {}
            for spot in before.spots:
                if spot.id in expected and spot.depth > 0:
                    wider = expected[spot.id].outer_px / max(spot.outer_px, 1.0)
                    self._depths[spot.id] = expected[spot.id].depth / spot.depth, wider

    def deeper(self, spot: Spot) -> float:
        """How much deeper its shadow would be at the later aperture."""
        return self._depths.get(spot.id, (1.0, 1.0))[0]

    @property
    def usually_deeper(self) -> float:
        """How much deeper shadows are at the later aperture, in the middle."""
        return float(np.median([d for d, _ in self._depths.values()])) if self._depths else 1.0

    def holds(self, at: Floats) -> bool:
        """Whether a place lies in the later frame."""
        return bool(0 <= at[0] < self._frame.width_px and 0 <= at[1] < self._frame.height_px)

    def could_show(self, spot: Spot, at: Floats) -> bool:
        """Whether it would surely have been found at a place, had it still been there."""
        deeper, wider = self._depths.get(spot.id, (1.0, 1.0))
        snr = spot.snr * deeper * wider / self._noise
        return self.holds(at) and snr >= _MUST_SHOW_SNR

    def would_have_shown(self, spot: Spot, alignment: Alignment) -> bool:
        """Whether the earlier frame would surely have shown a later spot at its place."""
        x, y = alignment.back(np.array([[spot.x_px, spot.y_px]]))[0]
        height, width = alignment.placement.here
        inside = 0 <= x < width and 0 <= y < height
        return bool(inside and spot.snr * self._noise / self.usually_deeper >= _MUST_SHOW_SNR)


def _noise_of(spot_map: SpotMap) -> float:
    """Grain of a frame as its check measured it; 1 where it is not known."""
    grain = next((c.measured for c in spot_map.checks if c.code == "grainy"), None)
    return max(grain, 1e-4) if grain else 1.0


def _at_place(ends: _SpotPairing, among: Sequence[int], spot: Spot, at: Floats) -> int | None:
    """The nearest of these later spots that lies within an earlier one's shadow; None without."""
    far = {j: math.hypot(ends.there[j].x_px - at[0], ends.there[j].y_px - at[1]) for j in among}
    nearest = min(far, key=far.__getitem__, default=None)
    reach = spot.outer_px * ends.alignment.placement.zoom / 2
    return nearest if nearest is not None and far[nearest] < reach else None


def _record(a: Alignment) -> AlignmentRecord:
    place = a.placement
    dx, dy = a.apply(centre_of(place.here)[None])[0] - centre_of(place.there)
    return AlignmentRecord(
        scale=round(a.scale * place.zoom, 6),
        shift_px=(round(float(dx), 3), round(float(dy), 3)),
        radial=round(a.radial, 5),
        turn_deg=90 * place.turn,
        residual_px=round(a.residual_px, 3),
    )


def _summary(spots: Sequence[ComparedSpot], before: int, after: int) -> ComparisonSummary:
    def count(status: Status) -> int:
        return sum(1 for s in spots if s.status == status)

    return ComparisonSummary(
        before=before,
        after=after,
        gone=count("gone"),
        stayed=count("stayed"),
        moved=count("moved"),
        new=count("new"),
        fainter=count("fainter"),
        unseen=count("unseen"),
        removed_percent=round(100 * count("gone") / before, 1) if before else 0.0,
    )
