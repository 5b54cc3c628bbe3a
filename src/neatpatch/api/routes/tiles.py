"""The pictures of frames: deep-zoom tiles and small ones."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from fastapi import Path as PathParam
from fastapi.responses import FileResponse

from neatpatch.api.common.deps import Id, Jobs, LibraryDep
from neatpatch.core.common.errors import NotThereError
from neatpatch.jobs.runner import Runner
from neatpatch.services.common.lookups import frame_of
from neatpatch.services.frames.tiles import Tile, make_picture_again, picture_lacks
from neatpatch.store.datafolder import Library

router = APIRouter(prefix="/api")

_FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}


_Pixel = Annotated[int, PathParam(ge=0, le=100_000)]


_PICTURE: dict[int | str, dict[str, Any]] = {
    200: {"content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}
}


@router.get(
    "/frames/{frame_id}/tiles/{tone}/{level}/{column}_{row}.jpg",
    response_class=FileResponse,
    responses=_PICTURE,
)
def tile(
    frame_id: Id,
    tone: Literal["shot", "relief"],
    level: Annotated[int, PathParam(ge=0, le=40)],
    column: _Pixel,
    row: _Pixel,
    library: LibraryDep,
    runner: Jobs,
) -> FileResponse:
    """One deep-zoom tile."""
    wanted = Tile(level, column, row)
    return _picture(library, runner, frame_id, f"{tone}/{level}/{column}_{row}.jpg", wanted)


@router.get("/frames/{frame_id}/thumb/{tone}.jpg", response_class=FileResponse, responses=_PICTURE)
def thumb(
    frame_id: Id, tone: Literal["shot", "relief"], library: LibraryDep, runner: Jobs
) -> FileResponse:
    """A small picture of the frame."""
    return _picture(library, runner, frame_id, f"{tone}.jpg")


def _picture(
    library: Library, runner: Runner, frame_id: Id, name: str, tile: Tile | None = None
) -> FileResponse:
    """A derived picture; one that was lost, or of which a part is missing, is made again whole."""
    frame = frame_of(library, frame_id)
    folder = library.derived(frame.sha256)
    path = folder / name
    if not path.is_file():
        if frame.summary is not None and picture_lacks(library, frame, tile):
            make_picture_again(library, frame)
            runner.nudge()
        raise NotThereError("There is no such picture yet. Wait until its frame is measured.")
    return FileResponse(path, media_type="image/jpeg", headers=_FOREVER)
