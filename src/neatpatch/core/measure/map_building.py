"""The way from a frame to a spot map, one named step after the other."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common import optics
from neatpatch.core.common.apertures import DEFAULT_WORKS_AT
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.filters import finite, smoothed
from neatpatch.core.common.frame import Frame
from neatpatch.core.common.loss_field import LossField
from neatpatch.core.common.parallel import run_parallel
from neatpatch.core.common.records import (
    Check,
    FrameRecord,
    Kind,
    Optics,
    Site,
    Spot,
    SpotMap,
    Summary,
)
from neatpatch.core.common.scale import from_centre_mm, oriented_sensor, pitch_um
from neatpatch.core.common.zones import zone_of
from neatpatch.core.maps.prediction import Stops
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.check_evidence import CheckEvidence
from neatpatch.core.measure.checks import frame_checks
from neatpatch.core.measure.depth_in_filter import is_inside_filter, is_pixel_defect
from neatpatch.core.measure.detection import Detection, detect
from neatpatch.core.measure.faint_specks import faint_specks
from neatpatch.core.measure.joined_things import MeasuredThing, joined
from neatpatch.core.measure.kinds import is_soft_edged, kind_of, site_of
from neatpatch.core.measure.loss_field_building import loss_field
from neatpatch.core.measure.loss_levelling import LevelledLoss, level_fully, level_plainly
from neatpatch.core.measure.particle_size import outer_px, own_blur_px, particle_px
from neatpatch.core.measure.region_measures import Binned, RegionMeasures, cut_patch, measure_region
from neatpatch.core.measure.region_splitting import parts_of
from neatpatch.core.measure.series import SeriesPlaces, place_in_series
from neatpatch.core.measure.stack_height import BlurFit, fit_blur, possible_blur_px
from neatpatch.core.measure.target_checks import is_unmeasured
from neatpatch.core.measure.threads import Thread
from neatpatch.core.sensor.backdrop import backdrop_of, camera_moved

_LEAST_SNR = 5.0
"""Of the measured shadow; detection's own limit is near it. Lower lets noise through."""
_SAME_LENGTH = 0.2
"""An axis this much longer or shorter than a thread misses a part of it."""
_LEAST_SNR_AT_BORDER = 10.0
"""At the border half of the surroundings is missing, and falloff looks like shadow."""
_FAINTEST_WIDE, _FAINTEST_SURE = 0.008, 0.012
"""Fainter wide blotches cannot be told from the target's own unevenness; none would see them.
Between the two they must be strong in sum: falloff leaves small ones of so little depth."""
_SURE_SNR = 40.0
"""Films that take 1 % of the light are large; a rest of the target's reaches 30."""
_LEAST_SNR_UNEVEN, _LEAST_SNR_UNEVEN_BORDER, _BORDER_PX = 6.5, 20.0, 24.0
"""What is left of clouds and waves adds to the noise, most where the frame ends."""
_FAINTEST_UNEVEN, _FAINTEST_UNEVEN_BORDER = 0.02, 0.04
"""As above where the target is known to be uneven, whose rest reaches 1.5 %, at the border twice
that; films of fluid take 2 to 6 %."""
_MOST_AT_ONCE = 60_000_000
"""Larger pictures are levelled first and measured then: both at once would take too much memory."""
_SPLIT_SMOOTHING = 1.0
"""Enough to join a speck's own noise peaks, too little to join two specks."""
Progress = Callable[[float, str], None]


@dataclass(frozen=True, kw_only=True)
class MapOptions:
    """What the user knows beyond the file: sensor size, stack height, aperture worked at."""

    sensor_mm: tuple[float, float] | None = None
    height_mm: float | None = None
    works_at: float = DEFAULT_WORKS_AT


def no_progress(_share: float, _step: str) -> None:
    """Progress callback for callers that show none."""


@dataclass(frozen=True)
class FrameMeasures:
    """What was measured on one frame before anything is said about it."""

    level: LevelledLoss
    detection: Detection
    measured: list[RegionMeasures]

    @property
    def frame(self) -> Frame:
        return self.level.frame


@dataclass(frozen=True)
class MeasuredMap:
    """A map, and the loss of its first frame, to be measured where nothing was found."""

    spot_map: SpotMap
    field: LossField


def build_map(
    frames: Frame | Sequence[Frame],
    options: MapOptions | None = None,
    progress: Progress = no_progress,
) -> SpotMap:
    """The map of `measure_map` alone."""
    return measure_map(frames, options, progress).spot_map


