"""From a picture's file to its patched copy."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from statistics import median

from neatpatch.core.common.errors import NeatPatchError, sentence
from neatpatch.core.common.frame import Frame
from neatpatch.core.common.records import SpotMap
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.patching.fitting import Subject, working_step
from neatpatch.core.patching.plan import (
    PatchPlan,
    candidate_placements,
    check_map,
    find_crop,
    locate_in_picture,
    plan_patch,
    to_working_pixels,
)
from neatpatch.core.patching.records import LeftSpot, PhotoPatch, patched, untouched
from neatpatch.core.patching.restoring import patched_windows
from neatpatch.core.pictures.map_location import MapLocation
from neatpatch.core.sensor.fingerprint import Fingerprint
from neatpatch.core.sensor.placement import Placement
from neatpatch.core.sensor.registration import UNTOLD, Registration, register
from neatpatch.images.pictures import read_picture, read_to_write
from neatpatch.images.stored import Picture
from neatpatch.images.writeback import clear_leftovers, write_patched
from neatpatch.images.xmp import PatchNote, Place
from neatpatch.services.pictures.processes import side_by_side

_ENOUGH_FOUND = 3
"""Shadows a picture must show to be laid by itself; else others of its lens help."""
_MANY = 4
_FEW_SHARE, _SURE_SHARE = 0.2, 0.5
"""Share of the shadows that should show: below the first they deny the map, above the second they
prove the body, and the sensor's fingerprint is not asked."""

Lens = tuple[str, int]
"""Camera, and focal length in whole millimetres."""

NO_APERTURE = (
    "its file does not tell the aperture, which says how the dust's shadows look. Use the camera's "
    "own file, or an export that keeps its notes."
)
NOT_WHOLE = (
    "it is cut out or of another shape than the map's frame, and its place on the sensor cannot be "
    "told. Use the whole picture."
)
NOT_HERE = (
    "none of the shadows it should show is where it should be: it is another camera's, from before "
    "the dust or after a clean, or edited beyond recognition."
)
OTHER_SENSOR = "its fine pattern is that of another sensor. Use the map of the body that took it."


