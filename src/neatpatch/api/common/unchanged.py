"""What a browser has already is not sent again."""

from __future__ import annotations

import hashlib

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send


class Unchanged:
    """Answers 304 where a browser holds the same JSON or file of the page (RFC 9110, 13.1.2).

    JSON gets a tag of its content; where an answer has a tag by which changes are refused, that one
    stands for a part of it only and is left alone. Streams and downloads pass as they are.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "GET":
            await self._app(scope, receive, send)
            return
        held = Headers(scope=scope).get("if-none-match", "")
        await self._app(scope, receive, _Sender(send, held))


class _Sender:
    def __init__(self, send: Send, held: str) -> None:
        self._send = send
        self._held = {tag.strip().removeprefix("W/") for tag in held.split(",") if tag.strip()}
        self._start: Message | None = None
        self._body = bytearray()
        self._same = False

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            await self._begin(message)
        elif self._same:
            return
        elif self._start is None:
            await self._send(message)
        else:
            await self._gather(message)

    async def _begin(self, message: Message) -> None:
        headers = MutableHeaders(scope=message)
        kind = headers.get("content-type", "")
        own = not {"etag", "cache-control", "content-disposition"} & set(headers)
        if message["status"] == 200 and own and kind.startswith("application/json"):
            self._start = message
            return
        of_page = message["status"] == 200 and headers.get("cache-control") == "no-cache"
        if of_page and headers.get("etag", "").removeprefix("W/") in self._held:
            await self._not_again(message)
            return
        await self._send(message)

    async def _gather(self, message: Message) -> None:
        self._body += message.get("body", b"")
        if message.get("more_body", False):
            return
        start, self._start = self._start, None
        assert start is not None
        tag = f'"{hashlib.blake2b(self._body, digest_size=12).hexdigest()}"'
        headers = MutableHeaders(scope=start)
        headers["ETag"] = f"W/{tag}"
        headers["Cache-Control"] = "no-cache"
        if tag in self._held:
            await self._not_again(start)
            return
        await self._send(start)
        await self._send({"type": "http.response.body", "body": bytes(self._body)})

    async def _not_again(self, start: Message) -> None:
        self._same = True
        headers = MutableHeaders(scope=start)
        del headers["content-length"]
        await self._send({**start, "status": 304})
        await self._send({"type": "http.response.body", "body": b""})
