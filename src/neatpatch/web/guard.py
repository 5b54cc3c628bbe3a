"""Only this machine's own page may talk to the API: Host and Origin are checked."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from neatpatch.web.problems import problem

_LOCAL = frozenset({"localhost", "127.0.0.1", "::1"})


class OriginGuard:
    """Refuses requests under a foreign host name, or from a foreign page."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str] = frozenset()) -> None:
        self._app = app
        self._hosts = _LOCAL | hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http":
            headers = Headers(scope=scope)
            refusal = self._refusal(headers)
            if refusal:
                await problem(403, refusal)(scope, receive, send)
                return
        await self._app(scope, receive, send)

    def _refusal(self, headers: Headers) -> str | None:
        host = urlsplit(f"//{headers.get('host', '')}")
        if host.hostname not in self._hosts:
            return "Neat Patch answers only under this machine's own name. Open it as localhost."
        origin = headers.get("origin")
        if origin is None:
            return None
        page = urlsplit(origin)
        if page.hostname in self._hosts and page.port == host.port:
            return None
        return "Requests from other web pages are refused. Open Neat Patch's own page."