@dataclass(frozen=True, kw_only=True)
class Patching:
    """What a run of patching rests on. ``reference``: the sensor's fingerprint, where there is one.

    ``veto``: ids of spots to leave in every picture; ``vetoes``: by picture's path.
    """

    spot_map: SpotMap
    reference: Fingerprint | None = None
    veto: frozenset[str] = frozenset()
    vetoes: dict[str, frozenset[str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        check_map(self.spot_map)


@dataclass(frozen=True)
class LocatedPicture:
    """A picture as read, and how the map lies on it; ``why_not``: why it cannot be patched."""

    picture: Picture | None
    subject: Subject | None
    location: MapLocation | None
    why_not: str | None = None

    @property
    def lens(self) -> Lens | None:
        """Pictures of one lens and focal length bend alike."""
        facts = self.picture.facts if self.picture else None
        if facts is None or not facts.focal_length_mm:
            return None
        return facts.camera or "", round(facts.focal_length_mm)


@dataclass(frozen=True, kw_only=True)
class _Task:
    """A picture to be patched. ``usual``: how others of its lens lie, for one that waited."""

    run: Patching
    source: Path
    target: Path
    usual: Alignment | None = None
    waited: bool = False


@dataclass(frozen=True)
class _Answer:
    """What became of a picture: None where it has to wait for the others of its lens."""

    done: PhotoPatch | None
    lens: Lens | None = None
    alignment: Alignment | None = None


def patch_all(
    run: Patching, pictures: Sequence[tuple[Path, Path]]
) -> Iterator[tuple[int, PhotoPatch]]:
    """Patch pictures into their targets; yields each one's number and record as it is done.

    Pictures that show too few shadows to tell how the map lies on them wait for the others of
    their lens. A fault of one picture is told in its record; the rest goes on.
    """
    folders = {target.parent for _, target in pictures}
    _clear(folders)
    try:
        yield from _patched(run, pictures)
    finally:
        _clear(folders)


def _clear(folders: Iterable[Path]) -> None:
    for folder in folders:
        clear_leftovers(folder)


def _patched(
    run: Patching, pictures: Sequence[tuple[Path, Path]]
) -> Iterator[tuple[int, PhotoPatch]]:
    lenses: dict[Lens, list[Alignment]] = defaultdict(list)
    waiting: dict[int, Lens] = {}
    tasks = [_Task(run=run, source=source, target=target) for source, target in pictures]
    for index, answer in enumerate(side_by_side(_one, tasks)):
        if answer.done is not None:
            yield index, answer.done
        if answer.lens and answer.alignment:
            lenses[answer.lens].append(answer.alignment)
        elif answer.lens:
            waiting[index] = answer.lens
    again = [
        replace(tasks[index], usual=usual_of(lenses[lens]), waited=True)
        for index, lens in waiting.items()
    ]
    for index, answer in zip(waiting, side_by_side(_one, again), strict=True):
        assert answer.done is not None
        yield index, answer.done


def _one(task: _Task) -> _Answer:
    """One picture; what is wrong with it is in its record."""
    f_number = None
    try:
        looked = locate_picture(task.run, task.source, task.usual, read_to_write)
        f_number = looked.picture.facts.f_number if looked.picture else None
        if looked.why_not or not (looked.picture and looked.subject and looked.location):
            why = sentence(looked.why_not or NOT_WHOLE)
            return _Answer(untouched(str(task.source), f_number, why))
        few = looked.location.found < _ENOUGH_FOUND
        if few and looked.lens and not task.waited:
            return _Answer(None, looked.lens)
        done = _written(task.run, looked, task.source, task.target)
        return _Answer(done) if few else _Answer(done, looked.lens, looked.location.alignment)
    except FileExistsError:
        why = f"{task.target} exists already; it was left as it is."
    except NeatPatchError as error:
        why = sentence(str(error))
    except OSError as error:
        why = (
            f"It could not be read or written: {error.strerror or error}. Look after the disk and "
            "the folder, then run it again."
        )
    return _Answer(untouched(str(task.source), f_number, why))


def usual_of(found: Sequence[Alignment]) -> Alignment | None:
    """The typical scale and radial term of a lens; None where no picture tells them."""
    if not found:
        return None
    return Alignment(
        placement=found[0].placement,
        scale=median(a.scale for a in found),
        radial=median(a.radial for a in found),
    )


def locate_picture(
    run: Patching,
    source: Path,
    usual: Alignment | None,
    read: Callable[[Path], Picture] = read_picture,
) -> LocatedPicture:
    """Read a picture and lay the map on it. Raises `UnusableFrameError` for bad files."""
    picture = read(source)
    facts = picture.facts
    why = _wrong_camera(run.spot_map, facts.camera)
    if why:
        return LocatedPicture(picture, None, None, why)
    if facts.f_number is None:
        return LocatedPicture(picture, None, None, NO_APERTURE)
    step = working_step(run.spot_map, picture.shape, facts.f_number)
    if picture.mosaic:
        step = max(2, step // 2 * 2)
    subject = Subject(
        light=picture.light(step),
        step=step,
        shape=picture.shape,
        f_number=facts.f_number,
        close=None if picture.mosaic else picture.light_around,
    )
    tries: Sequence[Placement] = candidate_placements(run.spot_map, subject)
    seen = UNTOLD
    if not tries:
        seen = _registered(run, picture)
        tries = _cut_out(run, subject, seen)
    if not tries:
        return LocatedPicture(
            picture, subject, None, OTHER_SENSOR if seen.same is False else NOT_WHOLE
        )
    location = locate_in_picture(run.spot_map, subject, tries, usual)
    denied = location.expected >= _MANY and location.found < _FEW_SHARE * location.expected
    if denied or location.found < max(_ENOUGH_FOUND, _SURE_SHARE * location.expected):
        seen = _registered(run, picture) if seen is UNTOLD else seen
        if seen.same is False:
            return LocatedPicture(picture, subject, None, OTHER_SENSOR)
        if denied and seen.same is None:
            return LocatedPicture(picture, subject, None, NOT_HERE)
    return LocatedPicture(picture, subject, location)


def _wrong_camera(spot_map: SpotMap, camera: str | None) -> str | None:
    own = spot_map.frames[0].camera
    if not own or not camera or own == camera:
        return None
    return f"it was taken with {camera}, the map is of {own}. Use a map of that camera."


def _registered(run: Patching, picture: Picture) -> Registration:
    if run.reference is None:
        return UNTOLD
    return register(run.reference, Frame(light=picture.light(1), facts=picture.facts))


def _cut_out(run: Patching, subject: Subject, seen: Registration) -> tuple[Placement, ...]:
    """Where a picture that is not whole lies: by the fingerprint, else by its shadows."""
    if seen.placement is not None:
        return (to_working_pixels(seen.placement, subject),)
    found = find_crop(run.spot_map, subject)
    return (found,) if found else ()


def plan_for(run: Patching, source: Path, looked: LocatedPicture) -> PatchPlan:
    """What would be done to a picture that could be laid, vetoes left out."""
    assert looked.subject is not None
    assert looked.location is not None
    veto = run.veto | run.vetoes.get(str(source), frozenset())
    return plan_patch(run.spot_map, looked.subject, looked.location, veto)


def _note(spot_map: SpotMap, plan: PatchPlan) -> PatchNote:
    """What the copy tells of itself: the frame, and each shadow's place and width."""
    frame = spot_map.frames[0]
    places = []
    for patch in plan.patches:
        side = patch.loss.shape[0]
        middle = (side - 1) / 2
        places.append(Place(patch.left + middle, patch.top + middle, float(side)))
    return PatchNote(frame.sha256, frame.taken_at, tuple(places))


def _written(run: Patching, looked: LocatedPicture, source: Path, target: Path) -> PhotoPatch:
    plan, picture = plan_for(run, source, looked), looked.picture
    assert picture is not None
    windows, restored, filled = patched_windows(
        picture.tones, plan.patches, picture.curve, picture.levels
    )
    target.parent.mkdir(parents=True, exist_ok=True)
    write_patched(source, picture, windows, target, _note(run.spot_map, plan))
    return patched(
        str(source),
        str(target),
        picture.facts.f_number or 0.0,
        (restored, filled),
        [LeftSpot(id=n.id, why=n.why) for n in plan.left],
        plan.alignment,
    )