def measure_map(
    frames: Frame | Sequence[Frame],
    options: MapOptions | None = None,
    progress: Progress = no_progress,
) -> MeasuredMap:
    """Measure one frame, or a series of the same body moved between shots.

    An empty, even frame gives a map with no spots. Positions are those of the first frame.
    ``progress`` is called with the share done (0 to 1) and the step's name; it may raise to stop.
    Raises `BadArgumentError` when the frames of a series differ in size.
    """
    options = options or MapOptions()
    series = [frames] if isinstance(frames, Frame) else list(frames)
    _same_size(series)
    parts = []
    for i, frame in enumerate(series):
        parts.append(measure_frame(frame, _part(progress, i, len(series))))
    progress(0.9, "naming")
    measured = _assemble(parts, options)
    progress(1.0, "done")
    return measured


def _same_size(series: Sequence[Frame]) -> None:
    if not series:
        raise BadArgumentError("No frame was given. Name at least one test frame.")
    if any(f.shape != series[0].shape for f in series):
        raise BadArgumentError(
            "The frames of a series must have one size and come from one camera. "
            "Map frames of different size one by one."
        )


def _part(progress: Progress, index: int, count: int) -> Progress:
    return lambda share, step: progress(0.9 * (index + share) / count, step)


def measure_frame(frame: Frame, progress: Progress = no_progress) -> FrameMeasures:
    """Background, detection and plain measurements of one frame.

    Most targets are even: they are measured as such while bands, waves and clouds are looked for,
    and once more without those where there are any.
    """
    frame = replace(frame, light=finite(frame.light))
    progress(0.05, "background")
    level = level_plainly(frame)
    if level.is_rough or frame.light.size > _MOST_AT_ONCE:
        level = level_fully(level)
        return _measured(level, progress)
    plain = level
    level, measures = run_parallel(lambda: level_fully(plain), lambda: _measured(plain, progress))
    if level.loss is plain.loss:
        return replace(measures, level=level)
    return _measured(level, progress)


def _measured(level: LevelledLoss, progress: Progress) -> FrameMeasures:
    progress(0.3, "detection")
    detection = detect(level.loss, level.background.cells, level.step, even=level.telling)
    progress(0.6, "measuring")
    unmeasured = is_unmeasured(detection)
    measured = [] if unmeasured else _measure_all(level.frame, level.background, detection)
    return FrameMeasures(level, detection, measured)


def _assemble(parts: list[FrameMeasures], options: MapOptions) -> MeasuredMap:
    first = parts[0].frame
    height, width = first.shape
    known = options.sensor_mm or first.facts.sensor_mm
    sensor = None if known is None else oriented_sensor(known, width, height)
    pitch = None if sensor is None else pitch_um(sensor, width)
    blur = _blur_of(parts, options, pitch)
    placed = place_in_series([_with_faint(p, blur) for p in parts], first.shape)
    record = frame_record(first, sensor, pitch)
    even = all(p.level.telling for p in parts)
    optics_ = _optics(blur, first.facts.f_number, pitch, options)
    stops = Stops(optics_, record)
    spots = tuple(
        s if s.site == "scene" else s.model_copy(update={"shows_from_f": stops.shows_from(s)})
        for s in _spots(
            _classified(placed, blur, first.shape, even=even), blur, first, sensor, pitch
        )
    )
    checks = _worst_checks(parts, sensor, blur)
    level = parts[0].level
    spot_map = SpotMap(
        frames=tuple(frame_record(p.frame, sensor, pitch) for p in parts),
        fit=all(c.level != "retake" for c in checks),
        checks=checks,
        optics=optics_,
        spots=spots,
        summary=summarise(spots, options.works_at, record),
        moved=_moved([p.frame for p in parts]),
    )
    return MeasuredMap(spot_map, loss_field(level.loss, level.background, level.step, blur))


def _moved(frames: Sequence[Frame]) -> bool | None:
    """Whether the camera moved between the first frame of a series and each other one."""
    if len(frames) < 2:
        return None
    first, *others = (backdrop_of(f) for f in frames)
    moves = [camera_moved(first, other) for other in others]
    return None if None in moves else all(moves)


def _worst_checks(
    parts: list[FrameMeasures], sensor: tuple[float, float] | None, blur: BlurFit
) -> tuple[Check, ...]:
    """Each check once, as the worst frame of the series has it."""
    grave = {"retake": 0, "note": 1, "ok": 2}
    worst: dict[str, Check] = {}
    for part in parts:
        for check in frame_checks(CheckEvidence(part.level, part.detection, sensor, blur.blur_px)):
            known = worst.get(check.code)
            if known is None or grave[check.level] < grave[known.level]:
                worst[check.code] = check
    return tuple(sorted(worst.values(), key=lambda c: grave[c.level]))


