"""The door to the workshop's network: its own listeners, devices by cookie.

What comes in by it is marked, and gets nothing but the pairing page until its device is paired.
"""

from __future__ import annotations

import asyncio
import socket
import ssl
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING

from starlette.types import ASGIApp, Receive, Scope, Send

from ready_trail.web.patience import PatientProtocol

if TYPE_CHECKING:
    import uvicorn

MARK = "ready_trail.network"
"""Set in the scope of what came in by the network."""

COOKIE = "ready_trail_device"
_LOOK_S = 1.0


class NetworkError(Exception):
    """The network's door cannot be opened; the words say why."""


@dataclass(slots=True, kw_only=True)
class Network:
    """The listeners on this machine's own addresses; none until it is opened."""

    app: ASGIApp
    addresses: tuple[str, ...] = ()
    certificate: tuple[Path, Path] | None = None
    is_shared: bool = False
    """Whether several processes of the server listen, each for itself."""
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
        listening = [_listen(ip, port, shared=self.is_shared) for ip in found]
        options = {}
        if self.certificate is not None:
            options = {
                "ssl_certfile": str(self.certificate[0]),
                "ssl_keyfile": str(self.certificate[1]),
            }
        self.addresses = tuple(
            f"{self.scheme}://{s.getsockname()[0]}:{s.getsockname()[1]}" for s in listening
        )
        for sock in listening:
            config = uvicorn.Config(
                _Marked(self.app),
                log_level="warning",
                lifespan="off",
                timeout_graceful_shutdown=1,
                http=PatientProtocol,
                **options,  # type: ignore[arg-type]
            )
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

    def _set(self, port: int, wanted: bool) -> None:
        if wanted:
            self.open(port)
        else:
            self.close()

    async def follow(self, port: int, is_wanted: Callable[[], bool]) -> None:
        """Open and shut as any process of the server was told to, until cancelled."""
        while True:
            wanted = await asyncio.to_thread(is_wanted)
            if wanted != self.is_open:
                with suppress(NetworkError):  # the one that was told has said so
                    await asyncio.to_thread(self._set, port, wanted)
            await asyncio.sleep(_LOOK_S)


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


def _listen(ip: str, port: int, *, shared: bool) -> socket.socket:
    sock = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    if shared:
        sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEPORT, 1)
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
