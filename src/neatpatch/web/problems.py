"""One shape for every error: application/problem+json (RFC 9457)."""

from __future__ import annotations

import logging
from http import HTTPStatus

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from neatpatch.core.errors import LimitExceededError, NeatPatchError, UnusableFrameError

_log = logging.getLogger("neatpatch.web")
MEDIA_TYPE = "application/problem+json"


class Problem(BaseModel):
    """What went wrong and what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str


class Question(HTTPException):
    """Not done yet: it needs an answer first. ``kind`` tells the page which question it is."""

    def __init__(self, kind: str, detail: str) -> None:
        super().__init__(409, detail)
        self.kind = kind


def problem(status: int, detail: str, kind: str = "about:blank") -> JSONResponse:
    """A problem document as a response."""
    body = Problem(type=kind, title=HTTPStatus(status).phrase, status=status, detail=detail)
    return JSONResponse(body.model_dump(), status, media_type=MEDIA_TYPE)


def install(app: FastAPI) -> None:
    """Answer every error of an application with a problem document."""

    @app.exception_handler(HTTPException)
    async def on_http(_request: Request, error: HTTPException) -> JSONResponse:
        kind = error.kind if isinstance(error, Question) else "about:blank"
        return problem(error.status_code, str(error.detail), kind)

    @app.exception_handler(RequestValidationError)
    async def on_validation(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(p) for p in first["loc"] if p not in ("body", "query", "path"))
        said = first["msg"].removeprefix("Value error, ").rstrip(".")
        return problem(422, f"{where or 'The request'}: {said}.")

    @app.exception_handler(NeatPatchError)
    async def on_known(_request: Request, error: NeatPatchError) -> JSONResponse:
        if isinstance(error, LimitExceededError):
            return problem(413, _sentence(str(error)))
        if isinstance(error, UnusableFrameError):
            return problem(415, _sentence(str(error)))
        return problem(422, _sentence(str(error)))

    @app.exception_handler(Exception)
    async def on_unknown(_request: Request, error: Exception) -> JSONResponse:
        _log.error("unexpected error", exc_info=error)
        return problem(500, "Something went wrong here. Nothing was lost; try again.")


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:]