def _measure_all(
    frame: Frame, background: Background, detection: Detection
) -> list[RegionMeasures]:
    rows = []
    for region in detection.regions:
        height, width = region.mask.shape
        window = detection.loss[region.top : region.top + height, region.left : region.left + width]
        smooth = smoothed(window, _SPLIT_SMOOTHING)
        for part in parts_of(smooth, region.mask, detection.sigma[0]):
            own = Binned(part.mask, detection.step, region.top, region.left)
            patch = cut_patch(frame.light, background, detection.occupied, own)
            measured = measure_region(patch, detection.white_noise, frame.shape)
            least = _LEAST_SNR_AT_BORDER if measured and measured.at_border else _LEAST_SNR
            if measured is not None and measured.snr >= least:
                rows.append(_along_thread(measured, part.thread, own))
    return rows


def _along_thread(m: RegionMeasures, thread: Thread | None, own: Binned) -> RegionMeasures:
    """What was measured of a thread, with the length and course of all of it where one bent axis
    does not hold it; where it does, that is the finer one.
    """
    if thread is None:
        return m
    length = thread.length * own.step
    if abs(m.length_px / length - 1) < _SAME_LENGTH and m.course_px.size:
        return replace(m, is_thread=True)
    corner = np.array([own.left, own.top])
    course = (thread.course + corner + 0.5) * own.step - 0.5 - (m.x_px, m.y_px)
    return replace(
        m,
        is_thread=True,
        length_px=length,
        fwhm_px=thread.width * own.step,
        course_px=course,
    )


def _blur_of(parts: list[FrameMeasures], options: MapOptions, pitch: float | None) -> BlurFit:
    """The blur of the first frame, by what keeps its place in all."""
    first = parts[0].frame
    placed = place_in_series([p.measured for p in parts], first.shape)
    return _frame_blur([p.measured for p in placed if not p.moves], first, options, pitch)


def _with_faint(part: FrameMeasures, blur: BlurFit) -> list[RegionMeasures]:
    """What was measured, and the faint specks that the known blur lets be found."""
    level, known = part.level, part.detection
    if not level.telling or is_unmeasured(known) or blur.source == "assumed":
        return part.measured
    more = faint_specks(level.loss, level.background, known.occupied, level.step, blur)
    return part.measured + more


def _frame_blur(
    measured: list[RegionMeasures], frame: Frame, options: MapOptions, pitch: float | None
) -> BlurFit:
    n = frame.facts.f_number

    def px(height_mm: float) -> float | None:
        return None if n is None or pitch is None else optics.blur_um(height_mm, n) / pitch

    wave = 0.0 if n is None or pitch is None else optics.wave_um(n) / pitch
    given = px(options.height_mm) if options.height_mm is not None else None
    return fit_blur(measured, given, px(optics.ASSUMED_HEIGHT_MM), wave, possible_blur_px(n, pitch))


def _classified(
    placed: Sequence[SeriesPlaces], blur: BlurFit, shape: tuple[int, int], *, even: bool
) -> list[MeasuredThing]:
    """Kinds and sites; on an uneven target what is soft may be the target, and is left out."""
    things = []
    for p in placed:
        kind = kind_of(p.measured, blur)
        if kind == "speck" and is_pixel_defect(p.measured, blur):
            continue
        if not even and _may_be_target(p.measured, kind, blur, shape):
            continue
        if kind in ("soft", "residue", "droplet") and _too_faint(p.measured):
            continue
        site: Site = "scene" if p.moves else site_of(p.measured, kind, blur)
        if p.seen_in > 1 and site == "unsure":
            site = "sensor"
        things.append(MeasuredThing(p.measured, kind, site, p.seen_in))
    return joined(things)


def _too_faint(m: RegionMeasures) -> bool:
    return m.depth < (_FAINTEST_WIDE if m.snr > _SURE_SNR else _FAINTEST_SURE)


def _may_be_target(m: RegionMeasures, kind: Kind, blur: BlurFit, shape: tuple[int, int]) -> bool:
    """Whether an uneven target could have made it: soft, faint for its width, or at the border."""
    inside = min(m.x_px, m.y_px, shape[1] - m.x_px, shape[0] - m.y_px)
    least_snr = _LEAST_SNR_UNEVEN if inside > _BORDER_PX else _LEAST_SNR_UNEVEN_BORDER
    if is_soft_edged(m, blur) or m.snr < least_snr:
        return True
    least = _FAINTEST_UNEVEN_BORDER if m.at_border else _FAINTEST_UNEVEN
    return kind != "speck" and m.depth < least


def _spots(
    things: list[MeasuredThing],
    blur: BlurFit,
    frame: Frame,
    sensor: tuple[float, float] | None,
    pitch: float | None,
) -> tuple[Spot, ...]:
    ordered = sorted(things, key=lambda t: -t.measured.loss_px2)
    return tuple(_spot(f"s{i + 1}", t, blur, frame, sensor, pitch) for i, t in enumerate(ordered))


