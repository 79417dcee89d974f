"""How long the server waits for the head of a request: connections that say nothing are dropped."""

from __future__ import annotations

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEAD_MOST_S = 15.0
"""From a connection, or from the first byte of a further request, to the end of its head. [s]"""


class PatientProtocol(HttpToolsProtocol):
    """HTTP/1.1 as uvicorn speaks it, with a bound on how slowly a request's head may come."""

    _head_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        """Begin to wait for the first request."""
        super().connection_made(transport)
        self._wait_for_head()

    def data_received(self, data: bytes) -> None:
        """Take what came; a head that is begun has to end in time."""
        if self._head_timer is None and self._is_between_requests():
            self._wait_for_head()
        super().data_received(data)
        if not self._is_between_requests():
            self._stop_waiting()

    def connection_lost(self, exc: Exception | None) -> None:
        """Stop waiting."""
        self._stop_waiting()
        super().connection_lost(exc)

    def on_response_complete(self) -> None:
        """A further request has its own time; an idle connection is dropped by its keep-alive."""
        super().on_response_complete()
        self._stop_waiting()

    def _is_between_requests(self) -> bool:
        cycle = getattr(self, "cycle", None)
        return cycle is None or bool(cycle.response_complete)

    def _wait_for_head(self) -> None:
        self._head_timer = self.loop.call_later(HEAD_MOST_S, self._drop)

    def _stop_waiting(self) -> None:
        if self._head_timer is not None:
            self._head_timer.cancel()
            self._head_timer = None

    def _drop(self) -> None:
        self._head_timer = None
        if self._is_between_requests() and self.transport is not None:
            self.transport.close()
