"""Practice: exercises with a seed, answered and judged. None of it reaches the record."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request, Response
from pydantic import Field

from neatpatch.api.common.deps import Id, LibraryDep
from neatpatch.api.common.practice_app import PracticeApp
from neatpatch.core.common.decisions import Decision
from neatpatch.core.common.records import Given, Number, Whole
from neatpatch.core.practice.moves import MoveDebrief, MoveQuestion
from neatpatch.core.practice.places import LEVELS, PlaceDebrief, PlaceQuestion
from neatpatch.services.practice import cleans, exercises, topics
from neatpatch.services.practice.cleans import CleanBegun, CleanDebrief, CleanNow
from neatpatch.services.practice.hand import HandDebrief, HandQuestion, HandTopic, HandWork
from neatpatch.services.practice.reading import (
    FrameDebrief,
    FrameQuestion,
    FrameTopic,
    Reading,
    frame_picture,
)
from neatpatch.services.practice.topics import MOST_SEED, Progress
from neatpatch.store.practice_tries import Exercise

router = APIRouter(prefix="/api/practice")
Seed = Annotated[int | None, Query(ge=0, le=MOST_SEED)]
Level = Annotated[int | None, Query(ge=1, le=LEVELS)]
Seconds = Annotated[Number, Field(ge=0, le=86_400)]


class MoveAnswer(Given):
    """The move that was chosen, and how long it took."""

    seed: Whole = Field(ge=0, le=MOST_SEED)
    chosen: Decision
    seconds: Seconds


class PlaceAnswer(Given):
    """Where the spot was touched, millimetres from the centre of the mount view, y down."""

    seed: Whole = Field(ge=0, le=MOST_SEED)
    level: Whole = Field(ge=1, le=LEVELS)
    x_mm: Number = Field(ge=-100, le=100)
    y_mm: Number = Field(ge=-100, le=100)
    seconds: Seconds


class FrameAnswer(Given):
    """What was read in a frame."""

    seed: Whole = Field(ge=0, le=MOST_SEED)
    topic: FrameTopic
    reading: Reading
    seconds: Seconds


class HandAnswer(Given):
    """What the hand did."""

    seed: Whole = Field(ge=0, le=MOST_SEED)
    topic: HandTopic
    work: HandWork
    seconds: Seconds


@router.get("/moves")
def move(library: LibraryDep, seed: Seed = None) -> MoveQuestion:
    """A situation to decide; without a seed a fresh one of the weakest topic."""
    with library.database.read() as connection:
        return exercises.draw_move(connection, seed)


@router.post("/moves")
def answer_move(given: MoveAnswer, library: LibraryDep) -> MoveDebrief:
    """Answer it; gives the product's own advice with its reasons."""
    with library.database.write() as connection:
        return exercises.answer_move(connection, given.seed, given.chosen, given.seconds)


@router.get("/places")
def place(
    library: LibraryDep, seed: Seed = None, level: Level = None, loupe: bool = False
) -> PlaceQuestion:
    """A spot to find facing the mount; poses get harder as it goes well."""
    with library.database.read() as connection:
        return exercises.draw_place(connection, seed, level, loupe=loupe)


@router.post("/places")
def answer_place(given: PlaceAnswer, library: LibraryDep) -> PlaceDebrief:
    """Answer it; gives the place and the error in millimetres."""
    at = given.x_mm, given.y_mm
    with library.database.write() as connection:
        return exercises.answer_place(connection, given.seed, given.level, at, given.seconds)


@router.get("/frames")
def frame(library: LibraryDep, seed: Seed = None, topic: FrameTopic | None = None) -> FrameQuestion:
    """A frame to read; without seed and topic a fresh one of what goes worse."""
    with library.database.read() as connection:
        return exercises.draw_frame(connection, seed, topic)


@router.get(
    "/frames/picture",
    response_class=Response,
    responses={200: {"content": {"image/jpeg": {}}, "description": "The frame, as a JPEG."}},
)
def picture(
    seed: Annotated[int, Query(ge=0, le=MOST_SEED)], topic: FrameTopic, second: bool = False
) -> Response:
    """The frame to read; ``second``: the one shot after the camera was moved."""
    return Response(frame_picture(seed, topic, second=second), media_type="image/jpeg")


@router.post("/frames")
def answer_frame(given: FrameAnswer, library: LibraryDep) -> FrameDebrief:
    """Answer it; gives what is truly there."""
    with library.database.write() as connection:
        return exercises.answer_frame(
            connection, given.seed, given.topic, given.reading, given.seconds
        )


@router.get("/hand")
def hand(library: LibraryDep, seed: Seed = None, topic: HandTopic | None = None) -> HandQuestion:
    """A task for the hand; without seed and topic a fresh one of what goes worst."""
    with library.database.read() as connection:
        return exercises.draw_hand(connection, seed, topic)


@router.post("/hand")
def answer_hand(given: HandAnswer, library: LibraryDep) -> HandDebrief:
    """Tell what the hand did; gives what came of it."""
    with library.database.write() as connection:
        return exercises.answer_hand(connection, given.seed, given.topic, given.work, given.seconds)


def trial_of(request: Request) -> PracticeApp:
    """The room of a whole clean."""
    trial: PracticeApp = request.app.state.trial
    return trial


TrialDep = Annotated[PracticeApp, Depends(trial_of)]


@router.get("/cleans")
def now(trial: TrialDep) -> CleanNow:
    """The clean begun last, to go on with."""
    return cleans.clean_now(trial.opened()) if trial.is_there else CleanNow(begun=None, open=False)


@router.post("/cleans", status_code=201)
def begin(trial: TrialDep, seed: Seed = None) -> CleanBegun:
    """Begin a whole clean of a virtual camera, in a room of its own; what was begun before goes."""
    begun = cleans.begin_clean(trial.opened(), topics.fresh_seed() if seed is None else seed)
    trial.nudge()
    return begun


@router.post("/cleans/{visit_id}/debrief")
def debrief(visit_id: Id, trial: TrialDep, library: LibraryDep) -> CleanDebrief:
    """Your line beside the advised one, once the visit is closed."""
    debrief = cleans.clean_debrief(trial.opened(), visit_id)
    with library.database.write() as connection:
        exercises.keep_clean(connection, debrief)
    return debrief


@router.get("/progress/{exercise}")
def progress(exercise: Exercise, library: LibraryDep) -> Progress:
    """How an exercise goes, weak points first."""
    with library.database.read() as connection:
        return topics.progress(connection, exercise)
