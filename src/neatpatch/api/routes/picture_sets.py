"""Routes of folders of pictures: looked through, patched, searched for when dust came."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Query, Request
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from neatpatch.api.common.deps import Id, LibraryDep, PicturesDep, WhoDep
from neatpatch.core.arrivals.records import Arrivals
from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.core.common.records import Given
from neatpatch.core.pictures.habits import PictureHabits
from neatpatch.services.frames.intake import StalledError, receive
from neatpatch.services.pictures.folder_glance import FolderGlance, glance_at_folder
from neatpatch.services.pictures.habits import habits_by_stop
from neatpatch.services.pictures.sets import (
    ChosenPicture,
    ChosenWork,
    DemoPictures,
    MapChoice,
    NewSet,
    PictureView,
    SetView,
    begin,
    choose_out_folder,
    demo_pictures,
    existing_set,
    forget,
    maps_for,
    marks_of,
    picture_view,
    require_room_for,
    result_of,
    shown_folder,
    view_of,
    views,
)
from neatpatch.services.pictures.uploads import (
    keep_upload,
    new_upload,
    safe_place,
    upload_folder,
)
from neatpatch.store import picture_sets as rows
from neatpatch.store.devices import StoredDevice

router = APIRouter(prefix="/api/picture-sets")

Number = Annotated[int, PathParam(ge=1, le=1_000_000)]
_PICTURE: dict[int | str, dict[str, Any]] = {
    200: {
        "content": {
            "image/jpeg": {"schema": {"type": "string", "format": "binary"}},
            "image/png": {"schema": {"type": "string", "format": "binary"}},
        }
    }
}


class PicturePage(BaseModel):
    """A page of a set's pictures, and how many there are of that sort."""

    pictures: list[PictureView]
    total: int


class Upload(BaseModel):
    """A folder that pictures are sent into."""

    key: str
    folder: str


class WantedWork(Given):
    """Work wanted on a set; ``out_folder``: where copies go, asked for once."""

    work: Literal["look", "write", "search"]
    out_folder: str | None = Field(default=None, min_length=1, max_length=1000)


def _shown_to(who: StoredDevice | None, view: SetView) -> SetView:
    """A set as a device sees it: whole paths of this machine are its owner's to know."""
    if who is None or who.role == "owner":
        return view
    names = {path: Path(path).name for path in (view.out_folder, view.folder) if path}
    error = view.error
    for path, name in names.items():
        error = error.replace(path, name) if error else error
    shown = {"folder": names.get(view.folder, ""), "out_folder": names.get(view.out_folder, "")}
    return view.model_copy(update={**shown, "error": error})


@router.get("")
def picture_sets(library: LibraryDep, who: WhoDep) -> list[SetView]:
    """All sets of pictures, the newest first."""
    return [_shown_to(who, view) for view in views(library)]


@router.post("", status_code=201)
def begin_set(wanted: NewSet, library: LibraryDep, pictures: PicturesDep) -> SetView:
    """Begin to look through a folder of a body's pictures."""
    set_id = begin(library, wanted)
    pictures.nudge()
    return view_of(library, set_id)


@router.get("/maps")
def maps_for_pictures(
    body_id: Annotated[int, Query(ge=1, le=2**53 - 1)], library: LibraryDep
) -> list[MapChoice]:
    """Measured frames of a body whose maps may serve, the newest first."""
    return maps_for(library, body_id)


@router.get("/demo")
def demo_folder(library: LibraryDep) -> DemoPictures | None:
    """The demo archive's own pictures, to try it on; nothing where there are none."""
    return demo_pictures(library)


@router.get("/habits")
def habits(
    folder: Annotated[str, Query(min_length=1, max_length=1000)], library: LibraryDep
) -> PictureHabits:
    """At which apertures a folder's pictures were taken; metadata alone is read."""
    return habits_by_stop(library, folder)


@router.get("/folder")
def glance(
    folder: Annotated[str, Query(min_length=1, max_length=1000)], library: LibraryDep
) -> FolderGlance:
    """Whose pictures a folder seems to hold, and which test frame fits them."""
    return glance_at_folder(library, folder)


@router.post("/uploads", status_code=201)
def begin_upload(library: LibraryDep) -> Upload:
    """Begin a folder of pictures that are sent one by one."""
    folder = new_upload(library)
    return Upload(key=folder.name, folder=str(folder))


@router.post(
    "/uploads/{key}/files",
    status_code=204,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {
                "application/octet-stream": {"schema": {"type": "string", "format": "binary"}}
            },
        }
    },
)
async def upload_picture(
    key: Annotated[str, PathParam(pattern=r"^[0-9a-f]{16}$")],
    name: Annotated[str, Query(min_length=1, max_length=1000)],
    request: Request,
    library: LibraryDep,
) -> None:
    """Take in one picture of a dropped folder as the raw body; the name may hold folders."""
    folder = await asyncio.to_thread(upload_folder, library, key)
    place = safe_place(name)
    try:
        arrived = await receive(
            request.stream(), library, request.app.state.limits, request.app.state.stalled_s
        )
    except StalledError:
        raise HTTPException(408, "The upload stalled and was dropped. Send it again.") from None
    await asyncio.to_thread(keep_upload, folder, str(place), arrived)


@router.get("/{set_id}")
def picture_set(set_id: Id, library: LibraryDep, who: WhoDep) -> SetView:
    """One set and how it goes."""
    return _shown_to(who, view_of(library, set_id))


@router.delete("/{set_id}", status_code=204)
def forget_set(set_id: Id, library: LibraryDep) -> None:
    """Forget a set. Originals and written copies stay where they are."""
    forget(library, set_id)


