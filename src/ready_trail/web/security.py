"""Who may talk to the server: this machine's own browser, from this site's own pages."""

from __future__ import annotations

from collections.abc import Callable
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

CSP = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'"
)
_HOSTS = frozenset({"127.0.0.1", "localhost", "::1"})
_READING = frozenset({"GET", "HEAD", "OPTIONS"})


class LocalOnly:
    """Check Host (DNS rebinding) and the origin of writes; add the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve a request, or refuse it with one plain line."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not _is_known(host):
            await PlainTextResponse("unknown host", 400)(scope, receive, send)
            return
        if scope["method"] not in _READING and not _is_own(headers, host):
            await PlainTextResponse("cross-site request refused", 403)(scope, receive, send)
            return

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out.setdefault("content-security-policy", CSP)
                out.setdefault("x-content-type-options", "nosniff")
                out.setdefault("referrer-policy", "same-origin")
            await send(message)

        await self.app(scope, receive, send_with_headers)


class BodyLimit:
    """Answer a body that is too large with a page, after reading past it.

    A browser that is still sending when the answer comes reports a broken connection, so the
    body is taken and dropped first, up to ``DRAIN_MOST_BYTES``.
    """

    DRAIN_MOST_BYTES = 256_000_000

    def __init__(
        self, app: ASGIApp, *, most_bytes: int, refuse: Callable[[Request], Response]
    ) -> None:
        self.app, self.most_bytes, self.refuse = app, most_bytes, refuse

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request of ordinary size pass."""
        stated = Headers(scope=scope).get("content-length", "") if scope["type"] == "http" else ""
        if not stated.isdigit() or int(stated) <= self.most_bytes:
            await self.app(scope, receive, send)
            return
        taken, more = 0, True
        while more and taken < self.DRAIN_MOST_BYTES:
            message = await receive()
            taken += len(message.get("body", b""))
            more = message.get("more_body", False)
        await self.refuse(Request(scope))(scope, receive, send)


def _is_known(host: str) -> bool:
    try:
        return urlsplit(f"//{host}").hostname in _HOSTS
    except ValueError:
        return False


def _is_own(headers: Headers, host: str) -> bool:
    """Neither header: not a browser, let it pass."""
    site, origin = headers.get("sec-fetch-site"), headers.get("origin")
    if site:
        return site in {"same-origin", "none"}
    return origin is None or urlsplit(origin).netloc == host
