"""A real server and a real browser; any script error or outside request fails the test."""

from __future__ import annotations

import asyncio
import socket
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import pytest
import uvicorn
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright
from starlette.types import ASGIApp
from uvicorn.protocols.http.auto import AutoHTTPProtocol

from e2e_support import ARGS, PATIENCE_MS, guarded
from ready_trail.web.app import create_app
from support import filled_database

expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def driver() -> Iterator[Playwright]:
    with sync_playwright() as playwright:
        yield playwright


@pytest.fixture(scope="session")
def browser(driver: Playwright) -> Iterator[Browser]:
    browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
    yield browser
    browser.close()


@pytest.fixture
def base_url(tmp_path: Path) -> Iterator[str]:
    """A server with a database of its own."""
    yield from served(filled_database(tmp_path))


@pytest.fixture(scope="session")
def looked_at(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A server for tests that only look: they share what was designed already."""
    yield from served(filled_database(tmp_path_factory.mktemp("looked")))


def served(path: Path) -> Iterator[str]:
    yield from running(create_app(path))


@dataclass
class Line:
    """The way to a server, which a test can cut.

    A browser told to be offline lets a request through now and then, while a page or its service
    worker starts: what must not arrive needs a line that takes nothing.
    """

    address: str = ""
    is_cut: bool = False


@pytest.fixture
def line(tmp_path: Path) -> Iterator[Line]:
    """A server with a database of its own, at the end of a line that can be cut."""
    yield from at_the_end_of_a_line(create_app(filled_database(tmp_path)))


def at_the_end_of_a_line(app: ASGIApp) -> Iterator[Line]:
    line = Line()

    class AtTheEnd(AutoHTTPProtocol):
        def data_received(self, data: bytes) -> None:
            if line.is_cut:
                self.transport.abort()
            else:
                super().data_received(data)

    for line.address in running(app, AtTheEnd):
        yield line


def running(
    app: ASGIApp, protocol: type[asyncio.Protocol] | Literal["auto"] = "auto"
) -> Iterator[str]:
    """The address of an application that runs in a thread."""
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.bind(("127.0.0.1", 0))
    config = uvicorn.Config(app, http=protocol, log_level="warning", timeout_graceful_shutdown=1)
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()
    end = time.monotonic() + 180
    while not server.started:
        assert thread.is_alive()
        assert time.monotonic() < end
        time.sleep(0.01)
    yield f"http://127.0.0.1:{listening.getsockname()[1]}"
    server.should_exit = True
    thread.join(10)
    listening.close()
    assert not thread.is_alive()


@pytest.fixture
def page(browser: Browser, base_url: str) -> Iterator[Page]:
    context = browser.new_context(
        base_url=base_url, viewport={"width": 1280, "height": 800}, reduced_motion="reduce"
    )
    bad: list[str] = []
    yield guarded(context.new_page(), base_url, bad)
    context.close()
    assert bad == []


@pytest.fixture
def phone(browser: Browser, base_url: str) -> Iterator[Page]:
    """The same on a phone."""
    context = browser.new_context(
        base_url=base_url,
        viewport={"width": 390, "height": 844},
        has_touch=True,
        is_mobile=True,
        reduced_motion="reduce",
    )
    bad: list[str] = []
    yield guarded(context.new_page(), base_url, bad)
    context.close()
    assert bad == []
