"""What leaves the patching of pictures: the command line and the web API return these."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import ConfigDict, Field

from neatpatch.core.common.records import Record
from neatpatch.core.compare.alignment import Alignment


class LeftSpot(Record):
    """A spot of the map that was not touched, and why."""

    id: str
    why: str


class PictureAlignment(Record):
    """How the map lies on a picture; pixels of the picture. ``turn``: quarter turns."""

    scale: float
    shift_px: tuple[float, float]
    radial: float
    residual_px: float
    turn: int = 0
    zoom: float = 1.0
    found: int = 0

    @staticmethod
    def of(found: Alignment) -> PictureAlignment:
        """Rounded to what the figures mean."""
        dx, dy = found.shift_px
        return PictureAlignment(
            scale=round(found.scale, 5),
            shift_px=(round(dx, 2), round(dy, 2)),
            radial=round(found.radial, 5),
            residual_px=round(found.residual_px, 2),
            turn=found.placement.turn,
            zoom=round(found.placement.zoom, 5),
            found=found.matched,
        )


class PhotoPatch(Record):
    """What was done to one picture. ``out`` None and ``why_not``: nothing, and why."""

    path: str
    out: str | None
    f_number: float | None
    patched: int
    restored: int
    filled: int
    left: tuple[LeftSpot, ...]
    alignment: PictureAlignment | None
    why_not: str | None


class PatchDone(Record):
    """All pictures of one run, in the order given."""

    schema_: Literal["neatpatch.patch/1"] = Field("neatpatch.patch/1", alias="schema")
    photos: tuple[PhotoPatch, ...]

    model_config = ConfigDict(
        frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True
    )


def untouched(path: str, f_number: float | None, why_not: str) -> PhotoPatch:
    """The record of a picture that was not patched at all."""
    return PhotoPatch(
        path=path,
        out=None,
        f_number=f_number,
        patched=0,
        restored=0,
        filled=0,
        left=(),
        alignment=None,
        why_not=why_not,
    )


def patched(
    path: str,
    out: str,
    f_number: float,
    sets: tuple[set[str], set[str]],
    left: Sequence[LeftSpot],
    alignment: Alignment,
) -> PhotoPatch:
    """The record of a patched picture; ``sets``: ids whose light was given back, and filled ones.

    A spot with a filled core counts as filled.
    """
    restored, filled = sets
    return PhotoPatch(
        path=path,
        out=out,
        f_number=f_number,
        patched=len(restored | filled),
        restored=len(restored - filled),
        filled=len(filled),
        left=tuple(left),
        alignment=PictureAlignment.of(alignment),
        why_not=None,
    )
