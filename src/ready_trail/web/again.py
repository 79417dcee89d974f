"""A form that was refused is shown again on its own page: what was typed stays, with the words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any
from urllib.parse import unquote, urlsplit

from fastapi import Depends, Request
from starlette.responses import Response
from starlette.types import Message, Receive, Scope, Send

_HOPS_MOST = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What was refused: which edit, what was typed of it, and a message by field path."""

    edit: str = ""
    typed: Mapping[str, Any] = field(default_factory=dict)
    errors: Mapping[str, str] = field(default_factory=dict)

    def of(self, *edits: str) -> dict[str, Any]:
        """Return what was typed of these edits, for their form; empty for any other."""
        return dict(self.typed) if self.edit in edits else {}


def told_of(request: Request) -> Told:
    """Return what this page is shown again for; nothing is told where it is simply opened."""
    told = request.scope.get("told")
    return told if isinstance(told, Told) else Told()


Refusal = Annotated[Told, Depends(told_of)]


class Again(Response):
    """The answer to a refused form: the page at ``url``, as if opened, with what was refused."""

    def __init__(self, url: str, told: Told) -> None:
        super().__init__(status_code=422)
        self.url, self.told = url, told

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Open the page in this answer's place; where it sends on, what was refused goes along."""
        url: str | None = self.url
        for _ in range(_HOPS_MOST):
            if url is not None:
                url = await self._open(url, scope, receive, send)
        if url is not None:
            raise RuntimeError(f"{self.url} sends on for ever")

    async def _open(self, url: str, scope: Scope, receive: Receive, send: Send) -> str | None:
        onward: str | None = None

        async def pass_on(message: Message) -> None:
            nonlocal onward
            if message["type"] == "http.response.start" and 300 <= message["status"] < 400:
                onward = dict(message["headers"])[b"location"].decode()
            if onward is None:
                await send(message)

        parts = urlsplit(url)
        path = unquote(parts.path)
        await scope["app"].router(
            {
                **scope,
                "method": "GET",
                "path": path,
                "raw_path": path.encode(),
                "query_string": parts.query.encode(),
                "path_params": {},
                "told": self.told,
            },
            receive,
            pass_on,
        )
        return onward
