"""What is not there."""

from __future__ import annotations

from fastapi import APIRouter, Response

from neatpatch.core.common.errors import NotThereError
from neatpatch.core.common.records import plain_text

router = APIRouter(prefix="/api")


@router.api_route(
    "/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False
)
def unknown(rest: str) -> Response:
    """Anything else under /api does not exist."""
    raise NotThereError(f"There is nothing at /api/{plain_text(rest)}.")