@router.post("/{set_id}/work")
def begin_work(
    set_id: Id, wanted: WantedWork, library: LibraryDep, pictures: PicturesDep
) -> SetView:
    """Let work begin or go on; pictures that are done are not done again."""
    if wanted.work == "write":
        require_room_for(library, set_id, wanted.out_folder)
    with library.database.write() as connection:
        of = existing_set(connection, set_id)
        if of.state in ("waiting", "working"):
            raise ConflictError("Work on these pictures goes on already. Stop it first.")
        if (wanted.work == "search") != (of.kind == "arrivals"):
            raise ConflictError("This is not what these pictures were chosen for.")
        out = None
        if wanted.work == "write":
            given = wanted.out_folder or of.out_folder
            if not given:
                raise ConflictError("Say where the copies go.")
            out = str(choose_out_folder(of, given, library.root))
            if out != of.out_folder:
                rows.forget_done(connection, set_id)
        rows.request_work(connection, set_id, wanted.work, out)
    pictures.nudge()
    return view_of(library, set_id)


@router.delete("/{set_id}/work")
def stop_work(set_id: Id, library: LibraryDep) -> SetView:
    """Stop the work; what was done stays, and it can go on later."""
    with library.database.write() as connection:
        existing_set(connection, set_id)
        rows.stop(connection, set_id)
    return view_of(library, set_id)


@router.put("/{set_id}/veto")
def choose_spots(set_id: Id, chosen: ChosenWork, library: LibraryDep, who: WhoDep) -> SetView:
    """Say which spots are left in all pictures."""
    with library.database.write() as connection:
        existing_set(connection, set_id)
        rows.put_veto(connection, set_id, chosen.veto)
    return _shown_to(who, view_of(library, set_id))


@router.get("/{set_id}/pictures")
def pictures_of(
    set_id: Id,
    library: LibraryDep,
    only: rows.Only = "all",
    first: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
    count: Annotated[int, Query(ge=1, le=200)] = 60,
) -> PicturePage:
    """A page of the contact sheet."""
    with library.database.read() as connection:
        existing_set(connection, set_id)
        found, total = rows.page_of(connection, set_id, only, first, count)
    return PicturePage(pictures=[picture_view(p) for p in found], total=total)


@router.get("/{set_id}/pictures/{number}")
def picture(set_id: Id, number: Number, library: LibraryDep) -> PictureView:
    """One picture and its marks."""
    with library.database.read() as connection:
        existing_set(connection, set_id)
        row = rows.picture_of(connection, set_id, number)
    if row is None:
        raise NotThereError("There is no such picture in this set.")
    return picture_view(row)


@router.put("/{set_id}/pictures/{number}")
def choose_picture(
    set_id: Id, number: Number, chosen: ChosenPicture, library: LibraryDep
) -> PictureView:
    """Say whether a picture is patched, and which of its spots are left."""
    with library.database.write() as connection:
        existing_set(connection, set_id)
        rows.put_choice(connection, set_id, number, leave=chosen.leave, veto=chosen.veto)
        row = rows.picture_of(connection, set_id, number)
    if row is None:
        raise NotThereError("There is no such picture in this set.")
    return picture_view(row)


@router.get("/{set_id}/pictures/{number}/small", responses=_PICTURE, response_class=FileResponse)
def small_picture(set_id: Id, number: Number, library: LibraryDep) -> FileResponse:
    """A small copy for the contact sheet."""
    return _file(shown_folder(library, set_id) / f"{number}.jpg")


@router.post("/{set_id}/pictures/{number}/shown", status_code=204)
def show_picture(set_id: Id, number: Number, library: LibraryDep, pictures: PicturesDep) -> None:
    """Make the picture before and after ready to be looked at, with the vetoes of now."""
    with library.database.read() as connection:
        of = existing_set(connection, set_id)
        row = rows.picture_of(connection, set_id, number)
    if row is None or of.kind != "patch":
        raise NotThereError("There is no such picture in this set.")
    pictures.show(of, number, Path(of.folder) / row.path)


@router.get("/{set_id}/pictures/{number}/{which}", responses=_PICTURE, response_class=FileResponse)
def shown_picture(
    set_id: Id, number: Number, which: Literal["before", "after", "mask"], library: LibraryDep
) -> FileResponse:
    """The whole picture before or after, or the grey mask of what changes."""
    suffix = "png" if which == "mask" else "jpg"
    return _file(shown_folder(library, set_id) / f"{number}-{which}.{suffix}")


def _file(path: Path) -> FileResponse:
    if not path.is_file():
        raise NotThereError("This is not ready yet. Look through the pictures first.")
    return FileResponse(path, headers={"Cache-Control": "no-store"})


@router.get("/{set_id}/arrivals")
def arrivals(set_id: Id, library: LibraryDep) -> Arrivals | None:
    """What a search found; nothing while it goes on."""
    return result_of(library, set_id)


@router.get("/{set_id}/strips/{spot}/{number}", responses=_PICTURE, response_class=FileResponse)
def cutting(
    set_id: Id,
    spot: Annotated[str, PathParam(pattern=r"^m[0-9]{1,4}$")],
    number: Annotated[int, PathParam(ge=0, le=99)],
    library: LibraryDep,
) -> FileResponse:
    """One picture's cutting of a mark: the filmstrip."""
    return _file(shown_folder(library, set_id) / f"{spot}-{number}.jpg")


@router.get("/{set_id}/marks")
def marks(set_id: Id, library: LibraryDep) -> dict[str, Any]:
    """All marks of all pictures as open data, for use in other programs."""
    return marks_of(library, set_id)
