"""Serving the application: one process of the server's, or several on one database."""

from __future__ import annotations

import errno
import os
import signal
import socket
import sys
from dataclasses import dataclass
from pathlib import Path
from threading import Event, Thread
from typing import TYPE_CHECKING

from ready_trail.store import db, pairing, shelf
from ready_trail.store.opening import copy_each_day, open_database
from ready_trail.web.door import Network, NetworkError

if TYPE_CHECKING:
    from fastapi import FastAPI

_TOLD = "READY_TRAIL_SERVED"
"""The environment variable by which the server's processes learn what they serve."""


class ServingError(Exception):
    """The application cannot be served so; the words say why."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Served:
    """What is served: the database, where, and to whom."""

    database: Path
    port: int
    workers: int = 1
    network: bool = False
    certificate: tuple[Path, Path] | None = None


def serve(served: Served, host: str) -> None:
    """Serve until told to end. Raises ServingError, StoreError."""
    import uvicorn
    from uvicorn.supervisors import Multiprocess

    from ready_trail.web.patience import PatientProtocol

    open_database(served.database)
    listening = _bind(host, served.port)
    host, port = listening.getsockname()[:2]
    print(f"Ready Trail is at http://{host}:{port}/  (stop with Ctrl-C)", flush=True)
    stop = Event()
    Thread(target=copy_each_day, args=(served.database, stop), daemon=True).start()
    kept = _setting(served.database, "network") == "on"
    _tell_network(served.database, is_open=served.network or kept)
    _tell_processes(served, port)
    config = uvicorn.Config(
        "ready_trail.serving:application",
        factory=True,
        log_level="warning",
        timeout_graceful_shutdown=1,
        http=PatientProtocol,
        workers=served.workers,
    )
    try:
        if served.workers > 1:
            Multiprocess(config, sockets=[listening]).run()
            return
        app = application()
        _open_network(served, app.state.network, port)
        config.app, config.factory = app, False
        # the server hands the signal on when it has closed; else it would end us right there
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        uvicorn.Server(config).run(sockets=[listening])
    finally:
        stop.set()


def _open_network(served: Served, network: Network, port: int) -> None:
    if _setting(served.database, "network_now") != "on":
        return
    try:
        network.open(port)
    except NetworkError as error:
        if served.network:
            raise ServingError(str(error)) from error
        print(f"Not on the network: {error}", file=sys.stderr)
        return
    conn = db.connect(served.database)
    try:
        with db.transaction(conn):
            pairing.clear(conn)
            code, _ = pairing.code(conn)
    finally:
        conn.close()
    print(f"On the network: {', '.join(network.addresses)}; pairing code {code}", flush=True)


def application() -> FastAPI:
    """Return the application as this process was told to serve it."""
    from ready_trail.web.app import create_app

    database, port, workers, certificate, key = os.environ[_TOLD].split("\n")
    app = create_app(Path(database))
    app.state.port = int(port)
    app.state.network.is_shared = int(workers) > 1
    if certificate:
        app.state.network.certificate = (Path(certificate), Path(key))
    return app


def _tell_processes(served: Served, port: int) -> None:
    certificate, key = served.certificate or ("", "")
    told = (served.database, port, served.workers, certificate, key)
    os.environ[_TOLD] = "\n".join(str(part) for part in told)


def _tell_network(database: Path, *, is_open: bool) -> None:
    """Note whether the network's door is to stand open in this run."""
    conn = db.connect(database)
    try:
        with db.transaction(conn):
            shelf.set_setting(conn, "network_now", "on" if is_open else "off")
    finally:
        conn.close()


def _setting(database: Path, name: str) -> str:
    conn = db.connect(database)
    try:
        return shelf.get_setting(conn, name)
    finally:
        conn.close()


def _bind(host: str, port: int) -> socket.socket:
    if not 0 <= port <= 65535:
        raise ServingError(f"port {port} is outside 0 to 65535")
    if host not in {"127.0.0.1", "localhost"}:
        raise ServingError(f"{host} is not this machine's loopback address: use 127.0.0.1")
    # with its protocol named, answers leave at once: else each body waits 40 ms for the peer
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind(("127.0.0.1", port))
        listening.listen()  # whoever reads the address may come at once and wait
    except OSError as error:
        listening.close()
        if error.errno == errno.EADDRINUSE:
            raise ServingError(f"port {port} is in use: name another with --port") from error
        raise ServingError(f"cannot listen on port {port}: {error.strerror}") from error
    return listening
