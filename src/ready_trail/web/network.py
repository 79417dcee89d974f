"""The door to the workshop's network: its own listeners, a pairing code, devices by cookie.

What comes in by it is marked, and gets nothing but the pairing page until its device is paired.
"""

from __future__ import annotations

import secrets
import socket
import ssl
import time
from collections import deque
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock, Thread
from typing import TYPE_CHECKING

from starlette.types import ASGIApp, Receive, Scope, Send

from ready_trail.web.patience import PatientProtocol

if TYPE_CHECKING:
    import uvicorn

MARK = "ready_trail.network"
"""Set in the scope of what came in by the network."""

COOKIE = "ready_trail_device"
CODE_DIGITS, CODE_S = 6, 600.0
TRIES_MOST, TRIES_S = 8, 600.0
"""Wrong codes in ten minutes, from everybody together, after which none is heard for as long."""


class NetworkError(Exception):
    """The network's door cannot be opened; the words say why."""


class Pairing:
    """The code that lets one device in. It is shown on this machine only."""

    def __init__(self) -> None:
        self._code = ""
        self._until = 0.0
        self._wrong: deque[float] = deque(maxlen=64)
        self._lock = Lock()

    def code(self) -> str:
        """Return the code that counts now, a new one where the last has run out or was used."""
        with self._lock:
            if not self._code or time.monotonic() > self._until:
                self._new()
            return self._code

    @property
    def seconds_left(self) -> float:
        """How long the code counts yet. [s]"""
        return max(0.0, self._until - time.monotonic())

    def is_shut(self) -> bool:
        """Whether too many wrong codes came lately."""
        since = time.monotonic() - TRIES_S
        return sum(at > since for at in self._wrong) >= TRIES_MOST

    def take(self, code: str) -> bool:
        """Return whether a code lets in; it is used up then. A wrong one is counted."""
        with self._lock:
            if self.is_shut():
                return False
            good = bool(self._code) and time.monotonic() <= self._until
            good = good and secrets.compare_digest(code.encode(), self._code.encode())
            if good:
                self._code = ""
            else:
                self._wrong.append(time.monotonic())
                if len(self._wrong) % 3 == 0:  # nobody works through one code
                    self._code = ""
            return good

    def _new(self) -> None:
        self._code = "".join(secrets.choice("0123456789") for _ in range(CODE_DIGITS))
        self._until = time.monotonic() + CODE_S


@dataclass(slots=True, kw_only=True)
class Network:
    """The listeners on this machine's own addresses; none until it is opened."""

    app: ASGIApp
    pairing: Pairing = field(default_factory=Pairing)
    addresses: tuple[str, ...] = ()
    certificate: tuple[Path, Path] | None = None
    _servers: list[uvicorn.Server] = field(default_factory=list)
    _threads: list[Thread] = field(default_factory=list)

    @property
    def is_open(self) -> bool:
        """Whether devices of the network can come in."""
        return bool(self._servers)

    @property
    def scheme(self) -> str:
        """How devices come in."""
        return "https" if self.certificate else "http"

    def open(self, port: int, *, ips: tuple[str, ...] = ()) -> None:
        """Listen on this machine's addresses. Raises NetworkError."""
        import uvicorn

        if self.is_open:
            return
        found = ips or own_addresses()
        if not found:
            raise NetworkError("this machine has no address on a network just now")
        if self.certificate is not None:
            _check(self.certificate)
        listening = [_listen(ip, port) for ip in found]
        options = {}
        if self.certificate is not None:
            options = {"ssl_certfile": str(self.certificate[0]),
                       "ssl_keyfile": str(self.certificate[1])}  # fmt: skip
        self.addresses = tuple(
            f"{self.scheme}://{s.getsockname()[0]}:{s.getsockname()[1]}" for s in listening
        )
        for sock in listening:
            config = uvicorn.Config(_Marked(self.app), log_level="warning", lifespan="off",
                                    timeout_graceful_shutdown=1, http=PatientProtocol,
                                    **options)  # type: ignore[arg-type]  # fmt: skip
            server = uvicorn.Server(config)
            thread = Thread(target=server.run, kwargs={"sockets": [sock]}, daemon=True)
            thread.start()
            self._servers.append(server)
            self._threads.append(thread)

    def close(self) -> None:
        """Let nobody in by the network any more."""
        for server in self._servers:
            server.should_exit = True
        for thread in self._threads:
            thread.join(5)
        self._servers.clear()
        self._threads.clear()
        self.addresses = ()


class _Marked:
    """Marks what came in by the network."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        scope[MARK] = True
        await self.app(scope, receive, send)


def own_addresses() -> tuple[str, ...]:
    """Return this machine's addresses on its networks, the one that leads out first.

    Nothing is sent: a datagram socket is only asked which address it would use.
    """
    found: list[str] = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe, suppress(OSError):
        probe.connect(("10.255.255.255", 9))
        found.append(probe.getsockname()[0])
    with suppress(OSError):
        found += socket.gethostbyname_ex(socket.gethostname())[2]
    return tuple(dict.fromkeys(ip for ip in found if not ip.startswith(("127.", "0."))))


def _listen(ip: str, port: int) -> socket.socket:
    sock = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind((ip, port))
        sock.listen()
    except OSError as error:
        sock.close()
        raise NetworkError(f"cannot listen on {ip}:{port}: {error.strerror}") from error
    return sock


def _check(certificate: tuple[Path, Path]) -> None:
    try:
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(*certificate)
    except (OSError, ssl.SSLError) as error:
        raise NetworkError(f"the certificate and its key cannot be used: {error}") from error
