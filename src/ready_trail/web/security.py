"""Who may talk to the server, how much and how slowly; the headers of every answer."""

from __future__ import annotations

import asyncio
import sqlite3
from collections.abc import Callable, Mapping
from contextlib import suppress
from pathlib import Path
from urllib.parse import urlsplit

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.requests import Request, cookie_parser
from starlette.responses import JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.limits import require_modest_text
from ready_trail.store import db
from ready_trail.store.devices import Device, find_device, note_seen
from ready_trail.store.errors import StoreError
from ready_trail.web.door import COOKIE, MARK

CSP = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; worker-src 'self'; form-action 'self'; "
    "base-uri 'none'; frame-ancestors 'none'"
)
_HEADERS = {
    "content-security-policy": CSP,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "permissions-policy": "camera=(), microphone=(), geolocation=(), payment=(), usb=()",
    "cache-control": "private, no-cache",
}
_HOSTS = frozenset({"127.0.0.1", "localhost", "::1"})
_SEEN_WAIT_S = 0.2
_READING = frozenset({"GET", "HEAD", "OPTIONS"})


class LocalOnly:
    """Check Host (DNS rebinding) and the origin of writes; add the security headers."""

    def __init__(self, app: ASGIApp, *, database: Path) -> None:
        self.app, self.database = app, database

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve a request, or refuse it with one plain line."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host = headers.get("host", "")

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    out.setdefault(name, value)
            await send(message)

        by_network = MARK in scope
        if not (_is_ours(host, scope) if by_network else _is_known(host)):
            refusal = PlainTextResponse("unknown host", 400)
            await refusal(scope, receive, send_with_headers)
        elif scope["method"] not in _READING and not _is_own(headers, host):
            refusal = PlainTextResponse("cross-site request refused", 403)
            await refusal(scope, receive, send_with_headers)
        else:
            refused = await self._stranger(scope, headers) if by_network else None
            await (refused or self.app)(scope, receive, send_with_headers)

    async def _stranger(self, scope: Scope, headers: Headers) -> Response | None:
        """What a device of the network gets instead: the pairing page, or a refusal."""
        path, reading = scope["path"], scope["method"] in _READING
        if path == "/pair" or (reading and path.startswith("/static/")):
            return None
        token = cookie_parser(headers.get("cookie", "")).get(COOKIE, "")
        try:
            device = await run_in_threadpool(self._device, token) if token else None
        except (sqlite3.Error, StoreError):
            return PlainTextResponse("the database cannot be read just now; try again", 503)
        if device is None:
            if reading and "text/html" in headers.get("accept", ""):
                return RedirectResponse("/pair", 303)
            return PlainTextResponse("pair this device first", 403)
        if path.startswith("/settings"):
            return PlainTextResponse("settings are kept on the machine itself", 403)
        if device.read_only and not reading:
            return PlainTextResponse("this device was let in to look only", 403)
        return None

    def _device(self, token: str) -> Device | None:
        """The device of a token. That it was seen is noted where that can be written at once."""
        conn = db.connect(self.database, timeout_s=_SEEN_WAIT_S)
        try:
            device = find_device(conn, token[:100])
            if device is not None:
                with suppress(sqlite3.Error):  # locked, or the disk is full: reading goes on
                    note_seen(conn, device)
            return device
        finally:
            conn.close()


class BodyLimit:
    """Answer a body that is too large with a page, and one that never ends.

    A size that is stated is refused after reading past it: a browser that is still sending when
    the answer comes reports a broken connection, so the body is taken and dropped first, up to
    ``DRAIN_MOST_BYTES``. One that is not stated is counted as it comes.
    """

    DRAIN_MOST_BYTES = 256_000_000
    PART_MOST_S, WHOLE_MOST_S = 15.0, 90.0

    def __init__(
        self,
        app: ASGIApp,
        *,
        most_bytes: int,
        refuse: Callable[[Request], Response],
        larger: Mapping[str, int] | None = None,
    ) -> None:
        self.app, self.refuse = app, refuse
        self._most_bytes, self._larger = most_bytes, dict(larger or {})

    def _most(self, scope: Scope) -> int:
        """What may come to an address: more where its end says that files are large there."""
        path = str(scope["path"])
        ends = [most for end, most in self._larger.items() if path.endswith(end)]
        return max([self._most_bytes, *ends])

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request of ordinary size and pace pass."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        stated = Headers(scope=scope).get("content-length", "")
        if not stated.isascii() or not stated.isdigit() or int(stated) <= self._most(scope):
            counted = self._counted(receive, self._most(scope))
            if "json" in Headers(scope=scope).get("content-type", ""):
                await self._as_json(scope, counted, send)
            else:
                await self.app(scope, counted, send)
            return
        taken, more = 0, True
        timed = self._timed(receive)
        while more and taken < self.DRAIN_MOST_BYTES:
            message = await timed()
            taken += len(message.get("body", b""))
            more = message.get("more_body", False)
        await self.refuse(Request(scope))(scope, receive, send)

    async def _as_json(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Count the parts of a JSON body before anybody makes objects of it."""
        body, more = bytearray(), True
        while more:
            message = await receive()
            if message["type"] == "http.disconnect":
                return
            body += message.get("body", b"")
            more = message.get("more_body", False)
        try:
            await run_in_threadpool(require_modest_text, bytes(body))
        except FileRefusedError as error:
            refusal = JSONResponse({"detail": f"What was sent is refused: {error}."}, 422)
            await refusal(scope, receive, send)
            return
        given = False

        async def again() -> Message:
            nonlocal given
            if given:
                return await receive()
            given = True
            return {"type": "http.request", "body": bytes(body), "more_body": False}

        await self.app(scope, again, send)

    def _timed(self, receive: Receive) -> Receive:
        """Wait for each part of a body, and for all of it, no longer than people do."""
        begin = asyncio.get_running_loop().time()
        finished = False

        async def next_part() -> Message:
            nonlocal finished
            if finished:  # from here on it only tells that the client went away
                return await receive()
            left = self.WHOLE_MOST_S - (asyncio.get_running_loop().time() - begin)
            try:
                message = await asyncio.wait_for(receive(), min(self.PART_MOST_S, max(left, 0.01)))
            except TimeoutError:
                raise HTTPException(408, "What was sent came too slowly; send it again.") from None
            finished = not message.get("more_body", False)
            return message

        return next_part

    def _counted(self, receive: Receive, most_bytes: int) -> Receive:
        taken = 0
        timed = self._timed(receive)

        async def next_part() -> Message:
            nonlocal taken
            message = await timed()
            taken += len(message.get("body", b""))
            if taken > most_bytes:
                raise HTTPException(
                    413, f"At most {most_bytes / 1e6:.0f} MB are taken. Nothing was stored."
                )
            return message

        return next_part


def _is_known(host: str) -> bool:
    try:
        return urlsplit(f"//{host}").hostname in _HOSTS
    except ValueError:
        return False


def _is_ours(host: str, scope: Scope) -> bool:
    """Whether a device of the network named the very address at which it came in.

    A browser leaves the usual port of its scheme out.
    """
    ip, port = scope.get("server") or ("", 0)
    usual = {"http": 80, "https": 443}.get(scope.get("scheme", "http"))
    return host == f"{ip}:{port}" or (port == usual and host == ip)


def _is_own(headers: Headers, host: str) -> bool:
    """Neither header: not a browser, let it pass."""
    site, origin = headers.get("sec-fetch-site"), headers.get("origin")
    if site:
        return site in {"same-origin", "none"}
    try:
        return origin is None or urlsplit(origin).netloc == host
    except ValueError:  # no address at all
        return False
