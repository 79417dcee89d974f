"""What browser tests share."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import ConsoleMessage, Page, Request

ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
PATIENCE_MS = 90_000
"""How long a test waits for what comes: the machine may be busy with other things for a while."""
AXE = Path(__file__).parent / "vendor" / "axe.min.js"


def revision(page: Page, job_id: int) -> int:
    """The job's head as the API tells it."""
    return int(page.request.get(f"/api/jobs/{job_id}").json()["revision"])


def guarded(page: Page, base_url: str, bad: list[str]) -> Page:
    def on_console(message: ConsoleMessage) -> None:
        if message.type == "error" and "status of 4" not in message.text:
            bad.append(message.text)

    def on_request(request: Request) -> None:
        # watched, not routed: a routed page keeps nothing of what it loaded
        if not request.url.startswith((base_url, "data:", "blob:", "about:")):
            bad.append(request.url)

    page.set_default_timeout(PATIENCE_MS)
    page.on("pageerror", lambda error: bad.append(str(error)))
    page.on("console", on_console)
    page.on("request", on_request)
    return page
