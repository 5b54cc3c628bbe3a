"""One shape for every error: application/problem+json (RFC 9457)."""

from __future__ import annotations

import logging
import sqlite3
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from neatpatch.core.common.errors import (
    BusyError,
    ChangedElsewhereError,
    ConflictError,
    LimitExceededError,
    NeatPatchError,
    NotThereError,
    QuestionError,
    UnusableFrameError,
    sentence,
)
from neatpatch.store.database import disk_trouble

_log = logging.getLogger("neatpatch.api")
MEDIA_TYPE = "application/problem+json"
CHANGED = "neatpatch:changed"
_STATUS: tuple[tuple[type[NeatPatchError], int], ...] = (
    (NotThereError, 404),
    (ConflictError, 409),
    (LimitExceededError, 413),
    (UnusableFrameError, 415),
    (BusyError, 503),
    (NeatPatchError, 422),
)
_SAID = {
    400: "The request cannot be read",
    403: "Refused: a foreign host or page",
    404: "Not there",
    408: "The upload stalled",
    409: "Not possible as things stand, or a question",
    413: "Too large",
    415: "Not a picture that can be measured",
    422: "Not possible as given",
    500: "A fault of the program",
    503: "Busy, or the disk does not take it",
}


class Problem(BaseModel):
    """What went wrong and what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str


def problem(status: int, detail: str, kind: str = "about:blank") -> JSONResponse:
    """A problem document as a response."""
    body = Problem(type=kind, title=HTTPStatus(status).phrase, status=status, detail=detail)
    return JSONResponse(body.model_dump(), status, media_type=MEDIA_TYPE)


def install(app: FastAPI) -> None:
    """Answer every error of an application with a problem document."""

    @app.exception_handler(HTTPException)
    async def on_http(_request: Request, error: HTTPException) -> JSONResponse:
        answer = problem(error.status_code, str(error.detail))
        answer.headers.update(error.headers or {})
        return answer

    @app.exception_handler(RequestValidationError)
    async def on_validation(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(p) for p in first["loc"] if p not in ("body", "query", "path"))
        said = first["msg"].removeprefix("Value error, ").rstrip(".")
        return problem(422, f"{where or 'The request'}: {said}.")

    @app.exception_handler(NeatPatchError)
    async def on_known(_request: Request, error: NeatPatchError) -> JSONResponse:
        status = next(code for kind, code in _STATUS if isinstance(error, kind))
        kind = "about:blank"
        if isinstance(error, QuestionError):
            kind = error.kind
        elif isinstance(error, ChangedElsewhereError):
            kind = CHANGED
        return problem(status, sentence(str(error)), kind)

    @app.exception_handler(sqlite3.Error)
    async def on_store(request: Request, error: sqlite3.Error) -> JSONResponse:
        trouble = disk_trouble(error)
        if trouble is None:
            return await on_unknown(request, error)
        return problem(503, f"{trouble} This was not saved. Free some space, then try again.")

    @app.exception_handler(OSError)
    async def on_disk(_request: Request, error: OSError) -> JSONResponse:
        _log.error("disk trouble", exc_info=error)
        trouble = disk_trouble(error) or "The disk does not give or take this."
        return problem(503, f"{trouble} This was not saved. Mend it, then try again.")

    @app.exception_handler(Exception)
    async def on_unknown(_request: Request, error: Exception) -> JSONResponse:
        _log.error("unexpected error", exc_info=error)
        return problem(
            500,
            "This is a fault of Neat Patch. What was saved before is kept; look whether this "
            "change is there before you try again.",
        )


def describe_problems(description: dict[str, Any]) -> None:
    """Put the problem document into an OpenAPI description: every operation may answer with one."""
    schemas = description["components"]["schemas"]
    schemas.setdefault("Problem", Problem.model_json_schema())
    schemas.pop("HTTPValidationError", None)
    schemas.pop("ValidationError", None)
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    description["components"]["responses"] = {
        f"Problem{status}": {"description": said, "content": content}
        for status, said in _SAID.items()
    }
    for path in description["paths"].values():
        for operation in path.values():
            for status in _SAID:
                answer = {"$ref": f"#/components/responses/Problem{status}"}
                operation["responses"][str(status)] = answer
