"""The shared door: what stands before the application for devices on the network.

Nothing but the pairing page, and a report by its link, answers before a device is let in. Host and
origin must be exactly the address served; what a role may not do is refused.
"""

from __future__ import annotations

import logging
from collections.abc import Awaitable, Callable
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qs

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from neatpatch.api.common.deps import SHARED
from neatpatch.api.common.problems import problem
from neatpatch.api.sharing.pages import COOKIE, let_in, pairing_page, to_pairing
from neatpatch.api.sharing.policy import may
from neatpatch.core.common.errors import BadArgumentError, NotThereError
from neatpatch.services.sharing.pairing import NotLetInError, PairingDesk
from neatpatch.store.devices import StoredDevice

_log = logging.getLogger("neatpatch.sharing")
_MOST_FORM_BYTES = 4000
_READS = frozenset({"GET", "HEAD"})
_AWAY = (
    "You are not let in, or not any more. Open the pairing page and enter the code that the other "
    "screen shows."
)
_MAY_NOT = (
    "{name} may not do this as {role}. Do it on the machine that Neat Patch runs on, or pair this "
    "device as owner."
)
Report = Callable[[int], Awaitable[Response]]


class SharedDoor:
    """``address``: host and port served, as in ``192.168.1.5:8720``; ``report``: a visit's report
    as an answer.
    """

    def __init__(self, app: ASGIApp, door: PairingDesk, address: str, report: Report) -> None:
        self._app, self._door, self._address, self._report = app, door, address, report

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        refusal = self._foreign(scope["method"], Headers(scope=scope))
        if refusal:
            await problem(403, refusal)(scope, receive, send)
        elif scope["path"] == "/pair":
            await (await self._pairing(Request(scope, receive)))(scope, receive, send)
        elif scope["path"].startswith("/report/"):
            await (await self._linked(scope))(scope, receive, send)
        else:
            await self._inside(scope, receive, send)

    def _foreign(self, method: str, headers: Headers) -> str | None:
        """Why a request is refused before anything is looked at; None where it is not."""
        if headers.get("host") != self._address:
            return "Neat Patch answers here only under the address it is shared at."
        origin = headers.get("origin")
        ours = origin == f"https://{self._address}"
        if (origin is not None and not ours) or (method not in _READS and not ours):
            return "Requests from other web pages are refused. Open Neat Patch's own page."
        return None

    async def _pairing(self, request: Request) -> Response:
        if request.method in _READS:
            return pairing_page(request.query_params.get("to", "/"))
        if request.method != "POST":
            return problem(405, "The pairing page takes no other requests.")
        form = parse_qs((await _short_body(request)).decode("utf-8", "replace"))
        code, name, to = (form.get(k, [""])[0] for k in ("code", "name", "to"))
        label = _device_words(request.headers.get("user-agent", ""))
        try:
            token = await run_in_threadpool(self._door.pair, code, name, label, _caller(request))
        except (NotLetInError, BadArgumentError) as error:
            _log.warning("%s was not let in: %s", _caller(request), error)
            return pairing_page(to, str(error), name, 403)
        _log.info("%s was let in: %s", _caller(request), label)
        return let_in(token, to)

    async def _linked(self, scope: Scope) -> Response:
        """A report by its link."""
        token = scope["path"].removeprefix("/report/")
        found = await run_in_threadpool(self._door.device, token)
        if scope["method"] not in _READS or found is None or found.visit_id is None:
            return problem(404, "This link is over, or never was. Ask for a new one.")
        try:
            answer = await self._report(found.visit_id)
        except NotThereError as error:
            return problem(404, str(error))
        answer.headers["Cache-Control"] = "no-store"
        return answer

    async def _inside(self, scope: Scope, receive: Receive, send: Send) -> None:
        token = _token(Headers(scope=scope))
        found = await run_in_threadpool(self._door.device, token) if token else None
        if found is None or found.role == "report":
            api = scope["path"].startswith("/api/") or scope["method"] not in _READS
            answer = problem(401, _AWAY) if api else to_pairing(scope["path"])
            await answer(scope, receive, send)
        elif not may(found.role, scope["method"], scope["path"]):
            said = _MAY_NOT.format(name=found.name, role=found.role)
            await problem(403, said)(scope, receive, send)
        else:
            await self._app({**scope, SHARED: found}, receive, self._while_known(found, send))

    def _while_known(self, device: StoredDevice, send: Send) -> Send:
        """Sends as long as the device is let in: what it follows ends when it is shut out."""
        ended = False

        async def send_on(message: Message) -> None:
            nonlocal ended
            if ended:
                return
            if message["type"] == "http.response.body" and not self._door.is_known(device):
                ended = True
                message = {"type": "http.response.body", "body": b"", "more_body": False}
            await send(message)

        return send_on


def _caller(request: Request) -> str:
    """Where a request comes from, for the log."""
    return request.client.host if request.client else "somebody"


def _token(headers: Headers) -> str | None:
    try:
        cookies = SimpleCookie(headers.get("cookie", ""))
    except CookieError:
        return None
    return cookies[COOKIE].value if COOKIE in cookies else None


async def _short_body(request: Request) -> bytes:
    """A form; what is longer than ours ever is counts for nothing."""
    body = b""
    async for chunk in request.stream():
        body += chunk
        if len(body) > _MOST_FORM_BYTES:
            return b""
    return body


def _device_words(agent: str) -> str:
    """What kind of device it says it is, as far as anybody would call it so."""
    low = agent.lower()
    kinds = (("ipad", "Tablet"), ("tablet", "Tablet"), ("mobile", "Phone"), ("mozilla", "Computer"))
    return next((words for mark, words in kinds if mark in low), "Device")
