"""What is shown of a picture before it is patched: a small copy, its marks, before and after."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.errors import NeatPatchError, sentence
from neatpatch.core.common.records import Record, Spot
from neatpatch.core.patching.plan import PatchPlan
from neatpatch.core.patching.records import PictureAlignment
from neatpatch.core.patching.restoring import patched_windows
from neatpatch.images.stored import Picture
from neatpatch.images.transfer import srgb_curve
from neatpatch.images.writeback import with_windows, write_shown
from neatpatch.services.pictures.patching import (
    NOT_WHOLE,
    LocatedPicture,
    Patching,
    locate_picture,
    plan_for,
)
from neatpatch.services.pictures.processes import side_by_side

_SMALL_PX = 360


class SeenMark(Record):
    """A spot as it lies in a picture, pixels of the picture. ``why``: why it is left, or None."""

    id: str
    x_px: float
    y_px: float
    outer_px: float
    depth: float
    why: str | None


class LookedPicture(Record):
    """What a picture shows of the map. ``why_not``: why it cannot be patched."""

    width_px: int = 0
    height_px: int = 0
    f_number: float | None = None
    taken_at: str | None = None
    orientation: int = 1
    marks: tuple[SeenMark, ...] = ()
    alignment: PictureAlignment | None = None
    why_not: str | None = None


def preview_of(run: Patching, source: Path, small: Path | None) -> LookedPicture:
    """Lay the map on a picture and say what would be done; ``small``: where a copy is written.

    Never raises for a bad picture: what is wrong is in ``why_not``.
    """
    try:
        looked = locate_picture(run, source, None)
    except NeatPatchError as error:
        return LookedPicture(why_not=sentence(str(error)))
    except OSError as error:
        return LookedPicture(why_not=f"It could not be read: {error.strerror or error}.")
    picture = looked.picture
    assert picture is not None
    if small is not None:
        write_small(picture, small)
    known = LookedPicture(
        width_px=picture.shape[1],
        height_px=picture.shape[0],
        f_number=picture.facts.f_number,
        taken_at=picture.facts.taken_at,
        orientation=picture.facts.orientation,
    )
    if looked.location is None:
        return known.model_copy(update={"why_not": sentence(looked.why_not or NOT_WHOLE)})
    plan = plan_for(run, source, looked)
    return known.model_copy(
        update={
            "marks": tuple(_marks(run.spot_map.spots, plan, looked)),
            "alignment": PictureAlignment.of(plan.alignment),
        }
    )


def preview_all(run: Patching, pictures: Sequence[tuple[Path, Path]]) -> Iterator[LookedPicture]:
    """`preview_of` for many: pictures, each with the place of its small copy."""
    return side_by_side(_look, [(run, source, small) for source, small in pictures])


def _look(task: tuple[Patching, Path, Path]) -> LookedPicture:
    return preview_of(*task)


def _marks(spots: Sequence[Spot], plan: PatchPlan, looked: LocatedPicture) -> list[SeenMark]:
    left = {n.id: n.why for n in plan.left}
    patches = {m.id: m for m in plan.patches}
    marks = []
    for spot in spots:
        if spot.id not in left and spot.id not in patches:
            continue
        mend = patches.get(spot.id)
        if mend is not None:
            half = mend.loss.shape[0] // 2
            x, y = float(mend.left + half), float(mend.top + half)
            outer, depth = 2.0 * half, float(mend.loss.max())
        else:
            place = plan.alignment.apply(np.array([[spot.x_px, spot.y_px]]))[0]
            x, y = float(place[0]), float(place[1])
            outer, depth = spot.outer_px * plan.alignment.placement.zoom, 0.0
        marks.append(
            SeenMark(
                id=spot.id,
                x_px=round(x, 1),
                y_px=round(y, 1),
                outer_px=round(outer, 1),
                depth=round(depth, 4),
                why=left.get(spot.id),
            )
        )
    return marks


def _shown(picture: Picture, tones: NDArray[Any]) -> NDArray[np.uint8]:
    """Tones as OpenCV writes them in 8 bits; of a mosaic the light of its photosites, as sRGB."""
    if picture.mosaic:
        codes = np.searchsorted(srgb_curve(256), picture.curve[tones])
        return np.asarray(np.minimum(codes, 255), np.uint8)
    eight = (tones // 257).astype(np.uint8) if tones.dtype == np.uint16 else tones
    if eight.ndim == 3:
        eight = eight[..., 2::-1]
    return np.ascontiguousarray(eight, np.uint8)


def write_small(picture: Picture, path: Path) -> None:
    """A small copy for the contact sheet, as stored."""
    zoom = _SMALL_PX / max(picture.shape)
    step = max(1, int(0.5 / zoom))
    some = _shown(picture, picture.whole[::step, ::step])
    size = max(1, round(picture.shape[1] * zoom)), max(1, round(picture.shape[0] * zoom))
    small = cv2.resize(some, size, interpolation=cv2.INTER_AREA)
    write_shown(path, np.asarray(small, np.uint8))


def write_before_and_after(run: Patching, source: Path, folder: Path, number: int) -> None:
    """The whole picture before and after, and a grey mask of what is changed.

    Raises `UnusableFrameError` where it cannot be patched.
    """
    looked = locate_picture(run, source, None)
    picture = looked.picture
    assert picture is not None
    write_shown(folder / f"{number}-before.jpg", _shown(picture, picture.whole))
    if looked.location is None:
        return
    plan = plan_for(run, source, looked)
    windows, _, _ = patched_windows(picture.tones, plan.patches, picture.curve, picture.levels)
    write_shown(
        folder / f"{number}-after.jpg", _shown(picture, with_windows(picture.whole, windows))
    )
    write_shown(folder / f"{number}-mask.png", mask_of(plan, picture.shape))


def mask_of(plan: PatchPlan, shape: tuple[int, int]) -> NDArray[np.uint8]:
    """Grey where light was lost: 255 where all of it, 0 where none."""
    through = np.ones(shape, np.float32)
    for mend in plan.patches:
        side = mend.loss.shape[0]
        top, left = max(0, mend.top), max(0, mend.left)
        bottom, right = min(shape[0], mend.top + side), min(shape[1], mend.left + side)
        if top < bottom and left < right:
            through[top:bottom, left:right] *= (
                1
                - mend.loss[
                    top - mend.top : bottom - mend.top, left - mend.left : right - mend.left
                ]
            )
    return np.asarray(np.rint(255 * (1 - through)), np.uint8)
