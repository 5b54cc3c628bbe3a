"""What is not there, and what is there but not asked so."""

from __future__ import annotations

import re
from functools import cache

from fastapi import APIRouter, HTTPException, Request, Response

from neatpatch.core.common.errors import NotThereError
from neatpatch.core.common.records import plain_text

router = APIRouter(prefix="/api")
_METHODS = ["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS", "TRACE"]


@router.api_route("/{rest:path}", methods=_METHODS, include_in_schema=False)
def unknown(rest: str, request: Request) -> Response:
    """Anything else under /api does not exist; what exists tells how it can be asked."""
    allowed = _methods_of(request)
    if allowed:
        raise HTTPException(
            405,
            f"This cannot be asked by {request.method}, only by {', '.join(allowed)}.",
            headers={"Allow": ", ".join(allowed)},
        )
    raise NotThereError(f"There is nothing at /api/{plain_text(rest)}.")


def _methods_of(request: Request) -> list[str]:
    """Every method by which a path is described."""
    described: dict[str, dict[str, object]] = request.app.openapi()["paths"]
    return sorted(
        method.upper()
        for path, methods in described.items()
        if _pattern(path).fullmatch(request.url.path.removeprefix(request.scope["root_path"]))
        for method in methods
    )


@cache
def _pattern(path: str) -> re.Pattern[str]:
    return re.compile(re.sub(r"\\\{[a-z_]+\\\}", "[^/]+", re.escape(path)))