def _spot(
    name: str,
    thing: MeasuredThing,
    blur: BlurFit,
    frame: Frame,
    sensor: tuple[float, float] | None,
    pitch: float | None,
) -> Spot:
    m, kind = thing.measured, thing.kind
    height, width = frame.shape
    outer = outer_px(m, kind, blur)
    n = frame.facts.f_number
    own_height = None
    if pitch is not None and n is not None and thing.site != "scene":
        own_height = round(optics.height_mm(own_blur_px(m, kind, blur) * pitch, n), 3)

    def um(pixels: float) -> float | None:
        return None if pitch is None else round(pixels * pitch, 2)

    def mm(pixels: float, size: int) -> float | None:
        return None if pitch is None else from_centre_mm(pixels, size, pitch)

    return Spot(
        id=name,
        x_px=round(m.x_px, 3),
        y_px=round(m.y_px, 3),
        x_mm=mm(m.x_px, width),
        y_mm=mm(m.y_px, height),
        zone=zone_of(m.x_px, m.y_px, width, height),
        kind=kind,
        site=thing.site,
        snr=round(m.snr, 1),
        depth=round(min(m.depth, 1.0), 5),
        outer_px=round(outer, 2),
        outer_um=um(outer),
        length_um=um(m.length_px) if kind in ("fibre", "residue") else None,
        particle_um=um(particle_px(m, kind, blur)),
        height_mm=own_height,
        shows_from_f=None,
        seen_in=thing.seen_in,
        inside_filter=kind == "speck" and thing.site != "scene" and is_inside_filter(m, blur),
        angle_deg=round(m.angle_deg % 180, 1) if kind in ("fibre", "residue") else None,
        width_px=round(m.fwhm_px, 1) if kind in ("fibre", "residue") else None,
        course_px=_course(m.course_px) if kind in ("fibre", "residue") else None,
        particle_px=round(particle_px(m, kind, blur), 4),
        blur_px=round(own_blur_px(m, kind, blur), 3),
    )


def _course(points: NDArray[np.float64]) -> tuple[tuple[float, float], ...] | None:
    """Points of a long thing's bent axis as a record keeps them; None where it is not told."""
    return tuple((round(float(x), 2), round(float(y), 2)) for x, y in points) or None


def _optics(
    blur: BlurFit, f_number: float | None, pitch: float | None, options: MapOptions
) -> Optics:
    if f_number is None or pitch is None:
        return Optics(
            height_mm=options.height_mm,
            height_source=blur.source,
            blur_um=None,
            blur_px=round(blur.blur_px, 3),
            softness_px=round(blur.softness_px, 3),
        )
    wide = blur.blur_px * pitch
    return Optics(
        height_mm=options.height_mm or round(optics.height_mm(wide, f_number), 4),
        height_source=blur.source,
        blur_um=round(wide, 3),
        blur_px=round(blur.blur_px, 3),
        softness_px=round(blur.softness_px, 3),
    )


def frame_record(
    frame: Frame, sensor: tuple[float, float] | None, pitch: float | None
) -> FrameRecord:
    """The frame's facts as they leave the core."""
    f = frame.facts
    return FrameRecord(
        path=f.path,
        sha256=f.sha256,
        format=f.format,
        width_px=f.width_px,
        height_px=f.height_px,
        orientation=f.orientation,
        f_number=f.f_number,
        iso=f.iso,
        exposure_s=f.exposure_s,
        focal_length_mm=f.focal_length_mm,
        camera=f.camera,
        taken_at=f.taken_at,
        pitch_um=None if pitch is None else round(pitch, 4),
        sensor_mm=sensor,
        notes=f.notes,
    )


def summarise(spots: tuple[Spot, ...], works_at: float, frame: FrameRecord) -> Summary:
    """Counts over the spots that are, or may be, on the sensor.

    Without the aperture of the frame, what is visible at another cannot be worked out: None.
    """
    mine = [s for s in spots if s.site in ("sensor", "unsure")]
    relevant = sum(1 for s in mine if s.shows_from_f is not None and s.shows_from_f <= works_at)
    covered = sum(_covered_px(s) for s in mine)
    return Summary(
        count=len(mine),
        relevant=None if frame.f_number is None else relevant,
        by_kind=dict(Counter(s.kind for s in mine)),
        covered_ppm=round(covered / max(frame.width_px * frame.height_px, 1) * 1e6, 1),
    )


def _covered_px(spot: Spot) -> float:
    if spot.width_px is not None:
        return spot.outer_px * spot.width_px
    return math.pi / 4 * spot.outer_px**2
