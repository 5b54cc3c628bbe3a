"""What stands before every route: who may ask, how much may be sent, how long it may take."""

from __future__ import annotations

import re
from urllib.parse import SplitResult, urlsplit

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from neatpatch.api.common.deps import SHARED
from neatpatch.api.common.problems import problem
from neatpatch.core.common.words import speaking

_LOCAL = frozenset({"localhost", "127.0.0.1", "::1"})
MOST_JSON_BYTES = 1_000_000
_UPLOADS = re.compile(r"(/trial)?/api/(frames|picture-sets/uploads/[0-9a-f]{16}/files)")
"""Files, streamed to disk within limits of their own; the room of a practised clean takes them too.
"""


class OriginGuard:
    """Refuses requests under a foreign host name, or from a foreign page; the shared door has
    checked its own.
    """

    def __init__(self, app: ASGIApp, hosts: frozenset[str] = frozenset()) -> None:
        self._app = app
        self._hosts = _LOCAL | hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and SHARED not in scope:
            refusal = self._refusal(Headers(scope=scope))
            if refusal:
                await problem(403, refusal)(scope, receive, send)
                return
        await self._app(scope, receive, send)

    def _refusal(self, headers: Headers) -> str | None:
        host = _split(f"//{headers.get('host', '')}")
        if host is None or host.hostname not in self._hosts:
            return "Neat Patch answers only under this machine's own name. Open it as localhost."
        origin = headers.get("origin")
        if origin is None:
            return None
        page = _split(origin)
        if page is not None and page.hostname in self._hosts and page.port == host.port:
            return None
        return "Requests from other web pages are refused. Open Neat Patch's own page."


def _split(address: str) -> SplitResult | None:
    """An address in its parts; None when it is broken."""
    try:
        parts = urlsplit(address)
        _ = parts.port
    except ValueError:
        return None
    return parts


class ReadersUnits:
    """Makes words in the units that the reader asks for by the header ``Neat-Units``."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        asked = dict(scope.get("headers") or ()).get(b"neat-units")
        with speaking("inch" if asked == b"inch" else "metric"):
            await self._app(scope, receive, send)


def _is_upload(scope: Scope) -> bool:
    return scope["method"] == "POST" and _UPLOADS.fullmatch(scope["path"]) is not None


class BodyLimit:
    """Refuses bodies over a megabyte, but for frames, which have limits of their own."""

    def __init__(self, app: ASGIApp, most_bytes: int = MOST_JSON_BYTES) -> None:
        self._app, self._most = app, most_bytes
        self._said = f"The request holds more than {most_bytes / 1e6:g} MB. Send less at once."

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or _is_upload(scope):
            await self._app(scope, receive, send)
            return
        said = Headers(scope=scope).get("content-length", "0")
        if said.isdigit() and int(said[:20]) > self._most:
            await self._refuse(scope, receive, send)
            return
        taken = 0

        async def receive_some() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > self._most:
                raise HTTPException(413, self._said)
            return message

        await self._app(scope, receive_some, send)

    async def _refuse(self, scope: Scope, receive: Receive, send: Send) -> None:
        await problem(413, self._said)(scope, receive, send)
